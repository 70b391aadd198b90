"""Every form of every page, found by following links: as it stands, twice at once, refused, on a closed refit, in every role.

No fault page, no 404 on what a page offers, no second record, nothing changed by saving what stands there.
"""

from __future__ import annotations

from collections.abc import Iterator
from datetime import timedelta

import pytest
from fastapi.testclient import TestClient

from rovask.core.refit.edits import rebuilt
from rovask.core.refit.model import Refit
from rovask.core.refit.register import KINDS
from rovask.desk.rights import RIGHTS, Right
from rovask.settings import Settings
from rovask.store.account_tables import Membership
from rovask.web.app import create_app
from tests.acts import changed, kept_of, log_of
from tests.conftest import SKIPPER, Browser, Sailor, kept_for_both
from tests.desk.test_rights import MATRIX, OPEN, SIGNED_IN
from tests.web.forms import PageForm, forms_of
from tests.web.walk import Walk, landed, walked

LEFT_OUT = ("/sign-out", "/access/", "/light/")  # what ends the session or is no form of a refit
ENDS = ("/people/leave", "/people/take-out")  # whoever walks would be out of it
FINE = (200, 303, 409, 422)


@pytest.fixture(scope="module")
def own(database: str, day_9, state) -> Settings:  # type: ignore[no-untyped-def]
    return Settings(database_url=database, now=day_9, state=state, helpers=0, settling_seconds=1)


@pytest.fixture(scope="module")
def each(request: pytest.FixtureRequest) -> int:
    """How many pages of a sort are walked."""
    return 12 if request.config.getoption("--long") else 1


@pytest.fixture(scope="module")
def app_client(own: Settings) -> Iterator[TestClient]:
    with Browser(create_app(own), follow_redirects=False) as client:
        yield client


@pytest.fixture(scope="module")
def round_trip(own: Settings, app_client: TestClient, demo: Refit, each: int) -> tuple[int, Sailor, Walk]:
    """One demo for all forms, for what each does is undone; and one walk over it."""
    pk = kept_for_both(own, demo)
    who = skipper(app_client, own)
    return pk, who, walked(who, pk, each)


def skipper(client: TestClient, settings: Settings) -> Sailor:
    return Sailor(client, settings, SKIPPER)


def press(who: Sailor, page: str, form: PageForm, more: dict[str, str]):  # type: ignore[no-untyped-def]
    """Send a form from its page as a browser would."""
    headers = {"cookie": f"rovask_session={who.cookie}", "referer": f"http://testserver{page}"}
    data = form.data() | more
    files = {form.files[0]: ("", b"")} if form.files else None
    return who.client.post(form.action, data=data, headers=headers, files=files)  # type: ignore[arg-type]


def leads_nowhere(who: Sailor, text: str) -> Iterator[str]:
    """The lights, undo and dismiss of a page that lead to no page."""
    leads_back = {
        form.value("next"): form.action
        for form in forms_of(text)
        if form.action.startswith("/light/") or form.action.endswith(("/undo", "/redo", "/seen"))
    }
    for where, action in leads_back.items():
        if landed(who, where)[1] != 200:
            yield f"is refused, and {action} then leads to {where}"


def test_every_form_as_it_stands_twice_and_undone_from_where_it_led(
    own: Settings, round_trip: tuple[int, Sailor, Walk]
) -> None:
    pk, who, found = round_trip
    wrong = [f"{page} links to {link}: {status}" for page, link, status in found.dead]
    sorts = [
        (page, form)
        for page, form in found.posts()
        if not form.action.startswith(LEFT_OUT) and not form.action.endswith(ENDS)
    ]
    sent = 0
    for page, form in sorts:
        for button in [{}] if not form.buttons else [{name: value} for name, value in form.buttons]:
            sent += 1
            told = f"{found.route('POST', form.action)} {button or ''} on {page}"
            wrong += [f"{told}: {what}" for what in sent_twice(who, own, pk, page, form, button, f"m{sent}")]
    print(f"{len(found.pages)} pages, {len(sorts)} sorts of forms, {sent} sent twice")
    assert not wrong, "\n".join(wrong)


