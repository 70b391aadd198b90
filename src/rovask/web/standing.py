"""What the standing line is made of, and the note of the last change."""

from __future__ import annotations

from dataclasses import dataclass

from rovask.core.plain.words import span
from rovask.core.plan.result import Verdict


@dataclass(frozen=True, slots=True)
class Item:
    """One item of the standing line: what it says, what that is, where it is explained, and its tone.

    short: what that is where there is little room, so that what matters is never cut off. brief: where a few lines more are to be had,
    shown on a touch without leaving the page.
    """

    value: str
    label: str
    href: str
    tone: str = ""
    short: str = ""
    brief: str = ""


@dataclass(frozen=True, slots=True)
class Note:
    """What the last change did, until dismissed. open: what the rest of the plan does in answer isn't settled yet."""

    change: int
    who: str
    what: str
    effect: str
    tone: str
    more: str
    took_back: bool
    open: bool = False


def other_side(verdict: Verdict) -> str:
    """Of a launch that hangs on open spreads, in a few words, what it is at its worst or best where that changes the answer."""
    if verdict.spare_best is None:
        return ""
    if verdict.spare_minutes >= 0 and (verdict.spare_worst is None or verdict.spare_worst < 0):
        worst = "more" if verdict.spare_worst is None else f"{span(-verdict.spare_worst)} short"
        return f", at worst {worst}"
    if verdict.spare_minutes < 0 <= verdict.spare_best:
        return f", at best {span(verdict.spare_best)} spare"
    return ""


LINE_NAME = 24  # signs of a name that the standing line has room for


def short_name(name: str) -> str:
    """A name short enough for the standing line.

    >>> short_name("Shaft bearing 35 x 48 mm by its code")
    'Shaft bearing 35 x 48 m…'
    """
    return name if len(name) <= LINE_NAME else name[: LINE_NAME - 1].rstrip() + "…"
