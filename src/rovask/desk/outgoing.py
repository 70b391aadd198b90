"""What goes out of the house with a change: what is said, and the wish that the worker sends it."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from rovask.core.judged.order_edits import order_of
from rovask.core.refit.model import Refit
from rovask.store import outbox, queue


def said_of(refit: Refit, key: str) -> dict[str, Any]:
    """What an order says to its supplier's service: for which boat, what and how much of it, and when it was placed."""
    order = order_of(refit, key)
    items = [
        [line.what or refit.part_by_id[line.part].name, line.quantity]
        for line in refit.order_lines
        if line.order == key
    ]
    return {"reference": refit.boat.name, "items": items, "at": order.placed_at.isoformat()}


def send_out(session: Session, pk: int, refit: Refit, key: str, clock: datetime) -> None:
    """Write an order into the outbox and have it sent, both once this transaction is committed. Raises StoreError."""
    order = order_of(refit, key)
    outbox.put(session, order.mark, pk, key, order.supplier, said_of(refit, key), clock)
    queue.wish_to_send(session, pk, key)
