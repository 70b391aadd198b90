"""Today's weather in a few words, and how old it is."""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from rovask.core.refit.givens.weather import HOUR, RAIN_FROM, Weather

STALE_AFTER = timedelta(hours=18)
DAY_HOURS = 26  # what the longest day has left at its beginning, with the hour before
WINDY = 9.0  # m/s: when going aloft and spraying stop (common practice)


@dataclass(frozen=True, slots=True)
class SkyWords:
    """What it will be like, how old that is, and the tone of it."""

    told: str
    how_old: str
    tone: str


def weather_words(weather: Weather, now: datetime, zone: ZoneInfo) -> SkyWords:
    """The rest of today: rain and when, temperature, wind; and when the forecast was had."""
    today = now.astimezone(zone).date()
    begin = max(math.ceil((now - HOUR - weather.start) / HOUR), 0) if weather.start else 0
    hours = [
        hour
        for hour in range(begin, min(begin + DAY_HOURS, len(weather.temperature)))
        if weather.start
        and (at := (weather.start + hour * HOUR).astimezone(zone)).date() == today
        and 6 <= at.hour < 22
    ]
    if not hours or weather.start is None or weather.fetched_at is None:
        return SkyWords("No weather", "fetch it, or bring in a file", "warn")
    wet = [hour for hour in hours if weather.rain[hour] >= RAIN_FROM]
    first = (weather.start + wet[0] * HOUR).astimezone(zone) if wet else None
    rain = "dry today" if first is None else "rain now" if first <= now else f"rain from {first:%H:%M}"
    warm = [weather.temperature[hour] for hour in hours]
    told = f"{rain}, {min(warm):.0f}–{max(warm):.0f} °C"
    if max(weather.wind[hour] for hour in hours) >= WINDY:
        told += ", windy"
    age = now - weather.fetched_at
    old = f"fetched {round(age / HOUR)} h ago" if age >= HOUR else "fetched within the hour"
    return SkyWords(told, old + (": stale" if age > STALE_AFTER else ""), "warn" if wet or age > STALE_AFTER else "")
