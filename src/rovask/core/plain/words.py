"""Durations, moments, numbers and money in the sailor's words; months, digits and currencies as Babel's data have them."""

from __future__ import annotations

from datetime import date, datetime, time, timedelta
from functools import lru_cache
from zoneinfo import ZoneInfo

from babel.dates import format_date, format_time
from babel.numbers import format_decimal

from rovask.core.plain.currency import exponent
from rovask.core.plain.money import Money

LOCALE = "en_GB"
_THIN = "\u202f"


def span(minutes: int) -> str:
    """A length of elapsed time in days, hours and minutes, none of them cut.

    >>> span(51 * 60), span(90), span(-30), span(0), span(51 * 60 + 30)
    ('2 d 3 h', '1 h 30 min', '-30 min', '0 h', '2 d 3 h 30 min')
    """
    sign, minutes = ("-" if minutes < 0 else ""), abs(minutes)
    days, rest = divmod(minutes, 24 * 60)
    hours, minutes = divmod(rest, 60)
    words = [f"{days} d"] if days else []
    words += [f"{hours} h"] if hours else []
    words += [f"{minutes} min"] if minutes else []
    return sign + (" ".join(words) or "0 h")


def minutes_of(length: timedelta) -> int:
    """Whole minutes of a length of time."""
    return round(length.total_seconds() / 60)


def count(number: int, word: str, plural: str = "") -> str:
    """How many of something.

    >>> count(1, "job"), count(3, "job"), count(0, "entry", "entries")
    ('1 job', '3 jobs', '0 entries')
    """
    return f"{number} {word if number == 1 else plural or word + 's'}"


LINE = 160  # signs that still read as one line


def shortened(text: str, most: int = LINE) -> tuple[str, str]:
    """A text as one line and the rest, cut after a sentence where one ends in time, else between words.

    >>> shortened("Wear a mask. Air the bilge. Then wait outside for an hour.", 40)
    ('Wear a mask. Air the bilge.', 'Then wait outside for an hour.')
    >>> shortened("Short enough.")
    ('Short enough.', '')
    """
    text = text.strip()
    if len(text) <= most and "\n" not in text:
        return text, ""
    line = text[: most + 1].partition("\n")[0]
    if len(line) == len(text.partition("\n")[0]):
        cut = len(line)
    else:
        ends = [line.rfind(mark) + 1 for mark in (". ", "! ", "? ", "; ")]
        cut = max(ends) or line.rfind(" ")
    return text[: max(cut, 1)].strip(), text[max(cut, 1) :].strip()


def day_and_time(moment: datetime, zone: ZoneInfo) -> str:
    """A moment on the yard's clock, like ``Thu 14 May 10:30``."""
    local = moment.astimezone(zone)
    return f"{_date(local.date(), 'EEE d MMM')} {_time(local.hour, local.minute)}"


def day(moment: datetime | date, zone: ZoneInfo) -> str:
    """A moment's day on the yard's clock, or a day, like ``Thu 14 May``."""
    return _date(moment.astimezone(zone).date() if isinstance(moment, datetime) else moment, "EEE d MMM")


@lru_cache(maxsize=2000)
def _date(the_day: date, pattern: str) -> str:
    return str(format_date(the_day, pattern, locale=LOCALE)).replace("Sept", "Sep")


@lru_cache(maxsize=1440)
def _time(hour: int, minute: int) -> str:
    return str(format_time(time(hour, minute), "HH:mm", locale=LOCALE))


def money(amount: Money | int, currency: str = "", *, whole: bool = False) -> str:
    """An amount with thin spaces between thousands, in as many decimals as its currency has, none when they are nought.

    amount: Money, or minor units with their ``currency``. whole: to the nearest unit, for where room is short.

    >>> money(1234500, "EUR"), money(5000, "JPY"), money(1234, "KWD")
    ('12\u202f345 EUR', '5\u202f000 JPY', '1.234 KWD')
    """
    if not isinstance(amount, Money):
        amount = Money(amount, currency)
    return _money(amount.minor, amount.currency, whole)


@lru_cache(maxsize=4000)
def _money(minor: int, currency: str, whole: bool) -> str:
    amount = Money(minor, currency).amount
    digits = exponent(currency)
    pattern = "#,##0" if whole or amount == amount.to_integral_value() or not digits else "#,##0." + "0" * digits
    text = str(format_decimal(amount, pattern, locale=LOCALE)).replace(",", _THIN)
    return f"{text.replace(chr(0x2212), '-')} {currency}"
