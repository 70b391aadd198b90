"""What the pages show and what forms do, without a browser."""

import re
from collections.abc import Callable
from datetime import timedelta
from typing import Any

import pytest

from rovask.core.readings.stock import stocks
from rovask.core.refit.model import Refit
from rovask.core.refit.records import keys_of
from rovask.core.refit.whole import Whole
from rovask.formats.refit_file import read_refit, write_refit
from rovask.settings import Settings
from rovask.web.spelling import shifts_text
from tests.acts import kept_of, log_of
from tests.conftest import Sailor
from tests.web.pages import Elements

SCREENS = ("morning", "slip", "slip?span=week", "slip?span=day&start=3", "jobs", "stores", "yard", "log")


def refit_of(settings: Settings, pk: int) -> Refit:
    return kept_of(settings, pk).refit


@pytest.mark.parametrize("screen", SCREENS)
def test_every_screen_shows_the_demo_and_an_empty_refit(
    sailor: Sailor, demo_pk: int, empty_pk: int, screen: str
) -> None:
    for pk in (demo_pk, empty_pk):
        answer = sailor.get(f"/r/{pk}/{screen}")
        assert answer.status_code == 200
        page = Elements(answer.text)
        assert len(page.texts("h1")) == 1
        assert page.texts("section", aria_label="Standing line")
        assert "<script>" not in answer.text
        assert ' style="' not in answer.text
        assert " onclick" not in answer.text


def test_the_standing_line_says_how_it_stands(sailor: Sailor, demo_pk: int) -> None:
    line = Elements(sailor.get(f"/r/{demo_pk}/morning").text).texts("section", aria_label="Standing line")[0]
    for words in ("30 d", "to launch, Thu 11 Jun 10:30", "spare", "EUR", "chase it"):
        assert words in line


def test_morning_gives_each_person_a_day_in_order(sailor: Sailor, demo_pk: int) -> None:
    page = Elements(sailor.get(f"/r/{demo_pk}/morning").text)
    headings = page.texts("h2")
    assert headings[:2] == ["Mira Oakes", "Joss Penrow"]
    times = [text[:5] for text in page.texts("p", class_="tabular-nums") if re.match(r"\d\d:\d\d–", text)]
    assert times[0] == "10:00"
    assert "Shaft bearing 35 x 48 mm" in " ".join(page.texts("aside"))
    away = Elements(sailor.get(f"/r/{demo_pk}/morning?day=2026-05-19").text)
    assert any("away: with her mother" in text for text in away.texts("h2"))


def test_a_job_sheet_shows_tasks_ties_and_why(sailor: Sailor, demo_pk: int) -> None:
    page = Elements(sailor.get(f"/r/{demo_pk}/jobs/keel").text)
    items = page.texts("li")
    assert "Keel joint opened and laminated" in page.texts("h1")
    assert any("after 96 h “Drain and dry the void” ends" in text for text in items)
    assert any("Why here:" in text for text in items)


TASK_FORM = {
    "title": "Check the log impeller",
    "place": "bottom",
    "state": "ashore",
    "work_least": "0.5",
    "work_likely": "1",
    "work_most": "2",
    "hands": "1",
    "units": "1",
    "units_done": "0",
    "tender": "0",
    "skill": "",
    "pin": "",
    "caution": "",
    "note": "",
    "job": "bottom",
    "key": "",
}


def test_a_task_is_added_and_the_standing_line_says_what_it_did(
    sailor: Sailor, settings: Settings, demo_pk: int
) -> None:
    answer = sailor.post(f"/r/{demo_pk}/task/save", TASK_FORM)
    assert answer.status_code == 303
    made = refit_of(settings, demo_pk)
    assert made.jobs[2].tasks[-1].title == "Check the log impeller"
    note = Elements(sailor.get(answer.headers["location"]).text).texts("section", id="note")[0]
    assert "You added task “Check the log impeller”" in note
    assert "spare" in note
    assert "Undo" in note


