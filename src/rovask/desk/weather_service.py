"""The client of a weather service: the simulated one today, a real one with the same API tomorrow."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

import httpx2 as httpx
from pydantic import AwareDatetime, BaseModel, Field, ValidationError

from rovask.core.plain.faults import RovaskError
from rovask.core.refit.givens.weather import MOST_HOURS, ClimateMonth, Weather

TIMEOUT = 10.0  # seconds


class WeatherAway(RovaskError):
    """The weather service can't be had; the message says why, and what was fetched before still stands."""


class _Hour(BaseModel):
    temperature_c: float
    humidity_pct: float
    rain_mm: float
    wind_ms: float


class _Forecast(BaseModel):
    issued: AwareDatetime
    start: AwareDatetime
    hours: Annotated[list[_Hour], Field(min_length=1, max_length=MOST_HOURS)]


class _Month(BaseModel):
    month: int
    temperature_c: float
    humidity_pct: float
    wind_ms: float
    rain_days: float


class _Climate(BaseModel):
    months: Annotated[list[_Month], Field(max_length=12)]


def fetch_weather(
    url: str, latitude: float, longitude: float, now: datetime, transport: httpx.BaseTransport | None = None
) -> Weather:
    """Forecast from ``now`` and climate at a place, from the service at ``url``. Raises WeatherAway."""
    where = {"latitude": latitude, "longitude": longitude}
    try:
        with httpx.Client(base_url=url, timeout=TIMEOUT, transport=transport) as client:
            hourly = client.get("/v1/forecast", params=where | {"start": now.isoformat()})
            hourly.raise_for_status()
            monthly = client.get("/v1/climate", params={"latitude": latitude})
            monthly.raise_for_status()
        told = _Forecast.model_validate_json(hourly.content)
        climate = _Climate.model_validate_json(monthly.content)
        return Weather(
            source=httpx.URL(url).host or "weather service",
            fetched_at=now,
            start=told.start.replace(minute=0, second=0, microsecond=0),
            temperature=tuple(hour.temperature_c for hour in told.hours),
            humidity=tuple(hour.humidity_pct for hour in told.hours),
            rain=tuple(hour.rain_mm for hour in told.hours),
            wind=tuple(hour.wind_ms for hour in told.hours),
            climate=tuple(
                ClimateMonth(
                    month=one.month,
                    temperature=one.temperature_c,
                    humidity=one.humidity_pct,
                    wind=one.wind_ms,
                    rain_days=one.rain_days,
                )
                for one in climate.months
            ),
        )
    except httpx.TimeoutException:
        raise WeatherAway(
            f"The weather service did not answer within {TIMEOUT:g} s; the last forecast stands."
        ) from None
    except httpx.HTTPStatusError as error:
        code = error.response.status_code
        raise WeatherAway(f"The weather service refused (status {code}); the last forecast stands.") from None
    except httpx.HTTPError:
        raise WeatherAway("The weather service can't be reached; the last forecast stands.") from None
    except ValidationError:
        raise WeatherAway("The weather service answered something else than a forecast; the last one stands.") from None
