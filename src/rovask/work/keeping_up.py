"""Plans are brought up to the present half-hour before somebody looks: whoever looks first would wait for it."""

from __future__ import annotations

import logging
import time
from datetime import timedelta

from rovask.desk.door import Desk
from rovask.settings import Settings
from rovask.store import plans
from rovask.store.errors import NotFound
from rovask.store.refits import load

log = logging.getLogger("rovask.work")

LOOKED_AT_WITHIN = timedelta(days=2)  # by somebody of its crew; of others the plan waits until they come back
SECONDS = 50.0  # for one turn: there is one every minute
PLAYED_AGAIN_AFTER = timedelta(hours=6)


def keep_up(settings: Settings, seconds: float = SECONDS) -> int:
    """Plan what is of an earlier half-hour, first whose crew was here last; returns how many."""
    desk, clock, ends, made = Desk(settings), settings.clock(), time.monotonic() + seconds, 0
    with desk.looking() as session:
        behind = plans.behind(session, clock, clock - LOOKED_AT_WITHIN)
    for pk in behind:
        if time.monotonic() > ends:
            log.info("%s plans are of an earlier half-hour still", len(behind) - made)
            break
        try:
            with desk.looking() as session:
                kept = load(session, pk)
            desk.planning.current(kept, clock, played_within=PLAYED_AGAIN_AFTER)
        except NotFound:  # it was removed meanwhile
            continue
        made += 1
    return made
