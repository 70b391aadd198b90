"""Where the launch, and the end of a job, may fall: twenty dots each, one in twenty, heaped on their days over the bands."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from rovask.core.plain.words import day_and_time
from rovask.core.refit.model import Refit
from rovask.web.slip.marks import Chance, Chances, Chart
from rovask.web.slip.scale import TimeScale

SIZE = 7.0  # of a dot to the next
GAP = 4.0
Moments = tuple[datetime | None, ...]


@dataclass(frozen=True, slots=True)
class MayFall:
    """What may fall when. by: what it is measured by: the slot, or when a job is planned to be over."""

    name: str
    moments: Moments
    by: datetime
    told: str
    of_job: bool = False


def chances_of(refit: Refit, falls: tuple[MayFall, ...], scale: TimeScale, chart: Chart) -> None:
    """A strip for each, under the weather. What is later than is shown is counted at the edge. O(moments)."""
    for one in falls:
        heaps: dict[int, list[tuple[float, bool]]] = {}
        shown = [moment for moment in one.moments if moment is not None and moment <= scale.last]
        if not shown:  # a few days long before it: nothing to be seen
            continue
        for moment in shown:
            x = scale.x(moment)
            day = next((at for at, d in enumerate(chart.days) if x < d.x + d.width), len(chart.days) - 1)
            heaps.setdefault(day, []).append((x, moment > one.by))
        rows, placed = 1, []
        for day, heap in heaps.items():
            left, wide = chart.days[day].x, chart.days[day].width
            across = max(int(wide / SIZE), 1)
            rows = max(rows, -(-len(heap) // across))
            for at, (_, misses) in enumerate(heap):
                column = at % across if len(heap) >= across else at + (across - len(heap)) // 2
                placed.append((left + (column + 0.5) * wide / across, at // across, misses))
        height = rows * SIZE + GAP
        dots = [Chance(x, chart.top + height - GAP / 2 - (row + 0.5) * SIZE, misses) for x, row, misses in placed]
        told = f"{one.told}: " + _told(refit, one)
        chart.chances.append(
            Chances(one.name, chart.top, height, dots, told, len(one.moments) - len(shown), one.of_job)
        )
        chart.top += height


def _told(refit: Refit, one: MayFall) -> str:
    """The same in words."""
    known = [moment for moment in one.moments if moment is not None]
    if not known:
        return "later than was looked at"
    late = sum(1 for moment in one.moments if moment is None or moment > one.by)
    first, zone = known[0], refit.yard.zone
    words = f"from {day_and_time(first, zone)}"
    words += (
        f" to {day_and_time(known[-1], zone)}" if len(known) == len(one.moments) else " on, or later than was looked at"
    )
    return f"{words}; {late} of {len(one.moments)} dots are later than {day_and_time(one.by, zone)}"
