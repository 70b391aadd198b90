"""The number of the request that is being answered, so that what the worker does for it can be found in the logs too."""

from __future__ import annotations

import secrets
from contextvars import ContextVar

NUMBER: ContextVar[str] = ContextVar("rovask_request", default="")


def new_number() -> str:
    """A number for a request: nothing can be read off it."""
    return secrets.token_hex(6)


def number() -> str:
    """The number of the request at hand; "" outside of any."""
    return NUMBER.get()
