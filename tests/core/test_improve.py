"""The solver: never worse than the first plan, never past a rule, and on tiny refits as good as trying everything."""

import time
from datetime import timedelta

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from ortools.sat.python import cp_model

from benches.generate import generated_refit
from rovask.core.plan.planner import draft_plan, plan_of
from rovask.core.plan.problem.arrays import FIRST_TASK
from rovask.core.plan.problem.value import unsettling, value_of
from rovask.core.plan.problem.windows import windows_of
from rovask.core.plan.solver.hands import least_last
from rovask.core.plan.solver.improve import BetterSchedule, Status, Stop, improve
from rovask.core.plan.solver.search import Model
from rovask.core.plan.verify.check import verify
from rovask.core.refit.model import Refit
from tests.builders import HAUL, link, person, refit, task
from tests.core.exhaustive import better_than, worth
from tests.core.strategies import refits
from tests.core.tiny import tiny_refits

SLOW = {"deadline": None, "suppress_health_check": [HealthCheck.too_slow, HealthCheck.filter_too_much]}


@settings(max_examples=25, derandomize=True, **SLOW)  # type: ignore[arg-type]
@given(tiny_refits())
def test_the_proven_best_of_a_tiny_refit_is_what_trying_everything_finds(made: Refit) -> None:
    draft = draft_plan(made, HAUL)
    if draft.schedule is None or draft.plan.collisions or draft.plan.made_good:
        return  # what can't be planned whole is another test's
    found = improve(draft.problem, draft.schedule, seconds=60, clock=time.monotonic, workers=1, deterministic=30)
    assert found.status is Status.OPTIMAL
    assert found.schedule is not None
    best = plan_of(made, draft.problem, found.schedule, HAUL)
    assert verify(made, best) == []
    assert worth(made, best) == found.value == best.value
    until = max((item.end for item in best.assignments), default=HAUL) + timedelta(hours=4)
    assert better_than(made, HAUL, found.value, until) is None


def test_trying_everything_does_find_a_better_plan_where_there_is_one() -> None:
    """So that the test above could fail: a plan pushed a day later is beaten."""
    made = easy()
    plan = draft_plan(made, HAUL).plan
    better = better_than(made, HAUL, worth(made, plan) + 1, max(item.end for item in plan.assignments))
    assert better is not None
    assert verify(made, better) == []


def easy() -> Refit:
    return refit(
        task("a", 1, emits=["dust"]),
        task("b", 1, shuns=["dust"], tender=2),
        task("c", 1.5),
        links=[link("a", "c", 1)],
        people=[person("ann"), person("bo")],
    )


@settings(max_examples=40, derandomize=True, **SLOW)  # type: ignore[arg-type]
@given(refits(), st.integers(0, 20))
def test_whatever_the_refit_the_solver_makes_it_no_worse_and_keeps_every_rule(made: Refit, hours: int) -> None:
    now = HAUL + timedelta(hours=5 + hours)
    draft = draft_plan(made, now, starts=2)
    if draft.schedule is None:
        return
    steps: list[BetterSchedule] = []
    found = improve(
        draft.problem, draft.schedule, seconds=20, clock=time.monotonic, workers=1, deterministic=0.5, tell=steps.append
    )
    assert found.schedule is not None
    assert verify(made, plan_of(made, draft.problem, found.schedule, now)) == []
    assert found.bound <= found.value <= draft.schedule.value
    assert [step.value for step in steps] == sorted({step.value for step in steps}, reverse=True)
    assert found.status is not Status.INFEASIBLE  # the first plan is a plan, so the model must hold it


def test_generated_refits_get_better_and_stay_valid() -> None:
    made = generated_refit(40, 5)
    draft = draft_plan(made, made.haul_at, starts=1)
    assert draft.schedule is not None
    found = improve(draft.problem, draft.schedule, seconds=60, clock=time.monotonic, workers=1, deterministic=4)
    assert found.schedule is not None
    assert verify(made, plan_of(made, draft.problem, found.schedule, made.haul_at)) == []
    assert found.value <= draft.schedule.value
    again = value_of(
        draft.problem, found.schedule.start, found.schedule.end, found.schedule.resume, found.schedule.mode
    )
    assert again == found.value


def test_a_search_stopped_before_it_begins_keeps_what_it_has() -> None:
    made = generated_refit(30, 2)
    draft = draft_plan(made, made.haul_at)
    stop = Stop()
    stop.pull()
    found = improve(draft.problem, draft.schedule, seconds=30, clock=time.monotonic, stop=stop)
    assert found.schedule is draft.schedule
    assert found.seconds < 10


@settings(max_examples=40, derandomize=True, **SLOW)  # type: ignore[arg-type]
@given(refits(), st.integers(1, 3))
def test_the_model_holds_what_it_is_given_and_values_it_as_the_planner_does(made: Refit, days: int) -> None:
    """All rules, days at work, days off and what is moved: a hint is whole, breaks none of them, and costs the same."""
    first = draft_plan(made, HAUL, starts=2)
    later = draft_plan(made, HAUL + timedelta(days=days), starts=2, before=first.plan)
    for draft in (first, later):
        problem, schedule = draft.problem, draft.schedule
        if schedule is None:
            continue
        solver = cp_model.CpSolver()
        solver.parameters.fix_variables_to_their_hinted_value = True
        solver.parameters.num_workers = 1
        status = solver.solve(Model(problem, windows_of(problem), schedule).build().with_hints())
        assert solver.status_name(status) == "OPTIMAL"
        value = value_of(problem, schedule.start, schedule.end, schedule.resume, schedule.mode)
        assert round(solver.objective_value) == value + unsettling(problem.arrays, schedule.start)


@settings(max_examples=60, derandomize=True, **SLOW)  # type: ignore[arg-type]
@given(refits())
def test_no_plan_is_over_sooner_than_the_hands_there_are_allow(made: Refit) -> None:
    draft = draft_plan(made, HAUL, starts=2)
    problem, schedule, a = draft.problem, draft.schedule, draft.problem.arrays
    if schedule is None:
        return
    must = [n for n in range(FIRST_TASK, problem.size) if a.need[n] == 0 and a.before[n] and a.fixed_end[n] < 0]
    ends = [int(schedule.end[n]) for n in must if a.work[n]]
    assert not ends or least_last(problem, windows_of(problem)) <= max(ends)


def test_two_who_share_a_week_of_work_need_half_a_week() -> None:
    """By hand: 40 h of must-work for one or the other of two who work 8 h a day, from Monday 8:00: Wednesday noon at the soonest."""
    hours = [{"days": ["mon", "tue", "wed", "thu", "fri"], "start": "08:00", "end": "16:00"}]
    people = [person(key, hours=hours) for key in ("ann", "bo")]
    made = refit(*(task(f"t{at}", 4) for at in range(10)), people=people)
    draft = draft_plan(made, HAUL)
    soonest = draft.problem.grid.moment(least_last(draft.problem, windows_of(draft.problem)))
    assert soonest == HAUL + timedelta(days=2, hours=4)
