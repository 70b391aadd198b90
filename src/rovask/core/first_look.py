"""The first look: what a reading says, and by when each thing must be looked at."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from rovask.core.choices import Severity
from rovask.core.model import Inspection, Refit
from rovask.core.plan.result import Plan


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


def judged(inspection: Inspection, reading: float) -> Severity | None:
    """What a reading says by the inspection's limits; None when it has none.

    >>> one = Inspection(id="a", title="Play", good_to=1, bad_from=2)
    >>> [judged(one, mm) for mm in (0.5, 1.5, 2)] == [Severity.GOOD, Severity.WATCH, Severity.BAD]
    True
    """
    if inspection.bad_from is not None and reading >= inspection.bad_from:
        return Severity.BAD
    if inspection.good_to is not None:
        return Severity.GOOD if reading <= inspection.good_to else Severity.WATCH
    return None if inspection.bad_from is None else Severity.GOOD