@pytest.mark.parametrize(
    ("change", "field", "words"),
    [
        ({"title": " "}, "title", "empty"),
        ({"work_likely": "soon"}, "work_likely", "“soon” is not a number"),
        ({"work_likely": "0.72"}, "work_likely", "goes in steps of 0.05"),
        ({"work_least": "5"}, "work_likely", "least over likely to most"),
        ({"hands": ""}, "hands", "is missing"),
        ({"hands": "12"}, "hands", "must be at most 8"),
        ({"place": "attic"}, "place", "there is no place"),
        ({"pin": "2026-05-20T10:10"}, "pin", "half hour"),
        ({"pin": "yesterday"}, "pin", "not a date"),
        ({"skill": "R2-D2!"}, "skill", "pattern"),
        ({"parts": "ghost"}, "title", "no part"),
    ],
)
def test_a_form_with_faults_comes_back_with_what_was_typed(
    sailor: Sailor, settings: Settings, demo: Refit, demo_pk: int, change: dict[str, str], field: str, words: str
) -> None:
    form = TASK_FORM | {"note": "typed with cold hands"} | change
    answer = sailor.post(f"/r/{demo_pk}/task/save", form)
    assert answer.status_code == 422
    assert answer.headers["hx-push-url"] == "false"
    page = Elements(answer.text)
    assert words in " ".join(page.texts("p", class_="fault"))
    assert page.value("note") == "typed with cold hands"
    if field not in ("place",):
        assert page.value(field) == form[field].strip() or page.value(field) == form[field]
    assert refit_of(settings, demo_pk) == demo


def test_two_editors_of_one_task_both_see_both_versions(
    sailor: Sailor, mate: Sailor, settings: Settings, demo_pk: int
) -> None:
    sheet = Elements(mate.get(f"/r/{demo_pk}/task/bottom-9/edit").text)
    names = {name for name in TASK_FORM if name not in ("job",)}
    old = {name: sheet.value(name) for name in names - {"place", "state"}} | {
        "place": "bottom",
        "state": "ashore",
        "revision": sheet.value("revision"),
    }
    first = sailor.post(f"/r/{demo_pk}/task/save", old | {"title": "Mira's words"})
    assert first.status_code == 303
    second = mate.post(f"/r/{demo_pk}/task/save", old | {"title": "Joss's words"})
    assert second.status_code == 409
    page = Elements(second.text)
    table = " ".join(page.texts("table"))
    assert "Mira's words" in table
    assert "Joss's words" in table
    assert "changed by Mira" in " ".join(page.texts("p"))
    assert refit_of(settings, demo_pk).tasks["bottom-9"].title == "Mira's words"
    kept = mate.post(
        f"/r/{demo_pk}/task/save", old | {"title": page.value("title"), "revision": page.value("revision")}
    )
    assert kept.status_code == 303
    assert refit_of(settings, demo_pk).tasks["bottom-9"].title == "Joss's words"


ACTS: list[tuple[str, dict[str, str], Callable[[Refit], Any], Any]] = [
    ("task/steer-3/begin", {}, lambda made: made.tasks["steer-3"].is_under_way, True),
    ("task/bottom-7/done", {}, lambda made: made.tasks["bottom-7"].done_at is not None, True),
    ("task/look-1/reopen", {}, lambda made: made.tasks["look-1"].is_under_way, True),
    (
        "task/bottom-6/hours",
        {"hours": "1,5", "person": "mira", "remaining": "2"},
        lambda made: made.tasks["bottom-6"].remaining,
        2.0,
    ),
    (
        "task/steer-5/pin",
        {"at": "2026-05-27T09:00"},
        lambda made: str(made.tasks["steer-5"].pin),
        "2026-05-27 08:00:00+00:00",
    ),
    ("task/steer-5/nudge", {"hours": "1"}, lambda made: made.tasks["steer-5"].pin is not None, True),
    ("task/bottom-13/split", {"hours": "2"}, lambda made: made.tasks["bottom-13"].work.likely, 2.0),
    (
        "task/boot-2/move",
        {"way": "up"},
        lambda made: list(made.tasks).index("boot-2") < list(made.tasks).index("boot-1"),
        True,
    ),
    ("job/boot/move", {"way": "up"}, lambda made: [job.id for job in made.jobs].index("boot"), 2),
    ("place/rig/move", {"way": "down"}, lambda made: made.places[0].id, "mast"),
    ("task/boot-2/remove", {}, lambda made: "boot-2" in made.tasks, False),
    ("job/tops/remove", {}, lambda made: any(job.id == "tops" for job in made.jobs), False),
    ("part/bearing/now", {"status": "aboard"}, lambda made: stocks(made)["bearing"].status.value, "aboard"),
    ("link/l1/remove", {}, lambda made: any(link.id == "l1" for link in made.links), False),
]


