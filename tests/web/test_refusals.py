"""What is refused comes back with what was typed, in its refit's frame; what is taken back never leads to a page that is gone."""

from __future__ import annotations

from datetime import datetime, timedelta

import pytest
from sqlalchemy.exc import TimeoutError as NoConnectionFree

from rovask.core.refit.givens.boats_like import LIKE
from rovask.core.refit.model import Refit
from rovask.desk.door import Desk
from rovask.settings import Settings
from rovask.store.account_tables import Membership
from rovask.web.gone import still_there
from tests.acts import kept_of
from tests.conftest import Sailor, kept_for_both
from tests.web.forms import form_to
from tests.web.pages import Elements


@pytest.mark.parametrize(
    ("act", "form", "kept", "fault"),
    [
        (
            "hours",
            {"hours": "two", "person": "mira", "note": "sanding aft"},
            ["two", "sanding aft"],
            "is no number of hours",
        ),
        ("hours", {"hours": "1", "person": "mira", "when": "yesterdayish"}, ["1", "yesterdayish"], "is not a"),
        ("split", {"hours": "0.7"}, ["0.7"], "is no number of hours"),
        ("pin", {"at": "35.5.2026 10:00"}, ["35.5.2026 10:00"], "is not a day of the calendar"),
    ],
)
def test_a_small_form_with_a_fault_comes_back_with_what_was_typed(
    sailor: Sailor, demo_pk: int, act: str, form: dict[str, object], kept: list[str], fault: str
) -> None:
    answer = sailor.post(f"/r/{demo_pk}/task/tops-1/{act}", form | {"next": f"/r/{demo_pk}/jobs/tops"})
    assert answer.status_code == 422
    page = Elements(answer.text)
    assert fault in answer.text
    assert 'aria-label="Standing line"' in answer.text  # in the refit, not on a bare page
    values = page.attributes("input", "value")
    assert all(one in values for one in kept)
    assert f'href="/r/{demo_pk}/jobs/tops"' in answer.text
    assert f'action="/r/{demo_pk}/task/tops-1/{act}"' in answer.text


