"""What begets pages and worker: what was killed is there again, what can't begin is told by its status, and nothing stays behind."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from itertools import pairwise

from rovask.start.children import STOOD, Patience, began

KEEPER = """
import os, sys, time
from rovask.start.children import end_with_parent
from rovask.start.keeper import Part, keep
def lives():
    end_with_parent()
    print(os.getpid(), flush=True)
    time.sleep(60)
def fails():
    sys.exit(3)
parts = {"lives": lives, "fails": fails}
sys.exit(keep([Part(name, parts[name]) for name in sys.argv[1:]], lambda words: print(words, file=sys.stderr)))
"""


@contextmanager
def keeper(*names: str) -> Iterator[subprocess.Popen[str]]:
    command = [sys.executable, "-c", KEEPER, *names]
    with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True) as process:
        try:
            yield process
        finally:
            process.kill()


def pid_of(process: subprocess.Popen[str]) -> int:
    assert process.stdout is not None
    return int(process.stdout.readline())


def gone(pid: int, at: str | None, seconds: float = 20) -> bool:
    deadline = time.monotonic() + seconds
    while began(pid) == at and time.monotonic() < deadline:
        time.sleep(0.05)
    return began(pid) != at


def test_what_is_killed_is_begotten_again_and_all_leave_when_told() -> None:
    with keeper("lives") as process:
        first = pid_of(process)
        os.kill(first, signal.SIGKILL)
        second = pid_of(process)
        at = began(second)
        assert second != first
        assert at is not None
        process.terminate()
        assert process.wait(timeout=20) == 0
        assert gone(second, at)


def test_what_cannot_begin_ends_all_with_its_status() -> None:
    with keeper("lives", "fails") as process:
        assert process.wait(timeout=20) == 3


def test_what_was_begotten_ends_with_a_keeper_that_is_killed() -> None:
    with keeper("lives") as process:
        pid = pid_of(process)
        at = began(pid)
        process.kill()
        assert gone(pid, at)


def test_what_ends_again_and_again_is_started_after_pauses_that_grow_to_an_end() -> None:
    """It is asked every half second whether it is time: at once, then after a half, one, two, four, four … seconds."""
    patience, now, starts = Patience(), 1000.0, []
    for _ in range(60):
        if patience.may_start(now):
            starts.append(now)
        now += 0.5
    pauses = [then - one for one, then in pairwise(starts)]
    assert pauses[:7] == [0.5, 1.0, 2.0, 4.0, 4.0, 4.0, 4.0]
    assert patience.may_start(starts[-1] + STOOD)  # it stood: what ends now ends for another reason
    assert patience.pause == 0.5
