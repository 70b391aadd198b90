"""Ready at: the earliest moment at which all must-work and the launch list can be done, searched for by itself.

The problem is the refit's own with the launch set free and the jobs that may be left out away: order, people and times
are open, and nothing but the launch counts. So the slot has no say in it, and neither has the plan that happens to be
kept. What is found is an upper bound; longest paths through the ties and calendars alone are a lower one. Where they
meet it is proven, else the worker's search goes on (``searched``).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from rovask.core.plan.first.serial import Schedule, ready_schedule
from rovask.core.plan.problem.arrays import FIRST_TASK, LAUNCH_NODE, Problem
from rovask.core.plan.problem.value import MAKESPAN_WEIGHTS, UNPLACED
from rovask.core.plan.problem.windows import windows_of
from rovask.core.plan.result import Assignment, Plan, Ready
from rovask.core.plan.solver.improve import Status, Stop, improve

RUNS, RUNS_WITH = 3, 1  # starts of its own besides the order of what is known


def launch_free(problem: Problem, optional: frozenset[int] = frozenset()) -> Problem:
    """The problem with the launch set free; of the jobs that may be left out only ``optional`` (nodes) take part."""
    a = problem.arrays
    release = a.release.copy()
    release[LAUNCH_NODE] = a.now
    need = np.where([node in optional for node in range(problem.size)], 0, a.need)
    return replace(problem, arrays=a._replace(release=release, need=need, launch_at=0, weights=MAKESPAN_WEIGHTS.copy()))


def ready_of(problem: Problem, found: Schedule, before: Ready | None = None) -> Ready | None:
    """Ready at for a problem whose plan is ``found``; None where nothing before a launch is left to do.

    before: what was known of the refit as it stood before; it is tried again, so that what makes nothing harder makes
    it no later. O(a few first plans).
    """
    a = problem.arrays
    open_ = [
        node
        for node in range(FIRST_TASK, problem.size)
        if a.fixed_end[node] < 0 and found.start[node] != UNPLACED and found.end[node] <= found.start[LAUNCH_NODE]
    ]
    if not open_ and a.now >= a.launch_at:
        return None
    free = launch_free(problem)
    windows = windows_of(free)
    if not windows.possible:
        return None
    hints = [found] if before is None else [found, as_schedule(problem, before)]
    best = ready_schedule(free, windows, RUNS, hints)
    if best is None:
        return None
    at = int(best.start[LAUNCH_NODE])
    optional = frozenset(node for node in open_ if a.need[node] > 0)
    with_optional = None
    if optional:
        wide = launch_free(problem, optional)
        other = ready_schedule(wide, windows_of(wide), RUNS_WITH, [found])
        if other is not None:
            with_optional = problem.grid.moment(max(int(other.start[LAUNCH_NODE]), at))
    return Ready(
        at=problem.grid.moment(at),
        proven=at <= int(windows.start[LAUNCH_NODE]),
        with_optional=with_optional,
        assignments=_assignments(problem, best),
    )


def searched(
    problem: Problem,
    known: Ready,
    seconds: float,
    clock: Callable[[], float],
    workers: int = 2,
    stop: Stop | None = None,
    deterministic: float | None = None,
) -> Ready:
    """``known`` made earlier or proven, in up to ``seconds``."""
    free = launch_free(problem)
    first = as_schedule(problem, known)
    lone = ready_schedule(free, windows_of(free), 1, [first])
    if known.proven or lone is None:
        return known
    found = improve(free, lone, seconds=seconds, clock=clock, workers=workers, stop=stop, deterministic=deterministic)
    if found.schedule is None:
        return known
    at = problem.grid.moment(int(found.schedule.start[LAUNCH_NODE]))
    proven = found.status is Status.OPTIMAL and not (stop is not None and stop.asked)
    if at > known.at:
        return known
    latest = known.with_optional
    return known.model_copy(
        update={
            "at": at,
            "proven": proven,
            "with_optional": None if latest is None else max(latest, at),
            "best": None if known.best is None else min(known.best, at),
            "assignments": _assignments(problem, found.schedule),
        }
    )


def _assignments(problem: Problem, schedule: Schedule) -> tuple[Assignment, ...]:
    moment, a = problem.grid.moment, problem.arrays
    begin = np.where(schedule.resume >= 0, schedule.resume, schedule.start).tolist()
    end, mode = schedule.end.tolist(), schedule.mode.tolist()
    counts = (schedule.start != UNPLACED) & (a.fixed_end < 0) & (a.need == 0)
    return tuple(
        Assignment(
            task=problem.name(node), start=moment(begin[node]), end=moment(end[node]), people=problem.crew(mode[node])
        )
        for node in np.flatnonzero(counts).tolist()
        if node >= FIRST_TASK
    )


def as_schedule(problem: Problem, ready: Ready) -> Schedule:
    """Where ``ready`` had each node, as far as the problem still has it and its people; no valid schedule by itself."""
    size = problem.size
    start, end = np.full(size, UNPLACED, dtype=np.int64), np.full(size, UNPLACED, dtype=np.int64)
    mode = start.copy()
    at = {item.task: item for item in ready.assignments}
    for node in range(FIRST_TASK, size):
        item = at.get(problem.name(node))
        if item is None:
            continue
        start[node], end[node] = max(problem.grid.ceil(item.start), 0), max(problem.grid.ceil(item.end), 0)
        mode[node] = problem.mode_of(node, item.people)
    start[LAUNCH_NODE] = end[LAUNCH_NODE] = max(problem.grid.ceil(ready.at), 0)
    return Schedule(start, end, np.full(size, UNPLACED, dtype=np.int64), mode, -1)


def ready_launch(problem: Problem, plan: Plan) -> Schedule | None:
    """The schedule that shows when a plan's launch could be, with its people; None where none is known."""
    return as_schedule(problem, plan.ready) if plan.ready is not None else None
