"""A small drawing of a series of readings: a line from the first to the last, its last value as a dot."""

from __future__ import annotations

from dataclasses import dataclass

from rovask.core.refit.seen.kinds import ReadingTaken

WIDTH, HEIGHT, EDGE = 120.0, 28.0, 3.0


@dataclass(frozen=True, slots=True)
class Spark:
    """The line as a path, and where its last reading lies."""

    path: str
    x: float
    y: float
    told: str


def spark(readings: tuple[ReadingTaken, ...]) -> Spark | None:
    """The drawing of two readings or more; None for fewer. Time runs to the right, nothing is at the bottom."""
    if len(readings) < 2:
        return None
    first = readings[0].at
    long = max((readings[-1].at - first).total_seconds(), 1.0)
    high = max(one.value for one in readings) or 1.0
    points = [
        (
            EDGE + (WIDTH - 2 * EDGE) * (one.at - first).total_seconds() / long,
            HEIGHT - EDGE - (HEIGHT - 2 * EDGE) * one.value / high,
        )
        for one in readings
    ]
    path = "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in points)
    told = f"{len(readings)} readings, from {readings[0].value:g} to {readings[-1].value:g}"
    return Spark(path, *points[-1], told)
