"""Which half-hours suit a task that needs weather, and how long it stays dry from each of them.

Hours of the forecast decide; what lies beyond it is not forbidden, for nobody knows it yet.
"""

from __future__ import annotations

from datetime import timedelta

import numpy as np
import numpy.typing as npt

from rovask.core.plain.derived import derived
from rovask.core.plan.problem.arrays import FOREVER
from rovask.core.plan.problem.calendar import Mask, SlotGrid
from rovask.core.refit.givens.weather import RAIN_FROM, Weather, daylight, dew_point
from rovask.core.refit.model import WeatherNeed


def hour_suits(need: WeatherNeed, weather: Weather, hour: int) -> bool:
    """Whether one hour of the forecast suits the work: rain, temperature, humidity, dew point, wind."""
    temperature, humidity = weather.temperature[hour], weather.humidity[hour]
    return not (
        (need.dry and weather.rain[hour] >= RAIN_FROM)
        or (need.least_temp is not None and temperature < need.least_temp)
        or (need.most_temp is not None and temperature > need.most_temp)
        or (need.most_humidity is not None and humidity > need.most_humidity)
        or (need.dew_margin is not None and temperature - dew_point(temperature, humidity) < need.dew_margin)
        or (need.most_wind is not None and weather.wind[hour] > need.most_wind)
    )


def _by_slot(grid: SlotGrid, weather: Weather, suits: list[bool]) -> Mask:
    """Hours of the forecast as slots: a slot that touches an hour that doesn't suit doesn't either."""
    out = np.ones(grid.size, dtype=np.bool_)
    if weather.start is None:
        return out
    for hour, good in enumerate(suits):
        if not good:
            begins = weather.start + timedelta(hours=hour)
            low, high = grid.floor(begins), grid.ceil(begins + timedelta(hours=1))
            out[max(low, 0) : max(high, 0)] = False
    return out


@derived(of=1, beside=40)
def suitable(grid: SlotGrid, weather: Weather, need: WeatherNeed) -> Mask:
    """True for slots whose weather suits ``need``. Read only."""
    return _by_slot(grid, weather, [hour_suits(need, weather, hour) for hour in range(len(weather.temperature))])


@derived(of=1)
def dry_run(grid: SlotGrid, weather: Weather) -> npt.NDArray[np.int32]:
    """How many slots it stays dry from each slot on, the one past the end included; FOREVER past the forecast."""
    dry = _by_slot(grid, weather, [rain < RAIN_FROM for rain in weather.rain])
    out = np.full(grid.size + 1, FOREVER, dtype=np.int32)
    wet = np.flatnonzero(~dry)
    before = 0
    for slot in wet.tolist():
        out[before : slot + 1] = slot - np.arange(before, slot + 1)
        before = slot + 1
    return out


@derived()
def light(grid: SlotGrid, latitude: float, longitude: float) -> Mask:
    """True for slots that lie between sunrise and sunset at the yard."""
    out = np.zeros(grid.size, dtype=np.bool_)
    for day in grid.days():
        sun = daylight(day, latitude, longitude)
        if sun is not None:
            out[max(grid.ceil(sun[0]), 0) : max(grid.floor(sun[1]), 0)] = True
    return out
