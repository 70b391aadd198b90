"""After a change: what can stay stays, what can't finds room, and other orders of the same work keep every rule."""

import time
from datetime import datetime, timedelta

import pytest

from benches.generate import generated_refit, with_a_longer_task
from rovask.core.explain.moves import moved_near
from rovask.core.plan.first.repair import what_holds, with_neighbours
from rovask.core.plan.first.serial import played_again
from rovask.core.plan.planner import (
    Draft,
    Planned,
    draft_plan,
    is_dearer,
    make_plan,
    mended,
    plan_and_judge,
    plan_of,
    schedule_of,
)
from rovask.core.plan.problem.arrays import FIRST_TASK
from rovask.core.plan.problem.value import UNPLACED, unsettling, value_of
from rovask.core.plan.problem.windows import windows_of
from rovask.core.plan.result import Plan
from rovask.core.plan.solver.improve import improve
from rovask.core.plan.solver.reorder import Reorder
from rovask.core.plan.unsettled import unsettled
from rovask.core.plan.verify.check import verify
from rovask.core.readings.prices import VALUE_UNIT, prices_of
from rovask.core.refit.model import Refit
from rovask.desk.planning import better
from tests.builders import HAUL, person, refit, task


def grown(size: int, seed: int) -> tuple[Plan, Refit, str]:
    made = generated_refit(size, seed)
    after, key = with_a_longer_task(made, seed)
    return draft_plan(made, made.haul_at).plan, after, key


@pytest.mark.parametrize("seed", [2, 4, 5, 6])
def test_one_longer_task_moves_few_of_the_near_ones(seed: int) -> None:
    before, after, _ = grown(60, seed)
    plan = draft_plan(after, after.haul_at, before=before).plan
    assert verify(after, plan) == []
    assert len(plan.left_out) <= len(before.left_out)
    moved, near = moved_near(after, before, plan)
    assert moved <= max(near / 5, 1)


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_whatever_still_can_lies_where_it_lay(seed: int) -> None:
    before, after, key = grown(60, seed)
    draft = draft_plan(after, after.haul_at, before=before)
    assert draft.schedule is not None
    problem = draft.problem
    schedule, broken = what_holds(problem, windows_of(problem), draft.schedule)
    at = before.by_task()
    for node in range(FIRST_TASK, problem.size):
        name = problem.name(node)
        if node in broken or name not in at:
            continue
        assert problem.grid.moment(int(schedule.start[node])) == at[name].start
        assert set(problem.crew(int(schedule.mode[node]))) == set(at[name].people)
        if name != key:
            assert problem.grid.moment(int(schedule.end[node])) == at[name].end
    assert len(broken) < 12  # of sixty: the one, or those it runs into
    free = with_neighbours(problem, schedule, broken, 10)
    assert broken <= free
    assert len(free) <= len(broken) + 10 + 2


def test_nothing_is_broken_where_nothing_changed() -> None:
    made = generated_refit(60, 1)
    before = draft_plan(made, made.haul_at).plan
    draft = draft_plan(made, made.haul_at, before=before)
    assert draft.schedule is not None
    assert draft.plan.by_task() == before.by_task()
    _, broken = what_holds(draft.problem, windows_of(draft.problem), draft.schedule)
    assert broken == frozenset()


def test_what_a_search_found_is_kept_to_the_half_hour_when_nothing_changes(demo: Refit, day_9: datetime) -> None:
    """With what is under way left to wait, and tasks that lie open for days: a tick must not undo an hour of search."""
    first = draft_plan(demo, day_9)
    assert first.schedule is not None
    found = improve(first.problem, first.schedule, seconds=4, clock=time.monotonic)
    assert found.schedule is not None
    kept = plan_of(demo, first.problem, found.schedule, day_9)
    again = draft_plan(demo, day_9, before=kept).plan
    assert again.value <= kept.value
    if again.value == kept.value:
        assert again.assignments == kept.assignments


