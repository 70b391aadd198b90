"""From a refit and a moment to a plan: compile, windows, first plan, and the names of what collides."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from datetime import datetime

import numpy as np

from rovask.core.plan.first.left_out import with_left_out
from rovask.core.plan.first.repair import back_where_it_was, going_on, held_still
from rovask.core.plan.first.serial import Schedule, first_schedule, played_again
from rovask.core.plan.outlook import with_outlook
from rovask.core.plan.problem.arrays import FIRST_TASK, LAUNCH_NODE, LIFT_NODE, Problem, tables_of
from rovask.core.plan.problem.compile import compile_refit
from rovask.core.plan.problem.value import UNPLACED, cost_of_tables, unsettling, value_of, with_weights
from rovask.core.plan.problem.windows import Windows, windows_of
from rovask.core.plan.ready import as_schedule, ready_launch, ready_of
from rovask.core.plan.result import Assignment, Collision, CollisionKind, Plan, Ready, Verdict
from rovask.core.plan.solver.conflict import find_conflict
from rovask.core.plan.solver.improve import put_right
from rovask.core.plan.trial import Trial, cheapest, without_room
from rovask.core.plan.unsettled import unsettled
from rovask.core.plan.verdict.collide import explain_conflict
from rovask.core.plan.verdict.verdict import judge
from rovask.core.readings.prices import VALUE_UNIT, prices_of
from rovask.core.refit.model import Refit
from rovask.core.refit.work.make_good import with_make_good

STARTS_TASKS = 1200  # tasks placed in all starts together: some twenty milliseconds …
STARTS_TASKS_LARGE, LARGE = 900, 200  # … and fewer above so many tasks, where all else takes longer too
LEAST_STARTS, MOST_STARTS = 3, 12
DEAR = 3  # a plan that is worth so many moved tasks less than the one before is looked at again


@dataclass(frozen=True, slots=True)
class Planned:
    """A plan with its verdict, ready to show."""

    plan: Plan
    verdict: Verdict


@dataclass(frozen=True, slots=True)
class Draft:
    """A plan with what it was computed on: where the solver goes on. No schedule when nothing could be planned."""

    plan: Plan
    problem: Problem
    schedule: Schedule | None


def plan_and_judge(
    refit: Refit, now: datetime, starts: int | None = None, seed: int = 1, before: Plan | None = None
) -> Planned:
    """The first plan of ``refit`` at ``now`` and what it says about the launch, compiled once for both."""
    draft = draft_plan(refit, now, starts, seed, before)
    return Planned(draft.plan, judge(refit, draft.plan, draft.problem))


def make_plan(
    refit: Refit, now: datetime, starts: int | None = None, seed: int = 1, before: Plan | None = None
) -> Plan:
    """The first plan of ``refit`` as it stands at ``now`` (aware).

    starts: schedules to try; by default as many as some thirty milliseconds allow.
    before: the plan so far; near tasks stay where it has them unless moving them pays.
    Whatever can't hold is named in ``collisions`` and left out with what waits for it; the rest is planned.
    Deterministic for the same refit, moment, starts, seed and plan before.
    """
    return draft_plan(refit, now, starts, seed, before).plan


def draft_plan(
    refit: Refit,
    now: datetime,
    starts: int | None = None,
    seed: int = 1,
    before: Plan | None = None,
    known: Iterable[Collision] = (),
) -> Draft:
    """``make_plan`` with the problem and the schedule it came from. known: collisions found by other means.

    What collides by its ties and calendars alone is found first, one longest-path pass a collision; whatever then
    finds no room in any run of the first plan is left out of it, and the rest is placed in the same run.
    """
    if starts is None:
        budget = STARTS_TASKS if len(refit.tasks) <= LARGE else STARTS_TASKS_LARGE
        starts = min(max(budget // max(len(refit.tasks), 1), LEAST_STARTS), MOST_STARTS)
    trial = Trial(refit, now, before, list(known))
    problem, windows = trial.possible()
    while problem is not None and windows is not None:
        shown = ready_launch(problem, before) if before is not None else None
        also = [] if shown is None else [shown]
        schedule = first_schedule(problem, windows, starts, seed, also)
        if schedule.stuck < 0 and not without_room(problem, schedule):
            return _finished(refit, problem, windows, schedule, trial, starts)
        again = trial.give_up(problem, schedule)
        if again is None:
            break
        was, (problem, windows) = problem, trial.possible()
        if not again and schedule.stuck < 0 and problem is not None and windows is not None:
            rest = _carried_over(was, schedule, problem)
            if rest is not None:  # what is left lies where it lay: nothing need be tried again
                return _finished(refit, problem, windows, rest, trial, starts)
    return _nothing(refit, now, trial, problem)


def _finished(refit: Refit, problem: Problem, windows: Windows, schedule: Schedule, trial: Trial, starts: int) -> Draft:
    """The draft of a schedule that has room for all must-work of its problem."""
    now, before = trial.now, trial.before
    schedule = with_left_out(problem, windows, schedule)
    ready = ready_of(problem, schedule, before.ready if before else None)
    ready = with_outlook(trial.compiler(), problem, ready)
    schedule = _no_later(problem, windows, schedule, ready)
    still = held_still(problem, windows, schedule)
    tried = [schedule] if still is None else [schedule, still[0]]
    schedule = min((going_on(problem, windows, one) for one in tried), key=lambda one: _weighed(problem, one))
    schedule = going_on(problem, windows, back_where_it_was(problem, windows, schedule))
    return Draft(plan_of(refit, problem, schedule, now, starts, ready=ready), problem, schedule)


def _weighed(problem: Problem, schedule: Schedule) -> int:
    """What a schedule is worth, with what it moves of the plan before."""
    return schedule.value + unsettling(problem.arrays, schedule.start)


def _carried_over(was: Problem, schedule: Schedule, problem: Problem) -> Schedule | None:
    """A schedule on the problem without what found no room in it; None if some other task would be missing."""
    found = moved_over(was, schedule, problem)
    known = set(was.tasks)
    if any(key not in known for key in problem.tasks) or without_room(problem, found) or found.start[LAUNCH_NODE] < 0:
        return None
    value = value_of(problem, found.start, found.end, found.resume, found.mode)
    return replace(found, value=int(value))


def moved_over(was: Problem, schedule: Schedule, problem: Problem) -> Schedule:
    """A schedule of one problem in the nodes of another, as far as that has its tasks and their people; else not placed.

    No valid schedule by itself, and without a value: something to play again.
    """
    start, end = np.full(problem.size, UNPLACED, dtype=np.int64), np.full(problem.size, UNPLACED, dtype=np.int64)
    resume, mode = start.copy(), start.copy()
    at = {key: node for node, key in enumerate(was.tasks, FIRST_TASK)}
    for node in range(problem.size):
        old = node if node < FIRST_TASK else at.get(problem.name(node), -1)
        if old < 0 or schedule.start[old] == UNPLACED:
            continue
        with_ = node if node < FIRST_TASK else problem.mode_of(node, was.crew(int(schedule.mode[old])))
        if with_ >= 0:
            mode[node] = with_
            start[node], end[node], resume[node] = schedule.start[old], schedule.end[old], schedule.resume[old]
    return Schedule(start, end, resume, mode, -1)


def _no_later(problem: Problem, windows: Windows, schedule: Schedule, ready: Ready | None) -> Schedule:
    """``schedule``, or if its launch is later than it need be the one in the order of what shows that."""
    if ready is None:
        return schedule
    wanted = max(problem.grid.ceil(ready.at), int(problem.arrays.release[LAUNCH_NODE]))
    if int(schedule.start[LAUNCH_NODE]) <= wanted:
        return schedule
    found = played_again(problem, windows, as_schedule(problem, ready))
    return found if found.stuck < 0 and found.value < schedule.value else schedule


def _nothing(refit: Refit, now: datetime, trial: Trial, problem: Problem | None) -> Draft:
    """No plan at all, with a reason beside it."""
    collisions = trial.collisions or [
        Collision(kind=CollisionKind.SEARCH, tasks=(), sentence="No plan was found for what is under way.")
    ]
    problem = problem or compile_refit(refit, now, collisions, trial.missed, trial.before, broken=trial.broken)
    plan = Plan(
        now=now, launch=refit.launch_at, collisions=tuple(collisions), unplanned=tuple(refit.tasks), starts_tried=0
    )
    return Draft(plan, problem, None)


def is_dearer(refit: Refit, plan: Plan, before: Plan) -> bool:
    """Whether a plan is worth notably less than the one before it, with what it moves: as much as a few moved tasks."""
    allowed = DEAR * prices_of(refit).moved_task * VALUE_UNIT
    return plan.value + unsettled(refit, before, plan) > before.value + allowed


def mended(refit: Refit, draft: Draft, before: Plan, seconds: float, clock: Callable[[], float]) -> Draft:
    """The draft, or one that leaves more of the plan before as it was, looked for so long where it costs notably more.

    A day that begins half an hour late pushes its people's next task, that one the next, and so on through the weeks;
    most of them need not move, but only a solver sees which.
    """
    if draft.schedule is None or not is_dearer(refit, draft.plan, before):
        return draft
    found = put_right(draft.problem, draft.schedule, seconds, clock)
    if found is draft.schedule:
        return draft
    plan = plan_of(refit, draft.problem, found, draft.plan.now, draft.plan.starts_tried, ready=draft.plan.ready)
    gain = draft.plan.value + unsettled(refit, before, draft.plan) - plan.value - unsettled(refit, before, plan)
    return Draft(plan, draft.problem, found) if gain > 0 else draft


def settled(
    refit: Refit, plan: Plan, seconds: float, clock: Callable[[], float], workers: int = 2, before: Plan | None = None
) -> Draft:
    """The draft a search goes on from, with what the first plan couldn't place either placed or explained.

    before: the plan that near tasks are to keep to, where that is another than ``plan``: the one before a change.
    A collision that was only a search without luck is put to the solver for up to ``seconds``: it finds a plan, or the
    smallest set of rules that can't all hold, or nothing in time. Without such a collision this is the plan itself.
    """
    unlucky = [item for item in plan.collisions if item.kind is CollisionKind.SEARCH]
    known = [item for item in plan.collisions if item.kind is not CollisionKind.SEARCH]
    if unlucky:
        problem = compile_refit(refit, plan.now, known, plan.made_good, plan, broken=plan.broken)
        windows = windows_of(problem)
        conflict = find_conflict(problem, seconds, clock, workers) if windows.possible else None
        if conflict is not None and conflict.schedule is not None:
            ready = ready_of(problem, conflict.schedule, plan.ready)
            made = plan_of(refit, problem, conflict.schedule, plan.now, ready=ready)
            return Draft(made, problem, conflict.schedule)
        if conflict is not None and conflict.proven:
            whole = with_make_good(refit, plan.made_good)
            found = explain_conflict(whole, problem, conflict)
            if found.tasks:
                known.append(cheapest(whole, found))
                return draft_plan(refit, plan.now, before=plan, known=known)
    problem = compile_refit(refit, plan.now, plan.collisions, plan.made_good, before or plan, broken=plan.broken)
    schedule = schedule_of(problem, plan)
    if schedule is None:
        return draft_plan(refit, plan.now, before=plan)
    return Draft(plan, problem, schedule)


def schedule_of(problem: Problem, plan: Plan) -> Schedule | None:
    """A plan as a schedule of its problem; None if it has people or tasks the problem doesn't know."""
    size, arrays, grid = problem.size, problem.arrays, problem.grid
    start, end = np.full(size, UNPLACED, dtype=np.int64), np.full(size, UNPLACED, dtype=np.int64)
    resume, mode = start.copy(), start.copy()
    at = plan.by_task()
    for node in range(size):
        if arrays.fixed_end[node] >= 0:
            start[node], end[node], mode[node] = arrays.fixed_start[node], arrays.fixed_end[node], arrays.mode_lo[node]
            continue
        if node < FIRST_TASK:
            continue
        item = at.get(problem.name(node))
        if item is None:
            if arrays.need[node] == 0:
                return None
            continue
        mode[node] = problem.mode_of(node, item.people)
        if mode[node] < 0:
            return None
        begin, end[node] = grid.ceil(item.resume or item.start), grid.ceil(item.end)
        start[node] = arrays.fixed_start[node] if arrays.fixed_start[node] >= 0 else begin
        resume[node] = begin if arrays.fixed_start[node] >= 0 else UNPLACED
    launch = max(grid.ceil(plan.launch), int(arrays.release[LAUNCH_NODE]))
    start[LAUNCH_NODE] = end[LAUNCH_NODE] = launch
    ashore = [
        int(end[first]) for first, then, *_ in arrays.arcs.tolist() if then == LIFT_NODE and start[first] != UNPLACED
    ]
    earliest = int(windows_of(problem).start[LIFT_NODE])
    start[LIFT_NODE] = end[LIFT_NODE] = max([earliest, *ashore])
    mode[LAUNCH_NODE], mode[LIFT_NODE] = arrays.mode_lo[LAUNCH_NODE], arrays.mode_lo[LIFT_NODE]
    value = value_of(problem, start, end, resume, mode)
    return Schedule(start, end, resume, mode, -1, value)


