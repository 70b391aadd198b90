"""Make the date, as the worker looks for it: sets of levers tried beside each other, told as it goes, stopped when asked, the best kept."""

from __future__ import annotations

import logging
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime

from rovask.core.choice.date_told import WORTH_MORE, DateTold, date_told
from rovask.core.choice.frontier import Search, frontier, simplest
from rovask.core.choice.levers import Asked, levers_of
from rovask.core.choice.tried import Tried
from rovask.core.odds.odds import why_not
from rovask.core.plan.planner import Planned
from rovask.core.recipes.common import Library
from rovask.core.refit.model import Refit
from rovask.work.tryers import Tryers, tryers

log = logging.getLogger("rovask.work")

SECONDS = 20.0
TELL_EVERY = 1.0  # seconds
CLOSELY_SHARE = 0.15  # of the time, for the points to be verified and played more often
MOST_POINTS = 12


@dataclass
class Looking:
    """One search for what makes the date. tell: is told the frontier now and then; says whether to go on."""

    refit: Refit
    planned: Planned
    asked: Asked
    moment: datetime
    library: Library
    clock: Callable[[], float]
    tell: Callable[[DateTold], bool]

    def run(self, seconds: float = SECONDS, processes: int = 2) -> DateTold:
        """The frontier as far as there was time for it."""
        levers = self.levers = levers_of(self.refit, self.planned.plan, self.asked)
        reason = why_not(self.refit, self.planned.plan)
        if reason or not levers:
            return self._nothing(reason or "Nothing is left to try: no lever of the kinds that may be tried is there.")
        began = self.told_at = self.clock()
        until = began + seconds * (1 - CLOSELY_SHARE)
        with tryers(self.refit, self.planned, levers, self.moment, self.library, processes) as pool:
            search = Search(levers, pool.some, lambda best, tried: self._on(best, tried, until), 2 * processes)
            self.found, self.stopped = search.found, False
            best = [one for one in search.run() and search.found.values() if one is not None]
            if not best:
                return self._nothing("As it is can't be planned; mend that first.")
            told = self._told(best, len(search.found), stands=self.clock() < until and not self.stopped)
            self.tell(told)
            return self._closely(pool, best, told)

    def _on(self, best: list[Tried], tried: int, until: float) -> bool:
        now = self.clock()
        if best and now - self.told_at >= TELL_EVERY:
            self.told_at = now
            self.stopped = self.stopped or not self.tell(self._told(best, tried, stands=False))
        return now < until and not self.stopped

    def _told(self, best: list[Tried], tried: int, *, stands: bool) -> DateTold:
        base = self.found[frozenset()]
        assert base is not None
        return date_told(
            self.refit, self.planned.plan.now, self.asked, self.levers, best, tried, base, stands=stands, closely=False
        )

    def _closely(self, pool: Tryers, best: list[Tried], told: DateTold) -> DateTold:
        """The same points by verified plans, in many runs; those that don't stand up to that are gone."""
        points = [one for one in simplest(best, WORTH_MORE) if one.levers][:MOST_POINTS]
        base, *others = pool.closely([frozenset(), *(one.levers for one in points)])
        if base is None:
            return told
        kept = frontier(one for one in others if one is not None)
        return date_told(
            self.refit, told.now, self.asked, self.levers, kept, told.tried, base, stands=told.stands, closely=True
        )

    def _nothing(self, reason: str) -> DateTold:
        return DateTold(
            now=self.planned.plan.now, currency=self.refit.currency, asked=self.asked, levers=len(self.levers), reason=reason
        )  # fmt: skip
