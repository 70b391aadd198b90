"""A small cache of frozen things, safe between threads; the least recently used goes first."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Hashable
from threading import Lock
from typing import Generic, TypeVar

Where = TypeVar("Where", bound=Hashable)
What = TypeVar("What")


class LRU(Generic[Where, What]):
    """At most ``maxsize`` things by key."""

    def __init__(self, maxsize: int) -> None:
        self._maxsize = maxsize
        self._things: OrderedDict[Where, What] = OrderedDict()
        self._lock = Lock()

    def get(self, where: Where) -> What | None:
        """The thing kept there, or None."""
        with self._lock:
            if where in self._things:
                self._things.move_to_end(where)
            return self._things.get(where)

    def put(self, where: Where, what: What) -> None:
        """Keep a thing."""
        with self._lock:
            self._things[where] = what
            self._things.move_to_end(where)
            while len(self._things) > self._maxsize:
                self._things.popitem(last=False)
