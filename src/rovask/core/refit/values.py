"""The kinds of value a refit is made of, and the base of everything in it.

Units: hours are multiples of half an hour; an amount is an integer in minor units of the refit's currency (``Minor``);
moments are aware and kept in UTC; dates and shift times are the yard's local ones. Everything has bounds that make
sense for the trade: no refit lies before 1990 or after 2100.

What is agreed or paid in another currency keeps its own amount (``OwnMinor``), its currency, and the rate of its day
(``Rate``: so many units of the refit's currency for one of its own), so that nothing is ever priced anew.
"""

from __future__ import annotations

from datetime import UTC, date, datetime, time
from decimal import Decimal
from functools import cached_property
from typing import Annotated, Self
from zoneinfo import ZoneInfo

from pydantic import AfterValidator, AwareDatetime, BaseModel, ConfigDict, Field, StringConstraints

from rovask.core.plain.currency import known_currency
from rovask.core.plain.derived import Derived

FIRST_DAY, LAST_DAY = date(1990, 1, 1), date(2100, 12, 31)
MOST_MINOR = 10**12
IN_CURRENCY = "in minor units of the refit's currency"  # the mark of every field that holds an amount
IN_OWN = "in minor units of the record's own currency"
TO_REFIT = "units of the refit's currency for one of the record's own"


def _in_bounds(moment: datetime) -> datetime:
    if not FIRST_DAY.year <= moment.year <= LAST_DAY.year:
        raise ValueError(f"must lie between {FIRST_DAY.year} and {LAST_DAY.year}")
    return moment.astimezone(UTC)


def _clean(text: str) -> str:
    """Refuse control characters: PostgreSQL can't keep NUL, and nothing on a page needs the rest."""
    if any(ord(sign) < 32 and sign not in "\n\t" for sign in text):
        raise ValueError("holds control characters; type the text again")
    return text


def _time_zone(name: str) -> str:
    try:
        ZoneInfo(name)
    except (KeyError, ValueError, OSError):
        raise ValueError(f"{name!r} is not a time zone; write it like Atlantic/Azores") from None
    return name


def _half_hour(value: time) -> time:
    if value.minute not in (0, 30) or value.second or value.microsecond or value.tzinfo:
        raise ValueError("must lie on a full or half hour, without a zone")
    return value


def _rate(text: str) -> str:
    rate = Decimal(text)
    if not rate:
        raise ValueError("a rate of nought would make it cost nothing; type what one unit is worth")
    plain = f"{rate:f}"
    return plain.rstrip("0").rstrip(".") if "." in plain else plain


Line = Annotated[str, StringConstraints(min_length=1, max_length=120, strip_whitespace=True), AfterValidator(_clean)]
Text = Annotated[str, StringConstraints(max_length=4000), AfterValidator(_clean)]
Key = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9_-]{0,39}$")]
Skill = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z -]{0,39}$")]
WorkHours = Annotated[
    float, Field(strict=True, ge=0, le=2000, multiple_of=0.05, allow_inf_nan=False)
]  # of one unit: three minutes are the least; what many units come to is rounded up to the half-hour, not each
Hours = Annotated[float, Field(strict=True, ge=0, le=2000, multiple_of=0.5, allow_inf_nan=False)]
Minor = Annotated[int, Field(strict=True, ge=0, le=MOST_MINOR), IN_CURRENCY]
OwnMinor = Annotated[int, Field(strict=True, ge=0, le=MOST_MINOR), IN_OWN]
Rate = Annotated[str, StringConstraints(pattern=r"^[0-9]{1,9}(\.[0-9]{1,24})?$"), AfterValidator(_rate), TO_REFIT]
Currency = Annotated[str, StringConstraints(pattern=r"^[A-Z]{3}$"), AfterValidator(known_currency)]
Amount = Annotated[float, Field(strict=True, gt=0, le=1e6, allow_inf_nan=False)]
Moment = Annotated[AwareDatetime, AfterValidator(_in_bounds)]
Day = Annotated[date, Field(ge=FIRST_DAY, le=LAST_DAY)]
HalfHour = Annotated[time, AfterValidator(_half_hour)]
TimeZone = Annotated[str, AfterValidator(_time_zone)]
Metres = Annotated[float, Field(strict=True, gt=0, le=100, allow_inf_nan=False)]

Celsius = Annotated[float, Field(strict=True, ge=-40, le=60, allow_inf_nan=False)]
MetresPerSecond = Annotated[float, Field(strict=True, ge=0, le=80, allow_inf_nan=False)]
Percent = Annotated[float, Field(strict=True, ge=0, le=100, allow_inf_nan=False)]


def short(length: int) -> StringConstraints:
    """Text of at most ``length`` signs, empty allowed."""
    return StringConstraints(max_length=length)


Remark = Annotated[str, short(200), AfterValidator(_clean)]
Unit = Annotated[str, short(20), AfterValidator(_clean)]
Label = Annotated[str, short(120), AfterValidator(_clean)]


class Frozen(BaseModel):
    """Base of everything in a refit: immutable, strict about unknown fields."""

    model_config = ConfigDict(frozen=True, extra="forbid", ser_json_inf_nan="null")

    @cached_property
    def derived(self) -> Derived:
        """What was worked out of it."""
        return Derived()

    def __copy__(self) -> Self:
        """A copy, soon with other fields, has nothing of what was worked out of the first."""
        copied = super().__copy__()
        fields = type(self).model_fields
        for name in [name for name in copied.__dict__ if name not in fields]:
            del copied.__dict__[name]
        return copied
