"""Waits that what happened has broken: the plan goes on from the fact, and this says which rule it broke."""

from __future__ import annotations

from dataclasses import dataclass

from rovask.core.plain.words import day_and_time
from rovask.core.plan.result import Plan
from rovask.core.readings.curing import CureClock
from rovask.core.refit.model import Refit
from rovask.core.refit.work.kinds import LAUNCH


@dataclass(frozen=True, slots=True)
class BrokenWait:
    """A longest wait that can't be held any more. task: what comes too late ("" for the launch); words: what to do."""

    link: str
    task: str
    words: str


def broken_waits(refit: Refit, plan: Plan) -> list[BrokenWait]:
    """One for each tie in ``plan.broken``, in the order of the refit."""
    out, clock, zone = [], CureClock.of(refit), refit.yard.zone
    for link in refit.waits:
        if link.id not in plan.broken or link.first not in refit.tasks:
            continue
        first = refit.tasks[link.first]
        from_end = link.kind in ("FS", "FF")
        event = first.done_at if from_end else first.begun_at
        closes = clock.closes_after(link, event) if event is not None else None
        until = f" by {day_and_time(closes, zone)}" if closes is not None else ""
        if link.then == LAUNCH or link.then not in refit.tasks:
            words = f"The launch should have come{until} after “{first.title}”: do that again, or look at it once more."
            out.append(BrokenWait(link.id, "", words))
            continue
        then = refit.tasks[link.then]
        words = (
            f"“{then.title}” should have followed “{first.title}”{until}. A coat that waited too long is washed, "
            "abraded and wiped first: add that work if it is one."
        )
        out.append(BrokenWait(link.id, then.id, words))
    return out
