"""Orders sent to their supplier's service, by the worker: asked with the order's own mark, so that it is placed once."""

from __future__ import annotations

import logging
from datetime import datetime

from rovask.core.judged.order_edits import order_of
from rovask.core.plain.faults import RefitFaults
from rovask.core.refit.stores.choices import OrderState
from rovask.desk.command import Actor
from rovask.desk.commands.orders import ConfirmOrder, StepOrder
from rovask.desk.commands.post import NoteTry, SettleOut
from rovask.desk.door import Desk
from rovask.desk.services.asking import Line, Refused
from rovask.desk.services.supplier import OutOfStock, place
from rovask.settings import Settings
from rovask.store import outbox
from rovask.store.errors import NotFound
from rovask.store.post_tables import OutState

log = logging.getLogger("rovask.work")
ROVASK = Actor(None)


def supplier_line(settings: Settings) -> Line:
    """The line to the service that takes orders."""
    return Line("The supplier's service", settings.supplier_url)


def send_order(settings: Settings, pk: int, key: str, line: Line | None = None) -> str:
    """Send one order, if it still waits; returns what came of it.

    What is said lies in the outbox since the change that handed it over. Whatever dies in between, it is sent again with the same
    mark, and what the service took already is only heard again. Raises ServiceAway when there was no answer; the queue tries again later.
    """
    desk = Desk(settings)
    try:
        with desk.looking() as session:
            order = order_of(desk.seen_by(session, None, pk).kept.refit, key)
            waits = outbox.waiting(session, pk, key)
    except (NotFound, RefitFaults):
        return "gone"
    if waits is None:
        return "not waiting"
    mark, items = waits.mark, [(str(what), float(much)) for what, much in waits.body.get("items", ())]
    if order.state is not OrderState.SENDING or order.mark != mark:
        desk.run(ROVASK, SettleOut(mark, OutState.REFUSED, f"not sent: it is {order.state.value}"))
        return "not waiting"
    if not items:
        desk.act(ROVASK, pk, StepOrder(key, OrderState.PLACED, note="not sent: it has no lines"))
        desk.run(ROVASK, SettleOut(mark, OutState.REFUSED, "not sent: it has no lines"))
        return "empty"
    desk.run(ROVASK, NoteTry(mark))
    at = datetime.fromisoformat(waits.body["at"])
    try:
        found = place(line or supplier_line(settings), mark, str(waits.body["reference"]), items, at)
    except (OutOfStock, Refused) as error:
        desk.act(ROVASK, pk, StepOrder(key, OrderState.CANCELLED, note=str(error)[:200]))
        desk.run(ROVASK, SettleOut(mark, OutState.REFUSED, str(error)))
        return "not taken"
    desk.act(ROVASK, pk, ConfirmOrder(key, found.number, OrderState.ACKNOWLEDGED, found.expected))
    desk.run(ROVASK, SettleOut(mark, OutState.TAKEN, f"as {found.number}"))
    return "taken"
