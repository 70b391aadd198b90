"""What it costs and what to order by when, worked by hand."""

from datetime import timedelta

from rovask.core.books.forecast import forecast
from rovask.core.books.item import SORTS, Item, ItemKind
from rovask.core.books.order_by import next_order, part_needs
from rovask.core.explain.why import why_held
from rovask.core.plain.words import money, span
from rovask.core.plan.planner import plan_and_judge
from rovask.core.refit.model import Refit
from tests.builders import HAUL, link, person, refit, task

TRADE = {"role": "trade", "skills": ["rigging"], "rate": 5000, "call_out_hours": 3}


def lines(made: Refit) -> dict[str, int]:
    planned = plan_and_judge(made, HAUL)
    return {line.title: line.amount.minor for line in forecast(made, planned.plan).lines}


def test_lay_days_run_to_the_planned_launch_less_the_free_ones() -> None:
    yard = {"name": "Y", "time_zone": "Europe/Lisbon", "lift_and_launch": 60000, "lay_day": 4000, "free_days": 5}
    made = refit(task("a"), yard=yard)  # 4 to 18 May, both counted: 15 days
    assert lines(made) == {"Lift, block and launch": 60000, "Lay-days": 10 * 4000}
    late = refit(task("a", 40), yard=yard, launch_at="2026-05-05T11:00Z", people=[person("ann")])
    assert lines(late)["Lay-days"] == 0  # done on Thursday the 7th: four days, all of them free


def test_a_trade_is_paid_the_call_out_minimum_on_each_day_it_comes() -> None:
    made = refit(
        task("a", 1, skill="rigging"),
        task("b", 4, skill="rigging"),
        links=[link("a", "b", 20)],
        people=[person("ann"), person("rig", **TRADE)],
    )
    assert lines(made)["Rig"] == (3 + 4) * 5000


def test_hours_logged_count_with_hours_planned() -> None:
    made = refit(
        task("a", 5, skill="rigging", begun_at="2026-05-04T07:00Z", crew=["rig"]),
        people=[person("rig", **TRADE)],
        hours_log=[{"id": "h", "task": "a", "person": "rig", "at": "2026-05-04T09:00Z", "hours": 2}],
    )
    assert lines(made)["Rig"] == 5 * 5000


def test_a_pause_over_noon_is_not_paid() -> None:
    broken = [
        {"days": ["mon", "tue"], "start": "08:00", "end": "12:00"},
        {"days": ["mon", "tue"], "start": "14:00", "end": "18:00"},
    ]
    made = refit(task("a", 6, skill="rigging"), people=[person("rig", **TRADE, hours=broken)])
    assert lines(made)["Rig"] == 6 * 5000


def test_order_by_is_start_and_spare_less_the_lead_time() -> None:
    parts = [
        {"id": "slow", "name": "Slow", "lead_days": 5},
        {"id": "quick", "name": "Quick", "lead_days": 1},
        {"id": "late", "name": "Late", "status": "ordered", "arrives": "2026-05-03T09:00Z"},
        {"id": "idle", "name": "Idle", "lead_days": 9},
    ]
    made = refit(task("a", parts=["slow"]), task("b", parts=["quick"]), task("c", parts=["late"]), parts=parts)
    planned = plan_and_judge(made, HAUL)
    needs = {need.part.id: need for need in part_needs(made, planned.plan, planned.verdict)}
    for key, part, days in (("a", "slow", 5), ("b", "quick", 1)):
        latest = planned.plan.by_task()[key].start + timedelta(minutes=planned.verdict.spare_by_task[key])
        assert needs[part].order_by == latest - timedelta(days=days, minutes=30)  # and a try for fit
    assert needs["late"].overdue
    assert needs["late"].order_by is None
    assert needs["idle"].order_by is None  # no task waits for it
    first = next_order(list(needs.values()))
    assert first is not None
    assert first.part.id == "slow"
    assert next(iter(needs)) == "late"  # what is overdue is told first


def test_a_part_that_is_late_holds_its_task_and_the_reason_is_told() -> None:
    made = refit(
        task("a", parts=["p"]),
        task("b"),
        links=[link("a", "b", 6)],
        parts=[{"id": "p", "name": "Bearing", "status": "ordered", "arrives": "2026-05-06T11:10Z"}],
    )
    plan = plan_and_judge(made, HAUL).plan
    assert (
        plan.by_task()["a"].start.isoformat() == "2026-05-06T12:00:00+00:00"
    )  # 11:10, a try for fit, the next half-hour
    assert "waits for Bearing" in why_held(made, plan, "a")[0]
    assert "6 h after “Task a”" in why_held(made, plan, "b")[0]


def test_a_task_is_told_to_wait_for_people_and_room() -> None:
    made = refit(
        task("a", 4),
        task("b", 4),
        task("c", 4, place="bay"),
        task("d", 4, place="bay"),
        people=[person("ann"), person("bo")],
        places=[{"id": "hull", "name": "Hull", "capacity": 1}, {"id": "bay", "name": "Bay", "capacity": 1}],
    )
    plan = plan_and_judge(made, HAUL).plan
    second = max(("a", "b"), key=lambda key: plan.by_task()[key].start)
    told = " ".join(why_held(made, plan, second))
    assert "until then" in told


def test_amounts_and_lengths_in_words() -> None:
    assert money(-123456, "EUR") == "-1\u202f234.56 EUR"
    assert span(-95) == "-1 h 35 min"
    assert span(26 * 60 + 30) == "1 d 2 h 30 min"


def test_what_only_left_out_work_would_come_upon_is_expected_to_cost_nothing() -> None:
    # a worn gear: a chance of one in ten of 160; a soft core, in no task: one in two of 40
    gear = {"id": "gear", "title": "A gear is worn", "chance": 0.1, "money": 16000, "task": "strip"}
    core = {"id": "core", "title": "Soft core", "chance": 0.5, "money": 4000}
    long = task("strip", 400)  # never fits before the launch
    jobs = [
        {"id": "must", "title": "Must", "tasks": [task("a")]},
        {"id": "winches", "title": "Winches", "need": "could", "tasks": [long]},
    ]
    made = refit(jobs=jobs, unknowns=[gear, core])
    assert plan_and_judge(made, HAUL).plan.left_out == ("winches",)
    assert lines(made) == {"Not found yet": 2000}
    fits = refit(jobs=[jobs[0], jobs[1] | {"tasks": [task("strip", 4)]}], unknowns=[gear, core])
    assert lines(fits) == {"Not found yet": 2000 + 1600}


def test_every_sort_of_cost_says_how_it_is_told() -> None:
    assert set(SORTS) == set(ItemKind)
    for kind, sort in SORTS.items():
        row = Item(kind, "k", "Title", how="so", party="Them")
        assert sort.line(row)[0] and sort.told([row])
        assert sort is row.sort
