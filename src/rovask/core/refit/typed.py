"""What is typed, as values: one parser for each kind, with bounds that make sense for the trade.

All that comes in by form, query, path or command line is read here; what can't be taken raises ValueError with a
sentence that follows what was typed: “12x” *is not a number*. Nothing here ever raises anything else.
"""

from __future__ import annotations

import re
import unicodedata
from contextlib import suppress
from datetime import UTC, date, datetime, timedelta
from decimal import Decimal, InvalidOperation
from zoneinfo import ZoneInfo

from rovask.core.plain.currency import exponent
from rovask.core.refit.values import FIRST_DAY, LAST_DAY, MOST_MINOR

MOST_WHOLE = 2**31 - 1
MIDDAY = 12
MOST_NUMBER = 1e9
_WHOLE = re.compile(r"[+-]?[0-9]{1,10}")
_NUMBER = re.compile(r"[+-]?[0-9]{1,12}(\.[0-9]{1,12})?|[+-]?\.[0-9]{1,12}")
_GROUPED = re.compile(
    r"[+-]?[0-9]{1,3}(?:,[0-9]{3})+\.[0-9]+|[+-]?[0-9]{1,3}(?:\.[0-9]{3})+,[0-9]+|[+-]?[0-9]{1,3}(?:([.,])[0-9]{3})(?:\1[0-9]{3})+"
)
_THREE = re.compile(r"[+-]?[1-9][0-9]{0,2}([.,])[0-9]{3}")  # a thousand's sign, or three decimals
_KEY = re.compile(r"[a-z0-9][a-z0-9_-]{0,39}")
_ISO = re.compile(r"([0-9]{4})-([0-9]{1,2})-([0-9]{1,2})")
_DAY_FIRST = re.compile(r"([0-9]{1,2})[./ -]\s*([0-9]{1,2})[./ -]\s*([0-9]{4})")
_NAMED = re.compile(r"(?:[A-Za-z]{2,9}\.?,?\s+)?([0-9]{1,2})\.?\s*([A-Za-z]{3})[a-z]*\.?\s*([0-9]{4})")
_NO_YEAR = re.compile(r"([0-9]{1,2})[./]\s*([0-9]{1,2})\.?")
_NAMED_NO_YEAR = re.compile(r"(?:[A-Za-z]{2,9}\.?,?\s+)?([0-9]{1,2})\.?\s*([A-Za-z]{3})[a-z]*\.?")
_MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
_CLOCK = re.compile(r"(.*[0-9A-Za-z.])(?:T|,?\s+)([0-9]{1,2})[:.h]([0-9]{2})(?::00)?")


def has_control_signs(text: str) -> bool:
    """Whether a text holds what neither a page nor the database can keep: NUL and the like, halves of letters."""
    return any(unicodedata.category(sign) in ("Cc", "Cs") and sign not in "\n\r\t" for sign in text)


def plain(text: str, most: int = 4000) -> str:
    """A text without blanks around it. Raises ValueError for control signs and what is too long."""
    text = text.strip()
    if has_control_signs(text):
        raise ValueError("holds signs that can't be kept; type it again")
    if len(text) > most:
        raise ValueError(f"has {len(text)} signs; at most {most} are kept")
    return text


def key(text: str) -> str:
    """The id of a record. Raises ValueError."""
    if not _KEY.fullmatch(text):
        raise ValueError("names nothing here")
    return text


def whole(text: str, least: int = -MOST_WHOLE, most: int = MOST_WHOLE) -> int:
    """A whole number written with plain digits.

    >>> whole(" 12 ")
    12
    """
    text = text.strip()
    if not text:
        raise ValueError("is missing")
    if not _WHOLE.fullmatch(text) or not least <= int(text) <= most:
        between = "" if (least, most) == (-MOST_WHOLE, MOST_WHOLE) else f" from {least} to {most}"
        raise ValueError(f"“{_short(text)}” is not a whole number{between}")
    return int(text)


def _with_point(text: str) -> str:
    """A number without blanks and, where it can be meant in one way only, without the signs between its thousands.

    >>> _with_point("1 234,5"), _with_point("1.234,50"), _with_point("1,234,567"), _with_point("1,250")
    ('1234.5', '1234.50', '1234567', '1.250')
    """
    typed = re.sub(r"[\s\u202f\u00a0']", "", text)
    if _GROUPED.fullmatch(typed):
        decimal = max(typed.rfind("."), typed.rfind(","))
        one_sign = typed.count(typed[decimal]) > 1
        whole_part, part = (typed, "") if one_sign else (typed[:decimal], typed[decimal + 1 :])
        return whole_part.replace(".", "").replace(",", "") + (f".{part}" if part else "")
    return typed.replace(",", ".")


