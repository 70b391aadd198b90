"""The rules a plan can break, and how a breach is told."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class Rule(StrEnum):
    """What a plan can break."""

    COMPLETE = "complete"
    FACT = "fact"
    PAST = "past"
    GRID = "grid"
    WORK = "work"
    UNBROKEN = "unbroken"
    HOURS = "hours"
    WEATHER = "weather"
    HANDS = "hands"
    SKILL = "skill"
    PERSON_TWICE = "person twice"
    REST = "rest"
    PLACE = "place"
    GEAR = "gear"
    RIVAL = "rival"
    CLEARED = "cleared"
    TIE = "tie"
    ORDER = "order"
    WINDOW = "window"
    OUTAGE = "outage"
    PART = "part"
    ACCEPTED = "accepted"
    STATE = "state"
    SLINGS = "slings"
    MARGIN = "margin"
    LAUNCH = "launch"
    PIN = "pin"
    LEFT_OUT = "left out"


@dataclass(frozen=True, slots=True)
class Breach:
    """One rule broken by one plan; ``task`` is empty when it concerns the whole plan."""

    rule: Rule
    task: str
    sentence: str
