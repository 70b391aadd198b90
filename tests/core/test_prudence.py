"""A plan a prudent skipper would make: closed in time, dangerous first, open spreads not called proven. Worked out by hand."""

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rovask.core.books.items import nights_to_pay
from rovask.core.explain.margins import closed_by, margin_told
from rovask.core.explain.remedies import remedies
from rovask.core.explain.why import why_held
from rovask.core.gate.gate import gate_of
from rovask.core.plan.planner import plan_and_judge
from rovask.core.plan.problem.compile import compile_refit
from rovask.core.plan.result import Outcome
from rovask.core.plan.verify.check import verify
from rovask.core.plan.verify.clock import Clock
from rovask.core.readings.trade_order import trade_orders
from rovask.core.refit.edits import put
from rovask.core.refit.givens.choices import Service
from rovask.core.refit.model import Refit
from rovask.core.refit.work.edits import update_task
from tests.builders import BOAT, DAY_SHIFT, HAUL, LAUNCH, link, person, refit, task

YARD = {"name": "Yard", "time_zone": "Europe/Lisbon", "hours": DAY_SHIFT}  # Monday to Saturday, 08:00 to 18:00
SAILING = BOAT | {"fitted": ["holding tank", "water-cooled fridge"]}


def at(day: int, hour: int, minute: int = 0) -> datetime:
    """A time of May on the yard's clock, an hour ahead of UTC."""
    return datetime(2026, 5, day, hour - 1, minute, tzinfo=UTC)


def cold(**more: Any) -> Refit:
    """A could-job that opens the fridge's water, beside a must-job of nothing much."""
    tasks = [
        task("off", 2, opens=["hose", "valve"], takes_out=["fridge"], until="on"),
        task("hose", 2, opens=["hose"]),
        task("on", 1) | more,
    ]
    jobs = [
        {"id": "fridge", "title": "Fridge", "need": "could", "tasks": tasks},
        {"id": "wash", "title": "Wash", "tasks": [task("wash", 3)]},
    ]
    return refit(jobs=jobs, links=[link("off", "hose"), link("hose", "on")], yard=YARD, boat=SAILING)


def test_what_opens_her_is_closed_a_working_day_before_the_slings_over_the_sunday() -> None:
    made = cold()
    plan = plan_and_judge(made, HAUL).plan
    # Monday 08:00 to 10:00 are two of ten hours; the other eight are Saturday's from 10:00 on
    assert closed_by(made, plan) == dict.fromkeys(("off", "hose", "on"), at(16, 10))
    assert "by Sat 16 May 10:00: a working day before the slings" in margin_told(made, "on", at(16, 10))
    assert plan.by_task()["on"].end <= at(16, 10)
    late = cold(pin=at(16, 9, 30).isoformat())
    found = plan_and_judge(late, HAUL)
    assert "fridge" in {late.job_of[key].id for key in found.plan.unplanned} or "fridge" in found.plan.left_out
    let = put(late, late.jobs[0].model_copy(update={"late_because": "Ann: the hose is tried ashore"}))
    planned = plan_and_judge(let, HAUL).plan
    assert planned.by_task()["on"].end == at(16, 10, 30)
    assert verify(let, planned) == []
    assert any("Fridge may be closed on the last day. Ann" in words for words in gate_of(let, HAUL).warnings)


def test_ashore_a_water_cooled_fridge_is_no_outage_of_the_work_on_it() -> None:
    assert compile_refit(cold(), HAUL).arrays.outages.tolist() == []
    rows = [task("off", 2, takes_out=["fridge", "gas"], until="on", state="either"), task("on", 1, state="either")]
    made = refit(*rows, links=[link("off", "on")], boat=SAILING, yard=YARD)
    assert [row[3] for row in compile_refit(made, HAUL).arrays.outages.tolist()] == [
        0,
        1,
    ]  # the gas; the fridge afloat only