@pytest.mark.parametrize(("path", "form", "seen", "expected"), ACTS, ids=[act[0] for act in ACTS])
def test_each_act_changes_the_refit_is_told_and_is_undone(
    sailor: Sailor,
    settings: Settings,
    demo: Refit,
    demo_pk: int,
    path: str,
    form: dict[str, str],
    seen: Callable[[Refit], Any],
    expected: Any,
) -> None:
    answer = sailor.post(f"/r/{demo_pk}/{path}", form)
    if answer.status_code == 409:  # something speaks against it: nothing is changed until it is said again
        assert "speaks against it" in answer.text
        assert refit_of(settings, demo_pk) == demo
        answer = sailor.post(f"/r/{demo_pk}/{path}", form | {"anyway": "1", "reason": "it was so"})
        assert "all the same: it was so" in sailor.get(f"/r/{demo_pk}/log").text
    assert answer.status_code == 303
    assert seen(refit_of(settings, demo_pk)) == expected
    assert Elements(sailor.get(f"/r/{demo_pk}/log").text).texts("section", id="note")
    assert sailor.post(f"/r/{demo_pk}/undo").status_code == 303
    assert refit_of(settings, demo_pk) == demo


SHEETS = [
    (
        "person",
        {
            "name": "Pia Lund",
            "role": "helper",
            "skills": "Paint, sewing",
            "hours": "mon-fri 09:00-12:00, 13:00-17:00",
            "arrives": "2026-05-20",
            "leaves": "",
            "absences": "2026-05-22 to 2026-05-23 in town",
            "rate": "12.50",
            "call_out_hours": "0",
        },
    ),
    (
        "part",
        {
            "name": "Grommet",
            "quantity": "2",
            "unit": "",
            "supplier": "Shop",
            "price": "3,40",
            "lead_days": "2",
            "status": "needed",
            "arrives": "",
            "stowed": "",
        },
    ),
    ("place", {"name": "Bow locker", "capacity": "1"}),
    ("job", {"title": "Log impeller", "need": "should", "owner": "", "note": ""}),
    (
        "link",
        {"first": "boot-1", "then": "tops-1", "kind": "SS", "min_lag": "2", "max_lag": "", "reason": "water first"},
    ),
    ("appointment", {"title": "Sailmaker", "at": "2026-05-20T10:00", "hours": "1", "people": "mira"}),
]


@pytest.mark.parametrize(("kind", "form"), SHEETS, ids=[kind for kind, _ in SHEETS])
def test_every_kind_of_thing_is_added_edited_and_removed(
    sailor: Sailor, settings: Settings, demo: Refit, demo_pk: int, kind: str, form: dict[str, str]
) -> None:
    assert sailor.get(f"/r/{demo_pk}/{kind}/new").status_code == 200
    assert sailor.post(f"/r/{demo_pk}/{kind}/save", form | {"key": ""}).status_code == 303
    after = log_of(settings, demo_pk, 1)[0]
    key = next(iter(set(kept_of(settings, demo_pk).revisions) - set(keys_of(demo)))).id
    assert after.what.startswith("added")
    sheet = Elements(sailor.get(f"/r/{demo_pk}/{kind}/{key}/edit").text)
    again = {
        name: sheet.value(name)
        if name not in ("first", "then", "kind", "role", "status", "need", "owner", "people")
        else form[name]
        for name in form
    }
    before = refit_of(settings, demo_pk)
    assert (
        sailor.post(f"/r/{demo_pk}/{kind}/save", again | {"key": key, "revision": sheet.value("revision")}).status_code
        == 303
    )
    assert refit_of(settings, demo_pk) == before  # what is shown, sent back, is what was kept
    assert sailor.post(f"/r/{demo_pk}/{kind}/{key}/remove").status_code == 303
    assert refit_of(settings, demo_pk) == demo