def test_a_task_that_lies_open_for_days_stays_where_it_was_put() -> None:
    person_ = person("p", hours=[{"days": ["mon"], "start": "08:00", "end": "10:00"},
                                 {"days": ["fri"], "start": "08:00", "end": "18:00"}])  # fmt: skip
    made = refit(task("a", 6), people=[person_])
    anew = draft_plan(made, HAUL).plan
    start, end = HAUL, HAUL + timedelta(days=4, hours=4)
    assert (HAUL.weekday(), anew.by_task()["a"].start) == (0, HAUL + timedelta(days=4))  # Friday, in one go
    put = anew.model_copy(
        update={"assignments": tuple(one.model_copy(update={"start": start, "end": end}) for one in anew.assignments)}
    )
    assert verify(made, put) == []
    again = draft_plan(made, HAUL, before=put).plan.by_task()["a"]
    assert (again.start, again.end) == (start, end)


def test_other_orders_of_the_work_keep_every_rule_and_tell_their_value() -> None:
    made = generated_refit(60, 4)
    draft = draft_plan(made, made.haul_at)
    assert draft.schedule is not None
    tries = Reorder(draft.problem, windows_of(draft.problem), seed=1)
    found = [one for _ in range(40) if (one := tries.near(draft.schedule)) is not None]
    assert len(found) > 20
    assert len({one.value for one in found}) > 5
    for one in found[:12]:
        assert verify(made, plan_of(made, draft.problem, one, made.haul_at)) == []
        assert one.value == value_of(draft.problem, one.start, one.end, one.resume, one.mode)
        assert (one.start[FIRST_TASK:] != UNPLACED).any()


def test_the_same_seed_tries_the_same_orders() -> None:
    made = generated_refit(40, 4)
    draft = draft_plan(made, made.haul_at)
    assert draft.schedule is not None
    first = Reorder(draft.problem, windows_of(draft.problem), seed=3).near(draft.schedule)
    again = Reorder(draft.problem, windows_of(draft.problem), seed=3).near(draft.schedule)
    assert first is not None
    assert again is not None
    assert (first.start == again.start).all()


def test_every_way_of_improving_a_large_refit_keeps_the_rules() -> None:
    """Repair, other orders beside neighbourhoods, everything with its people, everything: each for a moment."""
    before, after, _ = grown(120, 1)
    draft = draft_plan(after, after.haul_at, before=before)
    assert draft.schedule is not None
    told: list[int] = []

    def tell(step) -> None:  # type: ignore[no-untyped-def]
        told.append(step.value + unsettling(draft.problem.arrays, step.schedule.start))  # what it is chosen by
        assert verify(after, plan_of(after, draft.problem, step.schedule, after.haul_at)) == []

    found = improve(draft.problem, draft.schedule, seconds=8, clock=time.monotonic, workers=2, tell=tell)
    assert found.value <= draft.schedule.value
    assert told == sorted(told, reverse=True)
    assert found.bound <= found.value


def test_work_for_after_the_launch_that_was_begun_before_it_is_a_fact_and_all_is_planned() -> None:
    """Somebody began ashore what was meant for afloat; the launch can't wait for its own past."""
    plain = refit(task("a", 4, state="afloat_after"), task("b", 2, state="afloat_after"), task("c", 3))
    data = plain.model_dump(mode="json")
    data["jobs"][0]["tasks"][1]["begun_at"] = plain.haul_at.isoformat()
    made = Refit.model_validate(data)
    plan = make_plan(made, made.haul_at)
    assert not plan.collisions
    assert {item.task for item in plan.assignments} == {"a", "b", "c"}
    assert verify(made, plan) == []


def full_days() -> Refit:
    """Ann's days are full: four hours and six on Monday, ten on each day after, every one in one go; a week is free then."""
    rows = [task("four", 4, unbroken=True), task("six", 6, unbroken=True)]
    rows += [task(f"ten-{day}", 10, unbroken=True) for day in range(6)]
    return refit(*rows, people=[person("ann")], price_moved_task=1000)


