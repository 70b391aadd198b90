"""What is seen of the requests from outside: a number for each, one line in the log, figures for Prometheus. None holds personal data.

The line and the figures name the route, never the address: addresses hold tokens, and numbers of boats.
"""

from __future__ import annotations

import logging
import re
import time

from prometheus_client import CollectorRegistry, Counter, Histogram
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from rovask.store.request_number import NUMBER, new_number

log = logging.getLogger("rovask.web")
_NUMBER = re.compile(rb"[0-9A-Za-z-]{6,64}")
SECONDS = (0.01, 0.025, 0.05, 0.1, 0.2, 0.4, 0.8, 1.6, 3.2, 6.4, 20)


class Figures:
    """The figures of one web process."""

    def __init__(self) -> None:
        self.registry = CollectorRegistry()
        self.answers = Counter(
            "rovask_answers",
            "Answers given, by route and status",
            ("method", "route", "status"),
            registry=self.registry,
        )
        self.seconds = Histogram(
            "rovask_answer_seconds", "How long an answer took", ("method",), registry=self.registry, buckets=SECONDS
        )


def route_of(scope: Scope) -> str:
    """The route a request went to, as it is spelled in the code; "none" for an address there isn't."""
    route = scope.get("route")
    path = getattr(route, "path", "")
    return str(path) if path else "static" if scope["path"].startswith("/static/") else "none"


class Observed:
    """ASGI middleware: numbers each request, and tells how it went."""

    def __init__(self, app: ASGIApp, figures: Figures) -> None:
        self.app, self.figures = app, figures

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass one request on."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        given = dict(scope["headers"]).get(b"x-request-id", b"")
        number = given.decode() if _NUMBER.fullmatch(given) else new_number()
        scope.setdefault("state", {})["number"] = number
        token, began, status = NUMBER.set(number), time.perf_counter(), 0

        async def told(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                message["headers"] = [*message["headers"], (b"x-request-id", number.encode())]
            await send(message)

        try:
            await self.app(scope, receive, told)
        finally:
            took = time.perf_counter() - began
            method = scope["method"] if scope["method"] in ("GET", "POST", "HEAD") else "other"
            route = route_of(scope)
            self.figures.answers.labels(method, route, status or "cut off").inc()
            self.figures.seconds.labels(method).observe(took)
            log.info(
                "answered", extra={"method": method, "route": route, "status": status, "ms": round(took * 1000, 1)}
            )
            NUMBER.reset(token)