@pytest.mark.parametrize(
    ("kind", "change", "words"),
    [
        ("yard", {"hours": "mon-sat 8 to 12"}, "should read like"),
        ("yard", {"closed": "next week"}, "should read like 18 May 2026"),
        ("yard", {"closed": "18 May 2026 12:00 to 18:00, lunch"}, "these are whole days"),
        ("yard", {"time_zone": "Atlantis"}, "not a time zone"),
        ("boat", {"draft_m": "12"}, "swapped"),
        ("header", {"launch_at": "2026-05-01T10:00"}, "must come after"),
        ("header", {"budget": "lots"}, "is not an amount"),
    ],
)
def test_the_givens_refuse_what_cannot_be(
    sailor: Sailor, settings: Settings, demo: Refit, demo_pk: int, kind: str, change: dict[str, str], words: str
) -> None:
    sheet = Elements(sailor.get(f"/r/{demo_pk}/{kind}/edit").text)
    from rovask.web.money_spelling import COLUMNS
    from rovask.web.sheet_fields import FIELDS, How

    whole = {
        field.name: sheet.value(field.name)
        for field in FIELDS[kind]
        if field.how not in (How.CHOICE, How.TICK, How.MANY, *COLUMNS)
    }
    choices = {
        field.name: getattr(getattr(demo.boat, field.name), "value", "")
        for field in FIELDS[kind]
        if field.how is How.CHOICE
    } | {
        field.name: list(getattr(demo if kind == "header" else demo.boat, field.name))
        for field in FIELDS[kind]
        if field.how is How.MANY
    }
    answer = sailor.post(f"/r/{demo_pk}/{kind}/save", whole | choices | {"key": ""} | change)
    assert answer.status_code == 422
    assert words in " ".join(Elements(answer.text).texts("p", class_="fault"))
    assert refit_of(settings, demo_pk) == demo
    assert sailor.post(f"/r/{demo_pk}/{kind}/save", whole | choices | {"key": ""}).status_code == 303
    assert refit_of(settings, demo_pk) == demo


def test_a_file_goes_out_and_comes_in_the_same(sailor: Sailor, demo: Refit, demo_pk: int) -> None:
    out = sailor.get(f"/r/{demo_pk}/export")
    assert read_refit(out.content).refit == demo
    assert 'filename="sandling-spring-haul-out.refit.json"' in out.headers["content-disposition"]
    back = sailor.post("/import", files={"file": ("x.refit.json", out.content)})
    assert back.status_code == 303
    again = sailor.get(back.headers["location"].replace("/morning", "/export"))
    assert again.content == out.content


def test_a_bad_file_writes_nothing_and_lists_every_fault(sailor: Sailor, settings: Settings, demo: Refit) -> None:
    before = len(Elements(sailor.get("/").text).texts("tr"))
    broken = write_refit(Whole(demo)).replace(b'"place": "keel"', b'"place": "attic"')
    answer = sailor.post("/import", files={"file": ("bad.json", broken)})
    assert answer.status_code == 422
    faults = Elements(answer.text).texts("ul", id="faults")[0]
    assert faults.count("there is no place 'attic'") == write_refit(Whole(demo)).count(b'"place": "keel"')
    assert sailor.post("/import").status_code == 422
    assert sailor.post("/import", files={"file": ("big.json", b" " * (10 * 1024 * 1024))}).status_code == 422
    assert len(Elements(sailor.get("/").text).texts("tr")) == before