def moved_by(before: Plan, after: Plan) -> set[str]:
    at = before.by_task()
    return {item.task for item in after.assignments if item.start - at[item.task].start >= timedelta(hours=2)}


def test_a_morning_begun_half_an_hour_late_does_not_push_the_weeks_after_it() -> None:
    made = full_days()
    before = draft_plan(made, HAUL).plan
    assert max(item.end for item in before.assignments) == HAUL + timedelta(days=7, hours=10)  # Monday the 11th, 18:00
    late = HAUL + timedelta(minutes=30)
    problem = draft_plan(made, late, before=before).problem
    windows = windows_of(problem)
    backwards = schedule_of(problem, before)
    assert backwards is not None
    backwards.start[FIRST_TASK:] = backwards.start[FIRST_TASK:].max() - backwards.start[FIRST_TASK:]
    bad = played_again(problem, windows, backwards)
    pushed = Draft(plan_of(made, problem, bad, late), problem, bad)
    assert len(moved_by(before, pushed.plan)) > 3
    assert is_dearer(made, pushed.plan, before)
    plan = mended(made, pushed, before, 5, time.monotonic).plan
    assert verify(made, plan) == []
    assert len(moved_by(before, plan)) <= 3  # what no longer fits that day changes places with another, or goes behind
    again = mended(made, draft_plan(made, late, before=plan), plan, 5, time.monotonic)
    assert moved_by(plan, again.plan) == set()


def test_of_two_plans_worth_the_same_the_one_that_moves_less_is_better() -> None:
    made = full_days()
    stood = plan_and_judge(made, HAUL)
    swapped = {"ten-3": "ten-5", "ten-5": "ten-3"}
    at = stood.plan.by_task()
    rows = tuple(item.model_copy(update={"task": swapped.get(item.task, item.task)}) for item in stood.plan.assignments)
    other = Planned(stood.plan.model_copy(update={"assignments": rows}), stood.verdict)
    assert verify(made, other.plan) == []
    assert at["ten-3"].start != at["ten-5"].start
    assert unsettled(made, stood.plan, other.plan) == 2 * prices_of(made).moved_task * VALUE_UNIT // 8
    assert better(stood, other, made, stood.plan)
    assert not better(other, stood, made)


def test_a_plan_worth_hardly_less_is_left_as_it_is() -> None:
    made = full_days()
    draft = draft_plan(made, HAUL)
    assert mended(made, draft, draft.plan, 5, time.monotonic) is draft
    assert not is_dearer(made, draft.plan, draft.plan)


def test_what_was_begun_before_its_time_goes_on_in_the_first_gap_and_moves_nothing() -> None:
    """It lay days ahead when somebody began it; a begun hatch that lies open for a week beside idle hands is no plan."""
    rows = [task(f"t{day}", 6, unbroken=True) for day in range(5)]
    before = draft_plan(refit(*rows, people=[person("ann")], price_moved_task=1000), HAUL).plan
    first, *_, last = sorted(before.assignments, key=lambda item: item.start)
    assert last.start == HAUL + timedelta(days=4)
    begun = {"begun_at": HAUL, "crew": ["ann"], "remaining": 4, "unbroken": False}
    rows = [one | begun if one["id"] == last.task else one for one in rows]
    made = refit(*rows, people=[person("ann")], price_moved_task=1000)
    for plan in (
        draft_plan(made, HAUL, before=before).plan,
        mended(made, draft_plan(made, HAUL, before=before), before, 3, time.monotonic).plan,
    ):
        assert verify(made, plan) == []
        assert plan.by_task()[first.task].start == HAUL
        assert plan.by_task()[last.task].resume == HAUL + timedelta(hours=6)
        assert moved_by(before, plan) == set()
