"""What the store refuses.

RovaskError
└── StoreError
    ├── NotFound        there is no such refit, job or account
    ├── Conflict        somebody else changed the same thing meanwhile; carries both versions
    ├── NothingToUndo   no change is left to take back
    ├── BadPlan         a plan that the verifier refused; never stored or shown
    └── SignInRefused   wrong name or password, used or expired link, too many tries
"""

from __future__ import annotations

from typing import Any

from rovask.core.refit.faults import RovaskError
from rovask.core.refit.records import Key


class StoreError(RovaskError):
    """Base of what the store refuses."""


class NotFound(StoreError):
    """What was asked for does not exist, or not any more."""


class Conflict(StoreError):
    """The record changed since it was read. ``theirs`` is what stands now; None when it is gone."""

    def __init__(self, key: Key, theirs: dict[str, Any] | None) -> None:
        self.key, self.theirs = key, theirs
        gone = "is gone" if theirs is None else "was changed"
        super().__init__(f"This {key.kind.value} {gone} by somebody else while you had it open.")


class NothingToUndo(StoreError):
    """No change is left to take back."""


class BadPlan(StoreError):
    """The verifier found breaches in a plan; a fault in Rovask, told plainly instead of showing the plan."""


class SignInRefused(StoreError):
    """Who or what tried to sign in was refused; the message says what to do."""
