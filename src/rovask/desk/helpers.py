"""What takes many plans to work out: done beside the pages by processes of its own, each question once, boats in turn.

A page asks and goes on; the answer is kept in the database, where it or any other page picks it up. No thread of a request
waits for it longer than a moment, none holds a lock or a connection meanwhile. Of one boat what is asked first comes first,
but what a search of seconds settles comes after what is known in a moment; and no boat has a second turn while another
waits. What was asked of a refit that has changed since is given up.
"""

from __future__ import annotations

import logging
import os
import pickle
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field
from functools import partial
from io import BytesIO
from itertools import count as count_up
from typing import Any

from sqlalchemy.exc import SQLAlchemyError

from rovask.core.explain.search import Halt, Halted, Search
from rovask.own_process import OwnProcess, ProcessDied, when_halted
from rovask.store import answers
from rovask.store.answers import Question
from rovask.store.database import reading, transaction

log = logging.getLogger("rovask.desk")

TRIES = 2  # of a question whose process was killed
BEHIND_THE_PAGES = 15  # nice: the pages have the larger share of the processors


@dataclass(eq=False)
class _Job:
    question: Question
    work: Callable[..., Any]
    search: bool
    number: int  # of all that were asked
    future: Future[Any] = field(default_factory=Future)
    tries: int = 0
    slot: int = -1
    halt: Halt = field(default_factory=Halt)  # of one that is worked out in this very process


_Begun = tuple[_Job, "Future[Any]"]

PLAIN = {"collections", "copyreg", "datetime", "decimal", "zoneinfo"}
NAMED = {("pydantic_core._pydantic_core", "TzInfo")}  # of moments that a model read
BUILT_IN = {"set", "frozenset", "dict", "list", "tuple", "object", "bytearray", "complex"}


class _Ours(pickle.Unpickler):
    """Reads nothing but what the core and the standard library's plain values are made of."""

    def find_class(self, module: str, name: str) -> Any:
        if "." not in name:  # never by way of what a module has imported
            found = super().find_class(module, name)
            plain = module in PLAIN or (module, name) in NAMED or (module == "builtins" and name in BUILT_IN)
            if plain or (isinstance(found, type) and found.__module__.startswith("rovask.core.")):
                return found
        raise pickle.UnpicklingError(f"{module}.{name} is no part of an answer")


class Kept:
    """Answers as they were kept, each read when it is asked for."""

    def __init__(self, bodies: dict[str, bytes]) -> None:
        self._bodies = bodies

    def of(self, question: Question) -> tuple[Any] | None:
        """One of them in a tuple, for it may be None; None where there is none."""
        body = self._bodies.get(question.digest)
        if body is None:
            return None
        try:
            return (_Ours(BytesIO(body)).load(),)
        except (
            pickle.UnpicklingError,
            AttributeError,
            ImportError,
            EOFError,
            LookupError,
            TypeError,
            ValueError,
        ) as error:
            log.warning("an answer that was kept can't be read and is worked out again: %s", error)
            return None


