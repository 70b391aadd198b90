"""From when each task has its parts: what the planner is handed instead of the parts themselves."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime, timedelta

from rovask.core.readings.open_days import open_days
from rovask.core.readings.stock import Coming, Cover, InOrder, Stock, stocks
from rovask.core.refit.model import Part, Refit

FIT_CHECK = timedelta(minutes=30)
CHASED = timedelta(days=1)  # an overdue parcel is taken to come so much from now, until somebody says otherwise
FETCHED = timedelta(days=1)  # what lies elsewhere and nobody has planned to fetch

# By task and part: from when; None if it can be used already.
Ready = Mapping[tuple[str, str], datetime | None]


def ready_times(refit: Refit, now: datetime) -> dict[tuple[str, str], datetime | None]:
    """From when each task has each of its parts, as things stand at ``now``. What is done needs none any more."""
    found = stocks(refit)
    return {
        (task.id, key): _ready(refit, found[key], task.id, now) for task in refit.tasks.values() for key in task.parts
    }


def ready_at(refit: Refit, key: str, task: str, now: datetime, plan: InOrder | None = None) -> datetime | None:
    """When a part is at hand and tried for a task that still takes some of it, in the order of a plan; None if it already is."""
    return _ready(refit, stocks(refit, plan)[key], task, now)


def _ready(refit: Refit, stock: Stock, task: str, now: datetime) -> datetime | None:
    cover = stock.by_task.get(task)
    if cover is None:
        return None
    found = [comes(one, now) for one in cover.coming]
    if cover.untried:
        found.append(now)
    if cover.away and not is_fetched(refit, stock.part):
        found.append(now + FETCHED)
    if is_short(cover) and not is_fetched(refit, stock.part):
        found.append(open_days(refit, stock.part.supplier).after(now, stock.part.lead_days))
    if not found:
        return None
    return max(found) + (FIT_CHECK if stock.part.must_fit else timedelta(0))


def is_short(cover: Cover) -> bool:
    """Whether some of it is still to be ordered; of a part of which nobody said how much, whether there is none."""
    return cover.short > 0


def is_fetched(refit: Refit, part: Part) -> bool:
    """Whether a trip that isn't over yet brings it: then the tie to the trip says when it is here."""
    trip = refit.tasks.get(part.fetch or "")
    return trip is not None and trip.done_at is None


def comes(parcel: Coming, now: datetime) -> datetime:
    """When a parcel is taken to come: as expected; one that is overdue, or has no date, a day from now."""
    return parcel.at if parcel.at is not None and parcel.at > now else now + CHASED
