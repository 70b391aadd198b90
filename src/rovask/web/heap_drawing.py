"""The drawing of the work left: a heap of sand that is carried off, day by day, before the water comes.

Rightward is time, counted down to the launch; upward are hours of work. What was left is drawn full, what is planned
dotted; the outline of the heap as it was hoped for at the baseline stands behind it, dashed. The water rises at the launch.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date

from rovask.core.plan.progress import LeftOn

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 900.0, 320.0, 84.0, 40.0, 26.0, 66.0
MOST_LEVELS = 6


@dataclass
class Heap:
    """The whole drawing: outlines as paths, "" for one there is nothing of; marks at the bottom and up the side."""

    was: str = ""
    will: str = ""
    hoped: str = ""
    days: list[tuple[float, str, bool]] = field(default_factory=list)
    levels: list[tuple[float, int]] = field(default_factory=list)
    today_x: float = 0.0
    today_y: float = 0.0
    launch_x: float = 0.0
    width: float = WIDTH
    height: float = HEIGHT
    left: float = LEFT
    right: float = WIDTH - RIGHT
    base: float = HEIGHT - BOTTOM


def heap_of(rows: list[LeftOn], today: date, launch: date) -> Heap:
    """The drawing of some days in order, one after the other. O(days)."""
    heap = Heap()
    if not rows:
        return heap
    first = rows[0].day
    last = max(rows[-1].day, launch)
    span = max((last - first).days, 1)
    top = max(1.0, *(max(row.left, row.hoped or 0.0) for row in rows)) * 1.05

    def x(day: date) -> float:
        return LEFT + (heap.right - LEFT) * (day - first).days / span

    def y(hours: float) -> float:
        return heap.base - (heap.base - TOP) * hours / top

    past = [row for row in rows if row.day <= today]
    ahead = [row for row in rows if row.day >= today]
    heap.was = _filled([(x(row.day), y(row.left)) for row in past], heap.base)
    heap.will = _filled([(x(row.day), y(row.left)) for row in ahead], heap.base)
    hoped = [(x(row.day), y(row.hoped)) for row in rows if row.hoped is not None]
    heap.hoped = "M" + "L".join(f"{px:.1f} {py:.1f}" for px, py in hoped) if hoped else ""
    now = next((row for row in rows if row.day == today), rows[-1])
    heap.today_x, heap.today_y, heap.launch_x = x(now.day), y(now.left), x(launch)
    heap.levels = [(y(level), level) for level in _levels(int(top))]
    every = max(span // 10, 1)
    for at in range(0, span + 1, every):
        day = date.fromordinal(first.toordinal() + at)
        left = (launch - day).days
        heap.days.append((x(day), f"{left}" if left >= 0 else f"+{-left}", day == launch))
    return heap


def _filled(points: list[tuple[float, float]], base: float) -> str:
    if not points:
        return ""
    line = "L".join(f"{px:.1f} {py:.1f}" for px, py in points)
    return f"M{points[0][0]:.1f} {base:.1f}L{line}L{points[-1][0]:.1f} {base:.1f}Z"


def _levels(top: int) -> list[int]:
    """Round hours up the side: at most six of them."""
    for step in (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000):
        if top // step <= MOST_LEVELS:
            return list(range(step, top, step))
    return []