class Helpers:
    """So many processes that work out what pages ask; with none it is worked out at once, by whoever asks.

    seconds: how long a search may take for each side it compares.
    """

    def __init__(self, url: str, count: int, seconds: float) -> None:
        self.url, self.count, self.seconds = url, count, seconds
        self._lock = threading.Lock()
        self._jobs: dict[tuple[Question, bool], _Job] = {}
        self._waiting: dict[int, list[_Job]] = {}  # by refit
        self._served: dict[int, int] = {}  # when a refit had its last turn: the number of its question then
        self._numbers = count_up(1)
        self._running: dict[int, _Job] = {}  # by slot
        self._processes = [OwnProcess(os.nice, BEHIND_THE_PAGES) for _ in range(count)]
        self._threads: ThreadPoolExecutor | None = None  # one waits for each process
        self._closed = False

    def kept(self, pk: int, change: int) -> Kept:
        """The answers that are kept of a refit as it stood after one change."""
        with reading(self.url) as session:
            return Kept(answers.kept(session, pk, change))

    def ask(self, question: Question, work: Callable[..., Any], *, search: bool = False) -> Future[Any]:
        """The answer, now or later; the same question asked twice is one. search: ``work`` takes a Search."""
        with self._lock:
            job = self._jobs.get((question, search))
            if job is not None:
                return job.future
            job = self._jobs[question, search] = _Job(question, work, search, next(self._numbers))
            begun: list[_Begun] = []
            if self.count:
                self._waiting.setdefault(question.pk, []).append(job)
                begun = self._go_on()
        if not self.count:
            self._at_once(job)
        self._watch(begun)
        return job.future

    def idle(self) -> bool:
        """Whether a question that is asked now is begun at once."""
        with self._lock:
            return not self._waiting and (not self.count or 0 not in self._running)

    def overtaken(self, pk: int) -> None:
        """A refit is about to change: what was asked of it is given up."""
        with self._lock:
            waiting = self._waiting.pop(pk, [])
            running = [job for job in self._jobs.values() if job.question.pk == pk and job not in waiting]
            for job in waiting:
                self._jobs.pop((job.question, job.search), None)
            for job in running:
                if job.search and job.slot >= 0:
                    self._processes[job.slot].halt(job.number)
        for job in running:
            job.halt.pull()
        for job in waiting:
            job.future.set_exception(Halted())

    def warm(self) -> None:
        """Have the processes there before anybody asks."""
        with self._lock:
            for process in self._processes:
                self._started().submit(process.do, 0, _ready)

    def close(self) -> None:
        """End the processes."""
        with self._lock:
            threads, self._threads, self._closed = self._threads, None, True
            self._waiting.clear()
        for process in self._processes:
            process.close()
        if threads is not None:
            threads.shutdown(wait=False, cancel_futures=True)

    def _at_once(self, job: _Job) -> None:
        try:
            search = (Search(self.seconds, time.monotonic, job.halt),) if job.search else ()
            job.future.set_result(job.work(*search))
        finally:
            with self._lock:
                self._jobs.pop((job.question, job.search), None)

    def _started(self) -> ThreadPoolExecutor:
        if self._threads is None:
            self._threads = ThreadPoolExecutor(self.count, "rovask-helper")
        return self._threads

    def _takes(self, slot: int, job: _Job) -> bool:
        """Whether a process may work at it: where there are several, the first is there for what is known in a moment."""
        return not job.search or slot > 0 or self.count == 1

    def _watch(self, begun: list[_Begun]) -> None:
        """Have what was begun told when it is done. Without the lock: what is done already tells it at once."""
        for job, done in begun:
            done.add_done_callback(partial(self._came, job))

    def _go_on(self) -> list[_Begun]:
        """Give every process that is free the next question: of the boat that has waited longest for a turn.

        What was begun is to be watched by whoever holds the lock, once it is let go.
        """
        begun: list[_Begun] = []
        if self._closed:  # what still runs ends with its process, and nobody is begun for it
            return begun
        for slot in (slot for slot in range(self.count) if slot not in self._running):
            fit = {pk: [job for job in jobs if self._takes(slot, job)] for pk, jobs in self._waiting.items()}
            fit = {pk: jobs for pk, jobs in fit.items() if jobs}
            if not fit:
                continue
            pk = min(fit, key=lambda one: self._served.get(one, 0))
            job = min(fit[pk], key=lambda one: (one.search, one.number))
            self._waiting[pk].remove(job)
            if not self._waiting[pk]:
                del self._waiting[pk]
            self._served[pk] = job.number
            job.slot, job.tries = slot, job.tries + 1
            self._running[job.slot] = job
            begun.append((job, self._begun(job)))
        return begun

    def _begun(self, job: _Job) -> Future[Any]:
        """A question handed to its process."""
        seconds = self.seconds if job.search else 0.0
        return self._started().submit(self._processes[job.slot].do, job.number, _worked, job.work, seconds)

    def _came(self, job: _Job, came: Future[Any]) -> None:
        error = came.exception() if not came.cancelled() else Halted()
        if error is None:
            self._keep(job.question, came.result())
        with self._lock:
            self._running.pop(job.slot, None)
            job.slot = -1
            again = isinstance(error, ProcessDied) and job.tries < TRIES and not self._closed
            if again:
                self._waiting.setdefault(job.question.pk, []).append(job)
            else:
                self._jobs.pop((job.question, job.search), None)
            begun = self._go_on()
        if error is not None and not again:
            job.future.set_exception(error)
        elif error is None:
            job.future.set_result(came.result())
        self._watch(begun)

    def _keep(self, question: Question, answer: Any) -> None:
        body = pickle.dumps(answer)
        try:
            with transaction(self.url) as session:
                answers.put(session, question, body)
        except SQLAlchemyError as error:  # whoever waits has it all the same; the refit may be gone
            log.warning("an answer could not be kept: %s", error)


def _ready() -> None:
    """What every question needs is there."""


def _worked(work: Callable[..., Any], seconds: float) -> Any:
    if not seconds:
        return work()
    halt = Halt()
    when_halted(halt.pull)
    return work(Search(seconds, time.monotonic, halt))
