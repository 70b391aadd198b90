"""How sure a launch is, as the worker plays it: a first answer in a moment, then a finer one with what each look is worth.

Beside the search for a better plan, never in its way: one refit at a time. A worker that is killed leaves the wish in the queue.
"""

from __future__ import annotations

from rovask.core.odds.odds import RUNS, odds_of
from rovask.desk.command import Actor
from rovask.desk.commands.odds import KeepOdds
from rovask.desk.door import Desk
from rovask.settings import Settings
from rovask.store.errors import StoreError

ROVASK = Actor(None)
FIRST_RUNS = 2_000


def play(settings: Settings, pk: int) -> bool:
    """Play the plan of a refit as it stands now; whether the finer answer was kept: not when it has changed meanwhile."""
    desk = Desk(settings)
    try:
        with desk.looking() as session:
            kept = desk.seen_by(session, None, pk).kept
        plan = desk.planning.current(kept, settings.clock()).plan
    except StoreError:
        return False  # removed meanwhile
    if not kept.refit.tasks:
        return False
    first = odds_of(kept.refit, plan, runs=FIRST_RUNS, looks=False)
    if not desk.run(ROVASK, KeepOdds(first, kept.change), pk) or first.odds is None:
        return False
    return bool(desk.run(ROVASK, KeepOdds(odds_of(kept.refit, plan, runs=RUNS), kept.change), pk))
