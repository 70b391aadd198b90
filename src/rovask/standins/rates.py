"""Simulated rates of exchange: what one unit of a currency was worth in another on a day, the same for the same seed.

API (JSON, version 1), also at ``/`` as text and at ``/openapi.json``:

``GET /v1/rates?base=EUR&day=2026-05-12`` gives ``{"base", "day", "worth": {"GBP": "1.170213", …}}``: units of the base for one of
each, as decimal text. Rates wander by a few tenths of a per cent a day round an invented level.

It misbehaves as its seed says: see trouble.py.
"""

from __future__ import annotations

import asyncio
import hashlib
import math
from datetime import date
from typing import Annotated, Any

from fastapi import FastAPI, HTTPException, Query
from fastapi.responses import PlainTextResponse

from rovask.standins.trouble import Moods, misbehaving

# Invented levels: units of a common measure for one of each.
LEVELS = {"EUR": 1.0, "GBP": 1.17, "USD": 0.914, "NOK": 0.0861, "SEK": 0.089, "DKK": 0.134, "JPY": 0.0061, "CHF": 1.06}


def level(seed: int, currency: str, day: date) -> float:
    """What a currency is worth on a day, in the common measure."""
    phase = int.from_bytes(hashlib.sha256(f"{seed}|{currency}".encode()).digest()[:2], "big") / 65536 * math.tau
    at = day.toordinal()
    return LEVELS[currency] * (1 + 0.012 * math.sin(at / 17 + phase) + 0.004 * math.sin(at / 3.1 + 2 * phase))


def create_app(seed: int = 1, moods: Moods | None = None, *, waits: bool = True) -> FastAPI:
    """The service with its own seed."""
    app = FastAPI(title="Simulated rates of exchange", version="1", docs_url=None, redoc_url=None)
    app.middleware("http")(misbehaving(moods or Moods(seed), asyncio.sleep if waits else None, 20.0))

    @app.get("/", response_class=PlainTextResponse)
    def about() -> str:
        """What this is and what it answers."""
        return __doc__ or ""

    @app.get("/v1/rates")
    def rates(base: Annotated[str, Query(pattern="^[A-Z]{3}$")], day: date) -> dict[str, Any]:
        """Every rate of a day."""
        if base not in LEVELS:
            raise HTTPException(404, "no such currency here")
        own = level(seed, base, day)
        worth = {code: f"{level(seed, code, day) / own:.6f}" for code in LEVELS if code != base}
        return {"base": base, "day": day.isoformat(), "worth": worth}

    return app
