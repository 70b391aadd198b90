"""The weather at the yard: an hourly forecast with the time it was fetched, the climate, and what follows from them.

Everything here is a fact or a formula with its source; which hours suit a task is decided in plan/sky.py.
"""

from __future__ import annotations

import math
from datetime import UTC, date, datetime, timedelta
from typing import Annotated, Self

from pydantic import Field, model_validator

from rovask.core.refit.register import kept
from rovask.core.refit.values import Celsius, Frozen, Label, MetresPerSecond, Moment, Percent

HOUR = timedelta(hours=1)
MOST_HOURS = 24 * 21
REFERENCE_CURE_TEMP = 20.0
CURE_DOUBLES_PER = 10.0
RAIN_FROM = 0.1  # mm in an hour: what a gauge reads as rain

Millimetres = Annotated[float, Field(strict=True, ge=0, le=300, allow_inf_nan=False)]


class ClimateMonth(Frozen):
    """What a month is usually like here: means of temperature (°C), relative humidity (%), wind (m/s); days with rain."""

    month: Annotated[int, Field(strict=True, ge=1, le=12)]
    temperature: Celsius
    humidity: Percent
    wind: MetresPerSecond
    rain_days: Annotated[float, Field(strict=True, ge=0, le=31, allow_inf_nan=False)]


@kept("weather", title="source")
class Weather(Frozen):
    """An hourly forecast: hour k begins at ``start`` + k hours; the four lists are of one length, empty if there is none.

    temperature in °C, humidity relative in %, rain in mm of that hour, wind the mean in m/s. fetched_at: when it was
    had, so that a stale one is known as such. climate: up to one entry a month, for the days beyond.
    """

    source: Label = ""
    fetched_at: Moment | None = None
    start: Moment | None = None
    temperature: Annotated[tuple[Celsius, ...], Field(max_length=MOST_HOURS)] = ()
    humidity: Annotated[tuple[Percent, ...], Field(max_length=MOST_HOURS)] = ()
    rain: Annotated[tuple[Millimetres, ...], Field(max_length=MOST_HOURS)] = ()
    wind: Annotated[tuple[MetresPerSecond, ...], Field(max_length=MOST_HOURS)] = ()
    climate: Annotated[tuple[ClimateMonth, ...], Field(max_length=12)] = ()

    @model_validator(mode="after")
    def _square(self) -> Self:
        lengths = {len(self.temperature), len(self.humidity), len(self.rain), len(self.wind)}
        if len(lengths) > 1:
            raise ValueError("temperature, humidity, rain and wind must have a value for each hour")
        if self.temperature and (self.start is None or self.fetched_at is None):
            raise ValueError("needs the hour it starts at and the time it was fetched")
        if self.start and (self.start.minute or self.start.second or self.start.microsecond):
            raise ValueError("must start on a full hour")
        if len({month.month for month in self.climate}) < len(self.climate):
            raise ValueError("names a month of the climate twice")
        return self

    @property
    def end(self) -> datetime | None:
        """Where the forecast ends; None without one."""
        return self.start + len(self.temperature) * HOUR if self.start and self.temperature else None

    def hour_of(self, moment: datetime) -> int | None:
        """The number of the hour that ``moment`` lies in; None outside the forecast."""
        if self.start is None or self.end is None or not self.start <= moment < self.end:
            return None
        return (moment - self.start) // HOUR


def dew_point(temperature: float, humidity: float) -> float:
    """Dew point in °C of air at ``temperature`` (°C, -40 to 50) and relative ``humidity`` (%, above 0).

    Magnus form with the constants of Alduchov & Eskridge, "Improved Magnus form approximation of saturation vapor
    pressure", Journal of Applied Meteorology 35 (1996), eq. 21: 17.625 and 243.04 °C. Chosen because its error
    against the reference tables stays under 0.4 % of the vapour pressure over that range. Constants from memory;
    tests compare with PsychroLib.

    >>> round(dew_point(20, 50), 1)
    9.3
    """
    gamma = math.log(max(humidity, 0.1) / 100) + 17.625 * temperature / (243.04 + temperature)
    return 243.04 * gamma / (17.625 - gamma)


def cure_factor(temperature: float) -> float:
    """How many times as long a cure takes at ``temperature`` (°C) as at 20 °C.

    Cure slows by about half for each 10 °C colder (common practice). Held between 0 °C and 40 °C: below the
    product's minimum it does not cure at all, which is the task's weather need to say.

    >>> cure_factor(10), cure_factor(30)
    (2.0, 0.5)
    """
    return float(2 ** ((REFERENCE_CURE_TEMP - min(max(temperature, 0.0), 40.0)) / CURE_DOUBLES_PER))


def temperature_at(weather: Weather, moment: datetime, month: int, typed: float | None = None) -> float:
    """The temperature (°C) a cure has at ``moment``, in local ``month``: of that hour of the forecast if it knows it.

    Else the climate of the month; else what was ``typed`` for the yard; else the mean of the forecast; else 20 °C.
    """
    hour = weather.hour_of(moment)
    if hour is not None:
        return weather.temperature[hour]
    for one in weather.climate:
        if one.month == month:
            return one.temperature
    if typed is not None:
        return typed
    if weather.temperature:
        return sum(weather.temperature) / len(weather.temperature)
    return REFERENCE_CURE_TEMP


def cure_rate(temperature: float) -> float:
    """Hours of cure at 20 °C that one hour at ``temperature`` (°C) is worth: 0.5 at 10 °C."""
    return 1 / cure_factor(temperature)


def lag_at(hours: float, temperature: float, *, longest: bool = False) -> float:
    """A lag given for 20 °C at another temperature: in halves, rounded up, or down for a longest wait.

    >>> lag_at(12, 15), lag_at(12, 15, longest=True)
    (17.0, 16.5)
    """
    exact = hours * cure_factor(temperature) * 2
    return (math.floor(exact + 1e-9) if longest else math.ceil(exact - 1e-9)) / 2


def daylight(day: date, latitude: float, longitude: float) -> tuple[datetime, datetime] | None:
    """Sunrise and sunset (UTC) of ``day`` at ``latitude`` and ``longitude`` (degrees north, east); None in polar night.

    In polar day the whole day from local noon less to noon plus 12 h. The sunrise equation with the NOAA Solar
    Calculator's fractional-year series (Spencer 1971), centre of the sun at 90.833° for refraction and its radius;
    good to about five minutes up to 58° north or south. Coefficients from memory; tests compare with astral.
    """
    turn = 2 * math.pi / 365 * (day.timetuple().tm_yday - 1)
    minutes = 229.18 * (
        0.000075
        + 0.001868 * math.cos(turn)
        - 0.032077 * math.sin(turn)
        - 0.014615 * math.cos(2 * turn)
        - 0.040849 * math.sin(2 * turn)
    )
    declination = (
        0.006918
        - 0.399912 * math.cos(turn)
        + 0.070257 * math.sin(turn)
        - 0.006758 * math.cos(2 * turn)
        + 0.000907 * math.sin(2 * turn)
        - 0.002697 * math.cos(3 * turn)
        + 0.00148 * math.sin(3 * turn)
    )
    north = math.radians(latitude)
    height = math.cos(math.radians(90.833)) / (math.cos(north) * math.cos(declination)) - math.tan(north) * math.tan(
        declination
    )
    noon = datetime(day.year, day.month, day.day, tzinfo=UTC) + timedelta(minutes=720 - 4 * longitude - minutes)
    if height > 1:
        return None
    half = timedelta(minutes=4 * math.degrees(math.acos(max(height, -1.0))))
    return noon - half, noon + half