def plan_of(
    refit: Refit,
    problem: Problem,
    schedule: Schedule,
    now: datetime,
    starts: int = 0,
    bound: int | None = None,
    ready: Ready | None = None,
) -> Plan:
    """A schedule in the refit's own words."""
    refit = with_make_good(refit, problem.missed)
    moment, arrays = problem.grid.moment, problem.arrays
    assignments, left_out = [], set()
    begins, ends, modes = schedule.start.tolist(), schedule.end.tolist(), schedule.mode.tolist()
    for node, name in enumerate(problem.tasks, FIRST_TASK):
        task = refit.tasks[name]
        if begins[node] == UNPLACED:
            left_out.add(int(arrays.job[node]))
            continue
        if task.begun_at and task.done_at:
            start, end, people, resume = task.begun_at, task.done_at, task.crew, None
        else:
            people = problem.crew(modes[node])
            start = task.begun_at or moment(begins[node])
            end = moment(ends[node])
            resume = moment(int(schedule.resume[node])) if task.begun_at else None
        assignments.append(Assignment(task=name, start=start, end=end, people=people, resume=resume))
    launch = max(refit.launch_at, moment(int(schedule.start[LAUNCH_NODE])))
    if schedule.start[LAUNCH_NODE] == arrays.launch_at:
        launch = refit.launch_at
    tables = tables_of(problem)
    plain = tables._replace(worth=tables.worth._replace(weights=with_weights(arrays.weights, still=False)))
    value = cost_of_tables(plain, schedule.start, schedule.end, schedule.resume, schedule.mode)
    return Plan(
        now=now,
        launch=launch,
        assignments=tuple(assignments),
        left_out=tuple(problem.jobs[job] for job in sorted(left_out)),
        unplanned=problem.unplanned,
        collisions=problem.collisions,
        made_good=problem.missed,
        broken=problem.broken,
        ready=ready,
        value=int(value),
        bound=bound,
        starts_tried=starts,
    )
