"""The stages of a launch."""

from __future__ import annotations

from enum import StrEnum


class Stage(StrEnum):
    """When something is looked at on the way into the water."""

    BEFORE = "before the slings"
    SLINGS = "in the slings"
    MINUTES = "first minutes"
    HOUR = "an hour"
    DAY = "a day"
    WEEK = "a week"
