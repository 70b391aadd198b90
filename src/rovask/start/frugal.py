"""What a web process does about its memory: few heaps for its many threads, and no full round of the collector while somebody waits.

What is held of refits and plans hangs together without rings: it goes by itself when it is let go. A full round of Python's collector
walks all of it for nothing, 0.3 s for sixty boats and more beside others, and comes after every few boats that are read. What does go round
in rings is what a page was made with, and that holds the boat it was about: a round of what is younger than a minute takes it away.
"""

from __future__ import annotations

import ctypes
import gc
import threading
from contextlib import suppress

_ARENAS, HEAPS = (
    -8,
    2,
)  # M_ARENA_MAX of malloc.h: glibc gives threads heaps of their own, which can't use what is free in another
NEVER_BY_ITSELF = 1_000_000
YOUNGEST = 10_000  # objects, before the youngest are looked at
ROUND_EVERY, FULL_ROUND_EVERY = 60.0, 900.0  # seconds: of what is younger than the last round, and of all


def few_heaps() -> None:
    """Have all threads share two heaps; elsewhere than on glibc nothing happens. Before threads begin."""
    with suppress(OSError, AttributeError):
        ctypes.CDLL("libc.so.6").mallopt(_ARENAS, HEAPS)


def rare_full_rounds() -> None:
    """From now on only the youngest objects are collected by their number, all others by the clock. What is loaded by now isn't walked at all."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(YOUNGEST, NEVER_BY_ITSELF, NEVER_BY_ITSELF)

    def rounds() -> None:
        while True:
            for _ in range(round(FULL_ROUND_EVERY / ROUND_EVERY)):
                threading.Event().wait(ROUND_EVERY)
                gc.collect(1)
            gc.collect()

    threading.Thread(target=rounds, name="rovask-collector", daemon=True).start()
