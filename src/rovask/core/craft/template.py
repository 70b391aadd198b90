"""Templates in true size: a shape with its holes, mirrored if wanted, laid over as many A4 sheets as it takes. All in mm.

Each sheet carries a ruler to check the printer by, and crosses at its corners by which the sheets are laid together.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from rovask.core.refit.craft.kinds import Measures, Shape

PAPER_WIDE, PAPER_HIGH = 210.0, 297.0  # A4, ISO 216
MARGIN = 12.0  # no printer prints nearer to the edge
RULER = 16.0  # at the foot of each sheet
OVER = 10.0  # by which neighbouring sheets show the same
TILE_WIDE = PAPER_WIDE - 2 * MARGIN
TILE_HIGH = PAPER_HIGH - 2 * MARGIN - RULER
RULER_LONG = 150.0
MOST_SHEETS = 60
# kg/m³: handbook values from memory; a ply or a laminate differs by a tenth.
DENSITY = {
    "stainless": 7900.0, "steel": 7850.0, "aluminium": 2700.0, "bronze": 8700.0, "brass": 8450.0, "plywood": 600.0,
    "teak": 650.0, "laminate": 1600.0, "acrylic": 1190.0, "polycarbonate": 1200.0, "rubber": 1200.0,
}  # fmt: skip

Point = tuple[float, float]


@dataclass(frozen=True, slots=True)
class Ring:
    """A hole: its middle and across."""

    x: float
    y: float
    d: float


@dataclass(frozen=True, slots=True)
class Outline:
    """What is drawn: the corners of the outline in order, closed, and the holes; along x to the right, across y down."""

    corners: tuple[Point, ...]
    holes: tuple[Ring, ...]

    @property
    def box(self) -> tuple[float, float, float, float]:
        """Left, top, width and height of all of it."""
        xs = [x for x, _ in self.corners] + [one.x + sign * one.d / 2 for one in self.holes for sign in (-1, 1)]
        ys = [y for _, y in self.corners] + [one.y + sign * one.d / 2 for one in self.holes for sign in (-1, 1)]
        return min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys)


@dataclass(frozen=True, slots=True)
class SheetOfPaper:
    """One sheet: its row and column from 1, and which point of the drawing lies in the upper left corner of its window."""

    row: int
    column: int
    left: float
    top: float


def of_shape(shape: Shape, *, mirrored: bool = False) -> Outline:
    """The outline of a shape, for the other side if mirrored (left and right changed)."""
    sign = -1 if mirrored else 1
    return Outline(
        tuple((sign * one.x, one.y) for one in shape.corners),
        tuple(Ring(sign * one.x, one.y, one.d) for one in shape.holes),
    )


def turned(outline: Outline) -> Outline:
    """The outline turned by a quarter; nothing is mirrored by it.

    >>> turned(Outline(((0, 0), (30, 0), (0, 10)), (Ring(5, 2, 3),))).corners
    ((0, 0), (0, 30), (-10, 0))
    """
    return Outline(
        tuple((-y, x) for x, y in outline.corners), tuple(Ring(-one.y, one.x, one.d) for one in outline.holes)
    )


def of_foot(measures: Measures, *, mirrored: bool = False) -> Outline | None:
    """The foot of a measured thing with its holes, round its middle; None where its foot isn't known.

    Holes of a ring begin at the top; of a rectangle there are four, of more the rest stand evenly along the long sides.
    """
    if not measures.length or not measures.width:
        return None
    long, wide = measures.length / 2, measures.width / 2
    sign = -1 if mirrored else 1
    holes = tuple(Ring(sign * one.x, one.y, one.d) for one in _pattern(measures))
    return Outline(((-long, -wide), (long, -wide), (long, wide), (-long, wide)), holes)


def _pattern(measures: Measures) -> list[Ring]:
    across = measures.hole or 4.0
    if measures.circle:
        count = measures.holes or 4
        turn = 2 * math.pi / count
        radius = measures.circle / 2
        return [Ring(radius * math.sin(at * turn), -radius * math.cos(at * turn), across) for at in range(count)]
    if measures.along:
        long, wide = measures.along / 2, (measures.across or 0) / 2
        if not wide:
            count = max(measures.holes or 2, 2)
            return [Ring(-long + 2 * long * at / (count - 1), 0.0, across) for at in range(count)]
        per_side = max((measures.holes or 4) // 2, 2)
        xs = [-long + 2 * long * at / (per_side - 1) for at in range(per_side)]
        return [Ring(x, y, across) for y in (-wide, wide) for x in xs]
    return []


def sheets_of(outline: Outline) -> list[SheetOfPaper]:
    """The sheets it takes, row by row; each shows ``OVER`` of its neighbours. O(sheets).

    >>> plate = Outline(((0, 0), (300, 0), (300, 120), (0, 120)), ())
    >>> [(one.row, one.column) for one in sheets_of(plate)]
    [(1, 1), (1, 2)]
    """
    left, top, wide, high = outline.box
    columns, rows = _how_many(wide, TILE_WIDE), _how_many(high, TILE_HIGH)
    # what is left over lies half on either side, so that nothing stands at the edge of the paper
    spare_x = columns * TILE_WIDE - (columns - 1) * OVER - wide
    spare_y = rows * TILE_HIGH - (rows - 1) * OVER - high
    return [
        SheetOfPaper(row + 1, column + 1, left - spare_x / 2 + column * (TILE_WIDE - OVER), top - spare_y / 2 + row * (TILE_HIGH - OVER))
        for row in range(rows)
        for column in range(columns)
    ]  # fmt: skip


def _how_many(length: float, window: float) -> int:
    return max(math.ceil((length - OVER) / (window - OVER) - 1e-9), 1)


def area(corners: Sequence[Point]) -> float:
    """The area inside a closed outline in mm², by the surveyor's formula: half the sum of x y' - x' y (textbook).

    >>> area([(0, 0), (40, 0), (40, 30), (0, 30)]), area([(0, 0), (30, 0), (0, 40)])
    (1200.0, 600.0)
    """
    pairs = zip(corners, (*corners[1:], corners[0]), strict=True)
    return abs(sum(x * v - u * y for (x, y), (u, v) in pairs)) / 2


def edge(corners: Sequence[Point]) -> float:
    """The length of a closed outline in mm."""
    return sum(math.dist(one, other) for one, other in zip(corners, (*corners[1:], corners[0]), strict=True))


def mass(outline: Outline, thick: float, of: str) -> float | None:
    """What a flat thing weighs in kg: its area less its holes, times thickness and density; None for what isn't in the table.

    >>> plate = Outline(((0, 0), (200, 0), (200, 100), (0, 100)), (Ring(50, 50, 20),))
    >>> round(mass(plate, 10, "stainless") or 0, 3)
    1.555
    """
    density = DENSITY.get(of.strip().lower())
    if density is None or not thick:
        return None
    flat = area(outline.corners) - sum(math.pi * one.d**2 / 4 for one in outline.holes)
    return max(flat, 0.0) * thick * 1e-9 * density


def outside(outline: Outline) -> list[Ring]:
    """Holes whose middle lies outside the outline: a mistyped measure (even-odd rule)."""
    corners = outline.corners
    sides = list(zip(corners, (*corners[1:], corners[0]), strict=True))

    def within(x: float, y: float) -> bool:
        crossed = sum(
            (a[1] > y) != (b[1] > y) and x < (b[0] - a[0]) * (y - a[1]) / (b[1] - a[1]) + a[0] for a, b in sides
        )
        return crossed % 2 == 1

    return [one for one in outline.holes if not within(one.x, one.y)]


def too_near_edge(outline: Outline) -> list[Ring]:
    """Holes inside it whose edge lies nearer to the outline than their own width: the least metal is one hole's width (common practice)."""
    corners = outline.corners
    sides = list(zip(corners, (*corners[1:], corners[0]), strict=True))
    inside = [one for one in outline.holes if one not in outside(outline)]
    return [one for one in inside if min(_from((one.x, one.y), *side) for side in sides) - one.d / 2 < one.d]


def _from(point: Point, one: Point, other: Point) -> float:
    """How far a point lies from a side."""
    (px, py), (ax, ay), (bx, by) = point, one, other
    long = (bx - ax) ** 2 + (by - ay) ** 2
    at = 0.0 if not long else min(max(((px - ax) * (bx - ax) + (py - ay) * (by - ay)) / long, 0.0), 1.0)
    return math.hypot(px - ax - at * (bx - ax), py - ay - at * (by - ay))
