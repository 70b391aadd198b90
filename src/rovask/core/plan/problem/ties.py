"""Every tie of a refit as the planner takes it: the sailor's links, and what containment and outages imply.

Lags are in slots; those of a link that cures in CURE_UNIT parts of a slot at 20 °C (lags.py).
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta

from rovask.core.plain.half_hours import HALF_HOUR
from rovask.core.plan.problem.calendar import slots_of
from rovask.core.plan.problem.lags import CURE_CLOCK, CURE_UNIT, PLAIN, YARD_CLOCK
from rovask.core.readings.ashore import adds_outage
from rovask.core.readings.closes import closings, days_in_words
from rovask.core.readings.trade_order import trade_orders
from rovask.core.refit.model import Appointment, Link, Refit
from rovask.core.refit.work.choices import LinkKind
from rovask.core.refit.work.kinds import HAUL, LAUNCH

ANY_TIME = -(1 << 20)  # slots before anything; arrays.FOREVER, the other way


@dataclass(frozen=True, slots=True)
class Tie:
    """``then``'s start or end lies at least ``low`` and at most ``high`` (None: no limit) slots after ``first``'s.

    link: id of the link it comes from, "" for an implied one. cures: its lags are counted on the cure clock; in_days: its
    least wait is counted in the yard's working days. soft: who is left out takes nobody along by it. fixed: the appointment that a link is tied to, which stands at so many slots from the haul-out.
    """

    first: str
    then: str
    kind: LinkKind
    low: int
    high: int | None = None
    reason: str = ""
    link: str = ""
    cures: bool = False
    fixed: str = ""
    in_days: bool = False
    soft: bool = False

    @property
    def clock(self) -> int:
        """What its lags are counted on, as lags.py names it."""
        return CURE_CLOCK if self.cures else YARD_CLOCK if self.in_days else PLAIN


def ties_of(refit: Refit) -> list[Tie]:
    """Every tie, in the order of the refit; implied ones last. O(links + tasks)."""
    out: list[Tie] = []
    fixed = {one.id: one for one in refit.appointments if one.id not in refit.tasks}
    for link in refit.waits:
        if link.first in fixed or link.then in fixed:
            out += _at_fixed_time(refit, link, fixed)
            continue
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
            out_of = [service for service in adds_outage(refit, task) if service in limits]
            hours = min((limits[service] for service in out_of), default=None)
            if hours is not None and task.begun_at is None:
                names = " and ".join(service.value for service in out_of)
                why = f"never more than {hours:g} h without {names}"
                out.append(Tie(task.id, task.until, LinkKind.SF, 0, slots_of(hours), why))
    out += [Tie(one.first, one.then, LinkKind.FS, 0, reason=one.why, soft=True) for one in trade_orders(refit)]
    return out


def margin_ties(refit: Refit) -> dict[str, Tie]:
    """For each task that is to be over in good time before the slings, that wait; its other end is the lift or the launch."""
    return {
        key: Tie(
            key, LAUNCH, LinkKind.FS, round(one.days * CURE_UNIT),
            reason=f"{one.what.value}: closed and proved {days_in_words(one.days)} before the slings", in_days=True,
        )
        for key, one in closings(refit).items()
    }  # fmt: skip


def _at_fixed_time(refit: Refit, link: Link, fixed: dict[str, Appointment]) -> Iterator[Tie]:
    """A tie with an appointment at one end: bounds on the task's event, counted from the haul-out."""
    before = link.first in fixed
    task, meeting = (link.then, fixed[link.first]) if before else (link.first, fixed[link.then])
    if task not in refit.tasks:
        return
    mine_ends = link.kind in ((LinkKind.FF, LinkKind.SF) if before else (LinkKind.FS, LinkKind.FF))
    its_end = link.kind in ((LinkKind.FS, LinkKind.FF) if before else (LinkKind.FF, LinkKind.SF))
    moment = meeting.at + timedelta(hours=meeting.hours) if its_end else meeting.at
    least = timedelta(hours=link.min_lag)
    most = None if link.max_lag is None else timedelta(hours=link.max_lag)
    earliest: datetime | None = moment + least
    latest: datetime | None = None if most is None else moment + most
    if not before:
        earliest, latest = None if most is None else moment - most, moment - least
    low = ANY_TIME if earliest is None else math.ceil(_from_haul(refit, earliest))
    high = None if latest is None else math.floor(_from_haul(refit, latest))
    kind = LinkKind.FF if mine_ends else LinkKind.FS
    if high is None or high >= 0:
        yield Tie(HAUL, task, kind, low, high, link.reason, link.id, fixed=meeting.id)
        return
    if earliest is not None:
        yield Tie(HAUL, task, kind, low, None, link.reason, link.id, fixed=meeting.id)
    yield Tie(
        task, HAUL, LinkKind.FS if mine_ends else LinkKind.SS, -high, None, link.reason, link.id, fixed=meeting.id
    )


def _from_haul(refit: Refit, moment: datetime) -> float:
    """Slots from the haul-out to a moment."""
    return (moment - refit.haul_at) / HALF_HOUR
