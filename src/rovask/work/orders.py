"""Orders sent to their supplier's service, by the worker: asked with the order's own mark, so that it is placed once."""

from __future__ import annotations

import logging

from rovask.core.judged.order_edits import order_of
from rovask.core.plain.faults import RefitFaults
from rovask.core.refit.stores.choices import OrderState
from rovask.desk.command import Actor
from rovask.desk.commands.orders import ConfirmOrder, StepOrder
from rovask.desk.door import Desk
from rovask.desk.services.asking import Line, Refused
from rovask.desk.services.supplier import OutOfStock, place
from rovask.settings import Settings
from rovask.store.errors import NotFound

log = logging.getLogger("rovask.work")
ROVASK = Actor(None)


def supplier_line(settings: Settings) -> Line:
    """The line to the service that takes orders."""
    return Line("The supplier's service", settings.supplier_url)


def send_order(settings: Settings, pk: int, key: str, line: Line | None = None) -> str:
    """Send one order, if it still waits; returns what came of it.

    Whatever dies in between, it is sent again with the same mark, and what the service took already is only heard again.
    Raises ServiceAway when there was no answer; the queue tries again later.
    """
    desk = Desk(settings)
    try:
        with desk.looking() as session:
            kept = desk.seen_by(session, None, pk).kept
        order = order_of(kept.refit, key)
    except (NotFound, RefitFaults):
        return "gone"
    if order.state is not OrderState.SENDING:
        return "not waiting"
    items = [
        (line_.what or kept.refit.part_by_id[line_.part].name, line_.quantity)
        for line_ in kept.refit.order_lines
        if line_.order == key
    ]
    if not items:
        desk.act(ROVASK, pk, StepOrder(key, OrderState.PLACED, note="not sent: it has no lines"))
        return "empty"
    try:
        found = place(line or supplier_line(settings), order.mark, kept.refit.boat.name, items, order.placed_at)
    except (OutOfStock, Refused) as error:
        desk.act(ROVASK, pk, StepOrder(key, OrderState.CANCELLED, note=str(error)[:200]))
        return "not taken"
    desk.act(ROVASK, pk, ConfirmOrder(key, found.number, OrderState.ACKNOWLEDGED, found.expected))
    return "taken"
