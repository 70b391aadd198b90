"""Processes that try sets of levers beside each other. They stay for the next search, and end with whoever began them."""

from __future__ import annotations

import logging
import multiprocessing
import os
import pickle
import signal
import tempfile
import threading
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager
from datetime import datetime
from multiprocessing.connection import Connection
from pathlib import Path

from rovask.core.choice.levers import Lever
from rovask.core.choice.tried import FEW, MANY, Tried, Trier
from rovask.core.plan.planner import Planned
from rovask.core.recipes.common import Library
from rovask.core.refit.model import Refit
from rovask.desk.acts import pulling
from rovask.desk.helpers import BEHIND_THE_PAGES, end_with

log = logging.getLogger("rovask.work")

_LOCK = threading.Lock()
_POOLS: list[tuple[ProcessPoolExecutor, Connection]] = []  # of this process: the one there is, and its lifeline
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
        try:
            return list(_pool(self.count).map(_tried, asked))
        except BrokenProcessPool:
            log.warning("a process that tried ways was killed; what it tried is tried again")
            close()
            return list(_pool(self.count).map(_tried, asked))


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
        for pool, lifeline in _POOLS:
            lifeline.close()
            pool.shutdown(wait=False, cancel_futures=True)
        _POOLS.clear()


def _pool(count: int) -> ProcessPoolExecutor:
    with _LOCK:
        if not _POOLS:
            context = multiprocessing.get_context("spawn")
            theirs, ours = context.Pipe(duplex=False)
            _POOLS.append((ProcessPoolExecutor(count, context, _begin, (theirs,)), ours))
        return _POOLS[0][0]


def _begin(lifeline: Connection) -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    os.nice(BEHIND_THE_PAGES)
    threading.Thread(target=end_with, args=(lifeline,), name="rovask-lifeline", daemon=True).start()


def _tried(asked: tuple[str, list[str], int, bool]) -> Tried | None:
    body, keys, runs, closely = asked
    if body not in _TRIERS:
        _TRIERS.clear()
        _TRIERS[body] = pulled_on(*pickle.loads(Path(body).read_bytes()))
    return _TRIERS[body].tried(keys, runs, closely=closely)
