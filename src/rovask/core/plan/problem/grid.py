"""The half-hours a plan of a refit may use."""

from __future__ import annotations

from datetime import date, datetime, timedelta

from rovask.core.plain.derived import derived
from rovask.core.plan.problem.calendar import SlotGrid
from rovask.core.refit.model import Refit

OVERRUN_DAYS = 45


MOST_DAYS_BEFORE = 180  # between the first day that is planned and the haul-out, unless more is asked for


def grid_of(refit: Refit, now: datetime) -> SlotGrid:
    """The half-hours a plan of ``refit`` may use: from today or the haul, whichever is first, to well past the launch.

    Before the haul-out the plan begins on the day it is asked to (*Plan from*), else today.
    """
    return _grid(refit, *_reaches(refit, now))


@derived(lambda refit, first, last: (refit.yard.time_zone, first, last))
def _grid(refit: Refit, first: date, last: date) -> SlotGrid:
    return SlotGrid(refit.yard.zone, first, last)


def _reaches(refit: Refit, now: datetime) -> tuple[date, date]:
    zone = refit.yard.zone
    today, haul = now.astimezone(zone).date(), refit.haul_at.astimezone(zone).date()
    first = haul
    if refit.prepare_from:
        first = min(haul, refit.prepare_from)
    elif today < haul:
        first = max(today, haul - timedelta(days=MOST_DAYS_BEFORE))
    begun = [task.begun_at for task in refit.tasks.values() if task.begun_at]
    if begun:
        first = min(first, min(begun).astimezone(zone).date())
    last = max(refit.launch_at, now).astimezone(zone).date() + timedelta(days=OVERRUN_DAYS)
    return first, last
