"""Until when what opens her must be closed before the slings, as a moment, and whether the plan is that far."""

from __future__ import annotations

from datetime import datetime

import numpy as np

from rovask.core.plain.words import day_and_time
from rovask.core.plan.problem.calendar import SlotGrid
from rovask.core.plan.problem.curing import yard_days
from rovask.core.plan.problem.grid import grid_of
from rovask.core.plan.problem.hours import yard_mask
from rovask.core.plan.problem.lags import CURE_UNIT
from rovask.core.plan.result import Plan
from rovask.core.readings.closes import closings, days_in_words
from rovask.core.refit.model import Refit
from rovask.core.refit.work.choices import State


def lifted_at(refit: Refit, plan: Plan) -> datetime:
    """When she is taken into the slings by the plan: with the first work there, else at the launch."""
    begins = [item.start for item in plan.assignments if refit.tasks[item.task].state is State.SLINGS]
    return min(begins, default=plan.launch)


def closed_by(refit: Refit, plan: Plan) -> dict[str, datetime]:
    """For each task that opens her, or closes what was opened, the last moment at which it may end."""
    wanted = closings(refit)
    if not wanted:
        return {}
    grid: SlotGrid = grid_of(refit, plan.now)
    counted = yard_days(grid, yard_mask(refit, grid))
    lift = min(max(grid.ceil(lifted_at(refit, plan)), 0), grid.size)
    last = {days: _last(counted, lift, days) for days in {one.days for one in wanted.values()}}
    return {key: grid.moment(last[one.days]) for key, one in wanted.items()}


def _last(counted: np.ndarray, lift: int, days: float) -> int:
    """The last slot that lies so many working days before another."""
    return max(int(np.searchsorted(counted, counted[lift] - round(days * CURE_UNIT), side="right")) - 1, 0)


def margin_told(refit: Refit, task: str, by: datetime) -> str:
    """In a sentence until when a task must be over, and why."""
    one = closings(refit)[task]
    what = "tried" if one.what.value == "starter" else "closed and proved"
    return (
        f"To be {what} by {day_and_time(by, refit.yard.zone)}: {days_in_words(one.days)} before the slings for "
        f"{one.what.value}, as set under Yard."
    )