def test_a_draw_that_moves_nothing_is_refused_under_its_field(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    line = kept_of(settings, demo_pk).refit.budget_lines[0].id
    form = {"key": "", "title": "Keel", "amount": "", "source": line, "to": line, "at": "2026-05-12T10:00"}
    answer = sailor.post(f"/r/{demo_pk}/draw/save", form)
    assert answer.status_code == 422
    assert "Say how much is drawn." in answer.text
    assert "That is the line it is drawn from." in answer.text
    assert Elements(answer.text).value("title") == "Keel"


def test_a_finding_taken_back_leads_to_the_list_it_stood_in(
    sailor: Sailor, settings: Settings, demo_pk: int, day_9: datetime
) -> None:
    made = sailor.post(f"/r/{demo_pk}/found", {"title": "Cracked tang", "severity": "bad"})
    address = made.headers["location"]
    assert sailor.get(address).status_code == 200
    back = sailor.post(f"/r/{demo_pk}/undo", {"next": address})
    assert back.status_code == 303
    assert back.headers["location"] != address
    assert sailor.get(back.headers["location"]).status_code == 200
    assert all(one.title != "Cracked tang" for one in kept_of(settings, demo_pk).refit.findings)


FOUND = {"title": "Weeping seam at frame 7", "note": "a line of brown\nafter the night", "severity": "bad"}


def kept_words(answer) -> str:  # type: ignore[no-untyped-def]
    """What a refusal shows of a finding that was typed: words, none lost."""
    assert "Weeping seam at frame 7" in answer.text
    assert "a line of brown" in answer.text
    return answer.text


def test_a_readers_finding_is_refused_and_not_lost(client, settings: Settings, demo_pk: int) -> None:  # type: ignore[no-untyped-def]
    reader = Sailor(client, settings, "Rudi").joins(demo_pk, Membership.READER)
    photo = {"photo": ("seam.jpg", b"\xff\xd8\xff", "image/jpeg")}
    answer = reader.post(f"/r/{demo_pk}/found", FOUND, files=photo)
    assert answer.status_code == 403
    page = kept_words(answer)
    assert 'aria-label="Standing line"' in page  # the way back is there
    assert f'href="/r/{demo_pk}/jobs"' in page
    assert "seam.jpg: choose it again" in page
    assert reader.csrf not in Elements(answer.text).attributes("dd", "class")


def test_what_is_typed_into_a_closed_refit_or_one_that_one_was_taken_out_of_is_not_lost(
    client,
    sailor: Sailor,
    settings: Settings,
    day_9: datetime,
    demo: Refit,  # type: ignore[no-untyped-def]
) -> None:
    pk = kept_for_both(settings, demo.grown(closed_at=day_9))
    closed = sailor.post(f"/r/{pk}/found", FOUND)
    assert closed.status_code == 403
    assert "This refit is closed" in kept_words(closed)
    assert 'aria-label="Standing line"' in closed.text
    stranger = Sailor(client, settings, "Taken out")
    gone = stranger.post(f"/r/{pk}/found", FOUND)
    assert gone.status_code == 404
    kept_words(gone)
    assert kept_of(settings, pk).refit.name not in gone.text  # a stranger learns nothing of it


def test_what_nobody_foresaw_has_its_headers_and_keeps_what_was_typed(
    sailor: Sailor, demo_pk: int, monkeypatch: pytest.MonkeyPatch, settings: Settings
) -> None:
    """A 500 by Starlette's outermost layer had none of the safety headers, and a page of one line."""

    def broken(*_: object, **__: object) -> None:
        raise KeyError("nobody foresaw this")

    def no_connection(*_: object, **__: object) -> None:
        raise NoConnectionFree("QueuePool limit reached")

    for fault, status, words in ((broken, 500, "nobody foresaw"), (no_connection, 503, "nothing was changed")):
        with monkeypatch.context() as patched:
            patched.setattr(Desk, "act", fault)
            answer = sailor.post(f"/r/{demo_pk}/found", FOUND)
        assert answer.status_code == status
        assert "default-src 'none'" in answer.headers["content-security-policy"]
        assert answer.headers["x-content-type-options"] == "nosniff"
        assert words in kept_words(answer)
        assert "QueuePool" not in answer.text
        assert "KeyError" not in answer.text
        again = dict(
            zip(*(Elements(answer.text).attributes("input", name) for name in ("name", "value")), strict=False)
        )
        assert again["title"] == FOUND["title"]
    assert sailor.post(f"/r/{demo_pk}/found", FOUND).status_code == 303
    with monkeypatch.context() as patched:
        patched.setattr("rovask.web.routes.jobs.page_here", broken)
        assert sailor.get(f"/r/{demo_pk}/jobs").headers["content-security-policy"]


def test_only_what_is_gone_is_left(demo: Refit) -> None:
    for there in ("/r/7/morning", "/r/7/jobs/tops", "/r/7/jobs/tops?task=tops-1", "/r/7/bench/taper", "/r/7/people",
                  "/r/7/before/launch", "/r/7/task/tops-1/edit", "/r/7/recipes/gas"):  # fmt: skip
        assert still_there(demo, there) == there
    for gone, left in (
        ("/r/7/jobs/nothing", "/r/7/jobs"),
        ("/r/7/jobs/tops?task=nothing", "/r/7/jobs/tops"),
        ("/r/7/task/nothing/edit", "/r/7/jobs"),
        ("/r/7/finding/nothing/decide", "/r/7/findings"),
        ("/r/7/parked/nothing/edit", "/r/7/parked"),
    ):
        assert still_there(demo, gone) == left


def test_a_boat_to_begin_from_is_chosen_at_any_time_and_keeps_what_was_typed(sailor: Sailor) -> None:
    def typed(page: str, **more: str) -> dict[str, object]:
        return form_to(page, "/new").data(**more)

    blank = sailor.get("/new").text
    refused = sailor.post(
        "/new", typed(blank, header__name="Spring haul", header__haul_at="13.5. 9 h", boat__draft_m="1.93")
    )
    assert refused.status_code == 422
    sloop = sailor.post("/new", typed(refused.text, choose="sloop"))
    assert sloop.status_code == 200 and not any(Elements(sloop.text).texts("p", class_="fault"))
    cutter = sailor.post("/new", typed(sloop.text, choose="cutter"))
    values = [dict(form_to(page.text, "/new").fields) for page in (sloop, cutter)]
    for shown in values:
        assert (shown["header-name"], shown["header-haul_at"], shown["boat-draft_m"]) == (
            "Spring haul",
            "13.5. 9 h",
            "1.93",
        )
    for shown, key in zip(values, ("sloop", "cutter"), strict=True):
        assert shown["boat-length_m"] == str(LIKE[key][1]["length_m"])
    assert values[1]["like"] == "cutter"


def test_a_day_without_its_year_is_the_nearest_wherever_a_time_is_typed(
    sailor: Sailor, settings: Settings, demo_pk: int
) -> None:
    assert settings.now is not None and settings.now.year == 2026
    assert sailor.post(f"/r/{demo_pk}/task/steer-3/pin", {"at": "15.5. 14:00"}).status_code == 303
    pin = kept_of(settings, demo_pk).refit.tasks["steer-3"].pin
    assert pin is not None and f"{pin:%Y-%m-%d}" == "2026-05-15"
    bill = {"kind": "payment", "amount": "12", "title": "Tape", "at": "11.5."}
    assert sailor.post(f"/r/{demo_pk}/purse/entry", bill).status_code == 303
    assert f"{kept_of(settings, demo_pk).refit.entries[-1].at:%Y-%m-%d}" == "2026-05-11"
    assert sailor.post(f"/r/{demo_pk}/task/steer-3/pin", {"at": ""}).status_code == 422


def test_of_a_boat_that_was_chosen_before_no_figure_stays(sailor: Sailor) -> None:
    page = sailor.get("/new").text
    for key in (*LIKE, *LIKE):
        page = sailor.post("/new", form_to(page, "/new").data(choose=key)).text
        direct = sailor.get(f"/new?like={key}").text
        shown, alone = (
            [field for field in form_to(text, "/new").fields if field[0] != "mark"] for text in (page, direct)
        )
        assert shown == alone, key


def test_what_a_device_kept_is_as_of_when_it_was_said(
    sailor: Sailor, settings: Settings, demo_pk: int, day_9: datetime
) -> None:
    said = {
        "days ago": timedelta(days=-3, hours=-2),
        "a clock ahead": timedelta(hours=5),
        "for ever": timedelta(days=-900),
    }
    means = {"days ago": timedelta(days=-3, hours=-2), "a clock ahead": timedelta(0), "for ever": timedelta(days=-30)}
    shift = kept_of(settings, demo_pk).clock_shift
    for number, (title, ago) in enumerate(said.items()):
        form = {"title": title, "severity": "watch", "mark": f"kept{number}", "ticked_at": (day_9 + ago).isoformat()}
        assert sailor.post(f"/r/{demo_pk}/found", form).status_code == 303
        assert sailor.post(f"/r/{demo_pk}/found", form | {"note": "sent again"}).status_code == 303  # led to the first
    found = {one.title: one for one in kept_of(settings, demo_pk).refit.findings}
    for title, ago in means.items():
        assert found[title].at == day_9 + shift + ago
        assert found[title].note == ""
    form = {"title": "no moment", "severity": "watch", "mark": "kept9", "ticked_at": "yesterday"}
    assert sailor.post(f"/r/{demo_pk}/found", form).status_code == 303
    assert {one.title: one for one in kept_of(settings, demo_pk).refit.findings}["no moment"].at == day_9 + shift
