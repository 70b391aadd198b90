"""The client of a carrier."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from pydantic import AwareDatetime, BaseModel, Field

from rovask.core.refit.stores.choices import OrderState
from rovask.desk.services.asking import Line

STATES = {
    "collected": OrderState.SHIPPED,
    "moving": OrderState.SHIPPED,
    "customs": OrderState.CUSTOMS,
    "delivered": OrderState.SHIPPED,  # to the yard's gate; it has arrived once somebody has it in hand
}


class Parcel(BaseModel):
    """Where a parcel is."""

    tracking: str
    state: Annotated[str, Field(max_length=40)]
    place: Annotated[str, Field(max_length=80)] = ""
    expected: AwareDatetime

    @property
    def ours(self) -> OrderState | None:
        """Its state in our words; None while nobody has it."""
        return STATES.get(self.state)


def parcel(line: Line, tracking: str, sent: datetime, at: datetime) -> Parcel:
    """Where a parcel is at a moment. Raises Refused, ServiceAway."""
    params = {"tracking": tracking, "sent": sent.isoformat(), "at": at.isoformat()}
    return line.ask(Parcel, "GET", "/v1/parcels", params=params)
