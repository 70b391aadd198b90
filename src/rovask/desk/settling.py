"""The settled effect of the newest change: what its first answer said was still being worked out, after a search on both sides."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from functools import partial
from typing import Any

from rovask.core.explain.compare import compare
from rovask.core.explain.search import Search
from rovask.core.plan.result import Plan
from rovask.core.refit.model import Refit
from rovask.desk.door import Desk
from rovask.desk.taking_back import TakeBack, taking_back
from rovask.store import history, plans, refits
from rovask.store.database import reading, transaction
from rovask.store.errors import NothingToUndo
from rovask.store.refits import Kept


def open_effect(desk: Desk, pk: int, change: int) -> Callable[[Search], dict[str, Any]] | None:
    """How to work out what a change did, like with like; None when there is nothing to settle.

    The launch stays as first told: *ready at* is searched for by itself, and the page's other figures come from there.
    There is nothing for a change that isn't the newest any more, whose effect is settled already, or to which the rest
    of the plan answered nothing.
    """
    found = _open_effect(desk, pk, change)
    if found is None:
        return None
    kept, before, so_far = found
    return partial(effect_told, before, kept.refit, kept.half_hour(desk.settings.clock()), so_far)


def effect_told(before: Refit, after: Refit, now: datetime, so_far: Plan, search: Search) -> dict[str, Any]:
    """What history keeps of a settled effect. Raises Halted when it was given up."""
    told = compare(before, after, now, so_far, search)
    said = {"money": told.money.minor, "own": told.own.minor, "out": list(told.out), "back": list(told.back)}
    said |= {"low": told.answers.low, "high": told.answers.high} if told.answers is not None else {}
    return said | {"settled": True}


def keep_effect(desk: Desk, pk: int, change: int, said: dict[str, Any]) -> None:
    """Keep a settled effect in the history."""
    with transaction(desk.url) as session:
        history.settle(session, pk, change, said)


def _open_effect(desk: Desk, pk: int, change: int) -> tuple[Kept, Refit, Plan] | None:
    """The refit now, as it was before its newest change, and the plan it had then."""
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
