"""The planner is compiled before the first page is served: in a request it would be a minute's wait, on every new machine.

What numba keeps holds for one text of the planner and one kind of processor, so an image that was built elsewhere, or a folder that
moved to another machine, is compiled anew; a mark beside what is kept says for which it was done.
"""

from __future__ import annotations

import fcntl
import hashlib
import os
import subprocess
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from llvmlite import binding  # as numba names the processor it compiles for

from rovask.compiled_cache import PLANNER, text_of_the_compiled


def _kept_in() -> Path:
    """The folder beside whose contents the mark lies."""
    return Path(os.environ.get("NUMBA_CACHE_DIR") or PLANNER / "__pycache__")


def _mark() -> Path:
    processor = f"{binding.get_host_cpu_name()} {binding.get_host_cpu_features().flatten()}"
    own = hashlib.sha256(f"{sys.version} {text_of_the_compiled()} {processor}".encode()).hexdigest()[:16]
    return _kept_in() / f"compiled-{own}"


def is_compiled() -> bool:
    """Whether what is compiled lies ready for this text, this Python and this processor."""
    return _mark().exists()


def mark_compiled() -> None:
    """Say that all of it lies there now; where nothing can be kept it isn't said, and the next start compiles again."""
    mark = _mark()
    try:
        mark.parent.mkdir(parents=True, exist_ok=True)
        mark.touch()
    except OSError:
        pass


def compile_first(say: Callable[[str], None]) -> None:
    """Compile where that wasn't done yet, in a process of its own; of several that start at once one does it and the others wait.

    What fails there is no reason not to serve: the first plan is slow then, not wrong.
    """
    if is_compiled():
        return
    with _one_at_a_time():
        if not is_compiled():
            say("Compiling the planner for this machine (a minute or two, once) …")
            subprocess.run([sys.executable, "-m", "rovask.start.cli", "warm"], check=False, stdout=subprocess.DEVNULL)


@contextmanager
def _one_at_a_time() -> Iterator[None]:
    try:
        _kept_in().mkdir(parents=True, exist_ok=True)
        door = (_kept_in() / "compiling.lock").open("w")
    except OSError:  # nothing can be kept here, so nothing can be shared either
        yield
        return
    with door:
        fcntl.flock(door, fcntl.LOCK_EX)
        yield
