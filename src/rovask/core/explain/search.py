"""How long a comparison is searched, and the handle by which it is given up."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from threading import Lock

from rovask.core.plan.solver.improve import Stop

SETTLING_SECONDS = 2.4  # on each side, both at once


class Halted(Exception):
    """A comparison was given up before it was settled: what it compares has changed meanwhile."""


class Halt:
    """A handle to give up a comparison from another thread, before it begins or while it runs."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._stops: list[Stop] = []
        self.asked = False

    def stop(self) -> Stop:
        """One more search that is to end with it."""
        stop = Stop()
        with self._lock:
            self._stops.append(stop)
            asked = self.asked
        if asked:
            stop.pull()
        return stop

    def pull(self) -> None:
        """Give it up."""
        with self._lock:
            self.asked, stops = True, list(self._stops)
        for stop in stops:
            stop.pull()


@dataclass(frozen=True, slots=True)
class Search:
    """How long each side is searched, by which clock (seconds that only grow), and the handle to give that up."""

    seconds: float
    clock: Callable[[], float]
    halt: Halt = field(default_factory=Halt)
