"""What a sailor may say about the weather: it rains now, it is dry now."""

from __future__ import annotations

from datetime import datetime, timedelta

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.refit.givens.weather import HOUR, Weather

SAID_RAIN = 1.0  # mm in an hour: rain, and no more is known


def said_rain(weather: Weather, now: datetime, hours: int, *, wet: bool) -> Weather:
    """The forecast with rain, or without, in the hours from ``now`` on, because somebody looked up.

    Where there is no forecast one is begun with these hours alone: mild, damp and still, which rules nothing else
    out. Raises RefitFaults for more than two days.
    """
    if not 1 <= hours <= 48:
        raise RefitFaults([Fault("", "Say for how long: 1 to 48 hours.")])
    begin = now - timedelta(minutes=now.minute, seconds=now.second, microseconds=now.microsecond)
    if weather.start is None or weather.end is None or not weather.start <= begin < weather.end:
        weather = Weather(
            source="said",
            fetched_at=now,
            start=begin,
            temperature=(15.0,) * hours,
            humidity=(75.0,) * hours,
            rain=(0.0,) * hours,
            wind=(3.0,) * hours,
            climate=weather.climate,
        )
    first = (begin - (weather.start or begin)) // HOUR
    rain = list(weather.rain)
    for hour in range(first, min(first + hours, len(rain))):
        rain[hour] = max(rain[hour], SAID_RAIN) if wet else 0.0
    return weather.model_copy(update={"rain": tuple(rain)})
