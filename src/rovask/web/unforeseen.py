"""What nobody foresaw: it is logged with the request's number, and whoever asked gets a page with what they typed."""

from __future__ import annotations

import logging

from fastapi import Request
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from rovask.web.observed import route_of
from rovask.web.refusal import kept_to_send_again

log = logging.getLogger("rovask")


class Unforeseen:
    """ASGI middleware: an exception that no handler knows becomes a page, inside the one that gives every answer its headers."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass one request on."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        begun = False

        async def sent(message: Message) -> None:
            nonlocal begun
            await send(message)
            begun = True

        try:
            await self.app(scope, receive, sent)
        except Exception:
            log.exception("unforeseen, at %s %s", scope["method"], route_of(scope))
            if begun:
                raise
            number = scope.get("state", {}).get("number", "")
            words = "Something went wrong here that nobody foresaw; whether it was kept is not known. It has been noted"
            answer = await kept_to_send_again(
                Request(scope),
                500,
                "That went wrong",
                f"{words}{f' as {number}' if number else ''}. Try again: what was done already isn't done twice.",
            )
            await answer(scope, receive, send)