NEW = {
    "header-name": "First refit",
    "header-haul_at": "2026-06-01T09:00",
    "header-launch_at": "2026-06-20T11:00",
    "header-currency": "EUR",
    "header-budget": "9000",
    "boat-name": "Tern",
    "boat-hull_material": "steel",
    "boat-keel": "long",
    "boat-rudder": "keel",
    "boat-drive": "shaft",
    "boat-length_m": "10",
    "boat-waterline_m": "8.5",
    "boat-beam_m": "3.2",
    "boat-draft_m": "1.6",
    "boat-displacement_kg": "8000",
    "yard-name": "Hard",
    "yard-town": "",
    "yard-time_zone": "Europe/Lisbon",
    "yard-hours": "mon-sat 07:00-20:00",
    "yard-lift_and_launch": "600",
    "yard-lay_day": "30",
    "owner": "Ada",
}


def test_a_refit_is_begun_from_nothing(sailor: Sailor, settings: Settings) -> None:
    wrong = sailor.post("/new", NEW | {"boat-draft_m": "16", "header-launch_at": "", "owner": ""})
    assert wrong.status_code == 422
    page = Elements(wrong.text)
    told = " ".join(page.texts("p", class_="fault"))
    assert "swapped" in told
    assert page.value("boat-draft_m") == "16"
    answer = sailor.post("/new", NEW)
    assert answer.status_code == 303
    made = refit_of(settings, int(answer.headers["location"].split("/")[2]))
    assert (made.boat.name, len(made.places), made.people[0].name, made.budget) == ("Tern", 23, "Ada", 900000)


def test_a_refit_is_removed_only_by_its_name(sailor: Sailor, demo_pk: int, demo: Refit) -> None:
    assert sailor.post(f"/r/{demo_pk}/remove", {"name": "something"}).status_code == 422
    assert sailor.get(f"/r/{demo_pk}/jobs").status_code == 200
    assert sailor.post(f"/r/{demo_pk}/remove", {"name": demo.name}).status_code == 303
    assert sailor.get(f"/r/{demo_pk}/jobs").status_code == 404


def test_names_are_escaped_wherever_they_are_shown(sailor: Sailor, demo_pk: int) -> None:
    evil = '<img src=x onerror="alert(1)">'
    assert sailor.post(f"/r/{demo_pk}/task/save", TASK_FORM | {"title": evil}).status_code == 303
    for screen in (*SCREENS, "jobs/bottom"):
        assert "<img" not in sailor.get(f"/r/{demo_pk}/{screen}").text


def test_what_is_gone_is_told_kindly(sailor: Sailor, demo_pk: int) -> None:
    for path in ("jobs/ghost", "task/ghost/edit", "nothing", "ghost/new"):
        answer = sailor.get(f"/r/{demo_pk}/{path}")
        assert answer.status_code == 404
        assert "To the refits" in answer.text
    assert sailor.post(f"/r/{demo_pk}/task/ghost/begin").status_code == 422
    assert sailor.get(f"/r/{demo_pk}/undo").status_code == 303  # an address for forms only, reached by reload


def test_whoever_is_added_has_the_hours_of_whoever_was_here_first(sailor: Sailor, demo: Refit, demo_pk: int) -> None:
    """Without hours nothing is ever planned for them, and a sailor who adds a helper wonders why."""
    sheet = sailor.get(f"/r/{demo_pk}/person/new").text
    assert shifts_text(demo.people[0].hours) in sheet


def test_what_is_counted_without_a_moment_is_counted_now(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    typed = {"name": "Filler of the test", "quantity": "4", "price": "40", "lead_days": "2", "counted": "1,5"}
    assert sailor.post(f"/r/{demo_pk}/part/save", typed).status_code == 303
    part = next(one for one in refit_of(settings, demo_pk).parts if one.name == "Filler of the test")
    assert part.counted == 1.5
    assert part.counted_at is not None
    assert abs(part.counted_at - settings.clock()) < timedelta(minutes=1)  # the demo's day 9 by its own clock
