"""What to order, by when, and why: from the latest start of the tasks that wait for each part."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from rovask.core.books.readiness import FIT_CHECK
from rovask.core.plan.explain.verdict import must_that_cannot
from rovask.core.plan.result import Plan, Verdict
from rovask.core.refit.choices import PartStatus
from rovask.core.refit.make_good import with_make_good
from rovask.core.refit.model import Part, Refit


@dataclass(frozen=True, slots=True)
class PartNeed:
    """A part with the first task that waits for it.

    needed_at: when the plan starts that task; unplanned: a task that waits for it, when none of them is in the plan.
    order_by: last moment to order without moving the launch (the task's start and its spare, less the lead time); None
    when it is ordered or no task waits. surely_by: the same if it takes its longest, where that is known.
    overdue: ordered, and its day has passed.
    """

    part: Part
    task: str | None
    needed_at: datetime | None
    order_by: datetime | None
    overdue: bool
    surely_by: datetime | None = None
    unplanned: str | None = None


def part_needs(refit: Refit, plan: Plan, verdict: Verdict) -> list[PartNeed]:
    """Every part, most urgent first: overdue, then by order-by date, then by the day it is needed."""
    refit = with_make_good(refit, plan.made_good)
    at = plan.by_task()
    waiting: dict[str, list[str]] = {}
    for task in refit.tasks.values():
        if not task.begun_at:
            for key in task.parts:
                waiting.setdefault(key, []).append(task.id)
    stopped = {
        key for key in plan.unplanned if key in refit.job_of and refit.job_of[key].id in must_that_cannot(refit, plan)
    }
    out = []
    for part in refit.parts:
        planned = [key for key in waiting.get(part.id, []) if key in at]
        first = min(planned, key=lambda key: at[key].start, default=None)
        order_by = None
        if part.status is PartStatus.NEEDED:
            latest = [at[key].start + timedelta(minutes=verdict.spare_by_task.get(key, 0)) for key in planned]
            latest += [_before_launch(refit, key) for key in waiting.get(part.id, []) if key in stopped]
            if latest:
                order_by = min(latest) - timedelta(days=part.lead_days) - FIT_CHECK
        overdue = part.status is PartStatus.ORDERED and part.arrives is not None and part.arrives <= plan.now
        unplanned = next(iter(waiting.get(part.id, [])), None) if first is None else None
        surely = None
        if order_by is not None and part.lead_most is not None:
            surely = order_by - timedelta(days=part.lead_most - part.lead_days)
        out.append(PartNeed(part, first, at[first].start if first else None, order_by, overdue, surely, unplanned))
    far = datetime.max.replace(tzinfo=plan.now.tzinfo)
    out.sort(key=lambda need: (not need.overdue, need.order_by or far, need.needed_at or far, need.part.id))
    return out


def _before_launch(refit: Refit, key: str) -> datetime:
    """The latest a must-task could start if nothing else stood in its way: the launch less its own hours."""
    return refit.launch_at - timedelta(hours=refit.hours_to_do(refit.tasks[key]))


def next_order(needs: list[PartNeed]) -> PartNeed | None:
    """The part to order first, if any has to be ordered."""
    return min((need for need in needs if need.order_by), key=lambda need: need.order_by, default=None)  # type: ignore[arg-type,return-value]
