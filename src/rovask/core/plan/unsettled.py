"""What it costs that tasks move, beside what a plan is worth."""

from __future__ import annotations

from rovask.core.plain.half_hours import HALF_HOUR
from rovask.core.plan.problem.value import FAR_MOVE_SLOTS, FAR_SHARE
from rovask.core.plan.result import Plan
from rovask.core.readings.prices import VALUE_UNIT, prices_of
from rovask.core.refit.model import Refit


def unsettled(refit: Refit, before: Plan, after: Plan) -> int:
    """What it is reckoned at, in parts of a minor unit, that tasks not begun move by hours: a share of a moved task each."""
    far = HALF_HOUR * FAR_MOVE_SLOTS
    old = before.by_task()
    count = sum(
        item.task in old and abs(item.start - old[item.task].start) >= far and not refit.tasks[item.task].begun_at
        for item in after.assignments
        if item.task in refit.tasks
    )
    return count * prices_of(refit).moved_task * VALUE_UNIT // FAR_SHARE
