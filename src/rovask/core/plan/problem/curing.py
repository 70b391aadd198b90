"""The clocks on the half-hours of a plan besides plain ones: one table for windows, first plan and solver (lags.py)."""

from __future__ import annotations

import numpy as np

from rovask.core.plain.derived import derived
from rovask.core.plain.half_hours import QUARTER
from rovask.core.plan.problem.arrays import Ints
from rovask.core.plan.problem.calendar import Mask, SlotGrid
from rovask.core.plan.problem.lags import CURE_UNIT
from rovask.core.refit.givens.weather import Weather, cure_rate, temperature_at


@derived(of=1)
def cure_table(grid: SlotGrid, weather: Weather, typed: float | None) -> Ints:
    """C of every slot and of the end of the last, in CURE_UNIT parts of a slot at 20 °C. Read only."""
    beyond = sum(weather.temperature) / len(weather.temperature) if weather.temperature else None
    bare = Weather(climate=weather.climate)
    monthly = {
        month: cure_rate(temperature_at(bare, grid.origin, month, beyond if typed is None else typed))
        for month in range(1, 13)
    }
    by_day = np.array([monthly[day.month] for day in grid.days()])
    rates = np.repeat(by_day, np.diff([*grid.day_starts().tolist(), grid.size]))
    if weather.start is not None and weather.temperature:
        offset = round((grid.origin - weather.start).total_seconds())
        by_hour = np.array([cure_rate(warmth) for warmth in weather.temperature])
        halves = []
        for within in (0, QUARTER.seconds):  # in a few zones a slot lies across two hours: half of each counts
            hour = (np.arange(grid.size) * 1800 + within + offset) // 3600
            known = (hour >= 0) & (hour < len(weather.temperature))
            halves.append(np.where(known, by_hour[np.clip(hour, 0, len(by_hour) - 1)], rates))
        rates = (halves[0] + halves[1]) / 2
    whole = np.maximum(np.rint(rates * CURE_UNIT), 1).astype(np.int64)
    return np.concatenate([np.zeros(1, dtype=np.int64), np.cumsum(whole)])


def yard_days(grid: SlotGrid, works: Mask) -> Ints:
    """The yard's working days before every slot and the end of the last, in CURE_UNIT parts of a day.

    works: the half-hours the yard is open. A short Saturday is a day too. Every slot counts a little, so that it grows.
    """
    day = np.repeat(np.arange(len(grid.days())), np.diff([*grid.day_starts().tolist(), grid.size]))
    open_of_day = np.bincount(day[works], minlength=len(grid.days()))
    share = np.where(works, 1 / np.maximum(open_of_day[day], 1), 0.0)
    counted = np.rint(np.concatenate([np.zeros(1), np.cumsum(share)]) * CURE_UNIT).astype(np.int64)
    return np.asarray(counted + np.arange(grid.size + 1), dtype=np.int64)
