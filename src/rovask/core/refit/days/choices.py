"""What is written down day by day is one of."""

from __future__ import annotations

from enum import StrEnum


class LostTo(StrEnum):
    """What working hours were lost to."""

    RAIN = "rain"
    PART = "a part"
    FOUND = "found work"
    SLOWER = "slower than thought"
    NO_SHOW = "somebody didn't come"
    TOOL = "a tool"
    OTHER = "something else"


class Said(StrEnum):
    """What a trade says of its work."""

    COMING = "coming"
    LATE = "late"
    DONE = "done"
    FOUND = "found"
