"""Rightward is time running out: days counted down to launch, nights narrower than days."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from zoneinfo import ZoneInfo

DAY_BEGINS, DAY_ENDS = time(7), time(19)
NIGHT_WEIGHT = 0.28


@dataclass(frozen=True)
class TimeScale:
    """From moments to pixels between ``left`` and ``right``; ``knots`` are (moment, x), rising in both."""

    knots: tuple[tuple[datetime, float], ...]

    @classmethod
    def over(cls, first: date, last: date, left: float, right: float, zone: ZoneInfo) -> TimeScale:
        """The scale of the local days ``first`` to ``last``, both shown whole."""
        moments, weights = [], []
        day = first
        while day <= last:
            moments += [
                datetime.combine(day, time(0), zone),
                datetime.combine(day, DAY_BEGINS, zone),
                datetime.combine(day, DAY_ENDS, zone),
            ]
            weights += [7 * NIGHT_WEIGHT, 12.0, 5 * NIGHT_WEIGHT]
            day += timedelta(days=1)
        moments.append(datetime.combine(day, time(0), zone))
        unit = (right - left) / sum(weights)
        xs = [left]
        for weight in weights:
            xs.append(xs[-1] + weight * unit)
        utc = ZoneInfo("UTC")
        return cls(tuple((moment.astimezone(utc), x) for moment, x in zip(moments, xs, strict=True)))

    @property
    def first(self) -> datetime:
        """The earliest moment shown."""
        return self.knots[0][0]

    @property
    def last(self) -> datetime:
        """The end of what is shown."""
        return self.knots[-1][0]

    def x(self, moment: datetime) -> float:
        """Where a moment lies; held at the edges."""
        if moment <= self.first:
            return self.knots[0][1]
        if moment >= self.last:
            return self.knots[-1][1]
        at = bisect_right(self.knots, moment, key=lambda knot: knot[0])
        (m0, x0), (m1, x1) = self.knots[at - 1], self.knots[at]
        return x0 + (x1 - x0) * ((moment - m0) / (m1 - m0))
