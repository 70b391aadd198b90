"""Processes that try sets of levers beside each other. They stay for the next search, and end with whoever began them."""

from __future__ import annotations

import logging
import os
import pickle
import queue
import tempfile
import threading
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path

from rovask.core.choice.levers import Lever
from rovask.core.choice.tried import FEW, MANY, Tried, Trier
from rovask.core.plan.planner import Planned
from rovask.core.recipes.common import Library
from rovask.core.refit.model import Refit
from rovask.desk.acts import pulling
from rovask.desk.helpers import BEHIND_THE_PAGES
from rovask.own_process import OwnProcess, ProcessDied

log = logging.getLogger("rovask.work")

_LOCK = threading.Lock()
_PROCESSES: list[OwnProcess] = []  # of this process, begun by its first search
_TRIERS: dict[str, Trier] = {}  # in a process of the pool: what it tries on, by the file it was read from


class Tryers:
    """So many processes that try sets of levers of one refit, its plan and some levers."""

    def __init__(self, count: int, body: Path) -> None:
        self.count, self.body = count, str(body)

    def some(self, sets: Sequence[frozenset[str]]) -> list[Tried | None]:
        """Some sets, in few runs."""
        return self._all([(self.body, sorted(one), FEW, False) for one in sets])

    def closely(self, sets: Sequence[frozenset[str]]) -> list[Tried | None]:
        """Some sets, to be told: verified, in many runs."""
        return self._all([(self.body, sorted(one), MANY, True) for one in sets])

    def _all(self, asked: list[tuple[str, list[str], int, bool]]) -> list[Tried | None]:
        free: queue.SimpleQueue[OwnProcess] = queue.SimpleQueue()
        for process in _processes(self.count):
            free.put(process)

        def one(asking: tuple[str, list[str], int, bool]) -> Tried | None:
            process = free.get()
            try:
                return process.do(1, _tried, asking)
            except ProcessDied:
                log.warning("a process that tried ways was killed; what it tried is tried again")
                return process.do(1, _tried, asking)
            finally:
                free.put(process)

        with ThreadPoolExecutor(self.count) as threads:
            return list(threads.map(one, asked))


def pulled_on(
    refit: Refit, planned: Planned, levers: Sequence[Lever], moment: datetime, library: Library, threads: int = 1
) -> Trier:
    """What tries levers on a refit in this very process."""
    return Trier(refit, planned, levers, pulling(planned, moment, library), threads=threads)


@contextmanager
def tryers(
    refit: Refit, planned: Planned, levers: Sequence[Lever], moment: datetime, library: Library, count: int = 2
) -> Iterator[Tryers]:
    """Processes that know a refit, for one search."""
    with tempfile.TemporaryDirectory(prefix="rovask-") as folder:
        body = Path(folder) / "refit"
        body.write_bytes(pickle.dumps((refit, planned, tuple(levers), moment, library)))
        yield Tryers(count, body)


def close() -> None:
    """End the processes."""
    with _LOCK:
        for process in _PROCESSES:
            process.close()
        _PROCESSES.clear()


def _processes(count: int) -> list[OwnProcess]:
    with _LOCK:
        while len(_PROCESSES) < count:
            _PROCESSES.append(OwnProcess(os.nice, BEHIND_THE_PAGES))
        return _PROCESSES[:count]


def _tried(asked: tuple[str, list[str], int, bool]) -> Tried | None:
    body, keys, runs, closely = asked
    if body not in _TRIERS:
        _TRIERS.clear()
        _TRIERS[body] = pulled_on(*pickle.loads(Path(body).read_bytes()))
    return _TRIERS[body].tried(keys, runs, closely=closely)