def number(text: str, least: float = -MOST_NUMBER, most: float = MOST_NUMBER) -> float:
    """A number with a decimal point or comma; whole ones come back as int, so that they read so. A comma before just three figures is
    refused: it may be a thousand's. With a point they are decimals, as the pages themselves write them.

    >>> number("2,5"), number("4.0"), number("6.125"), number("0,125")
    (2.5, 4, 6.125, 0.125)
    """
    typed = _with_point(text)
    if not typed:
        raise ValueError("is missing")
    if (three := _THREE.fullmatch(text.strip())) and three.group(1) == ",":
        thousands = typed.replace(".", "")
        raise ValueError(f"“{_short(text)}” may be {thousands} or {float(typed):g}: write which, without a comma")
    if not _NUMBER.fullmatch(typed):
        raise ValueError(f"“{_short(text)}” is not a number")
    value = float(typed)
    if not least <= value <= most:
        raise ValueError(f"“{_short(text)}” is not between {least:g} and {most:g}")
    return int(value) if value == int(value) else value


def hours(text: str, most: float = 24) -> float:
    """Hours of work: half an hour up to ``most``, in halves."""
    try:
        value = number(text, 0.5, most)
    except ValueError:
        value = -1
    if value < 0 or value * 2 != round(value * 2):
        raise ValueError(f"“{_short(text)}” is no number of hours: 0.5 to {most:g}, in halves")
    return value


def share(text: str) -> float:
    """A chance, in per cent or as a share of one; a number above one can only be meant in per cent.

    >>> share("0.2"), share("20 %"), share("50")
    (0.2, 0.2, 0.5)
    """
    typed = text.strip()
    if typed.endswith("%"):
        return number(typed[:-1], 0, 100) / 100
    value = number(typed, 0, 100)
    return value / 100 if value > 1 else value


def share_text(value: float) -> str:
    """A chance as it is typed: in per cent.

    >>> share_text(0.2), share_text(0.125)
    ('20 %', '12.5 %')
    """
    return f"{value * 100:.6g} %"


def minor(text: str, currency: str, *, negative: bool = False) -> int:
    """Minor units of an amount typed with a point or comma, in a currency. More decimals than it has are refused, zeros too: 6.000 is
    six thousand to some.

    >>> minor("1 234,50", "EUR"), minor("1.234,50", "EUR"), minor("5000", "JPY"), minor("1.5", "KWD")
    (123450, 123450, 5000, 1500)
    """
    typed = _with_point(text)
    digits = exponent(currency)
    example = "1234" if digits == 0 else "1234." + "5".ljust(digits, "0")
    try:
        if not _NUMBER.fullmatch(typed):
            raise InvalidOperation
        scaled = Decimal(typed).scaleb(digits)
    except InvalidOperation:
        raise ValueError(f"“{_short(text)}” is not an amount; write it like {example}") from None
    if len(typed.partition(".")[2]) > digits:
        decimals = "no decimals" if digits == 0 else f"{digits} decimals"
        thousands = f"; write {typed.replace('.', '')} if that is meant" if _THREE.fullmatch(text.strip()) else ""
        raise ValueError(f"“{_short(text)}” is finer than {currency} goes: {decimals}{thousands}")
    if abs(scaled) > MOST_MINOR:
        raise ValueError(f"“{_short(text)}” is more than can be kept")
    if scaled < 0 and not negative:
        raise ValueError(f"“{_short(text)}” is less than nothing")
    return int(scaled)


def minor_text(value: int, currency: str) -> str:
    """Minor units as typed: ``123.40``, or ``123`` without cents; what ``minor`` reads back."""
    amount = Decimal(value).scaleb(-exponent(currency))
    return str(int(amount)) if amount == amount.to_integral_value() else f"{amount:f}"


def rate(text: str) -> Decimal:
    """A rate of exchange: more than nothing, below a million."""
    try:
        value = number(text.replace(",", "."), 0, 1e6)  # 1,085 is no thousand of anything
    except ValueError:
        value = 0
    if value <= 0:
        raise ValueError(f"“{_short(text)}” is not a rate; write what one unit is worth, like 1.08")
    return Decimal(str(value))


