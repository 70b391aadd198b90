"""A simulated weather service: hourly forecasts and climate, the same for the same place, hour and seed.

API (JSON, version 1), also at ``/`` as text and at ``/openapi.json``:

``GET /v1/forecast?latitude=38.5&longitude=-9.2&start=2026-05-12T09:00Z`` gives 14 days of hourly values from the full
hour of ``start``: ``{"issued": …, "start": …, "hours": [{"temperature_c", "humidity_pct", "rain_mm", "wind_ms"}, …]}``.

``GET /v1/climate?latitude=38.5`` gives twelve months: ``{"months": [{"month", "temperature_c", "humidity_pct",
"wind_ms", "rain_days"}, …]}``.

The weather of a place is one endless story: a later forecast tells the hours it shares with an earlier one the same.
"""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Annotated, Any

from fastapi import FastAPI, Query
from fastapi.responses import PlainTextResponse
from pydantic import AwareDatetime

from rovask.standins.synthetic_weather import climate_of, synthetic_hours

HOURS = 14 * 24
Latitude = Annotated[float, Query(ge=-65, le=65)]
Longitude = Annotated[float, Query(ge=-180, le=180)]


def forecast(seed: int, latitude: float, longitude: float, start: datetime) -> dict[str, Any]:
    """Fourteen days from the full hour of ``start``: a slice of the place's own weather of that year."""
    begin = start.astimezone(UTC).replace(minute=0, second=0, microsecond=0)
    story = datetime(begin.year, 1, 1, tzinfo=UTC)
    skipped = (begin - story) // timedelta(hours=1)
    place = seed + round((latitude + 90) * 10) * 4000 + round((longitude + 180) * 10)
    rows = synthetic_hours(place + begin.year, story, skipped + HOURS, latitude)
    hours = [
        {"temperature_c": air, "humidity_pct": damp, "rain_mm": rain, "wind_ms": wind}
        for air, damp, rain, wind in rows[skipped:]
    ]
    return {"issued": begin.isoformat(), "start": begin.isoformat(), "hours": hours}


def create_app(seed: int = 1) -> FastAPI:
    """The service with its own seed."""
    app = FastAPI(title="Simulated weather service", version="1", docs_url=None, redoc_url=None)

    @app.get("/", response_class=PlainTextResponse)
    def about() -> str:
        """What this is and what it answers."""
        return __doc__ or ""

    @app.get("/v1/forecast")
    def hourly(latitude: Latitude, longitude: Longitude, start: AwareDatetime) -> dict[str, Any]:
        """Hourly values for fourteen days."""
        return forecast(seed, latitude, longitude, start)

    @app.get("/v1/climate")
    def climate(latitude: Latitude) -> dict[str, Any]:
        """What each month is usually like."""
        months = [climate_of(month, latitude) for month in range(1, 13)]
        return {
            "months": [
                {
                    "month": one.month,
                    "temperature_c": one.temperature,
                    "humidity_pct": one.humidity,
                    "wind_ms": one.wind,
                    "rain_days": one.rain_days,
                }
                for one in months
            ]
        }

    return app
