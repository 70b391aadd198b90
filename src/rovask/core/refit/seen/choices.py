"""What is seen is one of: how bad, how known, of which sort."""

from __future__ import annotations

from enum import StrEnum


class Severity(StrEnum):
    """What a look at a thing said of it. *dangerous* outranks the list and blocks the launch."""

    GOOD = "good"
    WATCH = "watch"
    BAD = "bad"
    DANGEROUS = "dangerous"


class UnknownState(StrEnum):
    """What became of something nobody had looked at."""

    OPEN = "open"
    VANISHED = "vanished"
    REAL = "real"


class OffSort(StrEnum):
    """What must be put right before she floats: a thing taken off, something left open, or a thing borrowed."""

    OFF = "off the boat"
    OPEN = "open"
    BORROWED = "borrowed"
