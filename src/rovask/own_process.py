"""A process of one's own that may be killed at any moment, even while it hands its answer over.

The pools of the standard library share one line between all their processes: one that is killed in the middle of an answer leaves half
of it there, and whoever reads waits for the rest for ever, at the end of the program too. Here each process has a line of its own, the
only end of which on its side goes with it; so whatever happens to it, whoever waits is told, and the next question has a new process.
"""

from __future__ import annotations

import multiprocessing
import os
import pickle
import queue
import signal
import threading
from collections.abc import Callable
from contextlib import suppress
from multiprocessing.connection import Connection
from typing import Any, TypeVar

Found = TypeVar("Found")

_CONTEXT = multiprocessing.get_context("spawn")
_Task = tuple[int, Callable[..., Any], tuple[Any, ...]]


class ProcessDied(Exception):
    """The process that worked at it was killed or closed; it may be asked again."""


class OwnProcess:
    """One process, begun when it is first asked something, that does one thing at a time, and ends with whoever began it.

    begin: called once in it with ``arguments``; a function of a module, like all that is handed over.
    """

    def __init__(self, begin: Callable[..., object], *arguments: Any) -> None:
        self._begin, self._arguments = begin, arguments
        self._turn, self._speaks = threading.Lock(), threading.Lock()
        self._line: Connection | None = None
        self._process: multiprocessing.process.BaseProcess | None = None
        self._halted, self._closed = 0, False

    def do(self, number: int, work: Callable[..., Found], *arguments: Any) -> Found:
        """What a function makes of its arguments there; others wait for their turn meanwhile.

        number: by which it can be halted. Raises what the function raises; ProcessDied.
        """
        good, came = self.ask(number, work, *arguments)
        if not good:
            raise came
        found: Found = came
        return found

    def ask(self, number: int, work: Callable[..., Any], *arguments: Any) -> tuple[bool, Any]:
        """The same, with what it raises as an answer: whether it went well, and what came. Raises ProcessDied."""
        with self._turn:
            line = self._line or self._start()
            try:
                with self._speaks:
                    line.send((number, work, arguments))
                    if self._halted == number:
                        line.send((number, None, ()))
                answer: tuple[bool, Any] = line.recv()
                return answer
            except (EOFError, OSError):
                self._forget()
                raise ProcessDied from None

    def halt(self, number: int) -> None:
        """Tell what is being done under this number, or is about to be, that nobody wants it any more."""
        with self._speaks:
            self._halted = number
            if self._line is not None:
                with suppress(OSError):
                    self._line.send((number, None, ()))

    def close(self) -> None:
        """End it, whatever it does; whoever waits is told that it died, and it isn't begun again."""
        self._closed = True
        process = self._process
        if process is not None:
            with suppress(ValueError):  # it has ended by itself and was taken note of
                process.kill()

    def _start(self) -> Connection:
        if self._closed:
            raise ProcessDied
        ours, theirs = _CONTEXT.Pipe()
        process = _CONTEXT.Process(target=_serve, args=(theirs, self._begin, self._arguments), daemon=True)
        process.start()
        theirs.close()  # the only other end is its own
        self._process, self._line = process, ours
        self._ended()
        return ours

    def _ended(self) -> None:
        """End it if it was closed while it began."""
        if self._closed and self._process is not None:
            self._process.kill()

    def _forget(self) -> None:
        process, line = self._process, self._line
        with self._speaks:
            self._process = self._line = None
        if line is not None:
            line.close()
        if process is not None:
            process.kill()
            process.join()
            process.close()


_HALT: list[Callable[[], None]] = []  # in such a process: what is to be called when nobody wants what it does any more
_STATE = threading.Lock()
_NOW, _UNWANTED = [0], [-1]  # the number of what is done, and of what was halted last


def when_halted(then: Callable[[], None]) -> None:
    """In such a process: what to do when nobody wants any more what is being done; at once, if that is so already."""
    with _STATE:
        _HALT.append(then)
        late = _UNWANTED[0] == _NOW[0]
    if late:
        then()


def _serve(line: Connection, begin: Callable[..., object], arguments: tuple[Any, ...]) -> None:
    """In it: answer one question after another."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl-C reaches it through whoever began it
    asked: queue.SimpleQueue[_Task] = queue.SimpleQueue()
    threading.Thread(target=_listen, args=(line, asked), name="rovask-line", daemon=True).start()
    begin(*arguments)
    while True:
        number, work, given = asked.get()
        with _STATE:
            _NOW[0] = number
            _HALT.clear()
        answer: tuple[bool, Any] = (True, None)
        with _Caught() as raised:
            answer = (True, work(*given))
        body = _spelled((False, raised.error) if raised.error else answer)
        try:
            line.send_bytes(body)
        except OSError:
            os._exit(1)  # nobody is there any more


class _Caught:
    """Whatever is raised in its course, to be handed over."""

    error: Exception | None = None

    def __enter__(self) -> _Caught:
        return self

    def __exit__(self, _: object, error: BaseException | None, __: object) -> bool:
        self.error = error if isinstance(error, Exception) else None
        return self.error is not None


def _spelled(answer: tuple[bool, Any]) -> bytes:
    """An answer as it goes over the line; of one that can't be handed over that is told."""
    body = b""
    with _Caught() as raised:
        body = pickle.dumps(answer)
        if not answer[0]:
            pickle.loads(body)  # exceptions can often be written and not read
    what = type(answer[1]).__name__
    return pickle.dumps((False, RuntimeError(f"{what}: {answer[1]} ({raised.error})"))) if raised.error else body


def _listen(line: Connection, asked: queue.SimpleQueue[_Task]) -> None:
    """In it: hear while it works, so that it ends with whoever began it, in whatever way they went."""
    while True:
        try:
            body = line.recv_bytes()
        except (EOFError, OSError, MemoryError):  # gone, or too much to be held here
            os._exit(1)
        said: tuple[int, Callable[..., Any] | None, tuple[Any, ...]]
        said = 0, _refused, (RuntimeError("the question can't be read"),)
        with _Caught():
            said = pickle.loads(body)
        number, work, given = said
        if work is not None:
            asked.put((number, work, given))
            continue
        with _STATE:
            _UNWANTED[0] = number
            calls = list(_HALT) if _NOW[0] == number else []
        for call in calls:
            call()


def _refused(error: Exception) -> None:
    raise error
