"""Make the date: the sets of levers by which the launch is surer and nothing surer costs less.

Each lever alone, and turn about with that what lies beside the frontier there is, the most promising first: a lever more, a lever less, one
for another, and pairs of those that help most alone. What is promising is foretold by what each lever did alone; what is told was planned and
played. It ends when everything promising beside the frontier was tried, or when it is told to.
"""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from itertools import combinations

from rovask.core.choice.levers import Lever
from rovask.core.choice.tried import Tried

Try = Callable[[Sequence[frozenset[str]]], list[Tried | None]]
MOST_TOGETHER = 12  # levers of one set
PAIRED = 8  # of the levers that help most alone, which are tried two by two
NEAR = 0.01  # odds by which a set may lie behind the frontier, and what lies beside it is tried all the same
EDGE = 0.002  # odds are kept so far from 0 and 1 where they are added up in logits


def frontier(tried: Iterable[Tried], least: float = 0.0) -> list[Tried]:
    """Those that nothing beats: nothing is as sure and cheaper, or surer and as cheap. Cheapest first. O(n log n).

    least: by how much a dearer one has to be surer. Of two that are as sure for the same the one with fewer levers.
    """
    out: list[Tried] = []
    for one in sorted(tried, key=lambda row: (row.price, -row.odds, len(row.levers), sorted(row.levers))):
        if not out or one.odds > out[-1].odds + least:
            out.append(one)
    return out


def simplest(tried: Iterable[Tried], least: float) -> list[Tried]:
    """The frontier with each point by the fewest levers that are as sure within ``least`` and no dearer. O(points x tried)."""
    known = list(tried)
    out = dict[frozenset[str], Tried]()
    for point in frontier(known, least):
        alike = [one for one in known if one.price <= point.price and one.odds >= point.odds - least]
        best = min(alike, key=lambda one: (len(one.levers), one.price, -one.odds, sorted(one.levers)))
        out[best.levers] = best
    return frontier(out.values())


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
        alone = [frozenset([lever.key]) for lever in self.levers]
        for behind in (0.0, NEAR):
            beside, front = list[frozenset[str]](), list[Tried]()
            while True:
                if not beside or front != self.best():
                    beside, front = self._beside(behind), self.best()
                half = self.lot if not beside else self.lot - min(len(beside), self.lot // 2)
                todo, alone = alone[:half], alone[half:]
                many = self.lot - len(todo)
                todo, beside = todo + beside[:many], beside[many:]
                if not todo:
                    break
                if not self._try(todo):
                    return self.best()
        return self.best()

    def best(self) -> list[Tried]:
        """The frontier so far."""
        return frontier(one for one in self.found.values() if one is not None)

    def _try(self, sets: Sequence[frozenset[str]]) -> bool:
        """Try some sets at once; whether to go on."""
        if not self.go_on(self.best(), len(self.found)):
            return False
        todo = [one for one in dict.fromkeys(sets) if one not in self.found]
        self.found.update(zip(todo, self.attempt(todo), strict=True))
        return True

    def _alone(self, key: str) -> tuple[float, float]:
        """What a lever does alone: logits won, and price."""
        base, one = self.found[frozenset()], self.found.get(frozenset([key]))
        if base is None or one is None:
            return 0.0, math.inf
        return _logit(one.odds) - _logit(base.odds), one.price - base.price

    def _fits(self, keys: Iterable[str]) -> bool:
        groups = [self.group[key] for key in keys]
        return len(set(groups)) == len(groups) <= MOST_TOGETHER

    def _beside(self, behind: float) -> list[frozenset[str]]:
        """Sets beside the frontier that weren't tried, the most promising first. behind: how far behind it a set may lie to be gone on from."""
        alone = {key: found for lever in self.levers if (found := self._alone(key := lever.key))[1] < math.inf}
        known = [one for one in self.found.values() if one is not None]
        front = self.best()
        prices = [one.price for one in front]
        out: dict[frozenset[str], float] = {}

        def beside(point: Tried, more: str = "", less: str = "") -> None:
            """A lever more, a lever less, or one for the other; by how much that would lie beyond the frontier, were levers to add up."""
            keys = (point.levers | {more}) - {less} if more else point.levers - {less}
            if keys in self.found or not self._fits(keys):
                return
            logit, price = _logit(point.odds), point.price
            for key, sign in ((more, 1), (less, -1)):
                won, cost = alone.get(key, (0.0, 0.0))
                logit, price = logit + sign * won, price + sign * cost
            at = bisect_right(prices, price)
            promise = 1 / (1 + math.exp(-logit)) - (front[at - 1].odds if at else 0.0)
            out[keys] = max(out.get(keys, -1.0), promise)

        for point in _near(front, known, behind):
            for key in point.levers:
                beside(point, less=key)
            for more in alone:
                if more not in point.levers:
                    beside(point, more=more)
                    for less in point.levers:
                        beside(point, more=more, less=less)
        for one, other in _pairs(alone):
            single = self.found[frozenset([one])]
            if single is not None:
                beside(single, more=other)
        return sorted(out, key=lambda keys: (-out[keys], sorted(keys)))


def _near(front: Sequence[Tried], known: Iterable[Tried], behind: float) -> list[Tried]:
    """Those on the frontier, or not further behind it: it has bays, across which no single step leads."""
    prices = [one.price for one in front]
    return [one for one in known if one.odds >= front[bisect_right(prices, one.price) - 1].odds - behind]


def _pairs(alone: Mapping[str, tuple[float, float]]) -> Iterator[tuple[str, str]]:
    """The levers that help two by two: those that win most alone, and those that win most for their price."""
    helping = [key for key, (won, _) in alone.items() if won > 0]
    most = sorted(helping, key=lambda key: -alone[key][0])[:PAIRED]
    cheap = sorted(helping, key=lambda key: alone[key][1] / alone[key][0])[:PAIRED]
    yield from combinations(dict.fromkeys([*most, *cheap]), 2)


def _logit(odds: float) -> float:
    odds = min(max(odds, EDGE), 1 - EDGE)
    return math.log(odds / (1 - odds))
