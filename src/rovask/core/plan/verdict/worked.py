"""In which half-hours each planned task is worked at: its own span less the nights, Sundays, absences and weather in it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import datetime

import numpy as np
import numpy.typing as npt

from rovask.core.plain.derived import derived
from rovask.core.plain.half_hours import HALF_HOUR
from rovask.core.plan.problem.calendar import SlotGrid
from rovask.core.plan.problem.grid import grid_of
from rovask.core.plan.problem.hours import Hours
from rovask.core.plan.result import Assignment, Plan
from rovask.core.refit.model import Refit, Task


@dataclass(frozen=True, slots=True)
class Worked:
    """A planned task with the slots of ``grid`` it is worked in, in order. Int64."""

    task: Task
    item: Assignment
    grid: SlotGrid
    slots: npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Stint:
    """A task's work within some span of time: from its first working half-hour to the end of its last, and its hours."""

    begins: datetime
    ends: datetime
    hours: float


def worked(refit: Refit, plan: Plan, wanted: Callable[[Assignment], bool]) -> Iterator[Worked]:
    """The wanted assignments of work not yet done, in the calendars the planner uses. O(their slots)."""
    known, grid, hours = _known(refit, plan), grid_of(refit, plan.now), None
    for item in plan.assignments:
        task = refit.tasks[item.task]
        if task.done_at or not wanted(item):
            continue
        if item.task not in known:
            hours = hours or Hours.of(refit, grid)
            (mask,) = hours.of_crews([item.people], task)
            low, high = max(grid.ceil(item.resume or item.start), 0), max(grid.ceil(item.end), 0)
            known[item.task] = Worked(task, item, grid, np.flatnonzero(mask[low:high]) + low)
        yield known[item.task]


@derived(of=1)
def _known(refit: Refit, plan: Plan) -> dict[str, Worked]:  # noqa: ARG001 - what it is about is who holds it
    """By task, what was worked out of a plan."""
    return {}


def stints(refit: Refit, plan: Plan, start: datetime, end: datetime) -> dict[str, Stint]:
    """By task, its work from ``start`` to ``end``; tasks that only lie open then, or rest, have none."""
    out = {}
    for one in worked(refit, plan, lambda item: (item.resume or item.start) < end and item.end > start):
        inside = one.slots[(one.slots >= one.grid.ceil(start)) & (one.slots < one.grid.ceil(end))]
        if inside.size:
            begins, last = one.grid.moment(int(inside[0])), one.grid.moment(int(inside[-1]))
            out[one.task.id] = Stint(begins, last + HALF_HOUR, inside.size / 2)
    return out
