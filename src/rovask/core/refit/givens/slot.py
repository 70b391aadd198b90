"""When she stands ashore, and when a yard launches: what both planner and verifier, and the pages, ask of the givens."""

from __future__ import annotations

from datetime import datetime, timedelta

from rovask.core.plain.half_hours import HALF_HOUR
from rovask.core.refit.model import Refit
from rovask.core.refit.work.choices import State

MOST_DAYS = 60


LONG_AGO = timedelta(days=60)


def date_doubts(refit: Refit, now: datetime) -> dict[str, str]:
    """What speaks against the dates of a refit that is about to be kept, by field: a slip of the pen more often than meant."""
    out, zone = {}, refit.yard.zone
    if refit.launch_at <= refit.haul_at:
        return {}  # no doubt: it can't be, and is told as that
    if refit.launch_at < now:
        out["launch_at"] = f"lies in the past, {refit.launch_at.astimezone(zone):%a %-d %b %Y}"
    if refit.haul_at < now - LONG_AGO:
        out["haul_at"] = f"was {(now - refit.haul_at).days} days ago, {refit.haul_at.astimezone(zone):%a %-d %b %Y}"
    return out


def ashore_from(refit: Refit) -> datetime:
    """From when work under her may begin as far as the yard's givens go: lifted and blocked.

    Where tasks of the refit are the lifting and blocking themselves (State.LIFTING) they say it better, and this is
    the haul-out.
    """
    if any(task.state is State.LIFTING for task in refit.tasks.values()):
        return refit.haul_at
    return refit.haul_at + timedelta(hours=refit.yard.lift_hours + refit.yard.block_hours)


def yard_launches(refit: Refit, moment: datetime) -> bool:
    """Whether a launch may happen at ``moment``: in the yard's hours, their last minute included, on an open day.

    A yard without hours launches at any time.
    """
    local = moment.astimezone(refit.yard.zone)
    if any(span.first <= local.date() <= span.last for span in refit.yard.closed):
        return False
    if not refit.yard.hours:
        return True
    return any(
        local.weekday() in {day.number for day in shift.days} and shift.holds(local.time())
        for shift in refit.yard.hours
    )


def nearest_launches(refit: Refit, moment: datetime) -> tuple[datetime | None, datetime | None]:
    """The last half-hour before ``moment`` at which the yard launches, and the first one after it."""
    found = []
    for step in (-HALF_HOUR, HALF_HOUR):
        at: datetime | None = moment + step
        for _ in range(MOST_DAYS * 48):
            if at is None or yard_launches(refit, at):
                break
            at += step
        else:
            at = None
        found.append(at)
    return found[0], found[1]
