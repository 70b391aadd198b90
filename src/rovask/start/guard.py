"""A small process beside the private database: when whoever started that is gone, however it went, the database is stopped.

PostgreSQL itself does not watch its parent: after a kill -9 of Rovask it would run on for ever. Only the standard
library is used here, so that this takes next to nothing while it waits.
"""

from __future__ import annotations

import os
import signal
import sys
import time
from contextlib import suppress

from rovask.start.children import began

LOOK_EVERY = 0.5  # seconds
STOPS_WITHIN = 20.0  # seconds for a fast shutdown; then by force, which costs the next start a recovery and no data


def guard(parent: int, parent_began: str, server: int, server_began: str) -> None:
    """Wait until the parent or the server is gone; stop the server that outlived its parent."""
    while began(parent) == parent_began:
        if began(server) != server_began:
            return
        time.sleep(LOOK_EVERY)
    for sign in (signal.SIGINT, signal.SIGQUIT):
        deadline = time.monotonic() + STOPS_WITHIN
        with suppress(ProcessLookupError):
            if began(server) == server_began:
                os.kill(server, sign)
        while began(server) == server_began and time.monotonic() < deadline:
            time.sleep(0.1)


if __name__ == "__main__":
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    guard(int(sys.argv[1]), sys.argv[2], int(sys.argv[3]), sys.argv[4])