def test_ready_at_keeps_the_working_day_and_a_sunday_is_none() -> None:
    made = refit(task("valve", 4, opens=["valve"]), yard=YARD)
    ready = plan_and_judge(made, HAUL).plan.ready
    assert ready is not None and ready.at == at(5, 12) and ready.proven  # Monday 12:00, and a day
    saturday = plan_and_judge(made, at(9, 8)).plan.ready
    assert saturday is not None and saturday.at == at(11, 12)
    none = plan_and_judge(made.model_copy(update={"margins": ()}), HAUL).plan.ready
    assert none is not None and none.at == at(4, 12)


def test_who_is_short_by_it_is_told_so_and_taking_the_last_day_is_named_last() -> None:
    made = refit(task("valve", 4, opens=["valve"]), yard=YARD, launch_at=at(5, 10).isoformat())
    found = plan_and_judge(made, HAUL)
    assert (found.verdict.outcome, found.verdict.spare_minutes) == (Outcome.SHORT, -120)
    helps = remedies(made, found.plan, found.verdict, most=9)
    assert "on the last day" in helps[-1].words or helps[-1].words.startswith("Leave")
    assert all(not one.unwise for one in helps[: [one.unwise for one in helps].index(True)])


def test_the_starter_is_tried_the_day_before() -> None:
    ready = {
        "id": "r",
        "title": "Make ready",
        "recipe": "ready",
        "tasks": [task("r-stow", 2), task("r-power", 1), task("r-lines", 1)],
    }
    made = refit(jobs=[ready], yard=YARD, launch_at=at(6, 11).isoformat())
    by = closed_by(made, plan_and_judge(made, HAUL).plan)
    assert by == {"r-power": at(5, 11)}
    assert "tried by Tue 5 May 11:00" in margin_told(made, "r-power", by["r-power"])


def dangerous(need: str = "must", **more: Any) -> Refit:
    """Ten days of work, then a job of an hour and a half that came of a dangerous finding."""
    jobs = [
        {"id": f"j{n}", "title": f"Job {n}", "tasks": [task(f"t{n}", 9, people=["ann"], hands=1)]} for n in range(10)
    ]
    jobs.append({"id": "bad", "title": "Worn hose", "need": need, "tasks": [task("hose", 1.5, people=["ann"]) | more]})
    seen = {"id": "f", "title": "Hose worn through", "severity": "dangerous", "at": HAUL.isoformat(), "jobs": ["bad"]}
    return refit(
        jobs=jobs,
        findings=[seen],
        yard=YARD,
        parts=[{"id": "p", "name": "Hose", "status": "ordered", "arrives": at(6, 9).isoformat()}],
        people=[person("ann", longest_run=12)],
    )


def test_dangerous_goes_first_as_early_as_somebody_can_and_its_parts_allow() -> None:
    for made, begins in ((dangerous(), at(4, 8)), (dangerous(parts=["p"]), at(6, 9, 30))):
        plan = plan_and_judge(made, HAUL).plan
        assert plan.by_task()["hose"].start == begins
        known = plan_and_judge(made.model_copy(update={"findings": ()}), HAUL).plan
        assert (
            plan_and_judge(made, HAUL, before=known).plan.by_task()["hose"].start == begins
        )  # seen when all was planned


def drying(least: float | None, most: float | None, **more: Any) -> Refit:
    wait = link("open", "close", 240) | {"least_lag": least, "most_lag": most}
    return refit(task("open", 4), task("close", 2), links=[wait], yard=YARD, **more)


