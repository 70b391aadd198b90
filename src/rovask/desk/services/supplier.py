"""The client of a supplier that takes orders: the simulated one today, a real one with the same API tomorrow."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Annotated
from urllib.parse import quote

from pydantic import AwareDatetime, BaseModel, Field

from rovask.core.plain.faults import RovaskError
from rovask.core.refit.stores.choices import OrderState
from rovask.desk.services.asking import Line, Refused

STATES = {
    "acknowledged": OrderState.ACKNOWLEDGED,
    "shipped": OrderState.SHIPPED,
    "customs": OrderState.CUSTOMS,
    "arrived": OrderState.SHIPPED,  # theirs, not ours: it has arrived once somebody here has it in hand
}


class OutOfStock(RovaskError):
    """Something can't be had there. ``items``: what; nothing was ordered."""

    def __init__(self, items: Sequence[str]) -> None:
        super().__init__(f"Not to be had there: {', '.join(items)}.")
        self.items = tuple(items)


class SupplierEvent(BaseModel):
    """One thing that happened to an order there."""

    id: Annotated[str, Field(min_length=1, max_length=80)]
    at: AwareDatetime
    state: Annotated[str, Field(max_length=40)]
    number: Annotated[str, Field(max_length=80)] = ""


class Standing(BaseModel):
    """Where an order stands there."""

    number: Annotated[str, Field(min_length=1, max_length=80)]
    state: Annotated[str, Field(max_length=40)]
    expected: AwareDatetime
    events: Annotated[list[SupplierEvent], Field(max_length=100)] = []

    @property
    def ours(self) -> OrderState:
        """Its state in our words."""
        return STATES.get(self.state, OrderState.ACKNOWLEDGED)


def place(line: Line, mark: str, reference: str, items: Sequence[tuple[str, float]], at: datetime) -> Standing:
    """Place an order, known by its mark: however often it is asked for, it is one order. Raises OutOfStock, Refused, ServiceAway."""
    body = {
        "at": at.isoformat(),
        "reference": reference[:200],
        "lines": [{"item": item[:200], "quantity": quantity} for item, quantity in items],
    }
    try:
        return line.ask(Standing, "POST", "/v1/orders", json=body, headers={"Idempotency-Key": mark})
    except Refused as error:
        detail = error.body.get("detail") if isinstance(error.body, dict) else None
        gone = detail.get("out_of_stock") if isinstance(detail, dict) else None
        if error.status == 409 and isinstance(gone, list):
            raise OutOfStock([str(item) for item in gone]) from None
        raise


def standing(line: Line, number: str, at: datetime) -> Standing:
    """Where an order stands. Raises Refused, ServiceAway."""
    return line.ask(Standing, "GET", f"/v1/orders/{quote(number, safe='')}", params={"at": at.isoformat()})
