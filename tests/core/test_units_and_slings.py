"""Repeated work ticked off unit by unit, and nights in the slings on the bill."""

from datetime import timedelta

import pytest

from rovask.core.books.forecast import forecast
from rovask.core.plan.planner import make_plan
from rovask.core.plan.verify.check import verify
from rovask.core.refit import edits
from rovask.core.refit.faults import RefitFaults
from tests.builders import HAUL, refit, task


def test_four_pumps_are_ticked_one_by_one_and_the_last_ends_the_task() -> None:
    made = refit(task("pumps", 2, units=4))
    assert made.hours_to_do(made.tasks["pumps"]) == 8
    for done, left in ((1, 6), (2, 4), (3, 2)):
        made = edits.finish_unit(made, "pumps", HAUL + timedelta(hours=2 * done), ("ann",))
        pumps = made.tasks["pumps"]
        assert (pumps.units_done, pumps.is_under_way, made.hours_to_do(pumps)) == (done, True, left)
        assert verify(made, make_plan(made, HAUL + timedelta(hours=2 * done))) == []
    made = edits.finish_unit(made, "pumps", HAUL + timedelta(hours=8), ("ann",))
    assert made.tasks["pumps"].done_at == HAUL + timedelta(hours=8)
    with pytest.raises(RefitFaults, match="done already"):
        edits.finish_unit(made, "pumps", HAUL + timedelta(hours=9), ("ann",))


def test_a_night_in_the_slings_is_on_the_bill() -> None:
    yard = {"name": "Yard", "time_zone": "Europe/Lisbon", "slings_hours": 30, "slings_night": 14000}
    made = refit(task("look", 2, state="slings", pin="2026-05-17T09:00Z", people=["ann"]), yard=yard, people=[sunday()])
    plan = make_plan(made, HAUL)
    assert verify(made, plan) == []
    lines = {line.title: line.amount.minor for line in forecast(made, plan).lines}
    assert lines["Nights in the slings"] == 14000


def sunday() -> dict[str, object]:
    days = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"]
    return {"id": "ann", "name": "Ann", "hours": [{"days": days, "start": "08:00", "end": "18:00"}]}