def test_a_drying_of_one_to_five_weeks_is_not_proven_and_says_best_likely_and_worst() -> None:
    sure = plan_and_judge(drying(None, None), HAUL).verdict
    assert (sure.proven, sure.is_open, sure.spare_worst) == (True, False, None)
    found = plan_and_judge(drying(168, 840), HAUL)
    ready, verdict = found.plan.ready, found.verdict
    assert ready is not None
    # opened Monday 12:00; ten days, one week, five weeks later, and two hours to close it
    assert (ready.best, ready.at, ready.worst) == (at(11, 14), at(14, 14), at(4, 14) + timedelta(weeks=5))
    assert (verdict.proven, verdict.is_open) == (False, True)
    assert (verdict.spare_best, verdict.spare_minutes, verdict.spare_worst) == tuple(
        (LAUNCH - moment) // timedelta(minutes=1) for moment in (ready.best, ready.at, ready.worst)
    )


def test_a_parcel_of_three_to_twenty_days_moves_the_worst_and_the_best_only_to_when_she_stands() -> None:
    part = {"id": "p", "name": "Seal", "lead_days": 8, "lead_least": 3, "lead_most": 20}
    made = refit(task("fit", 2, parts=["p"]), parts=[part], yard=YARD)
    before = HAUL - timedelta(
        days=6
    )  # Tuesday 28 April: eight days are Wednesday 6 May, three and twenty Friday 1 and Monday 18
    ready = plan_and_judge(made, before).plan.ready
    assert ready is not None
    # ordered at eight in the morning, tried for half an hour; on 1 May it would lie there and she not stand
    assert (ready.best, ready.at, ready.worst) == (at(4, 10), at(6, 10, 30), at(18, 10, 30))


def test_what_is_open_and_has_room_leaves_the_launch_proven() -> None:
    made = refit(
        task("long", 9),
        task("open", 2) | {"work": {"least": 1, "likely": 2, "most": 4}},
        people=[person("ann"), person("bo")],
        yard=YARD,
    )
    verdict = plan_and_judge(made, HAUL).verdict
    assert (verdict.proven, verdict.is_open) == (True, False)


def test_what_drives_the_launch_makes_it_an_hour_later_when_it_takes_an_hour_longer() -> None:
    rows = {"first": 9.0, "then": 6.0, "aside": 4.0, "short": 1.0}

    def made(**hours: float) -> Refit:
        tasks = [task(key, hours.get(key, much)) for key, much in rows.items()]
        owner = [person("ann", hours=DAY_SHIFT), person("bo", hours=DAY_SHIFT)]
        return refit(*tasks, links=[link("first", "then"), link("aside", "short")], people=owner, yard=YARD)

    found = plan_and_judge(made(), HAUL)
    assert found.plan.ready is not None
    drives = set(found.verdict.driving)
    assert drives == {"first", "then"}
    for key, much in rows.items():
        later = plan_and_judge(made(**{key: much + 1}), HAUL).plan.ready
        assert later is not None
        assert (later.at - found.plan.ready.at == timedelta(hours=1)) == (key in drives), key


def paint_and_patch(*, ties: list[dict[str, Any]] | None = None, **more: Any) -> Refit:
    """Two own jobs in one place, the coat first in the list; nothing said but their titles."""
    jobs = [
        {"id": "coat", "title": "Bottom", "tasks": [task("c", 4, title="Antifouling coat")]},
        {
            "id": "patch",
            "title": "Patch",
            "need": "should",
            "tasks": [task("p", 3, title="Sand and seal the patch") | more],
        },
    ]
    return refit(jobs=jobs, links=ties or [], yard=YARD, people=[person("ann"), person("bo")])


def test_a_patch_is_sealed_before_the_coat_over_it_whichever_job_it_is() -> None:
    made = paint_and_patch()
    assert [(one.first, one.then, one.said) for one in trade_orders(made)] == [("p", "c", False)]
    at_ = plan_and_judge(made, HAUL).plan.by_task()
    assert at_["c"].start >= at_["p"].end
    assert any("a repair is sealed" in words for words in why_held(made, plan_and_judge(made, HAUL).plan, "c"))
    elsewhere = paint_and_patch(does=["nothing of these"])
    assert plan_and_judge(elsewhere, HAUL).plan.by_task()["c"].start == HAUL
    said = paint_and_patch(ties=[link("c", "p")])  # the sailor's own word wins
    assert trade_orders(said) == ()


