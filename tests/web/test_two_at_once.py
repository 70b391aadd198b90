"""Two people with the same thing open: what one typed and what the other did meanwhile both stand, or both are shown."""

from __future__ import annotations

from datetime import date

import pytest

from rovask.core.refit.model import Refit
from rovask.settings import Settings
from tests.acts import kept_of, log_of
from tests.conftest import Sailor
from tests.web.forms import PageForm, form_to
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
    assert told == f"somebody else made it {there:g} h meanwhile; save again, and 4 h takes its place"
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
