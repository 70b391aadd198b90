"""Weather formulas against something outside the project.

Dew point: PsychroLib 2.5 (MIT), which follows the ASHRAE Handbook - Fundamentals (2017), chapter 1.
Sunrise and sunset: astral 3.2 (Apache 2.0), the NOAA Solar Calculator's method.
Cure: twice the time for each 10 °C colder is common practice.
"""

import math
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
import psychrolib
import pytest
from astral import Observer
from astral.sun import sun
from hypothesis import given, settings
from hypothesis import strategies as st

from rovask.core.plan.problem.calendar import SlotGrid
from rovask.core.plan.problem.curing import cure_table
from rovask.core.plan.problem.lags import CURE_UNIT, latest_first, latest_then, soonest_first, soonest_then
from rovask.core.readings.curing import CureClock
from rovask.core.refit.givens.weather import Weather, cure_factor, daylight, dew_point, lag_at
from rovask.standins.synthetic_weather import synthetic_weather

psychrolib.SetUnitSystem(psychrolib.SI)


@settings(max_examples=200, deadline=None, derandomize=True)
@given(st.floats(-10, 45), st.floats(15, 100))
def test_dew_point_is_psychrolib_s(temperature: float, humidity: float) -> None:
    theirs = psychrolib.GetTDewPointFromRelHum(temperature, humidity / 100)
    if theirs > 0:  # below, theirs is over ice
        assert dew_point(temperature, humidity) == pytest.approx(theirs, abs=0.25)


# Dew points as published tables for painters give them (the kind in ISO 8502-4; values from memory): air °C, %, °C.
DEW_TABLE = [(5, 80, 1.8), (10, 70, 4.8), (15, 60, 7.3), (20, 50, 9.3), (20, 80, 16.4), (25, 50, 13.9), (30, 85, 27.2)]


@pytest.mark.parametrize(("air", "humidity", "dew"), DEW_TABLE)
def test_dew_point_is_what_painters_tables_say(air: float, humidity: float, dew: float) -> None:
    assert dew_point(air, humidity) == pytest.approx(dew, abs=0.15)


@settings(max_examples=200, deadline=None, derandomize=True)
@given(st.floats(-58, 58), st.floats(-179, 179), st.dates(date(2024, 1, 1), date(2030, 12, 31)))
def test_daylight_is_astral_s(latitude: float, longitude: float, day: date) -> None:
    found = daylight(day, latitude, longitude)
    assert found is not None
    theirs = sun(Observer(latitude, longitude), day, tzinfo=UTC)
    noon = theirs["noon"]
    for ours, name in zip(found, ("sunrise", "sunset"), strict=True):
        gap = (ours - theirs[name]) % timedelta(days=1)  # theirs may belong to the day before or after
        assert min(gap, timedelta(days=1) - gap) < timedelta(minutes=6), (name, ours, theirs[name], noon)


def test_polar_night_has_no_daylight_and_polar_day_no_end() -> None:
    assert daylight(date(2026, 12, 21), 70, 20) is None
    summer = daylight(date(2026, 6, 21), 70, 20)
    assert summer is not None
    assert summer[1] - summer[0] == timedelta(days=1)


def test_cures_double_for_each_10_degrees_and_run_with_the_temperature_of_their_own_hours() -> None:
    assert [cure_factor(at) for at in (30, 20, 10, 0)] == [0.5, 1, 2, 4]
    assert lag_at(12, 10) == 24
    assert lag_at(12, 15) - lag_at(12, 15, longest=True) <= 0.5  # rounded to the safe side either way
    start = datetime(2026, 5, 4, tzinfo=UTC)
    cold = {"start": start, "fetched_at": start, "humidity": (60.0,) * 48, "rain": (0.0,) * 48, "wind": (3.0,) * 48}
    weather = Weather.model_validate({**cold, "temperature": (10.0,) * 24 + (30.0,) * 24})
    clock = CureClock(weather, ZoneInfo("Europe/Lisbon"))
    # 16 h at 20 °C: 24 h at 10 °C are worth 12, the other 4 take 2 h at 30 °C
    assert clock.worth(start, start + timedelta(days=1)) == pytest.approx(12)
    assert clock.ready(start, 16) == start + timedelta(hours=26)
    assert clock.ready(start, 12) == start + timedelta(days=1)
    climate = synthetic_weather(1, start, 0).climate
    later = start + timedelta(days=30)
    assert CureClock(Weather(climate=climate), ZoneInfo("UTC"), 15).temperature(later) == climate[5].temperature
    assert CureClock(Weather(), ZoneInfo("UTC"), 15).temperature(later) == 15  # typed for the yard
    assert CureClock(weather, ZoneInfo("UTC")).temperature(later) == 20  # the mean of what the forecast has
    assert CureClock(Weather(), ZoneInfo("UTC")).temperature(later) == 20


def test_the_rule_of_halves_is_an_arrhenius_law_of_50_to_60_kj_per_mole_between_5_and_35_degrees() -> None:
    # k = A exp(-Ea / RT), R = 8.314 J/(mol K); epoxy-amine cures have activation energies of some 50 to 60 kJ/mol
    # (handbook range, from memory). The rule of halves lies between the two curves, within a sixth, where it is used.
    def arrhenius(celsius: float, energy: float) -> float:
        return math.exp(energy / 8.314 * (1 / (celsius + 273.15) - 1 / 293.15))

    for celsius in (5, 10, 15, 25, 30, 35):
        low, high = sorted((arrhenius(celsius, 48_000), arrhenius(celsius, 60_000)))
        assert low * 0.86 <= cure_factor(celsius) <= high * 1.16


@given(st.integers(0, 400), st.floats(0.5, 60), st.integers(1, 60))
@settings(max_examples=60, deadline=None)
def test_the_planners_cure_table_is_the_cure_clock(slot: int, hours: float, seed: int) -> None:
    hours = round(hours * 2) / 2
    zone, day = ZoneInfo("Europe/Lisbon"), date(2026, 3, 27)  # the clocks change on the 29th
    weather = synthetic_weather(seed, datetime(2026, 3, 28, 7, tzinfo=UTC), 72, source="test")
    grid = SlotGrid(zone, day, day + timedelta(days=90))
    table, clock = cure_table(grid, weather, None).reshape(1, -1), CureClock(weather, zone)
    arcs = np.array([[3, 4, 0, round(hours * 2) * CURE_UNIT, round(hours * 3) * CURE_UNIT, 1]], dtype=np.int64)
    soonest = int(soonest_then(arcs, table, 0, slot))
    assert grid.moment(soonest) == clock.ready(grid.moment(slot), hours)
    latest = int(latest_then(arcs, table, 0, slot))
    assert soonest <= latest
    # both ways round: the last first that lets ``soonest`` be in time, and the first one
    assert soonest_first(arcs, table, 0, soonest) <= slot <= latest_first(arcs, table, 0, soonest)
    assert soonest_first(arcs, table, 0, latest) <= slot <= latest_first(arcs, table, 0, latest)
    assert latest_first(arcs, table, 0, soonest - 1) < slot
    assert soonest_first(arcs, table, 0, latest + 1) > slot
