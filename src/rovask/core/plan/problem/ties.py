"""Every tie of a refit as the planner takes it: the sailor's links, and what containment and outages imply.

Lags are in slots. A link that cures has its lags at the plan's cure temperature (core.weather).
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from rovask.core.plan.problem.calendar import slots_of
from rovask.core.refit.choices import LinkKind
from rovask.core.refit.model import Link, Refit
from rovask.core.refit.weather import cure_temperature, lag_at


@dataclass(frozen=True, slots=True)
class Tie:
    """``then``'s start or end lies at least ``low`` and at most ``high`` (None: no limit) slots after ``first``'s.

    link: id of the link it comes from, "" for an implied one. make_good: slots added to ``then`` when high is missed.
    """

    first: str
    then: str
    kind: LinkKind
    low: int
    high: int | None = None
    reason: str = ""
    link: str = ""
    make_good: int = 0


def lags_of(link: Link, temperature: float) -> tuple[float, float | None]:
    """The least and the longest wait of a link in hours, at a temperature (°C) if it is a cure."""
    if not link.cures:
        return link.min_lag, link.max_lag
    low = lag_at(link.min_lag, temperature)
    high = None if link.max_lag is None else max(lag_at(link.max_lag, temperature, longest=True), low)
    return low, high


def ties_of(refit: Refit, now: datetime) -> list[Tie]:
    """Every tie, in the order of the refit; implied ones last. O(links + tasks)."""
    temperature = cure_temperature(refit.weather, now, refit.launch_at)
    out = []
    for link in refit.links:
        low, high = lags_of(link, temperature)
        out.append(
            Tie(
                link.first,
                link.then,
                link.kind,
                slots_of(low),
                None if high is None else slots_of(high),
                link.reason,
                link.id,
                slots_of(link.make_good_hours or 0),
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
