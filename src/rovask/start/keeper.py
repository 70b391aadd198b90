"""One process that has read all of the code begets those that serve and work: one of them that is killed is there again at once.

To read the code takes 4 to 10 s; a fork of a process that has read it takes a moment, and what both hold of it is held once. The keeper itself
does nothing else: it has one thread, no connection and nothing of anybody's, so that there is nothing in it a fork could leave half done.
"""

from __future__ import annotations

import gc
import os
import signal
import sys
import time
from collections.abc import Callable, Sequence
from contextlib import suppress
from pathlib import Path

from rovask.start.children import ENDS_WITHIN, LOOK_EVERY, PARENT, STOOD, Patience

ENDS = {signal.SIGTERM, signal.SIGCHLD}


class Part:
    """What is begotten: its name, as ``ps`` shows it too, and what it does until it is told to stop."""

    def __init__(self, name: str, run: Callable[[], object]) -> None:
        self.name, self.run = name, run
        self.pid, self.lives, self.began = 0, 0, 0.0
        self.patience = Patience()

    def beget(self) -> None:
        """Begin it, in a process of its own."""
        sys.stdout.flush()
        sys.stderr.flush()
        self.lives, self.began = self.lives + 1, time.monotonic()
        self.pid = os.fork()
        if self.pid:
            return
        signal.pthread_sigmask(signal.SIG_UNBLOCK, ENDS)
        with suppress(OSError):
            Path("/proc/self/comm").write_text(f"rovask-{self.name}")
        self.run()  # what it raises goes up through here and is told as of any command
        sys.stdout.flush()
        sys.stderr.flush()
        os._exit(0)


def keep(parts: Sequence[Part], say: Callable[[str], None]) -> int:
    """Beget them, and again what ended by itself or was killed, until told to stop or the parent is gone.

    What fails at its first start has said why and would fail again: all is stopped, and its exit status comes back.
    """
    parent = os.getppid()
    os.environ[PARENT] = str(os.getpid())
    signal.pthread_sigmask(signal.SIG_BLOCK, ENDS)  # looked for below, so that none comes in the middle of a fork
    gc.collect()
    gc.freeze()  # or the first round of each child's collector would write on every page they share
    for one in parts:
        one.beget()
    status: int | None = None
    while status is None:
        sign = signal.sigtimedwait(ENDS, LOOK_EVERY)
        if os.getppid() != parent or (sign is not None and sign.si_signo == signal.SIGTERM):
            status = 0
            break
        for one in parts:
            ended = _ended(one)
            if ended and ended > 0 and one.lives == 1 and time.monotonic() - one.began < STOOD:
                status = ended
            elif not one.pid and one.patience.may_start(time.monotonic()):
                say(f"The process “{one.name}” ended by itself and is started again.")
                one.beget()
    _stop(parts)
    return status


def _ended(one: Part) -> int | None:
    """How it ended, if it just did: its exit status, or a negative number when it was killed."""
    if not one.pid:
        return None
    pid, how = os.waitpid(one.pid, os.WNOHANG)
    if not pid:
        return None
    one.pid = 0
    return os.waitstatus_to_exitcode(how)


def _stop(parts: Sequence[Part]) -> None:
    """Tell all of them at once, then wait; by force for what doesn't go."""
    for sign in (signal.SIGTERM, signal.SIGKILL):
        for one in parts:
            if one.pid:
                os.kill(one.pid, sign)
        deadline = time.monotonic() + ENDS_WITHIN
        while time.monotonic() < deadline and any(one.pid for one in parts):
            for one in parts:
                _ended(one)
            time.sleep(0.02)
