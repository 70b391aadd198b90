"""Half-hours of a yard's clock: what plans lie on. Facts are kept to the second and lie on none.

The clocks of a few zones stand a quarter of an hour off everybody else's (Kathmandu, Chatham), so half-hours are counted
from where the zone's own begin.
"""

from __future__ import annotations

import math
from datetime import UTC, datetime, timedelta
from functools import lru_cache
from zoneinfo import ZoneInfo

HALF_HOUR, QUARTER = timedelta(minutes=30), timedelta(minutes=15)
_EPOCH = datetime(2000, 1, 1, tzinfo=UTC)


@lru_cache(maxsize=1024)
def beginning(zone: ZoneInfo) -> datetime:
    """The moment half-hours of a zone are counted from, in UTC: the first of the year 2000 on its own clock.

    The part of an hour by which a zone stands off has been the same for each since 1990 (a test asks every zone).

    >>> beginning(ZoneInfo("Asia/Kathmandu")).minute, beginning(ZoneInfo("Asia/Kolkata")).minute
    (15, 0)
    """
    offset = _EPOCH.astimezone(zone).utcoffset() or timedelta(0)
    return _EPOCH + (-offset) % HALF_HOUR


def number_of(moment: datetime, zone: ZoneInfo) -> int:
    """The half-hour a moment lies in."""
    return (moment - beginning(zone)) // HALF_HOUR


def floored(moment: datetime, zone: ZoneInfo) -> datetime:
    """The beginning of the half-hour a moment lies in."""
    return moment - (moment - beginning(zone)) % HALF_HOUR


def nearest(moment: datetime, zone: ZoneInfo) -> datetime:
    """The half-hour nearest to a moment; the later one from the middle on."""
    return floored(moment + HALF_HOUR / 2, zone)


def half_hours(hours: float) -> float:
    """Hours of work rounded up to the next half, at least one half.

    >>> half_hours(2.1), half_hours(0), half_hours(3), half_hours(12 * 0.7)
    (2.5, 0.5, 3.0, 8.5)
    """
    return max(math.ceil(round(hours * 2, 6)) / 2, 0.5)


def of_a_unit(hours: float) -> float:
    """Hours of work on one of several units, to the nearest three minutes and at least those: their sum is what is rounded up.

    >>> of_a_unit(0.7), of_a_unit(0.01), of_a_unit(1 / 3)
    (0.7, 0.05, 0.35)
    """
    return max(round(round(hours * 20) / 20, 2), 0.05)
