"""What a supplier's service tells of an order without being asked: kept at once, then done; what can't be done yet is tried again,
and given up after some tries (store/inbox.py).
"""

from __future__ import annotations

import logging

from pydantic import ValidationError

from rovask.core.plain.faults import RovaskError
from rovask.desk.command import Actor
from rovask.desk.commands.orders import HearOfOrder
from rovask.desk.commands.post import KeepTold, ToldFailed, ToldIsDone
from rovask.desk.door import Desk
from rovask.desk.services.supplier import STATES, SupplierEvent
from rovask.store import inbox, outbox
from rovask.store.errors import NotFound
from rovask.store.inbox import Told

log = logging.getLogger("rovask")
ROVASK = Actor(None)
REFIT_GONE = "its refit was removed"


def take(desk: Desk, mark: str, event: SupplierEvent) -> None:
    """Keep what was told, then do it; once it is kept it is no longer the service's to worry about. Raises NotFound."""
    desk.run(ROVASK, KeepTold(mark, event))
    do_what_was_told(desk, mark)


def do_what_was_told(desk: Desk, mark: str | None = None) -> int:
    """Do all that was told and is due; returns how much was done. What fails stays, is tried later, and given up in the end."""
    with desk.looking() as session:
        waiting = [
            (told, outbox.by_mark(session, told.mark)) for told in inbox.undone(session, desk.settings.clock(), mark)
        ]
    count = 0
    for told, sent in waiting:
        home = sent.refit if sent is not None else None
        if sent is None or home is None:
            desk.run(ROVASK, ToldFailed(told.mark, told.event, REFIT_GONE, for_good=True))
            continue
        try:
            _do(desk, home, sent.about, told)
            count += 1
        except (RovaskError, ValidationError) as error:
            log.warning("what was told of an order waits: %s", type(error).__name__)
            desk.run(ROVASK, ToldFailed(told.mark, told.event, str(error), for_good=isinstance(error, NotFound)))
    return count


def _do(desk: Desk, pk: int, order: str, told: Told) -> None:
    event = SupplierEvent.model_validate(told.body)
    state = STATES.get(event.state)
    if state is not None:
        desk.act(ROVASK, pk, HearOfOrder(order, state, event.at, f"told by its service: {event.state}"))
    desk.run(ROVASK, ToldIsDone(told.mark, told.event))
