"""Points, polygons and curves of a boat's lines, in metres, and where cabin and cockpit lie along her."""

from __future__ import annotations

from itertools import pairwise

Point = tuple[float, float]
Poly = tuple[Point, ...]

SAMPLES = 16
CABIN = (0.30, 0.66)  # coachroof, as shares of the length
COCKPIT = (0.69, 0.92)


def curve(*points: Point, samples: int = SAMPLES) -> Poly:
    """A Bézier curve of any degree as points, ends included (de Casteljau)."""
    out = []
    for n in range(samples + 1):
        t = n / samples
        row = list(points)
        while len(row) > 1:
            row = [((1 - t) * a[0] + t * b[0], (1 - t) * a[1] + t * b[1]) for a, b in pairwise(row)]
        out.append(row[0])
    return tuple(out)


def mirrored(points: Poly) -> Poly:
    """The same on the other side of the centre line, in the opposite order."""
    return tuple((x, -y) for x, y in reversed(points))
