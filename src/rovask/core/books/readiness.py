"""From when each part can be used: what the planner is handed instead of the parts themselves."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime, timedelta

from rovask.core.refit.choices import PartStatus
from rovask.core.refit.model import Part, Refit

FIT_CHECK = timedelta(minutes=30)

# By part: from when; None if it can be used already.
Ready = Mapping[str, datetime | None]


def ready_times(refit: Refit, now: datetime) -> dict[str, datetime | None]:
    """From when each part can be used, as the parts stand at ``now``."""
    return {part.id: ready_at(part, now) for part in refit.parts}


def ready_at(part: Part, now: datetime) -> datetime | None:
    """When a part is aboard and tried for fit; None if it already is.

    A parcel that is overdue is assumed to come a day from now, until somebody says otherwise; one that
    isn't ordered yet is assumed to be ordered now.
    """
    if part.status is PartStatus.CHECKED:
        return None
    if part.status is PartStatus.ABOARD:
        return now + FIT_CHECK
    if part.status is PartStatus.NEEDED:
        return now + timedelta(days=part.lead_days) + FIT_CHECK
    arrives = part.arrives or now
    return (arrives if arrives > now else now + timedelta(days=1)) + FIT_CHECK
