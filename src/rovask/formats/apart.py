"""What comes from anywhere is read in a process of its own: photos, papers, workbooks, zips.

The libraries that read them are written for files that are what they say. A damaged or a hostile one may raise anything,
take all memory, never end, or end the process it is read in; here that is a sentence to whoever sent it, and nobody
else notices. The processes are kept for the next file, and end with the one they belong to.
"""

from __future__ import annotations

import queue
import resource
from collections.abc import Callable
from contextlib import suppress
from typing import Any, TypeVar

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.own_process import OwnProcess, ProcessDied

Found = TypeVar("Found")

READERS = 2  # processes
MOST_MEMORY = 1536 * 1024 * 1024
MOST_SECONDS = 20  # of computing, for one file
TRIES = 2  # for a file that was read while another one ended the reader
BROKEN = "the file is damaged and can't be read; save it again, or choose another. Nothing else you typed is lost."

_READERS: queue.LifoQueue[OwnProcess] = (
    queue.LifoQueue()
)  # those that read nothing now; a second is begun when one is not enough


def apart(read: Callable[..., Found], *arguments: Any, path: str = "file") -> Found:
    """What a reader makes of a file, in a process of its own. Raises RefitFaults: the reader's own, or that it is damaged.

    read: a function of a module, with arguments that can be handed over. path: the field a fault belongs to.
    """
    reader = _READERS.get()
    try:
        for _ in range(TRIES):
            with suppress(ProcessDied):
                good, came = reader.ask(1, _limited, read, arguments)
                if good:
                    found: Found = came
                    return found
                if isinstance(came, RefitFaults):
                    raise RefitFaults(came.faults)  # without the other process's traceback
                break
    finally:
        _READERS.put(reader)
    raise RefitFaults([Fault(path, BROKEN)])


def _begin() -> None:
    """In the reader: so much memory and no more."""
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


for _ in range(READERS):
    _READERS.put(OwnProcess(_begin))


def _limited(read: Callable[..., Found], arguments: tuple[Any, ...]) -> Found:
    """In the reader: read one file, within its share of computing time; past it the process is ended."""
    used = resource.getrusage(resource.RUSAGE_SELF)
    most = int(used.ru_utime + used.ru_stime) + MOST_SECONDS
    resource.setrlimit(resource.RLIMIT_CPU, (most, resource.RLIM_INFINITY))
    return read(*arguments)