def day(text: str, near: date | None = None) -> date:
    """A day of the calendar, 1990 to 2100, day first: 27.5.2026, 27/5/2026, 27 May 2026, or 2026-05-27.

    near: a day by which one without a year is read: the nearest there is.

    >>> day("27.5.2026") == day("27 May 2026") == day("2026-05-27") == date(2026, 5, 27)
    True
    >>> day("14.5.", date(2026, 5, 12)) == day("Thu 14 May", date(2026, 5, 12)) == date(2026, 5, 14)
    True
    >>> day("3.1.", date(2026, 12, 20))
    datetime.date(2027, 1, 3)
    """
    text = text.strip()
    if match := _CLOCK.fullmatch(text):  # a date with a time is read where only the date is wanted
        text = match.group(1).strip()
    if near is not None and (found := _without_year(text, near)) is not None:
        return found
    try:
        if match := _ISO.fullmatch(text):
            found = date(int(match[1]), int(match[2]), int(match[3]))
        elif match := _DAY_FIRST.fullmatch(text):
            found = date(int(match[3]), int(match[2]), int(match[1]))
        elif (match := _NAMED.fullmatch(text)) and match[2].lower() in _MONTHS:
            found = date(int(match[3]), _MONTHS.index(match[2].lower()) + 1, int(match[1]))
        else:
            raise ValueError
    except ValueError:
        raise ValueError(f"“{_short(text)}” is not a day of the calendar; write it like 27 May 2026") from None
    if not FIRST_DAY <= found <= LAST_DAY:
        raise ValueError(f"“{_short(text)}” lies before {FIRST_DAY.year} or after {LAST_DAY.year}")
    return found


def _without_year(text: str, near: date) -> date | None:
    """The day nearest to another one that is written without its year; None for what isn't."""
    if match := _NO_YEAR.fullmatch(text):
        number, month = int(match[1]), int(match[2])
    elif (match := _NAMED_NO_YEAR.fullmatch(text)) and match[2].lower() in _MONTHS:
        number, month = int(match[1]), _MONTHS.index(match[2].lower()) + 1
    else:
        return None
    days = []
    for year in (near.year - 1, near.year, near.year + 1):
        with suppress(ValueError):  # the 29th of February is not of every year
            days.append(date(year, month, number))
    return min(days, key=lambda one: abs((one - near).days), default=None)


def moment(text: str, zone: ZoneInfo, near: date | None = None) -> datetime:
    """The moment of a local date and time, midday where only a day is said; an hour that the clock skips does not exist.

    near: as ``day``.
    """
    if not text.strip():
        raise ValueError("is missing")
    match = _CLOCK.fullmatch(text.strip())
    if match:
        the_day, hour, minute = day(match.group(1), near), int(match.group(2)), int(match.group(3))
    else:
        try:  # a day alone is its middle
            the_day, hour, minute = day(text, near), MIDDAY, 0
        except ValueError:
            raise ValueError(f"“{_short(text)}” is not a date and time; write it like 27 May 2026 14:30") from None
    if hour > 23 or minute > 59:
        raise ValueError(f"“{_short(text)}” is not a time of day")
    local = datetime(the_day.year, the_day.month, the_day.day, hour, minute, tzinfo=zone)
    found = local.astimezone(UTC)
    if found.astimezone(zone).replace(tzinfo=None) != local.replace(tzinfo=None):
        raise ValueError("does not exist: the clocks go forward over it")
    return found


def aware(text: str) -> datetime:
    """A moment with its offset, as machines write it."""
    try:
        found = datetime.fromisoformat(text.strip())
        if found.tzinfo is None:
            raise ValueError
        found = found.astimezone(UTC)
    except (ValueError, OverflowError):
        raise ValueError(f"“{_short(text)}” is not a time on any clock") from None
    if not FIRST_DAY <= found.date() <= LAST_DAY:
        raise ValueError(f"“{_short(text)}” lies before {FIRST_DAY.year} or after {LAST_DAY.year}")
    return found


def near_day(the_day: date, days: int) -> date:
    """A day some days on, held within the calendar we keep.

    >>> from datetime import date
    >>> near_day(date(2100, 12, 31), 1)
    datetime.date(2100, 12, 31)
    """
    return min(max(the_day + timedelta(days=days), FIRST_DAY), LAST_DAY)


def shown_name(name: str, most: int = 60) -> str:
    """The name of a file as it can be told: without a path, and without what can't be shown.

    >>> shown_name("C:\\\\boats\\\\mine\\x00.json")
    'mine.json'
    """
    last = name.replace("\\", "/").rpartition("/")[2]
    return "".join(sign for sign in last if sign.isprintable())[:most] or "a file"


def _short(text: str) -> str:
    """What was typed, short enough for a sentence and without what can't be shown."""
    shown = "".join(sign for sign in text.strip() if sign.isprintable())
    return shown if len(shown) <= 40 else shown[:39] + "…"
