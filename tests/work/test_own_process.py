"""A process that is killed, at whatever moment, costs what it was doing and nothing else."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path

import pytest

from rovask.own_process import OwnProcess, ProcessDied, when_halted

SOON = 60.0


class Odd(Exception):
    """An exception that can be written and not read again."""

    def __init__(self, one: str, two: str) -> None:
        super().__init__(one + two)


class DiesOnTheWay:
    """An answer whose process is killed when the first half of it lies in the line."""

    def __reduce__(self) -> tuple[type[str], tuple[str]]:
        main = os.getpid()
        threading.Timer(0.3, os.kill, (main, signal.SIGKILL)).start()
        return str, ("x" * 200_000_000,)  # more than a line holds: it is being read, or waits to be


def half_an_answer() -> DiesOnTheWay:
    return DiesOnTheWay()


def odd() -> None:
    raise Odd("a", "b")


def unwritable() -> object:
    return lambda: None


def until_halted() -> str:
    over = threading.Event()
    when_halted(over.set)
    return "halted" if over.wait(SOON) else "never"


@pytest.fixture
def one() -> Iterator[OwnProcess]:
    made = OwnProcess(os.nice, 0)
    yield made
    made.close()


def test_killed_in_the_middle_of_its_answer_it_is_told_and_the_next_question_answered(one: OwnProcess) -> None:
    assert one.do(1, divmod, 7, 2) == (3, 1)
    first = one.do(2, os.getpid)
    for number in range(3, 6):
        with suppress(ProcessDied):  # the rest of the answer may have been there before the end was
            assert len(one.do(number, half_an_answer)) == 200_000_000  # type: ignore[arg-type]
        time.sleep(0.4)
        with_new = next(iter(answers_of(one, number)))
        assert with_new != first


def answers_of(one: OwnProcess, number: int) -> Iterator[int]:
    """Its number, from the process that was killed meanwhile or from the one after it."""
    for _ in range(2):
        try:
            yield one.do(100 + number, os.getpid)
        except ProcessDied:
            continue


def test_what_cannot_be_handed_over_is_told_and_the_line_stays_whole(one: OwnProcess) -> None:
    with pytest.raises(ZeroDivisionError):
        one.do(1, divmod, 1, 0)
    with pytest.raises(RuntimeError, match="Odd: ab"):
        one.do(2, odd)
    with pytest.raises(RuntimeError, match="function"):
        one.do(3, unwritable)
    with pytest.raises((AttributeError, TypeError, ValueError)):
        one.do(4, divmod, lambda: None)  # that can't be asked at all
    assert one.do(5, divmod, 9, 4) == (2, 1)


@pytest.mark.parametrize("wait", [0.0, 2.0])
def test_what_nobody_wants_is_halted_before_and_while_it_is_done(one: OwnProcess, wait: float) -> None:
    one.do(1, os.getpid)
    threading.Timer(wait, one.halt, (2,)).start()
    assert one.do(2, until_halted) == "halted"
    one.halt(2)  # late: what comes after goes on
    assert one.do(3, divmod, 9, 4) == (2, 1)


def test_it_ends_with_whoever_began_it_however_they_went() -> None:
    code = (
        "import os, time\n"
        "from rovask.own_process import OwnProcess\n"
        "if __name__ == '__main__':\n"
        "    one = OwnProcess(os.nice, 0)\n"
        "    print(one.do(1, os.getpid), flush=True)\n"
        "    one.do(2, time.sleep, 600)\n"
    )
    parent = subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE, text=True)
    assert parent.stdout is not None
    child = int(parent.stdout.readline())
    parent.kill()
    parent.communicate()
    until = time.monotonic() + SOON
    while Path(f"/proc/{child}").exists() and "\nState:\tZ" not in Path(f"/proc/{child}/status").read_text():
        assert time.monotonic() < until
        time.sleep(0.05)


def test_closed_it_tells_who_waits_and_is_not_begun_again(one: OwnProcess) -> None:
    threading.Timer(2.0, one.close).start()
    with pytest.raises(ProcessDied):
        one.do(1, time.sleep, 600)
    with pytest.raises(ProcessDied):
        one.do(2, os.getpid)
