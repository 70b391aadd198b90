"""The client of a service for rates of exchange."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date
from typing import Annotated

from pydantic import BaseModel, Field

from rovask.core.plain.currency import is_currency
from rovask.core.refit.values import Rate
from rovask.desk.services.asking import Line, ServiceAway


class DayRates(BaseModel):
    """The rates of a day: units of the base for one of each, as decimal text."""

    base: str
    day: date
    worth: Annotated[dict[str, Rate], Field(max_length=400)]


def rates_of(line: Line, base: str, day: date) -> Mapping[str, str]:
    """What one unit of each currency was worth on a day. Raises Refused, ServiceAway."""
    found = line.ask(DayRates, "GET", "/v1/rates", params={"base": base, "day": day.isoformat()})
    if found.base != base or found.day != day:
        raise ServiceAway(f"{line.name}: it answered for {found.base} on {found.day}, not for {base} on {day}.")
    return {code: rate for code, rate in found.worth.items() if is_currency(code)}
