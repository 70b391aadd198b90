"""A matrix of every route, made by walking the application: a route without an entry here fails.

For each: what somebody may get who is not signed in, a stranger, and a member in each role; and that no form is taken
without this session's token, with another session's, or from another origin.
"""

from __future__ import annotations

import html
import re
from collections.abc import Iterator

import pytest
from fastapi.routing import APIRoute
from fastapi.testclient import TestClient

from rovask.core.refit.model import Refit
from rovask.desk.command import Actor
from rovask.desk.commands.recipes import BringInRecipe
from rovask.desk.rights import RIGHTS, Right
from rovask.settings import Settings
from rovask.store.account_tables import Membership
from rovask.store.recipes import shipped_text
from rovask.web.app import create_app
from tests.acts import planned
from tests.conftest import SKIPPER, Browser, Sailor, kept_for_both

OPEN = "open"  # for anybody, signed in or not
SIGNED_IN = "signed in"  # for anybody signed in
LOOK, WORK, GIVENS, PEOPLE, OWN = Right.LOOK, Right.WORK, Right.GIVENS, Right.PEOPLE, Right.OWN_JOBS

# What each route asks. GIVENS_OR_WORK: by the kind of record in the address.
MATRIX: dict[str, str | Right] = {
    "GET /sign-in": OPEN,
    "POST /sign-in": OPEN,
    "GET /come-aboard/{token}": OPEN,
    "POST /come-aboard/{token}": OPEN,
    "POST /light/{light}": OPEN,
    "GET /no-signal": OPEN,
    "GET /sw.js": OPEN,
    "GET /sent/{mark}": OPEN,  # 401 for nobody; else of one's own forms only
    "GET /feed/{token}.ics": OPEN,  # these four: the token is what lets in, and only to what it is for
    "GET /t/{token}": OPEN,
    "GET /t/{token}/photo/{key}.jpg": OPEN,
    "POST /t/{token}/say": OPEN,
    "POST /callbacks/{mark}": OPEN,  # the mark itself is what only its supplier knows
    "GET /recover": OPEN,
    "POST /recover": OPEN,
    "POST /sign-in/passkey/options": OPEN,
    "POST /sign-in/passkey": OPEN,
    "GET /healthz": OPEN,
    "GET /readyz": OPEN,
    "GET /metrics": OPEN,  # not there without its token
    "POST /sign-out": SIGNED_IN,
    "POST /access/codes": SIGNED_IN,
    "POST /access/passkey/options": SIGNED_IN,
    "POST /access/passkey": SIGNED_IN,
    "POST /access/passkey/drop": SIGNED_IN,
    "GET /access/erase": SIGNED_IN,
    "POST /access/erase": SIGNED_IN,
    "GET /access/everything": SIGNED_IN,
    "GET /operator": SIGNED_IN,  # not there but for operators
    "GET /access": SIGNED_IN,
    "POST /access/password": SIGNED_IN,
    "POST /access/link": SIGNED_IN,
    "POST /access/sessions/end": SIGNED_IN,
    "GET /": SIGNED_IN,
    "GET /new": SIGNED_IN,
    "POST /new": SIGNED_IN,
    "POST /import": SIGNED_IN,
    "GET /r/{pk}": SIGNED_IN,  # leads to Morning, which asks
    **dict.fromkeys(
        (
            "GET /r/{pk}/" + screen
            for screen in (
                "morning", "standing", "jobs/{key}/ashore", "effect/{change}", "aboard", "before/{key}", "slip", "slip.svg", "search", "search/events", "remedies", "boat", "jobs",
                "jobs/{key}", "stores", "recipes", "recipes/several", "recipes/{key}", "recipes/{key}.toml", "bench",
                "bench/{key}", "look", "finding/{key}", "findings", "finding/{key}/decide", "stores/part/{key}", "stores/part/{key}/ask",
                "stores/orders", "stores/order/{key}", "stores/receive", "stores/shopping", "stores/suppliers",
                "purse", "purse/months", "purse/bill", "purse/ledger", "purse/agreements", "purse/agreement/{key}",
                "purse/save", "purse/account", "purse/rates", "tables", "tables/{key}/{name}", "tables/{key}/look/{token}",
                "launch", "launch/{stage}", "accept", "accept/{key}", "day/{on}", "visits", "visits/{key}", "slip/{key}", "progress", "odds", "odds/brief", "choices", "choices/{key}", "date", "seasons", "since",
                "jobs/{key}/apart", "links", "sheet/{key}", "calendar/{key}.ics", "trouble", "trouble/{key}", "night/told", "account",
                "decide/{key}/{name}", "parked", "off", "photo/{key}.jpg", "yard", "log", "people", "export", "plan", "bundle",
                "hands", "hands/seized/{key}", "hands/cover/{key}", "hands/coats", "hands/fit/{key}", "hands/fit/{key}/template",
                "hands/shape/{key}", "hands/shape/{key}/template", "hands/shape/{key}/file.svg", "hands/trace/{key}", "hands/contacts", "post",
            )
        ),
        LOOK,
    ),
    **dict.fromkeys(
        (
            "POST /r/{pk}/" + act
            for act in (
                "task/{key}/begin", "task/{key}/done", "task/{key}/unit", "task/{key}/reopen", "task/{key}/hours",
                "task/{key}/times", "task/{key}/pin", "task/{key}/nudge", "task/{key}/drop", "task/{key}/unpin", "task/{key}/split",
                "{kind}/{key}/move", "{kind}/save", "{kind}/{key}/remove", "part/{key}/now", "part/{key}/missing", "weather/fetch",
                "weather/file", "weather/now", "look/{key}", "look/{key}/again", "found", "finding/{key}/settle",
                "finding/{key}/job", "finding/{key}/belongs", "part/{key}/misfit", "part/{key}/give", "part/{key}/overboard", "visits/together", "comes", "jobs/several", "jobs/paste", "unknown/{key}/settle", "recipes/several", "recipes/bring-in", "recipes/{key}", "recipes/{key}/give",
                "recipes/{key}/take-out", "decide/{key}/{name}", "finding/{key}/decide", "parked/{key}/place",
                "jobs/{key}/afloat", "jobs/{key}/last-day", "jobs/{key}/next-time", "off/{key}/photo", "bench/{key}", "search/start",
                "search/stop", "order/{key}/send", "order/{key}/ask", "purse/rates/fetch", "tables/{key}", "tables/{key}/look/{token}", "offer/{key}/choose", "part/{key}/got", "part/{key}/count", "part/{key}/use", "trip", "certainty",
                "launch/tick", "launch/overrule", "launch/let-go", "accept/{key}", "day/{on}", "reading/{key}", "slip/{key}", "progress/keep",
                "progress/paces", "jobs/{key}/learn", "links/calendar", "links/withdraw", "words/{key}/answer",
                "line/{key}/receive", "receipt/{key}/try", "order/{key}/step", "stores/new-order", "purse/meter", "purse/entry",
                "purse/save", "purse/rates", "agreement/{key}/accept", "plan/adopt", "plan/back", "undo", "redo", "log/take-back",
                "choices", "choices/open", "choices/{key}/ways", "choices/{key}/name", "choices/{key}/remove", "choices/{key}/take",
                "choices/{key}/ways/{way}", "choices/{key}/ways/{way}/acts/drop", "choices/{key}/ways/{way}/drop", "date", "date/stop",
                "date/take", "seasons",
                "hands/seized", "hands/seized/{key}/tick", "hands/seized/{key}/step", "hands/seized/{key}/stop", "hands/cover",
                "hands/cover/{key}/open", "hands/tape", "hands/fit", "hands/fit/{key}/take", "hands/shape", "hands/shape/{key}/mirror",
                "hands/trace", "hands/trace/{key}/clues", "hands/trace/{key}/look", "hands/trace/{key}/own", "hands/trace/{key}/waits",
                "hands/trace/{key}/end", "hands/contacts", "hands/contacts/apart", "post/again",
            )
        ),
        WORK,
    ),
    "GET /r/{pk}/journal": PEOPLE,
    "POST /r/{pk}/people/way-back": PEOPLE,
    "GET /r/{pk}/found": WORK,  # these are there to act
    **dict.fromkeys((f"GET /r/{{pk}}/hands/{kind}/new" for kind in ("seized", "cover", "fit", "shape", "trace")), WORK),
    "GET /r/{pk}/comes": WORK,
    "GET /r/{pk}/choices/{key}/ways/{way}": WORK,
    "GET /r/{pk}/purse/entry": WORK,
    "GET /r/{pk}/stores/new-order": WORK,
    "GET /r/{pk}/{kind}/new": WORK,
    "GET /r/{pk}/{kind}/edit": GIVENS,
    "GET /r/{pk}/{kind}/{key}/edit": WORK,
    "GET /r/{pk}/currency": GIVENS,
    "POST /r/{pk}/currency": GIVENS,
    "GET /r/{pk}/night": GIVENS,
    "POST /r/{pk}/night": GIVENS,
    "POST /r/{pk}/close": GIVENS,  # to close; what surprised may be noted by the crew
    "POST /r/{pk}/next": GIVENS,
    "POST /r/{pk}/links/trade": PEOPLE,
    "POST /r/{pk}/remove": PEOPLE,
    "POST /r/{pk}/people/invite": PEOPLE,
    "POST /r/{pk}/people/role": PEOPLE,
    "POST /r/{pk}/people/take-out": PEOPLE,
    "POST /r/{pk}/people/leave": OWN,
    "POST /r/{pk}/seen": LOOK,
    "GET /r/{pk}/mine": OWN,
}  # fmt: skip
FORMS = {
    "task/{key}/hours": {"hours": "1", "person": "mira"},
    "task/{key}/pin": {"at": "2026-05-20T10:00"},
    "task/{key}/nudge": {"hours": "1"},
    "task/{key}/drop": {"at": "2026-05-20T10:00:00Z"},
    "task/{key}/split": {"hours": "1"},
    "{kind}/save": {"name": "Grommet", "quantity": "1", "status": "needed", "lead_days": "1"},
    "part/{key}/now": {"status": "aboard"},
    "part/{key}/count": {"amount": "3"},
    "part/{key}/use": {"task": "bottom-9", "amount": "5"},
    "offer/{key}/choose": {"reason": "in time"},
    "trip": {"to": "town", "part": "boot", "hours": "2"},
    "certainty": {"certainty": "safe"},
    "line/{key}/receive": {"way": "fits"},
    "receipt/{key}/try": {"condition": "fits"},
    "order/{key}/step": {"state": "shipped"},
    "stores/new-order": {"supplier": "Shop", "take": "boot"},
    "purse/meter": {"kwh": "4300"},
    "purse/entry": {"kind": "invoice", "amount": "12", "title": "Tape"},
    "purse/save": {"kind": "put off", "key": "winch", "reason": "money"},
    "purse/rates": {"currency": "USD", "rate": "0.9"},
    "weather/now": {"hours": "3", "wet": "yes"},
    "look/{key}": {"verdict": "good"},
    "recipes/several": {"pick": "chain"},
    "decide/{key}/{name}": {"way": "packing"},
    "finding/{key}/decide": {"way": "-interim"},
    "parked/{key}/place": {"way": "next"},
    "log/take-back": {"change": "1"},
    "launch/tick": {"item": "always:keys"},
    "launch/overrule": {"item": "always:keys", "person": "mira", "reason": "spare"},
    "accept/{key}": {"title-0": "Pin, lock and stop seen; nothing can fall out", "way-0": "yes"},
    "day/{on}": {"words": "Dry."},
    "reading/{key}": {"reading": "12"},
    "slip/{key}": {"back": "2026-05-29"},
    "night": {"slot": "2026-06-05T10:30", "why": "weeps"},
    "next": {"haul_at": "2027-05-03T10:00", "launch_at": "2027-06-03T10:00"},
    "links/trade": {"person": "ruy"},
    "links/withdraw": {"secret": "1"},
    "people/invite": {"role": "reader"},
    "people/role": {"account": "1", "role": "reader"},
    "people/take-out": {"account": "1"},
    "currency": {"currency": "GBP", "way": "stay"},
    "choices": {"title": "Which?"},
    "choices/open": {"about": "job:chain"},
    "choices/{key}/ways": {"title": "Another"},
    "choices/{key}/name": {"title": "Called so"},
    "choices/{key}/take": {"way": "as-it-is", "reason": "no hurry", "anyway": "1"},
    "choices/{key}/ways/{way}": {"do": "longer days", "of": "mira", "hours": "1"},
    "choices/{key}/ways/{way}/acts/drop": {"at": "0"},
    "date": {"odds": "8"},
    "date/take": {"point": "1"},
    "seasons": {"launch1": "10 Sep 2026 10:30"},
    "hands/seized": {"title": "A nut"},
    "hands/seized/{key}/tick": {"outcome": "held"},
    "hands/seized/{key}/step": {"means": "warm"},
    "hands/cover": {"title": "A locker", "place": "saloon"},
    "hands/cover/{key}/open": {"task": "panel-3"},
    "hands/tape": {"task": "panel-3"},
    "hands/fit": {"title": "A pump"},
    "hands/fit/{key}/take": {"clash": "room-height"},
    "hands/shape": {"title": "A plate", "corners": "0 0\n9 0\n0 9"},
    "hands/trace": {"title": "Water"},
    "hands/trace/{key}/look": {"candidate": "deck", "showed": "clear"},
    "hands/trace/{key}/own": {"name": "The hawse pipe"},
    "hands/trace/{key}/end": {"why": "time"},
    "hands/contacts": {
        "title": "Cleat on rail",
        "one": "aluminium",
        "other": "stainless",
        "wet": "splash",
        "larger": "alike",
    },
    "hands/contacts/apart": {"contact": "co1"},
}
KEYS = {
    "task": "steer-3", "jobs": "bottom", "part": "anti", "order": "o6", "agreement": "rigger", "offer": "of1", "line": "o12-toilet", "receipt": "r19", "tables": "parts", "look": "look-i14", "finding": "f4", "unknown": "u1",
    "parked": "k1", "off": "o1", "recipes": "winches", "decide": "face-seal", "bench": "taper", "photo": "none",
    "job": "tops", "accept": "rudder-7", "visits": "v1", "sheet": "ruy", "calendar": "ruy", "trouble": "weeps", "reading": "look-i2", "words": "none", "choices": "w1",
    "seized": "se1", "cover": "cv1", "fit": "fi1", "shape": "sh1", "trace": "tr1",
}  # fmt: skip


