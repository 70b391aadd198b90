"""Weather that never was, hour by hour: for generated refits, tests and the simulated weather service.

A yearly and a daily wave of temperature, spells of rain as a two-state Markov chain, and slowly changing noise. It is
meant to look like a temperate coast; it is no climate model and no place's record.
"""

from __future__ import annotations

import math
from datetime import datetime, timedelta

import numpy as np

from rovask.core.refit.givens.weather import ClimateMonth, Weather

WARMEST_DAY = 210
HOURS_WET, HOURS_DRY = 7.0, 42.0  # mean length of a spell


def climate_of(month: int, latitude: float = 40.0) -> ClimateMonth:
    """What a month is like at a latitude (degrees north or south, up to 65)."""
    warm = _yearly(month * 30.4 - 15, latitude)
    wet = 0.5 - 0.5 * warm  # winters are wet
    return ClimateMonth(
        month=month,
        temperature=round(_mean(latitude) + 7 * warm, 1),
        humidity=round(68 + 10 * wet, 0),
        wind=round(4.5 + 2 * wet, 1),
        rain_days=round(5 + 9 * wet, 1),
    )


def _mean(latitude: float) -> float:
    return 27 - 0.33 * abs(latitude)


def _yearly(day: float, latitude: float) -> float:
    wave = math.cos(2 * math.pi * (day - WARMEST_DAY) / 365)
    return wave if latitude >= 0 else -wave


def synthetic_hours(
    seed: int, start: datetime, hours: int, latitude: float = 40.0
) -> list[tuple[float, float, float, float]]:
    """``hours`` of (°C, %, mm, m/s) from ``start`` (a full hour, aware). Same arguments, same weather."""
    random = np.random.default_rng(seed)
    out = []
    wet = random.random() < HOURS_WET / (HOURS_WET + HOURS_DRY)
    drift, gust = random.normal(0, 2), random.normal(0, 1)
    for hour in range(hours):
        moment = start + timedelta(hours=hour)
        wet = random.random() > 1 / HOURS_WET if wet else random.random() < 1 / HOURS_DRY
        drift = 0.985 * drift + random.normal(0, 0.35)
        gust = 0.95 * gust + random.normal(0, 0.5)
        day = moment.timetuple().tm_yday
        daily = 4 * math.cos(2 * math.pi * (moment.hour - 15) / 24)
        air = _mean(latitude) + 7 * _yearly(day, latitude) + daily * (0.4 if wet else 1) + drift - (1.5 if wet else 0)
        damp = 72 - 3.2 * daily + (18 if wet else 0) + random.normal(0, 2) - drift
        rain = round(float(random.exponential(0.8)) + 0.1, 1) if wet else 0.0
        wind = round(max(4.5 + 2 * gust + (2.5 if wet else 0), 0.0), 1)
        out.append((round(min(max(air, -30.0), 50.0), 1), round(min(max(damp, 25.0), 100.0), 0), rain, wind))
    return out


def synthetic_weather(seed: int, start: datetime, hours: int, latitude: float = 40.0, source: str = "") -> Weather:
    """The same hours as a forecast fetched at its start, with a climate."""
    told = synthetic_hours(seed, start, hours, latitude)
    return Weather(
        source=source,
        fetched_at=start,
        start=start,
        temperature=tuple(row[0] for row in told),
        humidity=tuple(row[1] for row in told),
        rain=tuple(row[2] for row in told),
        wind=tuple(row[3] for row in told),
        climate=tuple(climate_of(month, latitude) for month in range(1, 13)),
    )
