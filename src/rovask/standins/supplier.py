"""A simulated supplier that takes orders: invented prices and lead times, the same for the same item and seed.

API (JSON, version 1), also at ``/`` as text and at ``/openapi.json``:

``POST /v1/orders`` with the header ``Idempotency-Key`` and ``{"at": …, "reference": …, "lines": [{"item", "quantity"}]}`` takes an
order: 201 with ``{"number", "state": "acknowledged", "expected", "at"}``. The same key again is answered with the same order
and 200; it is never a second one. 409 with ``{"out_of_stock": [items]}`` when something can't be had; nothing is ordered then.

``GET /v1/orders/{number}?at=…`` tells where it stands at a moment: ``{"number", "state", "expected", "events": [{"id", "at",
"state"}]}``; *acknowledged*, *shipped* after a third of its time, *customs* after two, *arrived* at the end.

``POST /v1/orders/{number}/tell`` with ``{"callback": url, "at": …}`` sends every event up to then to the callback, oldest last
and the newest twice, until each was answered with a status below 300: ``{"told": n}``.

It misbehaves as its seed says: see trouble.py.
"""

from __future__ import annotations

import asyncio
import hashlib
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from typing import Annotated, Any

import httpx2 as httpx
from fastapi import FastAPI, Header, HTTPException
from fastapi.responses import JSONResponse, PlainTextResponse
from pydantic import AwareDatetime, BaseModel, Field

from rovask.standins.trouble import Moods, misbehaving

TELL_TRIES = 5
STATES = ("acknowledged", "shipped", "customs", "arrived")


class Line(BaseModel):
    """So much of an item."""

    item: Annotated[str, Field(min_length=1, max_length=200)]
    quantity: Annotated[float, Field(gt=0, le=1e6)]


class Asked(BaseModel):
    """An order as it comes."""

    at: AwareDatetime
    reference: Annotated[str, Field(max_length=200)] = ""
    lines: Annotated[list[Line], Field(min_length=1, max_length=200)]


class Told(BaseModel):
    """Where events are to be sent, up to when."""

    callback: str
    at: AwareDatetime


def _chance(seed: int, *words: str) -> float:
    """A number from 0 to 1 that belongs to some words."""
    digest = hashlib.sha256("|".join([str(seed), *words]).encode()).digest()
    return int.from_bytes(digest[:6], "big") / 2**48


class Shop:
    """What the supplier knows: its orders by key and by number."""

    def __init__(self, seed: int, out: float) -> None:
        self.seed, self.out = seed, out
        self.by_key: dict[str, dict[str, Any]] = {}
        self.by_number: dict[str, dict[str, Any]] = {}

    def take(self, key: str, asked: Asked) -> tuple[dict[str, Any], bool]:
        """The order of that key, and whether it is new. Raises HTTPException 409."""
        if key in self.by_key:
            return self.by_key[key], False
        gone = [line.item for line in asked.lines if _chance(self.seed, "out", line.item) < self.out]
        if gone:
            raise HTTPException(409, {"out_of_stock": gone})
        days = 2 + max(int(_chance(self.seed, "lead", line.item) * 9) for line in asked.lines)
        number = f"S{len(self.by_key) + 1:05d}"
        made = {
            "number": number,
            "at": asked.at,
            "expected": asked.at + timedelta(days=days),
            "reference": asked.reference,
            "lines": [line.model_dump() for line in asked.lines],
        }
        self.by_key[key] = self.by_number[number] = made
        return made, True

    def stands(self, order: dict[str, Any], at: datetime) -> dict[str, Any]:
        """The order at a moment, with all that has happened."""
        whole = order["expected"] - order["at"]
        events = [
            {
                "id": f"{order['number']}-{n}",
                "at": (order["at"] + whole * n / 3).astimezone(UTC).isoformat(),
                "state": state,
            }
            for n, state in enumerate(STATES)
            if order["at"] + whole * n / 3 <= at
        ]
        return {
            "number": order["number"],
            "state": events[-1]["state"] if events else STATES[0],
            "expected": order["expected"].isoformat(),
            "events": events,
        }


def create_app(
    seed: int = 1,
    moods: Moods | None = None,
    out: float = 0.05,
    *,
    waits: bool = True,
    send: Callable[[str, dict[str, Any]], int] | None = None,
) -> FastAPI:
    """The service with its own seed. out: the share of items it hasn't got. send: how callbacks are sent, for tests."""
    app = FastAPI(title="Simulated supplier", version="1", docs_url=None, redoc_url=None)
    shop = app.state.shop = Shop(seed, out)
    app.middleware("http")(misbehaving(moods or Moods(seed), asyncio.sleep if waits else None, 20.0))
    sent = send or _post

    @app.get("/", response_class=PlainTextResponse)
    def about() -> str:
        """What this is and what it answers."""
        return __doc__ or ""

    @app.post("/v1/orders")
    def order(asked: Asked, idempotency_key: Annotated[str, Header(min_length=8, max_length=80)]) -> JSONResponse:
        """Take an order, once."""
        made, new = shop.take(idempotency_key, asked)
        return JSONResponse(shop.stands(made, asked.at), 201 if new else 200)

    @app.get("/v1/orders/{number}")
    def stands(number: str, at: AwareDatetime) -> dict[str, Any]:
        """Where an order stands."""
        if number not in shop.by_number:
            raise HTTPException(404, "no such order")
        return shop.stands(shop.by_number[number], at)

    @app.post("/v1/orders/{number}/tell")
    def tell(number: str, told: Told) -> dict[str, int]:
        """Send all that has happened to the callback: out of order, the newest twice, until it is taken."""
        if number not in shop.by_number:
            raise HTTPException(404, "no such order")
        events = shop.stands(shop.by_number[number], told.at)["events"]
        done = 0
        for event in [*events[::-1], *events[-1:]]:
            for _ in range(TELL_TRIES):
                if sent(told.callback, event | {"number": number}) < 300:
                    done += 1
                    break
        return {"told": done}

    return app


def _post(url: str, body: dict[str, Any]) -> int:
    try:
        return httpx.post(url, json=body, timeout=5).status_code
    except httpx.HTTPError:
        return 599
