"""Rightward is time running out: days counted down to launch, nights narrower than days."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from functools import cached_property
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
        seconds, xs = self._plain
        when = moment.timestamp()
        at = bisect_right(seconds, when)
        x0, x1 = xs[at - 1], xs[at]
        return x0 + (x1 - x0) * ((when - seconds[at - 1]) / (seconds[at] - seconds[at - 1]))

    @cached_property
    def _plain(self) -> tuple[list[float], list[float]]:
        """The knots as plain numbers: a chart asks for a thousand places on them."""
        return [moment.timestamp() for moment, _ in self.knots], [x for _, x in self.knots]