def routes(app: object) -> Iterator[tuple[str, str]]:
    """Every route of the application, those of the routers it includes too."""
    for holder in app.routes:  # type: ignore[attr-defined]
        router = getattr(holder, "original_router", None)
        for route in [holder] if router is None else router.routes:
            if isinstance(route, APIRoute):
                for method in route.methods - {"HEAD"}:
                    yield method, route.path


def address(path: str, pk: int) -> str:
    """An address of a route, with things that are in the demo."""
    parts = path.split("/")
    kind = next((parts[at - 1] for at, part in enumerate(parts) if "{key}" in part), "part")
    kind = "visits" if path.endswith("/visits/{key}") else "sheet" if "/slip/" in path else kind
    filled = path.replace("{pk}", str(pk)).replace(
        "{kind}", "part" if "edit" not in path or "{key}" in path else "yard"
    )
    filled = filled.replace("before/{key}", "before/launch").replace("{change}", "1")
    filled = filled.replace("{key}", KEYS["part"] if "{kind}" in path else KEYS.get(kind, "x"))
    return (
        filled.replace("{name}", "parts.csv" if "/tables/" in path else "school")
        .replace("{token}", "made-up")
        .replace("{light}", "red")
        .replace("{stage}", "slings")
        .replace("{on}", "2026-05-08")
        .replace("{way}", "interim")
    )


