"""A template as it is printed: A4 sheets in true size, one user unit one millimetre."""

from __future__ import annotations

from dataclasses import dataclass

from rovask.core.craft.template import (
    MARGIN,
    MOST_SHEETS,
    OVER,
    PAPER_HIGH,
    PAPER_WIDE,
    RULER_LONG,
    TILE_HIGH,
    TILE_WIDE,
    Outline,
    Ring,
    sheets_of,
    turned,
)

MARK = 4.0  # half of a cross


@dataclass(frozen=True, slots=True)
class SheetDrawn:
    """One sheet, all in mm on its paper: the outline as a path, holes, crosses at the corners of what it shares with its neighbours."""

    row: int
    column: int
    path: str
    holes: tuple[Ring, ...]
    crosses: tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class Template:
    """The sheets, and what all of them share."""

    sheets: tuple[SheetDrawn, ...]
    rows: int
    columns: int
    wide: float
    high: float
    too_many: bool = False
    paper: tuple[float, float] = (PAPER_WIDE, PAPER_HIGH)
    window: tuple[float, float, float, float] = (MARGIN, MARGIN, TILE_WIDE, TILE_HIGH)
    ruler: tuple[float, float, float] = (MARGIN, MARGIN + TILE_HIGH + 10.0, RULER_LONG)
    mark: float = MARK


def path_of(outline: Outline, left: float, top: float) -> str:
    """The outline as a closed path, moved so that (left, top) of the drawing lies at the origin; to a thousandth of a millimetre."""
    points = " ".join(f"L{x - left:.3f} {y - top:.3f}" for x, y in outline.corners)
    return f"M{points[1:]} Z"


def template_of(outline: Outline) -> Template:
    """The sheets of a shape, turned by a quarter where it then takes fewer; none where it would take more than MOST_SHEETS."""
    sheets, lain = sheets_of(outline), turned(outline)
    if len(sheets_of(lain)) < len(sheets):
        outline, sheets = lain, sheets_of(lain)
    _, _, wide, high = outline.box
    rows, columns = max(one.row for one in sheets), max(one.column for one in sheets)
    if len(sheets) > MOST_SHEETS:
        return Template((), rows, columns, wide, high, too_many=True)
    drawn = []
    for one in sheets:
        left, top = one.left - MARGIN, one.top - MARGIN
        holes = tuple(Ring(hole.x - left, hole.y - top, hole.d) for hole in outline.holes)
        drawn.append(
            SheetDrawn(
                one.row, one.column, path_of(outline, left, top), holes, _crosses(one.row, one.column, rows, columns)
            )
        )
    return Template(tuple(drawn), rows, columns, wide, high)


def _crosses(row: int, column: int, rows: int, columns: int) -> tuple[tuple[float, float], ...]:
    """Where a sheet is laid on its neighbours: in the middle of what both show, at both ends of each edge they share."""
    near, far = MARGIN + OVER / 2, MARGIN + TILE_WIDE - OVER / 2
    low, high = MARGIN + OVER / 2, MARGIN + TILE_HIGH - OVER / 2
    found = []
    if column > 1:
        found += [(near, low), (near, high)]
    if column < columns:
        found += [(far, low), (far, high)]
    if row > 1:
        found += [(near, low), (far, low)]
    if row < rows:
        found += [(near, high), (far, high)]
    return tuple(dict.fromkeys(found))
