"""Ready at best and at worst: the same search with everything that is open at its least, and at its most.

Until there are odds this is what is said of a launch that hangs on something nobody knows exactly: hours of work, waits
and lead times that were given as from … to …. *At worst* is all of them at once, so it is a bound and no forecast.
"""

from __future__ import annotations

from datetime import datetime
from enum import StrEnum

from rovask.core.plan.first.serial import ready_schedule
from rovask.core.plan.problem.arrays import FIRST_TASK, FOREVER, LAUNCH_NODE, Problem
from rovask.core.plan.problem.calendar import slots_of
from rovask.core.plan.problem.compile import Compiler
from rovask.core.plan.problem.lags import CURE_UNIT
from rovask.core.plan.problem.realisation import Realisation, realisation_of, realised
from rovask.core.plan.problem.windows import windows_of
from rovask.core.plan.ready import as_schedule, launch_free
from rovask.core.plan.result import Ready
from rovask.core.readings.readiness import ready_times
from rovask.core.refit.model import Refit
from rovask.core.refit.work.kinds import Link, Part, Task


class Extreme(StrEnum):
    """Which end of what is open."""

    LEAST = "least"
    MOST = "most"


def _lag(link: Link, end: Extreme) -> float | None:
    return link.least_lag if end is Extreme.LEAST else link.most_lag


def _lead(part: Part, end: Extreme) -> int | None:
    return part.lead_least if end is Extreme.LEAST else part.lead_most


def with_outlook(compiler: Compiler, problem: Problem, ready: Ready | None) -> Ready | None:
    """``ready`` with what it is at best and at worst, where it hangs on anything that is open.

    compiler: what the problem was made with, so with the make-good work in it. O(its records, and two first plans of the must-work).
    """
    if ready is None:
        return None
    guessed = [
        (node, task)
        for node, task in enumerate((compiler.refit.tasks[key] for key in problem.tasks), FIRST_TASK)
        if task.work.least != task.work.most and task.done_at is None and task.remaining is None
    ]
    least, most = (_at(compiler, problem, ready, end, guessed) for end in Extreme)
    best = min(ready.at, least or ready.at)
    if best == ready.at and most is not None and most <= ready.at:
        return ready
    worst = None if most is None else max(most, ready.at)
    return ready.model_copy(update={"is_open": True, "best": best, "worst": worst})


def _at(
    compiler: Compiler, problem: Problem, ready: Ready, end: Extreme, guessed: list[tuple[int, Task]]
) -> datetime | None:
    """Ready at with all at one end; as it is where nothing is open, None if nothing holds any more."""
    numbers = _numbers(compiler, problem, end, guessed)
    if numbers is None:
        return ready.at
    made = realised(problem, numbers)
    free = launch_free(made)
    windows = windows_of(free)
    if not windows.possible:
        return None
    found = ready_schedule(free, windows, 1, [as_schedule(made, ready)])
    return None if found is None else made.grid.moment(int(found.start[LAUNCH_NODE]))


def _numbers(compiler: Compiler, problem: Problem, end: Extreme, guessed: list[tuple[int, Task]]) -> Realisation | None:
    """The numbers of the problem with every open spread at one of its ends: hours, waits, and from when its parts are at
    hand. None where none is open. guessed: the nodes whose hours are open, with their tasks. O(its records): after every
    change, so no record is made anew for it.
    """
    numbers, refit = realisation_of(problem), compiler.refit
    work, release, low = numbers.work.copy(), numbers.release.copy(), numbers.low.copy()
    arrays = problem.arrays
    waits = {
        link.id: slots_of(lag) * (CURE_UNIT if link.cures else 1)
        for link in refit.waits
        if (lag := _lag(link, end)) is not None
    }
    leads = {part.id: days for part in refit.parts if (days := _lead(part, end)) is not None}
    ready = ready_times(_with_leads(refit, leads), compiler.now) if leads else {}
    is_open = bool(waits or leads)
    for node, task in guessed:
        hours = task.work.least if end is Extreme.LEAST else task.work.most
        if hours != task.work.likely:
            is_open = True
            if work[node]:
                work[node] = slots_of(refit.hours_to_do(task, hours))
    for node, task in enumerate((refit.tasks[key] for key in problem.tasks), FIRST_TASK) if leads else ():
        if arrays.fixed_start[node] < 0 and task.pin is None and not leads.keys().isdisjoint(task.parts):
            release[node] = compiler.release_of(task, ready)
    for arc, link_id in enumerate(problem.arc_link):
        if link_id in waits and low[arc] > -FOREVER:
            low[arc] = waits[link_id]
    return numbers._replace(work=work, release=release, low=low) if is_open else None


def _with_leads(refit: Refit, leads: dict[str, int]) -> Refit:
    parts = tuple(
        part.model_copy(update={"lead_days": leads[part.id]}) if part.id in leads else part for part in refit.parts
    )
    # made anew, for a copy would keep what it had looked up in the old list
    return refit.supposed(parts=parts)