def form_of(path: str) -> dict[str, str]:
    return FORMS.get(path.removeprefix("/r/{pk}/"), {})


def test_every_route_has_an_entry_and_every_entry_a_route(settings: Settings) -> None:
    there = {f"{method} {path}" for method, path in routes(create_app(settings))}
    assert there == set(MATRIX)


@pytest.fixture(scope="module")
def own(database: str, day_9, state) -> Settings:  # type: ignore[no-untyped-def]
    return Settings(database_url=database, now=day_9, state=state)


@pytest.fixture(scope="module")
def kept_pk(own: Settings, demo: Refit) -> int:
    """One demo for everybody who only looks."""
    return kept_for_both(own, demo)


@pytest.fixture(scope="module")
def browser(own: Settings) -> Iterator[TestClient]:
    with Browser(create_app(own), follow_redirects=False, raise_server_exceptions=True) as client:
        yield client


def asked(client: TestClient, method: str, path: str, pk: int, who: Sailor | None):  # type: ignore[no-untyped-def]
    where, form = address(path, pk), form_of(path)
    if method == "GET":
        return who.get(where) if who else client.get(where)
    return who.post(where, dict(form)) if who else client.post(where, data=form)


def test_who_is_signed_out_sees_nothing(own: Settings, browser: TestClient, kept_pk: int) -> None:
    for method, path in routes(browser.app):
        if MATRIX[f"{method} {path}"] is OPEN:
            continue
        answer = asked(browser, method, path, kept_pk, None)
        assert answer.status_code == 303, f"{method} {path}"
        assert answer.headers["location"].startswith("/sign-in"), f"{method} {path}"


