"""Server-sent events of the search for a better plan: one listener a web process, any number of pages."""

from __future__ import annotations

import asyncio
import contextlib
import logging
from collections import Counter, defaultdict
from collections.abc import AsyncIterator

import psycopg

from rovask.store.searches import CHANNEL

log = logging.getLogger("rovask")

MOST_PAGES = 6  # of one account, each waiting for news
AGAIN_AFTER = 2.0  # seconds before a lost database is tried again


class Bell:
    """Rings for everybody who waits on a refit whenever its search has news. Made for one database, in one loop."""

    def __init__(self, url: str) -> None:
        self.url = url
        self.waiting: dict[str, set[asyncio.Event]] = defaultdict(set)
        self.of: Counter[int] = Counter()
        self.task: asyncio.Task[None] | None = None

    @contextlib.asynccontextmanager
    async def on(self, pk: int, account: int) -> AsyncIterator[asyncio.Event]:
        """An event that is set at each news of refit ``pk``, for one page of an account; whoever waits clears it."""
        self.of[account] += 1
        if self.task is None or self.task.done():
            self.task = asyncio.create_task(self._listen())
        event = asyncio.Event()
        self.waiting[str(pk)].add(event)
        try:
            yield event
        finally:
            self.of[account] -= 1
            self.waiting[str(pk)].discard(event)
            if not any(self.waiting.values()):
                self.task.cancel()
                self.task = None

    def full(self, account: int) -> bool:
        """Whether an account has as many pages waiting as it may."""
        return self.of[account] >= MOST_PAGES

    async def _listen(self) -> None:
        while True:
            try:
                connection = await psycopg.AsyncConnection.connect(self.url, autocommit=True, connect_timeout=5)
                async with connection:
                    await connection.execute(f"listen {CHANNEL}")
                    async for notice in connection.notifies():
                        for event in self.waiting[notice.payload]:
                            event.set()
            except psycopg.OperationalError as error:
                log.warning("no news of searches: %s", error)
            await asyncio.sleep(AGAIN_AFTER)
