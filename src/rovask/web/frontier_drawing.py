"""The frontier: odds upward, money to the right, a numbered point for each set of acts."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from rovask.core.choice.date_told import DateTold
from rovask.core.plain.words import money

WIDTH, HEIGHT = 720.0, 330.0
LEFT, RIGHT, TOP, BASE = 78.0, 40.0, 22.0, 276.0
RADIUS, APART = 13.0, 27.0  # of a point; two middles keep so far apart
TENTHS = (0, 2, 4, 6, 8, 10)
LEAST_SPAN = 4_000  # minor units along the money, where all cost about the same
MARKS = 4  # figures along the money at most


@dataclass(frozen=True, slots=True)
class Mark:
    """A point: its middle, number, whether it leaves something for next time, and whether it is the one asked for."""

    x: float
    y: float
    number: int
    leaves: bool
    best: bool


@dataclass
class Frontier:
    """The drawing. levels, money: places and words along the axes; wanted_y, most_x: what was asked for; as_it_is: where it stands."""

    marks: list[Mark] = field(default_factory=list)
    path: str = ""
    levels: list[tuple[float, str]] = field(default_factory=list)
    money: list[tuple[float, str]] = field(default_factory=list)
    wanted_y: float = 0.0
    most_x: float | None = None
    as_it_is: tuple[float, float] | None = None
    width: float = WIDTH
    height: float = HEIGHT
    left: float = LEFT
    right: float = WIDTH - RIGHT
    top: float = TOP
    base: float = BASE


def frontier_of(found: DateTold) -> Frontier:
    """The drawing of a frontier. O(points)."""
    prices = [0, *(one.price for one in found.points)]
    low, high = min(prices), max(prices)
    step = _step(max(high - low, LEAST_SPAN) / MARKS)
    low, high = math.floor(low / step) * step, math.ceil(max(high, low + step) / step) * step

    def x(price: float) -> float:
        return round(LEFT + 16 + (WIDTH - RIGHT - LEFT - 32) * (price - low) / (high - low), 1)

    def y(odds: float) -> float:
        return round(BASE - (BASE - TOP) * odds, 1)

    out = Frontier(wanted_y=y(found.asked.odds))
    out.levels = [(y(tenths / 10), f"{tenths} in 10") for tenths in TENTHS]
    out.money = [
        (x(low + n * step), _signed(low + n * step, found.currency)) for n in range(round((high - low) / step) + 1)
    ]
    if low <= found.asked.money <= high:
        out.most_x = x(found.asked.money)
    if found.as_it_is is not None:
        out.as_it_is = x(0), y(found.as_it_is.odds)
    path, last = "", -math.inf
    for at, one in enumerate(found.points):
        px, py = x(one.price), y(one.odds)
        path += f"M{px} {py}" if not path else f"H{px}V{py}"
        out.marks.append(Mark(max(px, last + APART), py, at + 1, bool(one.left), at == found.best))
        last = out.marks[-1].x
    out.path = path
    return out


def _step(least: float) -> int:
    """The next of 1, 2, 5 times a power of ten."""
    power = 10 ** math.floor(math.log10(least))
    return int(next(n * power for n in (1, 2, 5, 10) if n * power >= least)) or 1


def _signed(minor: float, currency: str) -> str:
    told = money(abs(round(minor)), currency, whole=True)
    return f"{'+' if minor > 0 else '−' if minor < 0 else ''}{told}"