def test_a_stranger_finds_nothing_of_a_refit(own: Settings, browser: TestClient, kept_pk: int) -> None:
    """Not found, as for a refit there isn't; nothing of it in the answer, and nothing changed."""
    stranger = Sailor(browser, own, "Stranger")
    for method, path in routes(browser.app):
        if "{pk}" not in path or MATRIX[f"{method} {path}"] in (OPEN, SIGNED_IN):
            continue
        answer = asked(browser, method, path, kept_pk, stranger)
        assert answer.status_code == 404, f"{method} {path}: {answer.status_code}"
        assert "Sandling" not in answer.text, f"{method} {path}"
    assert "Sandling" not in stranger.get("/").text
    skipper = Sailor(browser, own, SKIPPER)
    assert "loaded" in skipper.get(f"/r/{kept_pk}/log").text
    assert "Take back" not in re.sub(r"(?s)<thead>.*?</thead>", "", skipper.get(f"/r/{kept_pk}/log").text)


def test_a_stranger_who_sends_rubbish_finds_nothing_either(own: Settings, browser: TestClient, kept_pk: int) -> None:
    """Whether somebody is of the refit is asked before anything of what they sent."""
    stranger = Sailor(browser, own, "Stranger")
    rubbish = dict.fromkeys(("hours", "at", "when", "day", "quantity", "amount", "secret", "change", "currency"), "x12")
    for method, path in routes(browser.app):
        if method == "POST" and "{pk}" in path:
            for form in ({}, rubbish):
                assert stranger.post(address(path, kept_pk), form).status_code == 404, path


