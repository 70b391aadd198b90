"""How a service misbehaves, by its seed: it delays, runs out, answers twice, goes silent after it has accepted, talks nonsense."""

from __future__ import annotations

from collections.abc import Awaitable, Callable, Iterable
from enum import StrEnum
from random import Random

from fastapi import Request, Response
from fastapi.responses import PlainTextResponse

SILENT = 599  # what a silence is answered with where nobody waits for it


class Trouble(StrEnum):
    """One way to misbehave."""

    BUSY = "busy"  # 503, nothing done
    SILENT_BEFORE = "silent before"  # no answer, nothing done
    SILENT_AFTER = "silent after"  # no answer, but it is done
    NONSENSE = "nonsense"  # an answer that means nothing, but it is done
    SLOW = "slow"  # half a second late


class Moods:
    """What a service does with its next requests: the given troubles in turn, then by chance with the given share."""

    def __init__(self, seed: int, share: float = 0.0, first: Iterable[Trouble] = ()) -> None:
        self.random, self.share, self.first = Random(seed), share, list(first)

    def next(self) -> Trouble | None:
        """The next one; None for good behaviour."""
        if self.first:
            return self.first.pop(0)
        return self.random.choice(list(Trouble)) if self.random.random() < self.share else None


def misbehaving(
    moods: Moods, wait: Callable[[float], Awaitable[None]] | None, silence: float
) -> Callable[[Request, Callable[[Request], Awaitable[Response]]], Awaitable[Response]]:
    """Middleware for a stand-in. wait: sleeps for seconds; None: a silence is told by status SILENT at once, for tests."""

    async def pass_on(request: Request, answer: Callable[[Request], Awaitable[Response]]) -> Response:
        mood = moods.next()
        if mood is Trouble.BUSY:
            return PlainTextResponse("busy", 503, {"Retry-After": "1"})
        if mood is Trouble.SILENT_BEFORE:
            return await _silent()
        done = await answer(request)
        if mood is Trouble.SILENT_AFTER:
            return await _silent()
        if mood is Trouble.NONSENSE:
            return PlainTextResponse("<html>It works!</html>", 200)
        if mood is Trouble.SLOW and wait is not None:
            await wait(0.5)
        return done

    async def _silent() -> Response:
        if wait is not None:
            await wait(silence)
        return PlainTextResponse("", SILENT if wait is None else 504)

    return pass_on
