"""Twenty dots: where something may fall, each dot one in twenty, stacked on its day; what misses the slot is marked."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date, datetime
from zoneinfo import ZoneInfo

from rovask.store.odds import OddsThen

STEP, RADIUS, SIDE, BASE = 22.0, 9.0, 30.0, 34.0  # of a dot to the next; of a dot; margins
MOST_COLUMNS = 24
LINE_WIDTH, LINE_HEIGHT, LEFT = 720.0, 200.0, 56.0


@dataclass(frozen=True, slots=True)
class Dot:
    """A dot's middle, and whether it misses what it is measured by."""

    x: float
    y: float
    misses: bool


@dataclass
class Dots:
    """The whole drawing. marks: x, words and whether it is the slot's day. slot_x: where the slot lies between the columns."""

    dots: list[Dot] = field(default_factory=list)
    marks: list[tuple[float, str, bool]] = field(default_factory=list)
    slot_x: float | None = None
    width: float = 0.0
    height: float = 0.0
    base: float = 0.0


def dots_of(moments: tuple[datetime | None, ...], by: datetime, zone: ZoneInfo, most: int = MOST_COLUMNS) -> Dots:
    """The dots of some moments, in order, on the days of a yard; None lies beyond what was looked at. by: what they should keep.

    A column a day while there are few, else some days a column. O(moments).
    """
    days = [moment.astimezone(zone).date() if moment is not None else None for moment in moments]
    slot = by.astimezone(zone).date()
    there = [day for day in days if day is not None] or [slot]
    first, last = min(*there, slot), max(*there, slot)
    beyond = any(day is None for day in days)
    each = -(-((last - first).days + 1) // (most - 1 - beyond))
    of_slot = (slot - first).days // each
    columns = (last - first).days // each + 2 + beyond  # what misses stands right of the slot, that of its own day too
    out, height = Dots(), [0] * columns
    for moment, day in zip(moments, days, strict=True):
        misses = moment is None or moment > by
        column = columns - 1 if day is None else (day - first).days // each + misses
        out.dots.append(Dot(SIDE + STEP * (column + 0.5), -STEP * (height[column] + 0.5), misses))
        height[column] += 1
    out.base = STEP * max(max(height), 2) + 16
    out.dots = [Dot(dot.x, round(out.base + dot.y, 1), dot.misses) for dot in out.dots]
    out.width, out.height = 2 * SIDE + STEP * columns, out.base + BASE
    out.slot_x = SIDE + STEP * (of_slot + 1)
    for at in range(columns - beyond - 1):
        if at % max(columns // 6, 1) == 0 or at == of_slot:
            x = SIDE + STEP * (at + 0.5 + (at > of_slot))
            out.marks.append((x, _short(date.fromordinal(first.toordinal() + at * each)), at == of_slot))
    slot_at = SIDE + STEP * (of_slot + 0.5)
    out.marks = [mark for mark in out.marks if mark[2] or abs(mark[0] - slot_at) > 2.2 * STEP]
    if beyond:
        out.marks.append((SIDE + STEP * (columns - 0.5), "later", False))
    return out


def _short(day: date) -> str:
    return f"{day.day} {day:%b}"


@dataclass
class OddsLine:
    """How sure it was over the days: points, and the path through them; levels: y and words."""

    path: str = ""
    points: list[tuple[float, float, str]] = field(default_factory=list)
    levels: list[tuple[float, str]] = field(default_factory=list)
    days: list[tuple[float, str]] = field(default_factory=list)
    width: float = LINE_WIDTH
    height: float = LINE_HEIGHT


def line_of(rows: list[OddsThen], zone: ZoneInfo) -> OddsLine:
    """The line of how sure a launch was, in order of time; steps, for nothing is known in between. O(rows)."""
    out = OddsLine()
    known = [(row.now, row.odds) for row in rows if row.odds is not None]
    if not known:
        return out
    base, top = LINE_HEIGHT - 34, 12.0
    first, last = known[0][0], known[-1][0]
    span = max((last - first).total_seconds(), 1.0)

    def x(moment: datetime) -> float:
        return round(LEFT + (LINE_WIDTH - LEFT - 24) * (moment - first).total_seconds() / span, 1)

    def y(odds: float) -> float:
        return round(base - (base - top) * odds, 1)

    out.levels = [(y(tenths / 10), f"{tenths} in 10") for tenths in (0, 2, 4, 6, 8, 10)]
    path = [f"M{x(first)} {y(known[0][1])}"]
    for moment, odds in known[1:]:
        path.append(f"H{x(moment)}V{y(odds)}")
    out.path = "".join(path)
    out.points = [(x(moment), y(odds), f"{moment.astimezone(zone):%-d %b}") for moment, odds in known]
    seen: dict[str, float] = {}
    for px, _, words in out.points:
        if not seen or px - max(seen.values()) > 70:
            seen.setdefault(words, px)
    out.days = [(px, words) for words, px in seen.items()]
    return out
