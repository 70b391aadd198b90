"""Weather formulas against something outside the project.

Dew point: PsychroLib 2.5 (MIT), which follows the ASHRAE Handbook - Fundamentals (2017), chapter 1.
Sunrise and sunset: astral 3.2 (Apache 2.0), the NOAA Solar Calculator's method.
Cure: twice the time for each 10 °C colder is common practice.
"""

from datetime import UTC, date, datetime, timedelta

import psychrolib
import pytest
from astral import Observer
from astral.sun import sun
from hypothesis import given, settings
from hypothesis import strategies as st

from rovask.core.refit.weather import Weather, cure_factor, cure_temperature, daylight, dew_point, lag_at
from rovask.core.synthetic_weather import synthetic_weather

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


def test_cures_double_for_each_10_degrees_and_are_counted_at_the_coming_week() -> None:
    assert [cure_factor(at) for at in (30, 20, 10, 0)] == [0.5, 1, 2, 4]
    assert lag_at(12, 10) == 24
    assert lag_at(12, 15) - lag_at(12, 15, longest=True) <= 0.5  # rounded to the safe side either way
    start = datetime(2026, 5, 4, tzinfo=UTC)
    cold = {"start": start, "fetched_at": start, "humidity": (60.0,) * 240, "rain": (0.0,) * 240, "wind": (3.0,) * 240}
    weather = Weather.model_validate({**cold, "temperature": (10.0,) * 168 + (30.0,) * 72})
    assert cure_temperature(weather, start, start) == 10  # what comes after the week doesn't count
    assert cure_temperature(weather, start + timedelta(days=9, hours=12), start) == 20  # too little of it is left
    assert cure_temperature(Weather(), start, start) == 20
    climate = synthetic_weather(1, start, 0).climate
    assert cure_temperature(Weather(climate=climate), start, start) == climate[4].temperature
