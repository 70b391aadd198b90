"""Repeated work ticked off unit by unit, and nights in the slings on the bill."""

from datetime import UTC, datetime, timedelta

import pytest

from rovask.core.books.forecast import forecast
from rovask.core.books.one_more_day import one_more_day
from rovask.core.books.yard_bill import yard_bill
from rovask.core.plain.faults import RefitFaults
from rovask.core.plan.planner import make_plan
from rovask.core.plan.verify.check import verify
from rovask.core.refit.givens.choices import Charge
from rovask.core.refit.launch.edits import another_night, is_hanging
from rovask.core.refit.work import edits as work_edits
from tests.builders import HAUL, refit, task

NIGHT = {"charge": "nights in the slings", "price": 9500, "per": "a night"}


def test_four_pumps_are_ticked_one_by_one_and_the_last_ends_the_task() -> None:
    made = refit(task("pumps", 2, units=4))
    assert made.hours_to_do(made.tasks["pumps"]) == 8
    for done, left in ((1, 6), (2, 4), (3, 2)):
        made = work_edits.finish_unit(made, "pumps", HAUL + timedelta(hours=2 * done), ("ann",))
        pumps = made.tasks["pumps"]
        assert (pumps.units_done, pumps.is_under_way, made.hours_to_do(pumps)) == (done, True, left)
        assert verify(made, make_plan(made, HAUL + timedelta(hours=2 * done))) == []
    made = work_edits.finish_unit(made, "pumps", HAUL + timedelta(hours=8), ("ann",))
    assert made.tasks["pumps"].done_at == HAUL + timedelta(hours=8)
    with pytest.raises(RefitFaults, match="done already"):
        work_edits.finish_unit(made, "pumps", HAUL + timedelta(hours=9), ("ann",))


def test_a_night_in_the_slings_is_on_the_bill() -> None:
    yard = {"name": "Yard", "time_zone": "Europe/Lisbon", "slings_hours": 30, "slings_night": 14000}
    made = refit(task("look", 2, state="slings", pin="2026-05-17T09:00Z", people=["ann"]), yard=yard, people=[sunday()])
    plan = make_plan(made, HAUL)
    assert verify(made, plan) == []
    lines = {line.title: line.amount.minor for line in forecast(made, plan).lines}
    assert lines["Nights in the slings"] == 14000


@pytest.mark.parametrize("tariff", [{"slings_night": 9500}, {"tariff": [NIGHT]}])
@pytest.mark.parametrize("hours", [0.5, 3])
def test_nights_that_she_hangs_are_paid_once_though_the_mending_is_planned_for_today(
    tariff: dict[str, object], hours: float
) -> None:
    """Saturday 14:00, she hangs; new slot Monday 11:00: two nights of 95, however the mending is planned. By hand."""
    yard = {"name": "Yard", "time_zone": "Europe/Lisbon", **tariff}
    now = datetime(2026, 5, 16, 13, tzinfo=UTC)
    made = refit(task("hose", 1), yard=yard, people=[sunday()], launch_at=now.isoformat())  # the slot is now
    made = work_edits.finish_task(made, "hose", now - timedelta(hours=2), ("ann",))
    slot = datetime(2026, 5, 18, 10, tzinfo=UTC)
    hung = another_night(
        made, slot, now, stays=None, why="weeps", job="job", hours=hours, new_id=lambda kind: f"{kind}-9"
    )
    plan = make_plan(hung, now)
    mended = next(item for item in plan.assignments if item.task == "task-9")
    assert mended.start.date() == now.date()  # today: so the plan by itself would charge the same two nights
    nights = [line.amount for line in yard_bill(hung, plan) if line.charge is Charge.SLINGS]
    assert nights == [2 * 9500]
    # a day later is a night more, while she hangs; for one who only will, the lift moves with the launch
    assert sum(line.amount.minor for line in one_more_day(hung, plan)) == 9500
    assert one_more_day(made, make_plan(made, now)) == ()


@pytest.mark.parametrize("pressed", [-72, -1, 1, 26])
@pytest.mark.parametrize(
    ("to", "nights"), [(datetime(2026, 5, 16, 16, tzinfo=UTC), 0), (datetime(2026, 5, 18, 8, tzinfo=UTC), 2)]
)
def test_another_night_is_from_the_old_slot_on_whenever_it_is_pressed(pressed: int, to: datetime, nights: int) -> None:
    """Slot Saturday 14:00, 140 a night. To Saturday 17:00 it is none, to Monday 09:00 over the shut Sunday two."""
    yard = {"name": "Yard", "time_zone": "Europe/Lisbon", "slings_night": 14000}
    slot = datetime(2026, 5, 16, 13, tzinfo=UTC)
    made = refit(task("hose", 1), yard=yard, people=[sunday()], launch_at=slot.isoformat())
    assert not is_hanging(made)
    now = slot + timedelta(hours=pressed)
    hung = another_night(
        made,
        to,
        min(now, to - timedelta(hours=1)),
        stays=None,
        why="w",
        job="",
        hours=1,
        new_id=lambda kind: f"{kind}-9",
    )
    plan = make_plan(hung, min(now, to - timedelta(hours=1)))
    lines = [line.amount for line in yard_bill(hung, plan) if line.charge is Charge.SLINGS]
    assert sum(lines) == nights * 14000


def sunday() -> dict[str, object]:
    days = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"]
    return {"id": "ann", "name": "Ann", "hours": [{"days": days, "start": "08:00", "end": "18:00"}]}
