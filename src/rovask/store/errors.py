"""What the store and the desk refuse.

RovaskError
└── StoreError
    ├── NotFound        there is no such refit, job or account, or none that one may see
    ├── Conflict        somebody else changed the same thing meanwhile; carries both versions
    ├── NothingToUndo   no change is left to take back, or later ones rest on it; names them
    ├── TooMany         more than is allowed of something: tries, streams
    └── SignInRefused   wrong name or password, used or expired link
"""

from __future__ import annotations

from typing import Any

from rovask.core.plain.faults import RovaskError
from rovask.core.refit.records import RecordKey


class StoreError(RovaskError):
    """Base of what the store refuses."""


class NotFound(StoreError):
    """What was asked for does not exist, or not any more, or not for whoever asks."""


class Conflict(StoreError):
    """The record changed since it was read. ``theirs`` is what stands now; None when it is gone."""

    def __init__(self, key: RecordKey, theirs: dict[str, Any] | None) -> None:
        self.key, self.theirs = key, theirs
        gone = "is gone" if theirs is None else "was changed"
        super().__init__(f"This {key.kind} {gone} by somebody else while you had it open.")


class NothingToUndo(StoreError):
    """No change is left to take back, or later ones rest on the same records; the message names them."""


class TooMany(StoreError):
    """More than is allowed: the message says when to try again."""


class SignInRefused(StoreError):
    """Who or what tried to sign in was refused; the message says what to do."""
