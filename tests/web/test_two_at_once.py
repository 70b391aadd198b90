"""Two people with the same thing open: what one typed and what the other did meanwhile both stand, or both are shown."""

from __future__ import annotations

from datetime import date, timedelta

import pytest

from rovask.core.refit.model import Refit
from rovask.settings import Settings
from tests.acts import kept_of, log_of
from tests.conftest import Sailor
from tests.web.forms import PageForm, form_to, forms_of
from tests.web.pages import Elements

ON = "2026-05-12"


def hours(refit: Refit, task: str, person: str) -> float:
    zone = refit.yard.zone
    return sum(
        one.hours
        for one in refit.hours_log
        if (one.task, one.person, one.at.astimezone(zone).date().isoformat()) == (task, person, ON)
    )


def opened(who: Sailor, pk: int) -> PageForm:
    return form_to(who.get(f"/r/{pk}/day/{ON}").text, f"/day/{ON}")


def saved(who: Sailor, pk: int, form: PageForm, **changes: str):  # type: ignore[no-untyped-def]
    return who.post(f"/r/{pk}/day/{ON}", form.data(**changes))


@pytest.fixture
def row(sailor: Sailor, settings: Settings, demo_pk: int) -> tuple[str, str, str]:
    """A task of the day that isn't done, somebody at it, and the name of its field of hours."""
    form = opened(sailor, demo_pk)
    refit = kept_of(settings, demo_pk).refit
    for name, _ in form.fields:
        if name.startswith("h-"):
            number, _, person = name.removeprefix("h-").partition("-")
            task = form.value(f"task-{number}")
            if refit.tasks[task].done_at is None:
                return task, person, name
    raise AssertionError("nothing is planned for the day")


def test_hours_logged_while_somebody_has_the_day_open_stay(
    sailor: Sailor, mate: Sailor, settings: Settings, demo_pk: int, row: tuple[str, str, str]
) -> None:
    task, person, _ = row
    before = hours(kept_of(settings, demo_pk).refit, task, person)
    form = opened(sailor, demo_pk)
    logged = mate.post(f"/r/{demo_pk}/task/{task}/hours", {"hours": "1.5", "person": person, "remaining": "3"})
    assert logged.status_code == 303
    assert saved(sailor, demo_pk, form, words="Dry, and quiet.").status_code == 303
    refit = kept_of(settings, demo_pk).refit
    assert hours(refit, task, person) == before + 1.5
    assert [one.words for one in refit.days if one.on == date.fromisoformat(ON)] == ["Dry, and quiet."]


def test_hours_both_say_are_shown_before_one_takes_the_others_place(
    sailor: Sailor, mate: Sailor, settings: Settings, demo_pk: int, row: tuple[str, str, str]
) -> None:
    task, person, field = row
    form = opened(sailor, demo_pk)
    mate.post(f"/r/{demo_pk}/task/{task}/hours", {"hours": "1.5", "person": person, "remaining": "3"})
    there = hours(kept_of(settings, demo_pk).refit, task, person)
    refused = sailor.post(f"/r/{demo_pk}/day/{ON}", form.data() | {field: "4", "words": "Windy."})
    assert refused.status_code == 422
    shown = form_to(refused.text, f"/day/{ON}")
    assert (shown.value(field), shown.value("words")) == ("4", "Windy.")
    told = " ".join(Elements(refused.text).texts("p", id=f"fault-{field}"))
    assert told == f"it was made {there:g} h meanwhile; save again, and 4 h takes its place"
    assert hours(kept_of(settings, demo_pk).refit, task, person) == there
    assert sailor.post(f"/r/{demo_pk}/day/{ON}", shown.data()).status_code == 303
    assert hours(kept_of(settings, demo_pk).refit, task, person) == 4


def test_a_day_that_both_write_down_has_what_both_wrote(
    sailor: Sailor, mate: Sailor, settings: Settings, demo_pk: int
) -> None:
    mine, theirs = opened(sailor, demo_pk), opened(mate, demo_pk)
    lost = {"lost-0": "1", "reason-0": "rain", "lost-note-0": "a squall"}
    assert mate.post(f"/r/{demo_pk}/day/{ON}", theirs.data() | lost | {"here": ["joss"]}).status_code == 303
    mine_lost = {"lost-0": "2", "reason-0": "a tool", "lost-note-0": "sander"}
    assert sailor.post(f"/r/{demo_pk}/day/{ON}", mine.data() | mine_lost | {"here": ["mira"]}).status_code == 303
    refit = kept_of(settings, demo_pk).refit
    assert sorted((one.hours, one.note) for one in refit.lost if one.on.isoformat() == ON) == [
        (1, "a squall"),
        (2, "sander"),
    ]
    entry = next(one for one in refit.days if one.on.isoformat() == ON)
    assert set(entry.here) >= {"mira"}
    # words of both: the second is shown the first's
    mine, theirs = opened(sailor, demo_pk), opened(mate, demo_pk)
    assert saved(mate, demo_pk, theirs, words="Joss wrote this.").status_code == 303
    refused = saved(sailor, demo_pk, mine, words="Mira wrote that.")
    assert refused.status_code == 422
    assert "“Joss wrote this.”" in refused.text
    assert "Mira wrote that." in form_to(refused.text, f"/day/{ON}").value("words")
    # a row of hours lost that one takes out while the other sets it right
    mine, theirs = opened(sailor, demo_pk), opened(mate, demo_pk)
    assert mate.post(f"/r/{demo_pk}/day/{ON}", theirs.data() | {"lost-0": "1.5"}).status_code == 303
    refused = sailor.post(f"/r/{demo_pk}/day/{ON}", mine.data() | {"lost-0": ""})
    assert refused.status_code == 422
    assert "1.5 h to rain" in refused.text
    again = form_to(refused.text, f"/day/{ON}")
    assert sailor.post(f"/r/{demo_pk}/day/{ON}", again.data()).status_code == 303
    assert [one.hours for one in kept_of(settings, demo_pk).refit.lost if one.on.isoformat() == ON] == [2]


