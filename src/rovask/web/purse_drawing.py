"""The drawing of money over the days: a hold that fills, day by day, against the load line of the budget.

Rightward is time, from the first payment or the haul-out to the water that rises at the launch; upward is money. What is
paid is solid, what is owed cross-hatched, what is agreed hatched, what is planned dotted, what is not found yet blank: each
stands on the one before.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date, timedelta

from rovask.core.books.timeline import DaySpent

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 900.0, 300.0, 84.0, 130.0, 26.0, 54.0
LAYERS = ("paid", "owed", "to_come", "rest", "unknown")
STEPS = (1, 2, 2.5, 5)


@dataclass(frozen=True, slots=True)
class Layer:
    """One layer: its name, its outline as a path, and its height at the end."""

    name: str
    path: str
    end: int


@dataclass(frozen=True, slots=True)
class Tick:
    """A mark on an edge: where, and what it says."""

    at: float
    told: str
    main: bool = False


@dataclass
class Hold:
    """The whole drawing. budget_y, reserve_y: the load line, and the line below it where the contingency begins."""

    layers: list[Layer] = field(default_factory=list)
    days: list[Tick] = field(default_factory=list)
    levels: list[tuple[float, int]] = field(default_factory=list)
    budget_y: float | None = None
    reserve_y: float | None = None
    today_x: float = 0.0
    launch_x: float = 0.0
    width: float = WIDTH
    height: float = HEIGHT
    left: float = LEFT
    right: float = WIDTH - RIGHT
    base: float = HEIGHT - BOTTOM


def hold_of(rows: list[DaySpent], haul: date, launch: date, today: date, budget: int, reserve: int) -> Hold:
    """The drawing of some days; all of it, whatever falls before the haul-out or after the launch. O(days)."""
    first = min([haul, today, *(row.day for row in rows)])
    last = max([launch + timedelta(days=1), today, *(row.day for row in rows)])
    totals = {name: sum(getattr(row, name) for row in rows) for name in LAYERS}
    top = max(sum(max(total, 0) for total in totals.values()), budget, 1) * 1.06
    hold = Hold()
    span = max((last - first).days, 1)

    def x(day: date) -> float:
        return LEFT + (hold.right - LEFT) * (day - first).days / span

    def y(amount: float) -> float:
        return float(hold.base - (hold.base - TOP) * amount / top)

    below = [0.0] * (span + 2)
    for name in LAYERS:
        upon = list(below)
        by_day = {(row.day - first).days: getattr(row, name) for row in rows}
        running = 0
        for at in range(span + 1):
            running += by_day.get(at, 0)
            upon[at] = below[at] + running
        upon[span + 1] = upon[span]
        if any(by_day.values()):
            hold.layers.append(Layer(name, _outline(first, span, below, upon, x, y), totals[name]))
        below = upon
    hold.today_x, hold.launch_x = x(today), x(launch)
    if budget:
        hold.budget_y = y(budget)
        hold.reserve_y = y(max(budget - reserve, 0)) if reserve else None
    hold.levels = [(y(level), level) for level in _levels(int(top))]
    every = max(span // 9, 1)
    hold.days = [
        Tick(x(first + timedelta(days=at)), _count((launch - first).days - at), first + timedelta(days=at) == launch)
        for at in range(0, span + 1, every)
    ]
    return hold


def _outline(first: date, span: int, below: list[float], upon: list[float], x, y) -> str:  # type: ignore[no-untyped-def]
    """A layer in steps: forward along its top, back along its bottom."""
    forth, back = [], []
    for at in range(span + 1):
        here, there = x(first + timedelta(days=at)), x(first + timedelta(days=min(at + 1, span)))
        forth += [(here, y(upon[at])), (there, y(upon[at]))]
        back += [(here, y(below[at])), (there, y(below[at]))]
    points = forth + back[::-1]
    return "M" + "L".join(f"{px:.1f} {py:.1f}" for px, py in points) + "Z"


def _count(left: int) -> str:
    """Days to the launch, and with a plus the days after it."""
    return f"{left}" if left >= 0 else f"+{-left}"


def _levels(top: int) -> list[int]:
    """Round amounts up the side: three to six of them."""
    size = 10 ** max(len(str(top)) - 2, 0)
    for factor in (1, 2, 5, 10, 20, 50):
        step = size * factor
        if top // step <= 6:
            return list(range(step, top, step))
    return []
