"""What keeps a crew from a task in a stretch of time: an appointment, an absence, hours, the yard's gate, the dark."""

from __future__ import annotations

from datetime import datetime, timedelta

import numpy as np

from rovask.core.plain.derived import derived
from rovask.core.plain.words import day, day_and_time
from rovask.core.plan.problem.calendar import Mask, SlotGrid
from rovask.core.plan.problem.grid import grid_of
from rovask.core.plan.problem.hours import Hours
from rovask.core.plan.result import Assignment, Plan
from rovask.core.refit.model import Refit, Task


def _hang_on(refit: Refit, now: datetime) -> tuple[object, ...]:
    givens = (refit.people, refit.appointments, refit.visits, refit.days, refit.yard, refit.weather, refit.places)
    return (*givens, refit.haul_at, refit.launch_at, now)


@derived(_hang_on)
def hours_at(refit: Refit, now: datetime) -> tuple[SlotGrid, Hours]:
    """The half-hours of a plan made at ``now``, and when everybody works in them; worked out once for many questions."""
    grid = grid_of(refit, now)
    return grid, Hours.of(refit, grid)


def what_keeps_them(refit: Refit, plan: Plan, task: Task, item: Assignment, since: datetime) -> str:
    """Why a task does not begin between ``since`` and its start, in a sentence; "" where its people could be at it then."""
    grid, hours = hours_at(refit, plan.now)
    low, high = max(grid.ceil(since), 0), max(grid.ceil(item.start), 0)
    if high <= low:
        return ""
    own = {who: hours.person[who] for who in item.people if who in hours.person}
    (together,) = hours.of_crews([item.people], task)
    if together[low:high].any():
        return ""
    if not own or np.logical_and.reduce([mask[low:high] for mask in own.values()]).any():
        return _place_shut(refit, hours, grid, own, low, high)
    names = {who: refit.persons[who].name for who in own}
    off = [who for who, mask in own.items() if not mask[high - 1]] or [
        who for who, mask in own.items() if not mask[low:high].any()
    ]
    who = off[0] if off else next(iter(own))
    busy = _appointment(refit, grid, who, low, high)
    if busy:
        return f"{names[who]} is at “{busy}” until then."
    until = grid.moment(high)
    days = _days_left(grid, own[who], grid.ceil(plan.now))
    if days == 1:
        return f"It is the only day on which {names[who]} works: {day(until, refit.yard.zone)}."
    return f"{names[who]} isn't at work before: again {day_and_time(until, refit.yard.zone)}."


def _place_shut(refit: Refit, hours: Hours, grid: SlotGrid, own: dict[str, Mask], low: int, high: int) -> str:
    people = np.logical_and.reduce([mask[low:high] for mask in own.values()]) if own else np.zeros(high - low, bool)
    if people.any() and not (people & hours.ashore[low:high]).any():
        return f"The yard is shut until then, {day_and_time(grid.moment(high), refit.yard.zone)}."
    return "Until then it is dark, or what it gives off isn't allowed." if people.any() else ""


def _appointment(refit: Refit, grid: SlotGrid, who: str, low: int, high: int) -> str:
    """The appointment that keeps somebody busy right up to ``high``; "" if none does."""
    for meeting in refit.appointments:
        if who not in meeting.people:
            continue
        first, last = grid.floor(meeting.at), grid.ceil(meeting.at + timedelta(hours=meeting.hours))
        if first < high <= last or (low <= first and last == high):
            return meeting.title
    return ""


def _days_left(grid: SlotGrid, mask: Mask, now: int) -> int:
    """On how many days somebody works from now to the end of the plan's half-hours."""
    days = np.searchsorted(grid.day_starts(), np.flatnonzero(mask[now:]) + now, side="right")
    return len(np.unique(days))
