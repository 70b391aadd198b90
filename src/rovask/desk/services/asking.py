"""How a service is asked: with a limit on waiting, again a few times with longer pauses, and never for ever.

Only what may be asked twice is: reading, and orders that carry a key by which the service knows them again.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, TypeVar

import httpx2 as httpx
from pydantic import BaseModel, ValidationError

from rovask.core.plain.faults import RovaskError

TRIES = 4
TIMEOUT = 8.0  # seconds for one answer
FIRST_PAUSE, LONGEST_PAUSE = 0.4, 5.0  # seconds; each pause is twice the one before
Model = TypeVar("Model", bound=BaseModel)


class ServiceAway(RovaskError):
    """A service gave no answer that can be used, after all tries; the message says what that means and what to do."""


class Refused(RovaskError):
    """A service understood, and refused. ``status`` and ``body``: as it answered."""

    def __init__(self, words: str, status: int, body: Any) -> None:
        super().__init__(words)
        self.status, self.body = status, body


@dataclass(frozen=True)
class Line:
    """A line to one service. pause: sleeps for seconds; transport: another way than the network, for tests."""

    name: str
    url: str
    transport: httpx.BaseTransport | None = None
    pause: Callable[[float], None] = field(default=time.sleep)
    tries: int = TRIES
    timeout: float = TIMEOUT

    def ask(self, model: type[Model], method: str, path: str, **more: Any) -> Model:
        """The answer, read. Raises Refused for a refusal, ServiceAway when all tries have brought nothing."""
        told = "it gave no answer"
        for number in range(self.tries):
            if number:
                self.pause(min(FIRST_PAUSE * 2 ** (number - 1), LONGEST_PAUSE))
            try:
                with httpx.Client(base_url=self.url, timeout=self.timeout, transport=self.transport) as client:
                    answer = client.request(method, path, **more)
            except httpx.TimeoutException:
                told = f"it did not answer within {self.timeout:g} s"
                continue
            except httpx.HTTPError:
                told = "it can't be reached"
                continue
            if answer.status_code == 429 or answer.status_code >= 500:
                told = f"it is busy (status {answer.status_code})"
                continue
            if answer.status_code >= 400:
                raise Refused(f"{self.name} refused (status {answer.status_code}).", answer.status_code, _body(answer))
            try:
                return model.model_validate_json(answer.content)
            except ValidationError:
                told = "it answered something that makes no sense"
        raise ServiceAway(f"{self.name}: {told}, asked {self.tries} times. Nothing is lost; try again later.")


def _body(answer: httpx.Response) -> Any:
    try:
        return answer.json()
    except ValueError:
        return None
