"""What is left to the next haul-out keeps its hours and whose they are; what the next refit takes along; yard moves; misfits."""

from __future__ import annotations

from datetime import timedelta
from itertools import count
from typing import Any

import pytest

from rovask.core.books.forecast import forecast
from rovask.core.books.yard_bill import yard_bill
from rovask.core.judged.misfit_edits import lost_overboard, made_to_fit, misfit
from rovask.core.judged.next_refit import NextGivens, next_refit
from rovask.core.plain.faults import RefitFaults
from rovask.core.plan.planner import make_plan
from rovask.core.readings.commitments import commitments
from rovask.core.readings.stock import stocks
from rovask.core.refit.givens.choices import Charge
from rovask.core.refit.model import Parked, Refit
from rovask.core.refit.seen.choices import Severity
from rovask.core.refit.seen.edits import next_time, place_parked
from rovask.core.refit.seen.kinds import WorkBy
from rovask.core.refit.stores.choices import Condition, PartStatus
from rovask.core.refit.work.choices import State
from rovask.core.refit.work.edits import update_task
from tests.builders import HAUL, LAUNCH, link, person, refit, task

RIGGER = person("rig", role="trade", skills=["rigging"], rate=6000)


def ids() -> Any:
    numbers = count(1)
    return lambda kind: f"{kind[:3]}-{next(numbers)}"


def test_a_job_left_keeps_its_hours_and_its_trade_does_it_afterwards() -> None:
    made = refit(
        task("a", 3, hands=2), task("b", 4, skill="rigging"), task("c", 1.5, units=2), people=[person("ann"), person("bo"), RIGGER],
        links=[link("a", "b")],
    )  # fmt: skip
    left = next_time(made, "job", "k", "no money")
    (row,) = left.parked
    # 3 h of two, 4 h of the rigger's, twice 1.5 h: 6 + 4 + 3
    assert (row.hours, row.trades, row.next_time) == (13, (WorkBy(skill="rigging", hours=4),), True)
    assert "Why: no money" in row.note
    back = place_parked(left, "k", State.ASHORE, "new", "t")
    (job,) = back.jobs
    assert [(one.skill, one.work.likely) for one in job.tasks] == [(None, 9), ("rigging", 4)]
    assert [(tie.first, tie.then) for tie in back.links] == [(job.tasks[0].id, job.tasks[1].id)]
    plan = make_plan(back, HAUL).by_task()
    assert plan[job.tasks[1].id].people == ("rig",)
    with pytest.raises(ValueError, match="more hours than there are"):
        Parked(id="x", title="X", hours=3, trades=(WorkBy(skill="rigging", hours=4),))


def test_of_a_job_that_is_begun_the_rest_is_left_and_what_is_done_stays() -> None:
    made = refit(task("a", 3), task("b", 4), task("c", 2), links=[link("a", "b"), link("b", "c")])
    done = update_task(made, "a", begun_at=HAUL, done_at=HAUL + timedelta(hours=3), crew=("ann",))
    left = next_time(done, "job", "k")
    assert [one.id for one in left.jobs[0].tasks] == ["a"]
    assert left.parked[0].hours == 6
    assert left.parked[0].note == "Left of it: Task b; Task c."
    with pytest.raises(RefitFaults, match="under way"):
        next_time(update_task(done, "b", begun_at=HAUL + timedelta(hours=3), crew=("ann",)), "job", "k")


def aboard(**more: Any) -> Refit:
    return refit(
        task("fix", 4, parts=["clamp"]),
        task("paint", 6),
        jobs=[
            {"id": "fix-it", "title": "Fix it", "tasks": [task("fix", 4, parts=["clamp"]), task("test", 1)]},
            {"id": "nice", "title": "Nice", "need": "could", "tasks": [task("paint", 6)]},
        ],
        links=[link("fix", "test"), link("test", "paint")],
        parts=[
            {"id": "clamp", "name": "Clamp", "quantity": 4, "price": 2000, "lead_days": 3},
            {"id": "sheet", "name": "Sheet", "quantity": 3, "price": 9000, "counted": 2, "counted_at": HAUL.isoformat()},
            {"id": "never", "name": "Never bought", "price": 500},
        ],
        findings=[
            {"id": "bad", "title": "Hose worn", "severity": "dangerous", "at": HAUL.isoformat(), "jobs": ["fix-it"]},
            {"id": "wet", "title": "Wet deck", "severity": "bad", "at": HAUL.isoformat(), "place": "hull"},
            {"id": "old", "title": "Settled", "severity": "bad", "at": HAUL.isoformat(), "settled": True},
        ],
        **more,
    )  # fmt: skip


