"""Skies: what the weather may be from now to the end of the grid, hour by hour, a hundred times over.

As far as the forecast reaches it is followed, less and less surely; beyond, days follow each other as a chain of wet and
dry ones by month, with warm and cold spells. Where each formula comes from and what is judged stands in docs/odds.md:

    f = rain days / days of the month;  P(wet | dry) = 0.75 f;  P(wet | wet) = 0.25 + 0.75 f

(Geng, Penning de Vries & Supit, "A simple method for generating daily rainfall data", Agricultural and Forest Meteorology
36, 1986; from memory). Days' temperatures swing about the month's mean as an autoregressive chain (Richardson, "Stochastic
simulation of daily precipitation, temperature, and solar radiation", Water Resources Research 17, 1981; from memory).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from statistics import NormalDist
from zoneinfo import ZoneInfo

import numpy as np
import numpy.typing as npt

from rovask.core.odds.climate import climate_of
from rovask.core.odds.luck import lucks, stream_of
from rovask.core.plan.problem.calendar import SlotGrid
from rovask.core.refit.givens.weather import RAIN_FROM, ClimateMonth, Weather
from rovask.core.refit.model import WeatherNeed

SKIES = 128
SWING, KEPT = 2.5, 0.7  # of days' temperatures: °C (standard deviation), and how much of it the next day keeps
BY_DAY = {False: 4.0, True: 2.0}  # °C that noon is above the day's mean, on a dry and on a wet day
DAMPER, DRYER = 10.0, 4.0  # points of humidity a wet day is above its month, a dry one below
WET_HOURS = 5.0  # on end, as a mean, on a wet day
GUSTY = 0.4  # log-sd of a day's wind
DAY_LESS_SURE = 0.08  # of the forecast: by so much more likely each day further that it turns out otherwise
OFF, OFF_MORE = 0.5, 0.35  # °C (standard deviation) that a forecast temperature is off today, and more each day further

Floats = npt.NDArray[np.float32]
Masks = npt.NDArray[np.bool_]
_NORMAL = NormalDist()
_QUANTILES = np.array([_NORMAL.inv_cdf((n + 0.5) / 4096) for n in range(4096)])


@dataclass(frozen=True)
class Skies:
    """Hourly weather: a row a sky, a column an hour from ``start`` on. own_climate: the yard's own, not the shipped one."""

    start: datetime
    temperature: Floats
    humidity: Floats
    rain: Masks
    wind: Floats
    own_climate: bool

    def by_slot(self, grid: SlotGrid, hours: npt.NDArray[np.generic]) -> npt.NDArray[np.generic]:
        """Columns by half-hour of the grid instead of by hour."""
        offset = round((grid.origin - self.start).total_seconds())
        at = np.clip((np.arange(grid.size) * 1800 + offset) // 3600, 0, hours.shape[1] - 1)
        return hours[:, at]

    def suits(self, need: WeatherNeed) -> Masks:
        """Whether each hour of each sky suits the work: as the planner asks of the forecast (plan/problem/sky.py)."""
        out = np.ones_like(self.rain)
        if need.dry:
            out &= ~self.rain
        if need.least_temp is not None:
            out &= self.temperature >= need.least_temp
        if need.most_temp is not None:
            out &= self.temperature <= need.most_temp
        if need.most_humidity is not None:
            out &= self.humidity <= need.most_humidity
        if need.dew_margin is not None:
            out &= self.temperature - _dew_points(self.temperature, self.humidity) >= need.dew_margin
        if need.most_wind is not None:
            out &= self.wind <= need.most_wind
        return out


def _dew_points(temperature: Floats, humidity: Floats) -> Floats:
    """``dew_point`` of givens/weather.py, of many at once; a test holds them together."""
    gamma = np.log(np.maximum(humidity, 0.1) / 100) + 17.625 * temperature / (243.04 + temperature)
    return np.asarray(243.04 * gamma / (17.625 - gamma), dtype=np.float32)


def skies_of(
    grid: SlotGrid, weather: Weather, latitude: float | None, now: datetime, seed: int, count: int = SKIES
) -> Skies:
    """``count`` skies over the grid, as known at ``now``. What lies before now is as the forecast has it. O(skies x hours)."""
    climate, own = climate_of(weather, latitude)
    days = [*grid.days(), grid.last + timedelta(days=1)]
    start = _on_the_hour(grid.origin, weather)
    chain = _Days(days, climate, seed, count)
    hours = math.ceil(grid.size / 2) + 2
    local = [(start + timedelta(hours=n)).astimezone(grid.zone) for n in range(hours)]
    day_of = np.array([min(max((moment.date() - days[0]).days, 0), len(days) - 1) for moment in local])
    clock = np.array([moment.hour for moment in local])
    temperature, humidity, rain, wind = chain.by_hour(day_of, clock)
    made = Skies(start, temperature, humidity, rain, wind, own)
    return _with_forecast(made, grid.zone, weather, now, seed)


def forecast_alone(grid: SlotGrid, weather: Weather) -> Masks:
    """Whether it rains, by half-hour of the grid, in the one sky of those who take the forecast at its word."""
    out = np.zeros((1, grid.size), dtype=np.bool_)
    for hour, rain in enumerate(weather.rain):
        if rain >= RAIN_FROM and weather.start is not None:
            begins = weather.start + timedelta(hours=hour)
            low, high = grid.floor(begins), grid.ceil(begins + timedelta(hours=1))
            out[0, max(low, 0) : max(high, 0)] = True
    return out


def _on_the_hour(origin: datetime, weather: Weather) -> datetime:
    """The hour from which skies are counted: in step with the forecast's."""
    base = weather.start or origin
    return base - timedelta(hours=math.ceil((base - origin) / timedelta(hours=1)))


class _Days:
    """Days of many skies, a row a sky; each draws by its own date, so that a grid that begins elsewhere has the same days."""

    def __init__(self, days: list[date], climate: dict[int, ClimateMonth], seed: int, count: int) -> None:
        at = np.array([day.toordinal() for day in days])
        month = [climate[day.month] for day in days]

        def drawn(what: str) -> npt.NDArray[np.float64]:
            return np.stack([lucks(stream_of(seed, "sky", str(sky), what), at) for sky in range(count)])

        share = np.array([min(one.rain_days / 30.4, 1.0) for one in month])
        luck = drawn("wet")
        wet = np.zeros(luck.shape, dtype=np.bool_)
        before = luck[:, 0] < share[0]
        for n in range(len(days)):
            if n:
                before = luck[:, n] < np.where(before, 0.25 + 0.75 * share[n], 0.75 * share[n])
            wet[:, n] = before
        warm = _normal(drawn("warm"))
        swing = SWING * warm
        for n in range(1, len(days)):
            swing[:, n] = KEPT * swing[:, n - 1] + SWING * math.sqrt(1 - KEPT**2) * warm[:, n]
        lasts = np.clip(np.rint(-WET_HOURS * np.log1p(-drawn("lasts"))), 1, 24)
        self.wet = wet
        self.mean = (np.array([one.temperature for one in month]) + swing).astype(np.float32)
        self.lasts, self.first = lasts.astype(np.float32), np.floor(drawn("first") * (25 - lasts)).astype(np.float32)
        blow = np.exp(GUSTY * _normal(drawn("blow")) - GUSTY**2 / 2).astype(np.float32)
        self.wind = np.array([one.wind for one in month], dtype=np.float32) * blow
        # wet days are damper and dry ones drier so that the month's mean stays what it is
        few = share.astype(np.float32)
        shift = np.where(wet, DAMPER, -DRYER) - (few * DAMPER - (1 - few) * DRYER)
        damp = np.array([one.humidity for one in month], dtype=np.float32)
        self.damp = np.clip(damp + shift, 15, 100).astype(np.float32)

    def by_hour(self, day: npt.NDArray[np.int64], clock: npt.NDArray[np.int64]) -> tuple[Floats, Floats, Masks, Floats]:
        """Temperature, humidity, rain and wind of some hours, given as their day and hour of the clock; a row a sky."""
        swing = np.cos((clock - 15) / 24 * 2 * math.pi)  # warmest at three in the afternoon
        wet, first = self.wet[:, day], self.first[:, day]
        up = np.where(wet, BY_DAY[True], BY_DAY[False]) * swing
        humidity = np.clip(self.damp[:, day] - 3.0 * up, 10, 100)
        rain = wet & (clock >= first) & (clock < first + self.lasts[:, day])
        return (self.mean[:, day] + up).astype(np.float32), humidity.astype(np.float32), rain, self.wind[:, day]


def _normal(lucks_: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """Normal deviates from numbers between 0 and 1."""
    return np.asarray(_QUANTILES[(lucks_ * len(_QUANTILES)).astype(np.int64)])


def _with_forecast(made: Skies, zone: ZoneInfo, weather: Weather, now: datetime, seed: int) -> Skies:
    """The forecast in place of the chain's days: each day kept as told or turned out otherwise, and the temperature off."""
    if weather.start is None or not weather.temperature:
        return made
    low = round((weather.start - made.start) / timedelta(hours=1))
    inside = [n for n in range(len(weather.temperature)) if 0 <= low + n < made.rain.shape[1]]
    temperature, humidity = made.temperature.copy(), made.humidity.copy()
    rain, wind = made.rain.copy(), made.wind.copy()
    today = now.astimezone(zone).date()
    by_day: dict[date, list[int]] = {}
    for n in inside:
        by_day.setdefault((weather.start + timedelta(hours=n)).astimezone(zone).date(), []).append(n)
    days = np.array([day.toordinal() for day in by_day])
    many = range(len(rain))
    turned = np.stack([lucks(stream_of(seed, "forecast", str(sky)), days) for sky in many])
    wrong = np.stack([_normal(lucks(stream_of(seed, "off", str(sky)), days)) for sky in many])
    for at, (day, hours) in enumerate(by_day.items()):
        ahead = (day - today).days
        # where it turns out otherwise it is as the chain has it
        told = np.flatnonzero((turned[:, at] >= ahead * DAY_LESS_SURE) | (ahead <= 0))
        off = (OFF + OFF_MORE * ahead) * wrong[told, at] if ahead >= 0 else np.zeros(len(told))
        there = np.ix_(told, np.array(hours) + low)
        temperature[there] = np.array(weather.temperature)[hours] + off[:, None]
        humidity[there] = np.array(weather.humidity)[hours]
        rain[there] = np.array(weather.rain)[hours] >= RAIN_FROM
        wind[there] = np.array(weather.wind)[hours]
    return Skies(made.start, temperature, humidity, rain, wind, made.own_climate)