def test_a_repair_that_finds_no_room_does_not_take_the_coat_along() -> None:
    made = paint_and_patch(skill="laminating")  # nobody has it
    plan = plan_and_judge(made, HAUL).plan
    assert plan.by_task()["c"].start == HAUL
    assert set(plan.left_out) | {made.job_of[key].id for key in plan.unplanned} == {"patch"}


def test_what_is_sanded_between_the_coats_of_one_job_is_no_preparing_of_another() -> None:
    rows = {
        name: [
            task(f"{name}{n}", 2, title=title)
            for n, title in enumerate(("Sand", "First coat", "Sand again", "Second coat"))
        ]
        for name in ("a", "b")
    }
    jobs = [{"id": name, "title": name, "tasks": tasks} for name, tasks in rows.items()]
    ties = [link(f"{name}{n}", f"{name}{n + 1}") for name in rows for n in range(3)]
    made = refit(jobs=jobs, links=ties, yard=YARD)
    pairs = {(one.first, one.then) for one in trade_orders(made)}
    assert pairs == {("a0", "b1"), ("a0", "b3"), ("b0", "a1"), ("b0", "a3")}
    assert plan_and_judge(made, HAUL).plan.unplanned == ()


def test_nights_elsewhere_count_for_whatever_nobody_stays_without() -> None:
    """The heads are off from Monday 08:00 to Wednesday 10:00: two nights, at 60 each. A boat with a tank, so ashore they work."""
    rows = [task("off", 2, takes_out=["heads"], until="on"), task("on", 2, pin=at(6, 8).isoformat())]
    made = refit(*rows, links=[link("off", "on")], yard=YARD, price_night_ashore=6000, outage_limits=[])
    plan = plan_and_judge(made, HAUL).plan
    assert nights_to_pay(made, plan) == 0  # by itself only a berth is
    set_ = made.model_copy(update={"nobody_without": (Service.BERTH, Service.HEADS)})
    began = plan.by_task()["off"].start
    assert nights_to_pay(set_, plan) == (at(6, 8).date() - began.date()).days
    overboard = set_.model_copy(update={"boat": set_.boat.model_copy(update={"fitted": ()})})
    assert nights_to_pay(overboard, plan) == 0  # ashore they don't work anyway


def test_units_done_move_the_hours_left_and_back() -> None:
    """Six pumps at an hour and a half; two done leave six hours, one more four and a half, and back again."""
    made = refit(task("pumps", 1.5, units=6), yard=YARD)
    left = []
    for done in (0, 2, 3, 2):
        now = update_task(made, "pumps", units_done=done)
        left.append(now.hours_to_do(now.tasks["pumps"]))
        item = plan_and_judge(now, HAUL).plan.by_task()["pumps"]
        assert item.end - item.start >= timedelta(hours=left[-1])
    assert left == [9, 6, 4.5, 6]


@settings(max_examples=12)
@given(st.lists(st.tuples(st.integers(-900, 1500), st.integers(0, 900)), min_size=2, max_size=5))
def test_working_days_are_the_same_whatever_was_asked_before(spans: list[tuple[int, int]]) -> None:
    def clock() -> Clock:
        yard = {"hours": DAY_SHIFT, "closed": [{"first": "2026-05-06", "last": "2026-05-06"}]}
        return Clock(refit(task("a"), yard=yard))

    together, half = clock(), timedelta(minutes=30)
    for first, length in spans:
        begins, ends = HAUL + first * half, HAUL + (first + length) * half
        assert together.working_days(begins, ends) == pytest.approx(clock().working_days(begins, ends), abs=1e-6)
    # Monday 08:00 to Thursday 13:00: Monday, Tuesday, half of Thursday; Wednesday the yard is shut
    assert together.working_days(HAUL, HAUL + timedelta(days=3, hours=5)) == pytest.approx(2.5)