def sent_twice(
    who: Sailor, settings: Settings, pk: int, page: str, form: PageForm, button: dict[str, str], mark: str
) -> Iterator[str]:
    """What is wrong with a form that is sent as it stands, and sent again; what it did is undone."""
    if not any(name == "mark" for name, _ in form.fields):
        yield "has no mark"
    more = button | {"mark": mark}
    before = kept_of(settings, pk)
    first = press(who, page, form, more)
    if first.status_code not in FINE:
        yield f"answers {first.status_code}"
    after = kept_of(settings, pk)
    again = press(who, page, form, more)
    if kept_of(settings, pk).revision != after.revision:
        yield "was done twice"
    if first.status_code == 303:
        where = first.headers["location"]
        if (again.status_code, again.headers.get("location")) != (303, where):
            yield f"led to {where}, and sent again answered {again.status_code} {again.headers.get('location')}"
        if where.startswith(f"/r/{pk}/") and landed(who, where)[1] != 200:
            yield f"leads to {where}, which isn't there"
    else:
        yield from leads_nowhere(who, first.text)
    edits = form.action.endswith("/save") and ("key" not in dict(form.fields) or form.value("key"))
    if edits and after.revision != before.revision:
        yield f"saving what stands there changed it: {log_of(settings, pk, 1)[0].what}"
    if after.revision != before.revision and not log_of(settings, pk, 1)[0].final:
        yield from undone(who, pk, page, first.headers.get("location", page))


def undone(who: Sailor, pk: int, page: str, here: str) -> Iterator[str]:
    """What is wrong with undoing from the page that an act led to."""
    back = who.post(f"/r/{pk}/undo", {"next": here})
    if back.status_code != 303:
        yield f"undo answers {back.status_code}"
    elif landed(who, back.headers["location"])[1] != 200:
        yield f"undo from {here} leads to {back.headers['location']}, which isn't there"
    elif not page.startswith(here.partition("?")[0]) and landed(who, page)[1] != 200:
        yield "its page is gone after undo"


def rights_of(found: Walk) -> dict[str, str]:
    """What each form of a walk asks for, and a page it stands on."""
    out: dict[str, str] = {}
    for page, form in found.forms:
        if form.method == "post":
            out.setdefault(found.route("POST", form.action), page)
    return out


@pytest.mark.parametrize("role", [Membership.READER, Membership.CREW])
def test_a_role_is_shown_no_form_it_may_not_send(
    client: TestClient, settings: Settings, demo_pk: int, role: Membership, each: int
) -> None:
    member = Sailor(client, settings, f"Walking {role}").joins(demo_pk, role)
    found = walked(member, demo_pk, each)
    wrong = [f"{page} links to {link}: {status}" for page, link, status in found.dead]
    for route, page in rights_of(found).items():
        method, path, *kind = route.split(" ")
        needs = Right.GIVENS if kind and KINDS[kind[0]].givens else MATRIX[f"{method} {path}"]
        if needs not in (OPEN, SIGNED_IN) and needs not in RIGHTS[role]:
            wrong.append(f"a {role} sees the form of {route} on {page}")
    assert not wrong, "\n".join(wrong)


def test_a_closed_refit_shows_no_form_but_what_may_be_done_to_it(
    client: TestClient, settings: Settings, demo: Refit, each: int
) -> None:
    pk = kept_for_both(settings, demo)
    changed(settings, pk, lambda refit: rebuilt(refit, closed_at=settings.clock() + timedelta(hours=1)))
    who = skipper(client, settings)
    found = walked(who, pk, each)
    wrong = [f"{page} links to {link}: {status}" for page, link, status in found.dead]
    for route, page in rights_of(found).items():
        needs = MATRIX[" ".join(route.split(" ")[:2])]
        if needs in (Right.WORK, Right.GIVENS) and not route.endswith(("/close", "/next")):
            wrong.append(f"{route} on {page}")
    assert not wrong, "\n".join(wrong)
