"""Ready at best and at worst: the same search with everything that is open at its least, and at its most.

Until there are odds this is what is said of a launch that hangs on something nobody knows exactly: hours of work, waits
and lead times that were given as from … to …. *At worst* is all of them at once, so it is a bound and no forecast.
"""

from __future__ import annotations

from datetime import datetime
from enum import StrEnum

from rovask.core.books.readiness import ready_times
from rovask.core.plan.first.serial import ready_schedule
from rovask.core.plan.problem.arrays import FIRST_TASK, FOREVER, LAUNCH_NODE, Problem
from rovask.core.plan.problem.calendar import slots_of
from rovask.core.plan.problem.compile import Compiler, Realisation, realisation_of, realised
from rovask.core.plan.problem.lags import CURE_UNIT
from rovask.core.plan.problem.windows import windows_of
from rovask.core.plan.ready import as_schedule, launch_free
from rovask.core.plan.result import Ready
from rovask.core.refit.jobs import Job, Link, Part, Task, WorkTime
from rovask.core.refit.model import Refit


class Extreme(StrEnum):
    """Which end of what is open."""

    LEAST = "least"
    MOST = "most"


def _task(task: Task, end: Extreme) -> Task:
    hours = task.work.least if end is Extreme.LEAST else task.work.most
    if task.done_at is not None or task.remaining is not None or hours == task.work.likely:
        return task
    hours = max(hours, 0.5)
    return task.model_copy(update={"work": WorkTime(least=hours, likely=hours, most=hours)})


def _link(link: Link, end: Extreme) -> Link:
    lag = link.least_lag if end is Extreme.LEAST else link.most_lag
    return link if lag is None else link.model_copy(update={"min_lag": lag})


def _part(part: Part, end: Extreme) -> Part:
    days = part.lead_least if end is Extreme.LEAST else part.lead_most
    return part if days is None else part.model_copy(update={"lead_days": days})


def at_extreme(refit: Refit, end: Extreme) -> Refit | None:
    """The refit with every open spread at one of its ends; None where none is open. O(its records)."""
    jobs: list[Job] = []
    for job in refit.jobs:
        tasks = tuple(_task(task, end) for task in job.tasks)
        same = all(one is other for one, other in zip(tasks, job.tasks, strict=True))
        jobs.append(job if same else job.model_copy(update={"tasks": tasks}))
    links = tuple(_link(link, end) for link in refit.links)
    parts = tuple(_part(part, end) for part in refit.parts)
    moved = any(one is not other for one, other in zip((*jobs, *links, *parts), (*refit.jobs, *refit.links, *refit.parts), strict=True))  # fmt: skip
    if not moved:
        return None
    # made anew, for a copy would keep what it had looked up in the old lists
    return Refit.model_construct(**(dict(refit) | {"jobs": tuple(jobs), "links": links, "parts": parts}))


def with_outlook(compiler: Compiler, problem: Problem, ready: Ready | None) -> Ready | None:
    """``ready`` with what it is at best and at worst, where it hangs on anything that is open.

    compiler: what the problem was made with, so with the make-good work in it. O(its records, and two first plans of the must-work).
    """
    if ready is None:
        return None
    least, most = (_at(compiler, problem, ready, end) for end in Extreme)
    best = min(ready.at, least or ready.at)
    if best == ready.at and most is not None and most <= ready.at:
        return ready
    worst = None if most is None else max(most, ready.at)
    return ready.model_copy(update={"is_open": True, "best": best, "worst": worst})


def _at(compiler: Compiler, problem: Problem, ready: Ready, end: Extreme) -> datetime | None:
    """Ready at with all at one end; as it is where nothing is open, None if nothing holds any more."""
    other = at_extreme(compiler.refit, end)
    if other is None:
        return ready.at
    made = realised(problem, _numbers(compiler, other, problem))
    free = launch_free(made)
    windows = windows_of(free)
    if not windows.possible:
        return None
    found = ready_schedule(free, windows, 1, [as_schedule(made, ready)])
    return None if found is None else made.grid.moment(int(found.start[LAUNCH_NODE]))


def _numbers(compiler: Compiler, other: Refit, problem: Problem) -> Realisation:
    """The numbers of the problem with what ``other`` has otherwise: hours, waits, and from when its parts are at hand."""
    numbers, refit = realisation_of(problem), compiler.refit
    work, release, low = numbers.work.copy(), numbers.release.copy(), numbers.low.copy()
    arrays = problem.arrays
    waits = {link.id: link for link, was in zip(other.waits, refit.waits, strict=True) if link is not was}
    late = {part.id for part, was in zip(other.parts, refit.parts, strict=True) if part is not was}
    ready = ready_times(other, compiler.now) if late else {}
    for node, key in enumerate(problem.tasks, FIRST_TASK):
        task, was = other.tasks[key], refit.tasks[key]
        if task is not was and work[node]:
            work[node] = slots_of(other.hours_to_do(task))
        if arrays.fixed_start[node] < 0 and task.pin is None and not late.isdisjoint(task.parts):
            release[node] = compiler.release_of(task, ready)
    for arc, link_id in enumerate(problem.arc_link):
        link = waits.get(link_id)
        if link is not None and low[arc] > -FOREVER:
            low[arc] = slots_of(link.min_lag) * (CURE_UNIT if link.cures else 1)
    return numbers._replace(work=work, release=release, low=low)