def test_the_next_refit_takes_along_what_is_open_dangerous_or_aboard() -> None:
    made = aboard()
    made = update_task(made, "fix", begun_at=HAUL, crew=("ann",), remaining=2.5)
    given = NextGivens("Next", HAUL + timedelta(days=365), LAUNCH + timedelta(days=365), 0)
    later = next_refit(made, given, {}, ids(), LAUNCH)
    assert [(one.id, one.severity, one.jobs) for one in later.findings] == [
        ("bad", Severity.DANGEROUS, ("fix-it",)),
        ("wet", Severity.BAD, ()),
    ]
    (job,) = later.jobs  # as a job, not as a parked line; with the hours that are left of what was begun
    assert [(one.id, one.begun_at, one.work.likely) for one in job.tasks] == [("fix", None, 2.5), ("test", None, 1)]
    assert [(one.first, one.then) for one in later.links] == [("fix", "test")]  # and not to what stays behind
    assert [one.title for one in later.parked] == ["Nice"]
    held = stocks(later)
    assert set(held) == {"clamp", "sheet"}  # what was only thought of is thought of anew
    assert (held["sheet"].there_is, later.part_by_id["sheet"].price) == (2, 6000)  # two of three sheets of 90
    assert held["clamp"].short == 4


TARIFF = [{"charge": "second lift", "price": 22000, "per": "each"}, {"charge": "move", "price": 9000, "per": "once"}]


def test_a_second_lift_is_charged_when_a_task_needs_it_and_a_move_that_nobody_needs_is_not() -> None:
    plain = refit(task("off", 2), yard={"tariff": TARIFF})
    assert yard_bill(plain, make_plan(plain, HAUL)) == ()  # it stands in the tariff, and nobody needs it
    lifted = update_task(plain, "off", charge=Charge.SECOND_LIFT)
    plan = make_plan(lifted, HAUL)
    (line,) = yard_bill(lifted, plan)
    assert (line.amount, [day for day, _ in line.days]) == (22000, [HAUL.date()])
    assert forecast(lifted, plan).total.minor == forecast(plain, make_plan(plain, HAUL)).total.minor + 22000
    unpriced = refit(task("off", 2, charge="second lift"))
    assert any("no price for a second lift" in one for one in forecast(unpriced, make_plan(unpriced, HAUL)).notes)


def test_what_does_not_fit_is_said_of_parts_however_they_came() -> None:
    base: dict[str, Any] = {"id": "pump", "name": "Pump", "price": 12000, "lead_days": 3}
    ordered = base | {"status": "ordered", "arrives": HAUL.isoformat()}
    for part, price in ((ordered, 12000), (base | {"status": "aboard"}, 0), (base | {"status": "checked"}, 0)):
        made = refit(task("a", 4, parts=["pump"]), parts=[part])
        after, rows = misfit(made, "pump", HAUL + timedelta(hours=1), "2 mm", ids())
        assert [(row.condition, row.off_by) for row in rows] == [(Condition.MISFIT, "2 mm")]
        stock = stocks(after)["pump"]
        assert (stock.here, stock.status, stock.short) == (0, PartStatus.NEEDED, 1)
        assert commitments(after)[0].bound == price  # what was aboard has cost what it did
    with pytest.raises(RefitFaults, match="say first that it came"):
        misfit(refit(task("a", 4, parts=["pump"]), parts=[base]), "pump", HAUL, "", ids())
    other = made_to_fit(after, rows[0], 3, ids(), "the cradle")
    made_task = next(one for one in other.tasks.values() if one.title.startswith("Alter"))
    assert (made_task.title, made_task.work.likely) == ("Alter the cradle so that Pump fits", 3)
    assert any(tie.first == made_task.id and tie.then == "a" for tie in other.links)


def test_what_went_overboard_is_needed_again() -> None:
    made = refit(
        task("a", 4, parts=["bolts"]),
        parts=[{"id": "bolts", "name": "Bolts", "quantity": 8, "counted": 8, "counted_at": HAUL.isoformat()}],
        uses=[{"id": "u", "task": "a", "part": "bolts", "amount": 8}],
    )
    after = lost_overboard(made, "bolts", 3, HAUL + timedelta(hours=1))
    assert (stocks(after)["bolts"].there_is, stocks(after)["bolts"].short) == (5, 3)
    assert stocks(lost_overboard(made, "bolts", None, HAUL + timedelta(hours=1)))["bolts"].short == 8
    with pytest.raises(RefitFaults, match="nothing of"):
        lost_overboard(refit(task("a"), parts=[{"id": "x", "name": "X"}]), "x", None, HAUL)
