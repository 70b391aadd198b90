"""What to order, by when, and why: from the latest start of the tasks that wait for each part."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from rovask.core.plan.result import Plan, Verdict
from rovask.core.refit.choices import PartStatus
from rovask.core.refit.make_good import with_make_good
from rovask.core.refit.model import Part, Refit


@dataclass(frozen=True, slots=True)
class PartNeed:
    """A part with the first task that waits for it.

    needed_at: when the plan starts that task. order_by: last moment to order without moving the launch
    (the task's start and its spare, less the lead time); None when it is ordered or no task waits.
    overdue: ordered, and its day has passed.
    """

    part: Part
    task: str | None
    needed_at: datetime | None
    order_by: datetime | None
    overdue: bool


def part_needs(refit: Refit, plan: Plan, verdict: Verdict) -> list[PartNeed]:
    """Every part, most urgent first: overdue, then by order-by date, then by the day it is needed."""
    refit = with_make_good(refit, plan.made_good)
    at = plan.by_task()
    waiting: dict[str, list[str]] = {}
    for task in refit.tasks.values():
        if not task.begun_at:
            for key in task.parts:
                waiting.setdefault(key, []).append(task.id)
    out = []
    for part in refit.parts:
        planned = [key for key in waiting.get(part.id, []) if key in at]
        first = min(planned, key=lambda key: at[key].start, default=None)
        order_by = None
        if first and part.status is PartStatus.NEEDED:
            order_by = min(
                at[key].start + timedelta(minutes=verdict.spare_by_task.get(key, 0)) - timedelta(days=part.lead_days)
                for key in planned
            )
        overdue = part.status is PartStatus.ORDERED and part.arrives is not None and part.arrives <= plan.now
        out.append(PartNeed(part, first, at[first].start if first else None, order_by, overdue))
    far = datetime.max.replace(tzinfo=plan.now.tzinfo)
    out.sort(key=lambda need: (not need.overdue, need.order_by or far, need.needed_at or far, need.part.id))
    return out


def next_order(needs: list[PartNeed]) -> PartNeed | None:
    """The part to order first, if any has to be ordered."""
    return min((need for need in needs if need.order_by), key=lambda need: need.order_by, default=None)  # type: ignore[arg-type,return-value]
