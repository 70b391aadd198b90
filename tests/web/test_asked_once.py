"""What is more often a slip than meant is asked about once: dates gone by, a long task done at once; and keys on the Slip."""

from __future__ import annotations

from datetime import timedelta

import pytest

from rovask.settings import Settings
from tests.acts import kept_of, planned
from tests.conftest import Sailor
from tests.web.forms import form_to
from tests.web.pages import Elements


def test_a_slot_in_the_past_and_a_haul_out_of_months_ago_are_asked_about(
    sailor: Sailor, settings: Settings, demo_pk: int
) -> None:
    form = form_to(sailor.get(f"/r/{demo_pk}/header/edit").text, "/header/save")
    before = kept_of(settings, demo_pk).refit
    past = form.data(haul_at="1.2.2026 09:00", launch_at="11.5.2026 10:00")
    asked = sailor.post(f"/r/{demo_pk}/header/save", past)
    assert asked.status_code == 422
    told = " ".join(Elements(asked.text).texts("p", class_="fault"))
    assert "lies in the past, Mon 11 May 2026" in told
    assert "was 100 days ago, Sun 1 Feb 2026" in told
    assert kept_of(settings, demo_pk).refit == before
    again = form_to(asked.text, "/header/save").data() | {"anyway": "1"}
    assert sailor.post(f"/r/{demo_pk}/header/save", again).status_code == 303
    # a save that leaves them as they are asks nothing
    form = form_to(sailor.get(f"/r/{demo_pk}/header/edit").text, "/header/save")
    assert sailor.post(f"/r/{demo_pk}/header/save", form.data(name="Late, and known")).status_code == 303


def test_a_new_refit_of_last_year_is_asked_about(sailor: Sailor) -> None:
    form = form_to(sailor.get("/new?like=sloop").text, "/new")
    typed = {
        "header-name": "Old",
        "header-haul_at": "4.5.2025 08:00",
        "header-launch_at": "4.6.2025 10:00",
        "boat-name": "Hull",
        "yard-name": "Yard",
        "owner": "Ann",
    }
    asked = sailor.post("/new", form.data() | typed)
    assert asked.status_code == 422
    assert "lies in the past" in asked.text
    assert sailor.post("/new", form_to(asked.text, "/new").data() | {"anyway": "1"}).status_code == 303


def long_task(settings: Settings, pk: int) -> str:
    refit = kept_of(settings, pk).refit
    return next(
        task.id
        for _, task in refit.walk()
        if task.work.likely >= 5 and task.units == 1 and task.begun_at is None and not refit.logged.get(task.id)
    )


def test_a_task_of_hours_done_minutes_after_it_was_begun_is_asked_about(
    sailor: Sailor, settings: Settings, demo_pk: int
) -> None:
    key = long_task(settings, demo_pk)
    assert sailor.post(f"/r/{demo_pk}/task/{key}/begin", {"anyway": "1", "crew": "mira"}).status_code == 303
    settings.now = settings.clock() + timedelta(minutes=5)
    asked = sailor.post(f"/r/{demo_pk}/task/{key}/done")
    assert asked.status_code == 409
    assert "It was begun 5 min before" in asked.text
    assert kept_of(settings, demo_pk).refit.tasks[key].done_at is None
    # its hours say how long it took; so does a yes
    assert sailor.post(f"/r/{demo_pk}/task/{key}/done", {"anyway": "1"}).status_code == 303


@pytest.mark.parametrize("hours", ["1", "-1"])
def test_a_nudge_goes_to_the_next_hour_at_which_its_people_work(
    sailor: Sailor, settings: Settings, demo_pk: int, hours: str
) -> None:
    """From block to block through lunch and night: never into a break, and the job stays in the plan."""
    refit, made = planned(settings, demo_pk)[0].refit, planned(settings, demo_pk)[1]
    item = next(
        one
        for one in sorted(made.plan.assignments, key=lambda one: one.start)
        if refit.tasks[one.task].begun_at is None and one.start > settings.clock() + timedelta(days=3)
    )
    left_out = made.verdict.left_out
    for _ in range(6):
        before = planned(settings, demo_pk)[1].plan.by_task()[item.task].start
        assert sailor.post(f"/r/{demo_pk}/task/{item.task}/nudge", {"hours": hours}).status_code == 303
        pin = kept_of(settings, demo_pk).refit.tasks[item.task].pin
        assert pin is not None
        local = pin.astimezone(refit.yard.zone)
        people = [refit.persons[key] for key in item.people]
        for who in people:
            assert any(
                local.weekday() in {day.number for day in shift.days} and shift.start <= local.time() < shift.end
                for shift in who.hours
            ), local
        assert (pin > before) == (hours == "1")
        assert set(planned(settings, demo_pk)[1].verdict.left_out) <= set(left_out)
        if item.task not in planned(settings, demo_pk)[1].plan.by_task():
            break
