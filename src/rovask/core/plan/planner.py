"""From a refit and a moment to a plan: compile, windows, first plan, and the names of what collides."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import datetime

import numpy as np

from rovask.core.plan.explain.collide import explain_conflict, explain_stuck
from rovask.core.plan.explain.verdict import judge
from rovask.core.plan.first.serial import Schedule, first_schedule
from rovask.core.plan.problem.arrays import FIRST_TASK, LAUNCH_NODE, LIFT_NODE, NO_MAX, Problem
from rovask.core.plan.problem.compile import compile_refit
from rovask.core.plan.problem.value import UNPLACED, value_of, with_weights
from rovask.core.plan.problem.windows import cycle_of, windows_of
from rovask.core.plan.result import Assignment, Collision, CollisionKind, Plan, Verdict
from rovask.core.plan.solver.conflict import find_conflict
from rovask.core.refit.model import Refit

STARTS_TASKS = 1200  # tasks placed in all starts together: some twenty milliseconds …
STARTS_TASKS_LARGE, LARGE = 900, 200  # … and fewer above so many tasks, where all else takes longer too
LEAST_STARTS, MOST_STARTS = 3, 12
_MOST_ROUNDS = 60


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
    """``make_plan`` with the problem and the schedule it came from. known: collisions found by other means."""
    if starts is None:
        budget = STARTS_TASKS if len(refit.tasks) <= LARGE else STARTS_TASKS_LARGE
        starts = min(max(budget // max(len(refit.tasks), 1), LEAST_STARTS), MOST_STARTS)
    collisions: list[Collision] = list(known)
    missed: list[str] = []
    for _ in range(_MOST_ROUNDS):
        problem = compile_refit(refit, now, collisions, missed, before)
        windows = windows_of(problem)
        if not windows.possible:
            good = _to_make_good(refit, problem, cycle_of(problem, windows))
            if good:
                missed.append(good)
                continue
            found = explain_stuck(refit, problem, windows)
        else:
            schedule = first_schedule(problem, windows, starts, seed)
            if schedule.stuck < 0:
                return Draft(plan_of(refit, problem, schedule, now, starts), problem, schedule)
            touching = [n for n, arc in enumerate(problem.arrays.arcs.tolist()) if schedule.stuck in arc[:2]]
            good = _to_make_good(refit, problem, touching)
            if good:
                missed.append(good)
                continue
            found = _no_room(refit, problem, schedule)
        if not found.tasks or set(found.tasks) <= {task for item in collisions for task in item.tasks}:
            collisions = collisions or [found]  # whatever is missing from a plan has a reason beside it
            break
        collisions.append(found)
    plan = Plan(
        now=now, launch=refit.launch_at, collisions=tuple(collisions), unplanned=tuple(refit.tasks), starts_tried=0
    )
    return Draft(plan, problem, None)


def settled(refit: Refit, plan: Plan, seconds: float, clock: Callable[[], float], workers: int = 2) -> Draft:
    """The draft a search goes on from, with what the first plan couldn't place either placed or explained.

    A collision that was only a search without luck is put to the solver for up to ``seconds``: it finds a plan, or the
    smallest set of rules that can't all hold, or nothing in time. Without such a collision this is the plan itself.
    """
    unlucky = [item for item in plan.collisions if item.kind is CollisionKind.SEARCH]
    known = [item for item in plan.collisions if item.kind is not CollisionKind.SEARCH]
    if unlucky:
        problem = compile_refit(refit, plan.now, known, plan.made_good, plan)
        windows = windows_of(problem)
        conflict = find_conflict(problem, seconds, clock, workers) if windows.possible else None
        if conflict is not None and conflict.schedule is not None:
            return Draft(plan_of(refit, problem, conflict.schedule, plan.now), problem, conflict.schedule)
        if conflict is not None and conflict.proven:
            known.append(explain_conflict(refit, problem, conflict))
            return draft_plan(refit, plan.now, before=plan, known=known)
    problem = compile_refit(refit, plan.now, plan.collisions, plan.made_good, plan)
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
        crew = set(item.people)
        modes = range(int(arrays.mode_lo[node]), int(arrays.mode_hi[node]))
        mode[node] = next((one for one in modes if set(problem.crew(one)) == crew), -1)
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
    value = value_of(arrays, start, end, resume, mode)
    return Schedule(start, end, resume, mode, -1, value)


def _to_make_good(refit: Refit, problem: Problem, arcs: list[int]) -> str:
    """Of some arcs that can't hold, the tie whose longest wait may be missed at the price of some work; "" if none."""
    costs = {link.id: link.make_good_hours for link in refit.links if link.make_good_hours}
    found = {problem.arc_link[arc] for arc in arcs if int(problem.arrays.arcs[arc][4]) != NO_MAX}
    open_ = sorted((costs[key], key) for key in found & set(costs))
    return open_[0][1] if open_ else ""


