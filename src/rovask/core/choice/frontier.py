"""Make the date: the sets of levers by which the launch is surer and nothing surer costs less.

Each lever alone first, then pairs of those that help, then what lies beside the frontier there is, the most promising first: a lever
more, a lever less, one for another. What is promising is foretold by what each lever did alone; what is told was planned and played. It ends
when everything beside the frontier was tried, or when it is told to.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from itertools import combinations

from rovask.core.choice.levers import Lever
from rovask.core.choice.tried import Tried

Try = Callable[[Sequence[frozenset[str]]], list[Tried | None]]
MOST_TOGETHER = 8  # levers of one set
PAIRED = 8  # of the levers that help most alone, which are tried two by two
EDGE = 0.002  # odds are kept so far from 0 and 1 where they are added up in logits


def frontier(tried: Iterable[Tried]) -> list[Tried]:
    """Those that nothing beats: nothing is as sure and cheaper, or surer and as cheap. Cheapest first. O(n log n).

    Of two that are as sure for the same the one with fewer levers.
    """
    out: list[Tried] = []
    for one in sorted(tried, key=lambda row: (row.price, -row.odds, len(row.levers), sorted(row.levers))):
        if not out or one.odds > out[-1].odds:
            out.append(one)
    return out


class Search:
    """Looks for the frontier of some levers. attempt: tries some sets at once; go_on: asked before each lot, told the frontier and how many."""

    def __init__(
        self, levers: Sequence[Lever], attempt: Try, go_on: Callable[[list[Tried], int], bool], lot: int = 2
    ) -> None:
        self.levers, self.attempt, self.go_on, self.lot = levers, attempt, go_on, lot
        self.group = {lever.key: lever.group for lever in levers}
        self.found: dict[frozenset[str], Tried | None] = {}

    def run(self) -> list[Tried]:
        """The frontier as far as it was looked for; empty where even as it is can't be planned."""
        base = frozenset[str]()
        if not self._try([base]) or self.found[base] is None:
            return []
        if self._try([frozenset([lever.key]) for lever in self.levers]):
            self._try(self._pairs())
            while todo := self._beside():
                if not self._try(todo[: self.lot * 2]):
                    break
        return self.best()

    def best(self) -> list[Tried]:
        """The frontier so far."""
        return frontier(one for one in self.found.values() if one is not None)

    def _try(self, sets: Sequence[frozenset[str]]) -> bool:
        """Try what wasn't yet; whether to go on."""
        todo = [one for one in dict.fromkeys(sets) if one not in self.found]
        for at in range(0, len(todo), self.lot):
            if not self.go_on(self.best(), len(self.found)):
                return False
            some = todo[at : at + self.lot]
            self.found.update(zip(some, self.attempt(some), strict=True))
        return True

    def _alone(self, key: str) -> tuple[float, float]:
        """What a lever does alone: logits won, and price."""
        base, one = self.found[frozenset()], self.found.get(frozenset([key]))
        if base is None or one is None:
            return 0.0, math.inf
        return _logit(one.odds) - _logit(base.odds), one.price - base.price

    def _pairs(self) -> list[frozenset[str]]:
        """The best levers two by two: those that win most, and those that win most for their price."""
        alone = {lever.key: self._alone(lever.key) for lever in self.levers}
        help_ = [key for key, (won, _) in alone.items() if won > 0]
        most = sorted(help_, key=lambda key: -alone[key][0])[:PAIRED]
        cheap = sorted(help_, key=lambda key: alone[key][1] / alone[key][0])[:PAIRED]
        keys = list(dict.fromkeys([*most, *cheap]))
        pairs = [frozenset(pair) for pair in combinations(keys, 2) if self._fits(pair)]
        return sorted(pairs, key=self._promise, reverse=True)

    def _fits(self, keys: Iterable[str]) -> bool:
        groups = [self.group[key] for key in keys]
        return len(set(groups)) == len(groups) <= MOST_TOGETHER

    def _beside(self) -> list[frozenset[str]]:
        """Sets beside the frontier that weren't tried, the most promising first."""
        keys = [lever.key for lever in self.levers if self.found.get(frozenset([lever.key])) is not None]
        out = dict[frozenset[str], None]()
        for point in self.best():
            has = point.levers
            more = [has | {key} for key in keys if key not in has]
            less = [has - {key} for key in has]
            swapped = [one | {key} for one in less for key in keys if key not in has]
            for one in (*more, *less, *swapped):
                if one not in self.found and self._fits(one):
                    out[one] = None
        return sorted((one for one in out if self._promise(one) > 0), key=self._promise, reverse=True)

    def _promise(self, keys: frozenset[str]) -> float:
        """By how much a set would lie beyond the frontier, were its levers to add up: odds more than what costs as much has.

        A little is granted, for they don't. Nought or less: it isn't worth a try.
        """
        base = self.found[frozenset()]
        assert base is not None
        nearest = max(
            (one for one in self.found.values() if one is not None and one.levers <= keys),
            key=lambda one: len(one.levers),
        )
        rest = keys - nearest.levers
        logit = _logit(nearest.odds) + sum(max(self._alone(key)[0], 0.0) for key in rest)
        price = nearest.price + sum(self._alone(key)[1] for key in rest)
        if math.isinf(price):
            return 0.0
        odds = 1 / (1 + math.exp(-logit))
        as_cheap = max((one.odds for one in self.best() if one.price <= price), default=0.0)
        return odds - as_cheap + GRANTED


GRANTED = 0.02  # odds


def _logit(odds: float) -> float:
    odds = min(max(odds, EDGE), 1 - EDGE)
    return math.log(odds / (1 - odds))
