"""What is taken apart, or goes without a service, sooner than it serves: by how many days it could begin later.

All else stays where it is. A later begin is told only when the verifier finds nothing wrong with the plan that has it.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from rovask.core.plan.result import Plan
from rovask.core.plan.verify.check import verify
from rovask.core.refit.model import Refit, Task
from rovask.core.refit.work.choices import LinkKind

MOST_TOLD = 8
LEAST_DAYS = 1  # of a wait below which nothing is said
MOST_TRIED = 30  # days


@dataclass(frozen=True, slots=True)
class OpenedEarly:
    """A task, when it is planned, and when it could begin, so many whole days later; what is longer open or out by it."""

    task: Task
    begins: datetime
    could: datetime
    days: int
    what: str


def opened_early(refit: Refit, plan: Plan) -> list[OpenedEarly]:
    """What could begin later without moving anything else, the most days first. O(tasks that open x days tried x verify)."""
    at, off = plan.by_task(), {one.off_task: one.what for one in refit.off_boat if one.off_at is None}
    out = []
    for task in refit.tasks.values():
        item = at.get(task.id)
        if item is None or task.begun_at is not None or task.pin is not None:
            continue
        what = ", ".join(service.value for service in task.takes_out) or off.get(task.id, "")
        limit = _until(refit, plan, task) if what else None
        if limit is None:
            continue
        for days in range(min((limit - item.end).days, MOST_TRIED), LEAST_DAYS - 1, -1):
            later = item.model_copy(
                update={"start": item.start + timedelta(days=days), "end": item.end + timedelta(days=days)}
            )
            moved = tuple(later if one.task == task.id else one for one in plan.assignments)
            if not verify(refit, plan.model_copy(update={"assignments": moved})):
                out.append(OpenedEarly(task, item.start, later.start, days, what))
                break
    return sorted(out, key=lambda one: (-one.days, one.task.id))[:MOST_TOLD]


def _until(refit: Refit, plan: Plan, task: Task) -> datetime | None:
    """When the first of what waits for a task begins; None where nothing does."""
    at = plan.by_task()
    starts = [
        at[link.then].start - timedelta(hours=link.min_lag)
        for link in refit.waits
        if link.first == task.id and link.kind is LinkKind.FS and link.then in at
    ]
    return min(starts, default=None)
