"""What a supplier's service tells of an order without being asked: kept at once, then done; what can't be done yet is tried again."""

from __future__ import annotations

import logging

from pydantic import ValidationError

from rovask.core.plain.faults import RovaskError
from rovask.desk.command import Actor
from rovask.desk.commands.orders import HearOfOrder
from rovask.desk.commands.told import KeepTold, ToldIsDone
from rovask.desk.door import Desk
from rovask.desk.services.supplier import STATES, SupplierEvent
from rovask.store import inbox

log = logging.getLogger("rovask")
ROVASK = Actor(None)


def take(desk: Desk, mark: str, event: SupplierEvent) -> None:
    """Keep what was told, then do it; once it is kept it is no longer the service's to worry about. Raises NotFound."""
    desk.run(ROVASK, KeepTold(mark, event))
    do_what_was_told(desk, mark)


def do_what_was_told(desk: Desk, mark: str | None = None) -> int:
    """Do all that was told and isn't done yet; returns how much. What fails stays, and is tried again."""
    with desk.looking() as session:
        waiting = [(told, inbox.order_marked(session, told.mark)) for told in inbox.undone(session, mark)]
    count = 0
    for told, home in waiting:
        try:
            event = SupplierEvent.model_validate(told.body)
            state = STATES.get(event.state)
            if home is not None and state is not None:
                desk.act(ROVASK, home[0], HearOfOrder(home[1], state, event.at, f"told by its service: {event.state}"))
            desk.run(ROVASK, ToldIsDone(told.mark, told.event))
            count += 1
        except (RovaskError, ValidationError) as error:
            log.warning("what was told of an order waits: %s", error)
    return count
