"""Every tie of a refit as the planner takes it: the sailor's links, and what containment and outages imply.

Lags are in slots; those of a link that cures in CURE_UNIT parts of a slot at 20 °C (lags.py).
"""

from __future__ import annotations

from dataclasses import dataclass

from rovask.core.plan.problem.calendar import slots_of
from rovask.core.plan.problem.lags import CURE_UNIT
from rovask.core.refit.choices import LinkKind
from rovask.core.refit.model import Refit


@dataclass(frozen=True, slots=True)
class Tie:
    """``then``'s start or end lies at least ``low`` and at most ``high`` (None: no limit) slots after ``first``'s.

    link: id of the link it comes from, "" for an implied one. cures: its lags are counted on the cure clock.
    """

    first: str
    then: str
    kind: LinkKind
    low: int
    high: int | None = None
    reason: str = ""
    link: str = ""
    cures: bool = False


def ties_of(refit: Refit) -> list[Tie]:
    """Every tie, in the order of the refit; implied ones last. O(links + tasks)."""
    out = []
    for link in refit.waits:
        unit = CURE_UNIT if link.cures else 1
        out.append(
            Tie(
                link.first,
                link.then,
                link.kind,
                slots_of(link.min_lag) * unit,
                None if link.max_lag is None else slots_of(link.max_lag) * unit,
                link.reason,
                link.id,
                link.cures,
            )
        )
    limits = {limit.service: limit.hours for limit in refit.outage_limits}
    for task in refit.tasks.values():
        if task.contained_by:
            out.append(Tie(task.contained_by, task.id, LinkKind.FS, 0, reason="what contains it must be up"))
        if task.until:
            out.append(Tie(task.id, task.until, LinkKind.FS, 0, reason="what it takes out is given back"))
            hours = min((limits[service] for service in task.takes_out if service in limits), default=None)
            if hours is not None and task.begun_at is None:
                names = " and ".join(service.value for service in task.takes_out if service in limits)
                why = f"never more than {hours:g} h without {names}"
                out.append(Tie(task.id, task.until, LinkKind.SF, 0, slots_of(hours), why))
    return out
