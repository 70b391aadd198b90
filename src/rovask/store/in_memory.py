"""What a process holds of refits and plans so that it need not read them again: bounded by what they weigh, not by how many.

A refit and a plan hold what was worked out of them (core/plain/derived.py), and take it along when they go.
"""

from __future__ import annotations

from collections.abc import Callable
from threading import Lock
from typing import Generic, TypeVar

from cachetools import LRUCache

Where = TypeVar("Where")
What = TypeVar("What")
MEGABYTE = 1 << 20
_ALL: list[InMemory] = []  # type: ignore[type-arg]


class InMemory(Generic[Where, What]):
    """Things by where they stand in a database; those asked for longest ago go first. Safe to ask from several threads.

    weight: bytes of one, about. share: which part of the whole allowance these may take.
    """

    def __init__(self, weight: Callable[[What], int], share: float, megabytes: float = 600) -> None:
        self._weight, self._share, self._lock, self._megabytes = weight, share, Lock(), 0.0
        self.allow(megabytes)
        _ALL.append(self)

    def allow(self, megabytes: float) -> None:
        """Begin anew, if this is another allowance than before."""
        if megabytes == self._megabytes:
            return
        with self._lock:
            self._megabytes = megabytes
            self._kept: LRUCache[Where, What] = LRUCache(megabytes * MEGABYTE * self._share, getsizeof=self._weight)

    def get(self, where: Where) -> What | None:
        """What is held; None where nothing is."""
        with self._lock:
            return self._kept.get(where)

    def put(self, where: Where, what: What) -> None:
        """Hold it, unless it is heavier than all that may be held."""
        if self._weight(what) > self._kept.maxsize:
            return
        with self._lock:
            self._kept[where] = what


def allow(megabytes: float) -> None:
    """How much may be held in this process, in all."""
    for one in _ALL:
        one.allow(megabytes)
