"""What the months of a haul-out are like: weather, daylight, and the storm season of the coast as the sailor typed it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from rovask.core.odds.climate import climate_of
from rovask.core.plain.words import count, day
from rovask.core.refit.givens.weather import daylight
from rovask.core.refit.model import ProposedWay, Refit
from rovask.core.refit.ways.choices import ActSort

ABOUT = "seasons"  # what the choice between seasons is about


@dataclass(frozen=True, slots=True)
class SeasonTold:
    """The months from a haul-out to a launch. weather, daylight: in words; storms: what the storm season says of them; own_climate: the
    weather is the yard's own, not the shipped table's.
    """

    weather: str
    daylight: str
    storms: tuple[str, ...]
    own_climate: bool


def dates_of(refit: Refit, way: ProposedWay) -> tuple[datetime, datetime]:
    """When she is hauled and launched a way's way."""
    haul, launch = refit.haul_at, refit.launch_at
    for act in way.acts:
        if act.do in (ActSort.SEASON, ActSort.SLOT) and act.at is not None:
            launch = act.at
            haul = act.haul_at or haul
    return haul, launch


def season_told(refit: Refit, haul: datetime, launch: datetime, now: datetime) -> SeasonTold:
    """What is to be known of those months. What lies before ``now`` is over."""
    zone = refit.yard.zone
    first, last = max(haul, now).astimezone(zone).date(), launch.astimezone(zone).date()
    days = [first + timedelta(days=n) for n in range(max((last - first).days, 0) + 1)]
    climate, own = climate_of(refit.weather, refit.yard.latitude)
    months = [climate[one.month] for one in days]
    temperature = sum(one.temperature for one in months) / len(months)
    wet = sum(one.rain_days / 30.4 for one in months) / len(months)
    weather = f"{temperature:.0f} °C, rain on {round(10 * wet)} days of 10"
    return SeasonTold(weather, _daylight(refit, days), tuple(_storms(refit, first, last)), own)


def _daylight(refit: Refit, days: list[date]) -> str:
    yard = refit.yard
    if yard.latitude is None or yard.longitude is None:
        return "not known: the yard's position is not typed"
    hours = []
    for one in (days[0], days[len(days) // 2], days[-1]):
        sun = daylight(one, yard.latitude, yard.longitude)
        hours.append(0.0 if sun is None else (sun[1] - sun[0]).total_seconds() / 3600)
    low, high = round(min(hours)), round(max(hours))
    return f"{low} h a day" if low == high else f"{low} to {high} h a day"


def in_storms(refit: Refit, on: date) -> bool:
    """Whether a day lies in the months in which one must be in shelter; they may run over the turn of the year."""
    first, last = refit.yard.storm_from, refit.yard.storm_to
    if first is None or last is None:
        return False
    return first <= on.month <= last if first <= last else on.month >= first or on.month <= last


def _storms(refit: Refit, first: date, last: date) -> Iterator[str]:
    yard, zone = refit.yard, refit.yard.zone
    if yard.storm_from is None or yard.storm_to is None:
        yield "no storm season typed (Yard)"
        return
    ashore = sum(in_storms(refit, first + timedelta(days=n)) for n in range((last - first).days))
    if ashore:
        yield f"ashore in the storm season for {count(ashore, 'day')}: props, straps and mast as the yard has it"
    if in_storms(refit, last):
        yield "launched in the storm season: stay in shelter"
        return
    begins = next(one for n in range(1, 400) if in_storms(refit, one := last + timedelta(days=n)))
    spare = (begins - last).days - yard.shelter_days
    by = f"the storm season begins {day(begins, zone)}"
    if spare < 0:
        yield f"{by}, {count(-spare, 'day')} too soon to be in shelter"
    else:
        yield f"in shelter {count(spare, 'day')} before {by}"
