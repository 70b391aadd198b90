"""A simulated carrier: where a parcel is, the same for the same number, moment and seed.

API (JSON, version 1), also at ``/`` as text and at ``/openapi.json``:

``GET /v1/parcels?tracking=…&sent=…&at=…`` tells ``{"tracking", "state", "place", "expected", "events": [{"id", "at", "state",
"place"}]}``; states are *collected*, *moving*, *customs*, *delivered*. Some parcels are late by days.

It misbehaves as its seed says: see trouble.py.
"""

from __future__ import annotations

import asyncio
import hashlib
from datetime import UTC, timedelta
from typing import Annotated, Any

from fastapi import FastAPI, Query
from fastapi.responses import PlainTextResponse
from pydantic import AwareDatetime

from rovask.standins.trouble import Moods, misbehaving

WAY = (
    ("collected", "Ostra", 0.1),
    ("moving", "on the road", 0.4),
    ("customs", "the customs house", 0.7),
    ("delivered", "the yard", 1.0),
)


def create_app(seed: int = 1, moods: Moods | None = None, *, waits: bool = True) -> FastAPI:
    """The service with its own seed."""
    app = FastAPI(title="Simulated carrier", version="1", docs_url=None, redoc_url=None)
    app.middleware("http")(misbehaving(moods or Moods(seed), asyncio.sleep if waits else None, 20.0))

    @app.get("/", response_class=PlainTextResponse)
    def about() -> str:
        """What this is and what it answers."""
        return __doc__ or ""

    @app.get("/v1/parcels")
    def parcel(
        tracking: Annotated[str, Query(min_length=1, max_length=80)], sent: AwareDatetime, at: AwareDatetime
    ) -> dict[str, Any]:
        """Where it is at a moment."""
        number = int.from_bytes(hashlib.sha256(f"{seed}|{tracking}".encode()).digest()[:4], "big")
        days = 2 + number % 6 + (4 if number % 7 == 0 else 0)
        events = [
            {
                "id": f"{tracking}-{n}",
                "at": (sent + timedelta(days=days * share)).astimezone(UTC).isoformat(),
                "state": state,
                "place": place,
            }
            for n, (state, place, share) in enumerate(WAY)
            if sent + timedelta(days=days * share) <= at
        ]
        last = events[-1] if events else {"state": "announced", "place": ""}
        expected = (sent + timedelta(days=days)).astimezone(UTC).isoformat()
        return {
            "tracking": tracking,
            "state": last["state"],
            "place": last["place"],
            "expected": expected,
            "events": events,
        }

    return app
