"""Where a block of the plan goes when it is pushed an hour: to the next hour at which its people can begin it."""

from __future__ import annotations

from datetime import datetime

import numpy as np

from rovask.core.plan.problem.calendar import slots_of
from rovask.core.plan.problem.grid import grid_of
from rovask.core.plan.problem.hours import Hours
from rovask.core.plan.result import Assignment
from rovask.core.refit.model import Refit


def nudged(refit: Refit, item: Assignment, hours: int, now: datetime) -> datetime | None:
    """The half-hour nearest to ``hours`` on (earlier, if negative), or beyond, in which everybody of an assignment is at work
    and the yard, the light and the weather let it begin; None where there is none between now and the end of the plan.
    """
    grid = grid_of(refit, now)
    (mask,) = Hours.of(refit, grid).of_crews([item.people], refit.tasks[item.task])
    wanted, first = grid.ceil(item.start) + slots_of(hours), max(grid.ceil(now), 0)
    slots = np.flatnonzero(mask)
    slots = slots[slots >= wanted] if hours > 0 else slots[(slots <= wanted) & (slots >= first)]
    if not slots.size:
        return None
    return grid.moment(int(slots[0] if hours > 0 else slots[-1]))