def test_a_day_saved_as_it_stands_changes_nothing(sailor: Sailor, settings: Settings, demo_pk: int) -> None:
    lost = {"lost-0": "1", "reason-0": "rain"}
    first = opened(sailor, demo_pk).data() | lost | {"words": "Two lines.\nThe second one."}
    assert sailor.post(f"/r/{demo_pk}/day/{ON}", first).status_code == 303
    kept = kept_of(settings, demo_pk)
    assert sailor.post(f"/r/{demo_pk}/day/{ON}", opened(sailor, demo_pk).data()).status_code == 303
    assert kept_of(settings, demo_pk).revision == kept.revision
    assert log_of(settings, demo_pk, 1)[0].what.startswith("wrote down")


SHEETS = {
    "job": ("bottom", "note", "title"),
    "task": ("bottom-9", "note", "check"),
    "part": ("boot", "dimension", "stowed"),
    "entry": ("e24", "note", "party"),
    "purchase": ("o6", "tracking", "note"),
    "agreement": ("keel", "party", "title"),
    "finding": ("f4", "note", "title"),
    "place": ("engine", "name", "name"),
    "person": ("joss", "name", "skills"),
    "yard": ("", "town", "name"),
}


@pytest.mark.parametrize("kind", SHEETS)
def test_a_sheet_that_two_have_open_shows_the_second_both_versions(
    sailor: Sailor, mate: Sailor, settings: Settings, demo_pk: int, kind: str
) -> None:
    """What the first typed stands until the second, who sees it, chooses; then all that the second typed stands."""
    key, first, second = SHEETS[kind]
    address = f"/r/{demo_pk}/{kind}/{key}/edit".replace("//", "/")

    def sheet(who: Sailor) -> PageForm:
        return form_to(who.get(address).text, f"/{kind}/save")

    mine, theirs = sheet(sailor), sheet(mate)
    if first not in dict(theirs.fields) or second not in dict(mine.fields):
        first = second = next(name for name in ("name", "title") if name in dict(theirs.fields))
    assert mate.post(theirs.action, theirs.data() | {first: "theirs"}).status_code == 303
    stood = kept_of(settings, demo_pk).refit
    shown = sailor.post(mine.action, mine.data() | {second: "mine"})
    assert shown.status_code == 409
    assert kept_of(settings, demo_pk).refit == stood
    cells = Elements(shown.text).texts("td")
    assert any(cell.startswith("theirs") for cell in cells)
    assert any(cell.startswith("mine") for cell in cells)
    keep = form_to(shown.text, f"/{kind}/save")
    assert sailor.post(keep.action, keep.data()).status_code == 303
    assert dict(sheet(sailor).fields)[second] == "mine"


def test_what_is_off_the_boat_keeps_what_another_wrote_of_it(
    sailor: Sailor, mate: Sailor, settings: Settings, demo_pk: int
) -> None:
    mine = next(one for one in forms_of(sailor.get(f"/r/{demo_pk}/off").text) if one.action.endswith("/photo"))
    key = mine.action.split("/")[4]
    mate.post(mine.action, {"way": "", "lies_at": "shed, left shelf", "saw-lies_at": "elsewhere"})
    assert sailor.post(mine.action, mine.data(note="two shims under it") | {"way": ""}).status_code == 303
    row = next(one for one in kept_of(settings, demo_pk).refit.off_boat if one.id == key)
    assert (row.lies_at, row.note) == ("shed, left shelf", "two shims under it")


def test_two_looks_at_one_thing_of_the_gate_are_both_shown(
    sailor: Sailor, mate: Sailor, settings: Settings, demo_pk: int
) -> None:
    form = {"item": "always:keys"}
    assert sailor.post(f"/r/{demo_pk}/launch/tick", form | {"person": "mira"}).status_code == 303
    settings.now = settings.clock() + timedelta(minutes=3)
    assert mate.post(f"/r/{demo_pk}/launch/tick", form | {"person": "joss", "way": "no"}).status_code == 303
    assert [one.passed for one in kept_of(settings, demo_pk).refit.gate_ticks] == [True, False]
    assert "Two versions" in sailor.get(f"/r/{demo_pk}/launch").text