@pytest.mark.parametrize("role", [Membership.READER, Membership.CREW, Membership.TRADE])
def test_a_member_may_what_the_role_may_and_no_more(
    own: Settings, browser: TestClient, demo: Refit, role: Membership
) -> None:
    """What one may see and not do is refused with 403 and a sentence; what one may not see is not found."""
    pk = kept_for_both(own, demo)
    member = Sailor(browser, own, f"One {role}").joins(pk, role)
    skipper = Sailor(browser, own, SKIPPER)
    for method, path in routes(browser.app):
        needs = MATRIX[f"{method} {path}"]
        if "{pk}" not in path or not isinstance(needs, Right) or needs in RIGHTS[role] or path.endswith("/leave"):
            continue
        answer = asked(browser, method, path, pk, member)
        seen = Right.LOOK in RIGHTS[role]
        wanted = 403 if seen and method == "POST" else 404
        assert answer.status_code == wanted, f"{role} {method} {path}: {answer.status_code}"
    entries = skipper.get(f"/r/{pk}/log").text
    assert "One " not in entries  # nothing of all that was done
    for method, path in routes(browser.app):
        needs = MATRIX[f"{method} {path}"]
        if method == "GET" and needs in RIGHTS[role] and "events" not in path and "photo" not in path:
            assert asked(browser, method, path, pk, member).status_code in (200, 303), f"{role} {path}"
    if role is Membership.CREW:
        assert member.post(f"/r/{pk}/task/steer-3/hours", {"hours": "1", "person": "mira"}).status_code == 303
        assert member.post(f"/r/{pk}/person/save", {"name": "New", "role": "owner"}).status_code == 403
        assert member.post(f"/r/{pk}/yard/save", {"name": "New"}).status_code == 403


def test_a_trade_sees_its_own_work_and_nothing_of_money(own: Settings, browser: TestClient, demo: Refit) -> None:
    pk = kept_for_both(own, demo)
    rigger = next(person.id for person in demo.people if person.role == "trade")
    trade = Sailor(browser, own, "The trade").joins(pk, Membership.TRADE, rigger)
    text = trade.get(f"/r/{pk}/mine").text
    _, planned_now = planned(own, pk)
    mine = {demo.tasks[one.task].title for one in planned_now.plan.assignments if rigger in one.people}
    mine = {title for title in mine if any(one.title == title and not one.done_at for one in demo.tasks.values())}
    others = {task.title for task in demo.tasks.values() if task.people and rigger not in task.people}
    assert "EUR" not in text
    assert not any(f">{title}<" in text for title in others)
    assert trade.get("/").text.count(f"/r/{pk}/mine") == 1
    assert mine
    assert all(html.escape(title) in text for title in mine)


