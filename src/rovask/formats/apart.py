"""What comes from anywhere is read in a process of its own: photos, papers, workbooks, zips.

The libraries that read them are written for files that are what they say. A damaged or a hostile one may raise anything,
take all memory, never end, or end the process it is read in; here that is a sentence to whoever sent it, and nobody
else notices. The processes are kept for the next file, and end with the one they belong to.
"""

from __future__ import annotations

import os
import resource
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import get_context
from typing import Any, TypeVar

from rovask.core.plain.faults import Fault, RefitFaults

Found = TypeVar("Found")

READERS = 2  # processes
MOST_MEMORY = 1536 * 1024 * 1024
MOST_SECONDS = 20  # of computing, for one file
TRIES = 2  # for a file that was read while another one ended the reader
BROKEN = "the file is damaged and can't be read; save it again, or choose another. Nothing else you typed is lost."

_GUARD = threading.Lock()
_POOL: list[ProcessPoolExecutor] = []


def apart(read: Callable[..., Found], *arguments: Any, path: str = "file") -> Found:
    """What a reader makes of a file, in a process of its own. Raises RefitFaults: the reader's own, or that it is damaged.

    read: a function of a module, with arguments that can be handed over. path: the field a fault belongs to.
    """
    for _ in range(TRIES):
        pool = _pool()
        try:
            future: Future[Found] = pool.submit(_limited, read, arguments)
        except BrokenProcessPool:  # a reader has died since the last file
            _forget(pool)
            continue
        error = future.exception()
        if error is None:
            return future.result()
        if isinstance(error, RefitFaults):
            raise RefitFaults(error.faults)  # without the other process's traceback
        if not isinstance(error, BrokenProcessPool):
            break
        _forget(pool)
    raise RefitFaults([Fault(path, BROKEN)])


def _pool() -> ProcessPoolExecutor:
    with _GUARD:
        if not _POOL:
            _POOL.append(
                ProcessPoolExecutor(
                    READERS, mp_context=get_context("spawn"), initializer=_begin, initargs=(os.getpid(),)
                )
            )
        return _POOL[0]


def _forget(pool: ProcessPoolExecutor) -> None:
    with _GUARD:
        if pool in _POOL:
            _POOL.remove(pool)
    pool.shutdown(wait=False, cancel_futures=True)


def _begin(parent: int) -> None:
    """In the reader: so much memory and no more, and an end with the process it belongs to, however that went."""
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(1)
        os._exit(1)

    threading.Thread(target=watch, name="rovask-parent", daemon=True).start()


def _limited(read: Callable[..., Found], arguments: tuple[Any, ...]) -> Found:
    """In the reader: read one file, within its share of computing time; past it the process is ended."""
    used = resource.getrusage(resource.RUSAGE_SELF)
    most = int(used.ru_utime + used.ru_stime) + MOST_SECONDS
    resource.setrlimit(resource.RLIMIT_CPU, (most, resource.RLIM_INFINITY))
    return read(*arguments)
