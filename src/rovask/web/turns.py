"""No boat takes all the threads: of the pages of one refit only a few are made at once, the rest wait their turn without one."""

from __future__ import annotations

import asyncio
import re
from contextlib import AsyncExitStack
from weakref import WeakKeyDictionary

from starlette.types import ASGIApp, Message, Receive, Scope, Send

AT_ONCE = 2
_REFIT = re.compile(r"^/r/(\d{1,12})/")
_GOES_ON = re.compile(r"/events$")  # news that are listened to for hours


class Turns:
    """Lets so many pages of one refit be made at once. A form that is sent is never held: its sender has typed it."""

    def __init__(self, app: ASGIApp, at_once: int = AT_ONCE) -> None:
        self.app, self.at_once = app, at_once
        self._rooms: WeakKeyDictionary[asyncio.AbstractEventLoop, dict[str, asyncio.Semaphore]] = WeakKeyDictionary()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """One request, in its turn."""
        found = _REFIT.match(scope["path"]) if scope["type"] == "http" and scope["method"] == "GET" else None
        if found is None or _GOES_ON.search(scope["path"]):
            await self.app(scope, receive, send)
            return
        rooms = self._rooms.setdefault(asyncio.get_running_loop(), {})
        room = rooms.setdefault(found[1], asyncio.Semaphore(self.at_once))
        async with AsyncExitStack() as turn:
            await turn.enter_async_context(room)

            async def sent(message: Message) -> None:
                await turn.aclose()  # it is made: how long it takes to be read is no matter of the others
                await send(message)

            await self.app(scope, receive, sent)
