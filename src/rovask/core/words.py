"""Durations and moments in the sailor's words."""

from __future__ import annotations

from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

_DAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")
_MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")


def span(minutes: int) -> str:
    """A length of elapsed time in days and hours; minutes only under a day.

    >>> span(51 * 60), span(90), span(-30), span(0)
    ('2 d 3 h', '1 h 30 min', '-30 min', '0 h')
    """
    sign, minutes = ("-" if minutes < 0 else ""), abs(minutes)
    days, rest = divmod(minutes, 24 * 60)
    hours, minutes = divmod(rest, 60)
    words = [f"{days} d"] if days else []
    words += [f"{hours} h"] if hours else []
    words += [f"{minutes} min"] if minutes and not days else []
    return sign + (" ".join(words) or "0 h")


def minutes_of(length: timedelta) -> int:
    """Whole minutes of a length of time."""
    return round(length.total_seconds() / 60)


def day_and_time(moment: datetime, zone: ZoneInfo) -> str:
    """A moment on the yard's clock, like ``Thu 14 May 10:30``."""
    local = moment.astimezone(zone)
    return f"{_DAYS[local.weekday()]} {local.day} {_MONTHS[local.month - 1]} {local:%H:%M}"


def day(moment: datetime, zone: ZoneInfo) -> str:
    """A moment's day on the yard's clock, like ``Thu 14 May``."""
    return day_and_time(moment, zone)[:-6]


def money(minor: int, currency: str) -> str:
    """An amount in minor units, with thin spaces between thousands and no cents when there are none.

    >>> money(1234500, "EUR")
    '12\u202f345 EUR'
    """
    whole, cents = divmod(abs(minor), 100)
    text = f"{whole:,}".replace(",", "\u202f") + (f".{cents:02d}" if cents else "")
    return f"{'-' if minor < 0 else ''}{text} {currency}"
