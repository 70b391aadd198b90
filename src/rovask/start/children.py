"""The processes that Rovask starts beside its pages: they end with it, die not for good, and leave nothing behind.

A child watches its parent and ends when that is gone, however it went. A parent minds its children and starts one again
that died by itself. A start tidies away what an earlier one on the same state left, and nothing else: a process is known
by its number together with the moment it began.
"""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import threading
import time
from collections import defaultdict
from collections.abc import Callable, Sequence
from contextlib import suppress
from pathlib import Path
from typing import Protocol

from rovask.start.errors import StartError

PARENT = "ROVASK_PARENT"
LOOK_EVERY = 0.3  # seconds
ENDS_WITHIN = 5.0  # seconds a child has to end by itself
FIRST_PAUSE, LONGEST_PAUSE = 0.5, 4.0  # seconds before what ended soon is started again, doubled each time
STOOD = 20.0  # seconds after which it was not its start that failed


def began(pid: int) -> str | None:
    """When a process began, in clock ticks since boot (proc(5), field 22); None if there is none."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[19]
    except (OSError, IndexError):
        return None


def end_with_parent() -> None:
    """In a child: end as soon as the process that started this one is gone."""
    parent = os.environ.get(PARENT, "")
    if not parent.isdigit():
        return

    def watch() -> None:
        while os.getppid() == int(parent):
            time.sleep(LOOK_EVERY)
        os.kill(os.getpid(), signal.SIGTERM)
        time.sleep(ENDS_WITHIN)
        os._exit(1)

    threading.Thread(target=watch, name="rovask-parent", daemon=True).start()


def begin_child(
    command: list[str], environment: dict[str, str], *, stdin: int = subprocess.DEVNULL, pass_fds: tuple[int, ...] = ()
) -> subprocess.Popen[bytes]:
    """A command of ours as a process of its own, in its own process group, so that Ctrl-C reaches it through us."""
    return subprocess.Popen(
        [sys.executable, "-m", "rovask.start.cli", *command],
        env=os.environ | environment | {PARENT: str(os.getpid())},
        start_new_session=True,
        stdin=stdin,
        pass_fds=pass_fds,
    )


def stop(process: subprocess.Popen[bytes]) -> None:
    """Stop a process; by force when it doesn't go."""
    if process.poll() is not None:
        return
    process.terminate()
    try:
        process.wait(timeout=ENDS_WITHIN)
    except subprocess.TimeoutExpired:
        process.kill()
        process.wait()


class Minded(Protocol):
    """Something that runs and can be started again."""

    name: str

    def alive(self) -> bool:
        """Whether it runs."""

    def start(self) -> None:
        """Start it, again if need be. Raises OSError or StartError when it can't be."""

    def leave(self) -> None:
        """Tell it to go, where it may go before what it needs is stopped; it isn't waited for."""

    def stop(self) -> None:
        """Stop it for good."""


def stop_all(what: Sequence[Minded]) -> None:
    """Stop them, the last first; all that may are told to go at once."""
    for one in what:
        one.leave()
    for one in reversed(what):
        one.stop()


class Command:
    """A command of ours that is minded."""

    def __init__(self, name: str, command: list[str], environment: Callable[[], dict[str, str]], book: Book) -> None:
        self.name, self.command, self.environment, self.book = name, command, environment, book
        self.process: subprocess.Popen[bytes] | None = None

    def alive(self) -> bool:
        """Whether it runs."""
        return self.process is not None and self.process.poll() is None

    def start(self) -> None:
        """Start it."""
        self.process = begin_child(self.command, self.environment())
        self.book.note(self.process.pid)

    def leave(self) -> None:
        """Tell it to go."""
        if self.process is not None:
            self.process.terminate()

    def stop(self) -> None:
        """Stop it."""
        if self.process is not None:
            stop(self.process)
            self.book.forget(self.process.pid)


class Book:
    """Which processes a state's Rovask has started, kept in a file so that the next start knows of them."""

    def __init__(self, state: Path) -> None:
        self.path = state / "children.json"
        self.lock = threading.Lock()

    def _read(self) -> dict[str, str]:
        try:
            found = json.loads(self.path.read_text())
        except (OSError, ValueError):
            return {}
        return found if isinstance(found, dict) else {}

    def _write(self, rows: dict[str, str]) -> None:
        with suppress(
            OSError
        ):  # in one step: whoever reads it meanwhile, or after a kill, finds the one before or this
            fresh = self.path.with_suffix(".new")
            fresh.write_text(json.dumps(rows))
            fresh.replace(self.path)

    def note(self, pid: int) -> None:
        """Note a process that was started."""
        with self.lock:
            self._write(self._read() | {str(pid): began(pid) or ""})

    def forget(self, pid: int) -> None:
        """Forget one that was stopped."""
        with self.lock:
            self._write({key: value for key, value in self._read().items() if key != str(pid)})

    def tidy(self) -> int:
        """End what an earlier start left behind; returns how many that were. Only the very processes noted are touched."""
        with self.lock:
            left = [int(key) for key, value in self._read().items() if key.isdigit() and value == began(int(key))]
            for pid in left:
                with suppress(ProcessLookupError, PermissionError):
                    os.kill(pid, signal.SIGTERM)
            deadline = time.monotonic() + ENDS_WITHIN
            while any(began(pid) for pid in left) and time.monotonic() < deadline:
                time.sleep(0.05)
            for pid in left:
                if began(pid):
                    with suppress(ProcessLookupError, PermissionError):
                        os.kill(pid, signal.SIGKILL)
            self._write({})
            return len(left)


class Patience:
    """When to start again what ended by itself: at once, and after a pause that doubles when it ended soon after its last start."""

    def __init__(self) -> None:
        self.since: float | None = None  # when it was started again last
        self.pause = 0.0

    def may_start(self, now: float) -> bool:
        """Whether it is time; it is started then. now: seconds of a clock that only goes on."""
        soon = self.since is not None and now - self.since < STOOD
        pause = self.pause if soon else 0.0
        if self.since is not None and now - self.since < pause:
            return False
        self.since, self.pause = now, min(max(2 * pause, FIRST_PAUSE), LONGEST_PAUSE)
        return True


class Mind:
    """Minds some processes, in the order in which they need each other: what died by itself is started again."""

    def __init__(self, what: list[Minded], say: Callable[[str], None]) -> None:
        self.what, self.say = what, say
        self.over = threading.Event()
        self.patience: defaultdict[str, Patience] = defaultdict(Patience)
        self.thread = threading.Thread(target=self._mind, name="rovask-mind", daemon=True)
        self.thread.start()

    def _mind(self) -> None:
        while not self.over.wait(LOOK_EVERY):
            for one in self.what:
                if self.over.is_set() or one.alive():
                    continue
                self._start_again(one)
                break  # what comes after may need it

    def _start_again(self, one: Minded) -> None:
        if not self.patience[one.name].may_start(time.monotonic()):
            return
        self.say(f"The {one.name} ended by itself and is started again.")
        try:
            one.start()
        except (OSError, StartError) as error:
            self.say(f"The {one.name} could not be started: {error}")

    def stop(self) -> None:
        """Mind nothing any more, then stop all of it."""
        self.over.set()
        self.thread.join(timeout=3)
        stop_all(self.what)
