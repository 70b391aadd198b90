"""The first look: what a reading says, and by when each thing must be looked at."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from rovask.core.plan.result import Plan
from rovask.core.refit.model import Inspection, Refit


@dataclass(frozen=True, slots=True)
class LookBy:
    """A thing to look at with its inspect-by moment.

    by: launch, less the repair it may reveal, less the lead time of the part for it. planned: when the plan's task
    with it ends; None without one. late: not looked at, and the day is past or planned past it.
    """

    inspection: Inspection
    by: datetime
    planned: datetime | None
    late: bool


def inspect_by(refit: Refit, inspection: Inspection) -> datetime:
    """The last moment to look and still have the launch."""
    return refit.launch_at - timedelta(hours=inspection.repair_hours) - timedelta(days=inspection.lead_days)


def looks(refit: Refit, plan: Plan) -> list[LookBy]:
    """Every thing to look at, in walking order as the refit has them."""
    at = plan.by_task()
    out = []
    for one in refit.inspections:
        by = inspect_by(refit, one)
        planned = at[one.task].end if one.task in at else None
        late = one.verdict is None and (by < plan.now or (planned is not None and planned > by))
        out.append(LookBy(one, by, planned, late))
    return out


def most_pressing(rows: list[LookBy]) -> LookBy | None:
    """The thing not looked at yet whose day comes first."""
    return min((row for row in rows if row.inspection.verdict is None), key=lambda row: row.by, default=None)
