"""Ways as the worker lays them out, and the search for what makes the date: told as they go, kept while the refit is the same.

A worker that is killed leaves its wish in the queue; what was told so far stands in the database.
"""

from __future__ import annotations

import time

from rovask.core.choice.date_told import DateTold
from rovask.core.choice.lay import SideBySide
from rovask.core.plan.solver.improve import Stop
from rovask.desk.acts import layings
from rovask.desk.command import Actor
from rovask.desk.commands.choices import KeepLaid, NoteDate
from rovask.desk.door import Desk
from rovask.settings import Settings
from rovask.store import laid
from rovask.store.errors import StoreError
from rovask.store.recipes import library_for
from rovask.work.make_date import Looking

ROVASK = Actor(None)


def lay(settings: Settings, pk: int, key: str) -> bool:
    """Lay a choice out as the refit stands now; whether the settled figures were kept."""
    desk = Desk(settings)
    try:
        with desk.looking() as session:
            kept = desk.seen_by(session, None, pk).kept
            at_hand = library_for(session, pk)
        planned = desk.planning.current(kept, settings.clock())
    except StoreError:
        return False  # removed meanwhile
    row = next((one for one in kept.refit.ways if one.id == key), None)
    if row is None or row.taken or not kept.refit.tasks:
        return False
    moment = kept.now(settings.clock()).replace(microsecond=0)
    sides = SideBySide(kept.refit, planned, layings(kept.refit, row.ways, planned, moment, at_hand, key))
    if not desk.run(ROVASK, KeepLaid(key, sides.first(), kept.change), pk):
        return False
    found = sides.settled(time.monotonic, Stop(), seconds=settings.choice_seconds)
    return bool(desk.run(ROVASK, KeepLaid(key, found, kept.change, sides.plans()), pk))


def look_for_date(settings: Settings, pk: int) -> str:
    """Look for what makes the date, as it was asked last; in words how that went."""
    desk = Desk(settings)
    clock = settings.clock()
    try:
        with desk.looking() as session:
            kept = desk.seen_by(session, None, pk).kept
            asked = laid.date_then(session, pk, clock)
            at_hand = library_for(session, pk)
        if asked is None or asked.over:
            return "nothing was asked"
        planned = desk.planning.current(kept, clock)
    except StoreError:
        return "removed meanwhile"

    def tell(found: DateTold) -> bool:
        with desk.looking() as session:
            try:
                same = desk.seen_by(session, None, pk).kept.change == kept.change
            except StoreError:
                return False
        return bool(desk.run(ROVASK, NoteDate(asked.asked_at, found), pk)) and same

    moment = kept.now(clock).replace(microsecond=0)
    looking = Looking(kept.refit, planned, asked.asked, moment, at_hand, time.monotonic, tell)
    found = looking.run(float(asked.asked.seconds or settings.date_seconds))
    desk.run(ROVASK, NoteDate(asked.asked_at, found, over=True), pk)
    return f"{found.tried} tried, {len(found.points)} points"
