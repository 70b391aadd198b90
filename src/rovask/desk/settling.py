"""The settled effect of the newest change: what its first answer said was still being worked out, after a search on both sides."""

from __future__ import annotations

import time

from rovask.core.explain.compare import SETTLING_SECONDS, Halt, Search, compare
from rovask.core.plan.result import Plan
from rovask.core.refit.model import Refit
from rovask.desk.door import Desk
from rovask.desk.taking_back import TakeBack, taking_back
from rovask.store import history, plans, refits
from rovask.store.database import reading, transaction
from rovask.store.errors import NothingToUndo
from rovask.store.refits import Kept


def settle_effect(desk: Desk, pk: int, change: int, halt: Halt, seconds: float = SETTLING_SECONDS) -> bool:
    """Work out what a change did, like with like, and keep that in the history. Whether there was something to settle.

    The launch stays as first told: *ready at* is searched for by itself, and the page's other figures come from there.
    Nothing is done for a change that isn't the newest any more, whose effect is settled already, or to which the rest
    of the plan answered nothing. Raises Halted when it was given up.
    """
    found = _open_effect(desk, pk, change)
    if found is None:
        return False
    kept, before, so_far = found
    now = kept.half_hour(desk.settings.clock())
    told = compare(before, kept.refit, now, so_far, Search(seconds, time.monotonic, halt))
    said = {"money": told.money.minor, "own": told.own.minor, "out": list(told.out), "back": list(told.back)}
    said |= {"low": told.answers.low, "high": told.answers.high} if told.answers is not None else {}
    with transaction(desk.url) as session:
        history.settle(session, pk, change, said | {"settled": True})
    return True


def _open_effect(desk: Desk, pk: int, change: int) -> tuple[Kept, Refit, Plan] | None:
    """The refit now, as it was before its newest change, and the plan it had then; None when nothing is open."""
    with reading(desk.url) as session:
        kept = refits.load(session, pk)
        newest = history.history(session, pk, limit=1)
        so_far = plans.plan_before(session, kept)
        if kept.change != change or not newest or so_far is None or not is_open(newest[0].effect):
            return None
        try:
            return kept, taking_back(session, kept, TakeBack(change)).refit, so_far
        except NothingToUndo:
            return None


def is_open(effect: dict[str, object] | None) -> bool:
    """Whether what the rest of the plan does in answer to a change is still being worked out."""
    if not effect or effect.get("settled"):
        return False
    return effect.get("own", effect.get("money")) != effect.get("money")  # before 0.5 no answer was told apart
