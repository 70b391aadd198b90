"""What can stop a command before it does its work; the message is one sentence that says what to do."""

from __future__ import annotations

from rovask.core.plain.faults import RovaskError


class StartError(RovaskError):
    """A command can't go on; nothing it started is left running."""