def test_an_invitation_leads_to_what_one_may_see_and_offers_no_more(
    own: Settings, browser: TestClient, demo: Refit
) -> None:
    pk = kept_for_both(own, demo)
    skipper = Sailor(browser, own, SKIPPER).joins(pk)
    rigger = next(person.id for person in demo.people if person.role == "trade")
    for role, person, page in (("trade", rigger, "mine"), ("reader", "", "morning")):
        made = skipper.post(f"/r/{pk}/people/invite", {"name": f"A {role}", "role": role, "person": person}).text
        path = re.search(r"/come-aboard/[\w-]+", made)
        assert path is not None
        browser.cookies.clear()
        answer = browser.post(path[0], data={"name": f"A {role}"})
        assert answer.headers["location"] == f"/r/{pk}/{page}"
        landed = browser.get(f"/r/{pk}/{page}")
        assert landed.status_code == 200
        assert "Found something" not in landed.text
        assert "Hours on" not in landed.text
    browser.cookies.clear()


def test_whoever_is_taken_out_loses_the_addresses_they_were_given(
    own: Settings, browser: TestClient, demo: Refit
) -> None:
    pk = kept_for_both(own, demo)
    skipper = Sailor(browser, own, SKIPPER)
    gone, stays = (Sailor(browser, own, name).joins(pk, Membership.CREW, "joss") for name in ("Going", "Staying"))
    stays.joins(pk, Membership.CREW, "ruy")
    feeds = []
    for member in (gone, stays):
        made = member.post(f"/r/{pk}/links/calendar", {"person": ""}).text
        found = re.search(r"/feed/[\w-]+\.ics", made)
        assert found is not None
        feeds.append(found[0])
    trade = re.search(r"/t/[\w-]{20,}", skipper.post(f"/r/{pk}/links/trade", {"person": "joss"}).text)
    assert trade is not None
    page = browser.get(trade[0])
    assert (page.status_code, page.headers["referrer-policy"]) == (200, "no-referrer")
    # a page that tells nobody its address sends its forms from "null"; they count only from our own pages
    headers = {"origin": "null", "sec-fetch-site": "same-origin"}
    assert browser.post(f"{trade[0]}/say", data={"said": "coming"}, headers=headers).status_code == 303
    headers["sec-fetch-site"] = "cross-site"
    assert browser.post(f"{trade[0]}/say", data={"said": "coming"}, headers=headers).status_code == 403
    assert [browser.get(one).status_code for one in feeds] == [200, 200]
    assert skipper.post(f"/r/{pk}/people/take-out", {"account": str(gone.account)}).status_code == 303
    assert [browser.get(one).status_code for one in (*feeds, trade[0])] == [404, 200, 404]


def test_no_form_is_taken_without_this_sessions_token_or_from_elsewhere(
    own: Settings, browser: TestClient, demo: Refit
) -> None:
    pk = kept_for_both(own, demo)
    skipper, other = Sailor(browser, own, SKIPPER), Sailor(browser, own, SKIPPER)
    before = skipper.get(f"/r/{pk}/export").content
    for method, path in routes(browser.app):
        if method != "POST" or MATRIX[f"{method} {path}"] is OPEN:
            continue
        where = address(path, pk)
        for token in ("", "made up", other.csrf):
            assert skipper.post(where, form_of(path) | {"csrf": token}).status_code == 403, where
        headers = {"cookie": f"rovask_session={skipper.cookie}", "origin": "https://evil.example"}
        form = form_of(path) | {"csrf": skipper.csrf}
        assert browser.post(where, data=form, headers=headers).status_code == 403, where
    assert skipper.get(f"/r/{pk}/export").content == before
    assert skipper.get("/").status_code == 200  # and still signed in


def test_own_recipes_of_a_refit_are_not_seen_from_another(own: Settings, browser: TestClient, demo: Refit) -> None:
    pk, other_pk = kept_for_both(own, demo), kept_for_both(own, demo)
    skipper = Sailor(browser, own, SKIPPER)
    stranger = Sailor(browser, own, "Deckhand of another boat").joins(other_pk, Membership.CREW)
    desk = browser.app.state.desk  # type: ignore[attr-defined]
    text = shipped_text("winches").replace('id = "winches"', 'id = "secret-way"')
    desk.run(Actor(skipper.account), BringInRecipe(text.encode()), pk)
    assert skipper.get(f"/r/{pk}/recipes/secret-way").status_code == 200
    for path in ("recipes/secret-way", "recipes/secret-way.toml"):
        assert stranger.get(f"/r/{other_pk}/{path}").status_code == 404
    assert "secret-way" not in stranger.get(f"/r/{other_pk}/recipes").text