def _no_room(refit: Refit, problem: Problem, schedule: Schedule) -> Collision:
    """A task that no run of the first plan could place; not a proof, and it says so."""
    if schedule.stuck < FIRST_TASK:
        tied = [n for n in range(FIRST_TASK, problem.size) if _tied_to_launch(problem, n)]
        names = tuple(problem.name(node) for node in tied)
        titles = ", ".join(f"“{refit.tasks[key].title}”" for key in names) or "what is under way and the launch"
        return Collision(
            kind=CollisionKind.SEARCH,
            tasks=names,
            sentence=f"No plan was found in which {titles} fit their times before the launch.",
        )
    key = problem.name(schedule.stuck)
    return Collision(
        kind=CollisionKind.SEARCH,
        tasks=(key,),
        sentence=f"No plan was found with room for “{refit.tasks[key].title}”: its ties leave it no time in which "
        "its people and its place are free. A longer lag, other people or a pin less may help.",
    )


def _tied_to_launch(problem: Problem, node: int) -> bool:
    return any(
        int(first) == node and int(then) < FIRST_TASK and int(then) >= LAUNCH_NODE and high >= 0
        for first, then, _, _, high in problem.arrays.arcs
    )


def plan_of(
    refit: Refit, problem: Problem, schedule: Schedule, now: datetime, starts: int = 0, bound: int | None = None
) -> Plan:
    """A schedule in the refit's own words."""
    moment, arrays = problem.grid.moment, problem.arrays
    assignments, left_out = [], set()
    for node in range(FIRST_TASK, problem.size):
        task = refit.tasks[problem.name(node)]
        if schedule.start[node] == UNPLACED:
            left_out.add(int(arrays.job[node]))
            continue
        if task.begun_at and task.done_at:
            start, end, people, resume = task.begun_at, task.done_at, task.crew, None
        else:
            people = problem.crew(int(schedule.mode[node]))
            start = task.begun_at or moment(int(schedule.start[node]))
            end = moment(int(schedule.end[node]))
            resume = moment(int(schedule.resume[node])) if task.begun_at else None
        assignments.append(Assignment(task=task.id, start=start, end=end, people=people, resume=resume))
    launch = max(refit.launch_at, moment(int(schedule.start[LAUNCH_NODE])))
    if schedule.start[LAUNCH_NODE] == arrays.launch_at:
        launch = refit.launch_at
    plain = arrays._replace(weights=with_weights(arrays.weights, still=False))
    value = value_of(plain, schedule.start, schedule.end, schedule.resume, schedule.mode)
    return Plan(
        now=now,
        launch=launch,
        assignments=tuple(assignments),
        left_out=tuple(problem.jobs[job] for job in sorted(left_out)),
        unplanned=problem.unplanned,
        collisions=problem.collisions,
        made_good=problem.missed,
        value=int(value),
        bound=bound,
        starts_tried=starts,
    )
