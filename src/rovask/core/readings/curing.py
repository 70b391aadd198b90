"""The cure clock: how far a cure has come, with the temperature of its own hours, and when it is ready.

Warmth only adds up: with C(t) the hours at 20 °C that all hours until t were worth, a cure that wants h hours at 20 °C
and began at a is ready at the first half-hour t with C(t) - C(a) >= h. One table of C serves every reader of the plan.
"""

from __future__ import annotations

from datetime import UTC, datetime
from threading import Lock
from zoneinfo import ZoneInfo

from rovask.core.plain.derived import derived
from rovask.core.plain.half_hours import HALF_HOUR, QUARTER, beginning
from rovask.core.refit.givens.weather import HOUR, cure_rate, temperature_at
from rovask.core.refit.model import Link, Refit, Weather

LONG_AGO = datetime(1990, 1, 1, tzinfo=UTC)  # no forecast knows it
MOST_DAYS = 400  # a cure that takes longer is told as ready then
CLOSE = 1e-6


class CureClock:
    """C(t) of one yard and its weather, worked out where it is asked for.

    Half-hours are counted as everywhere (half_hours.py); what they are worth is summed up once, from the first that was
    asked for. One that lies across two hours of the forecast is worth half of each.
    """

    def __init__(self, weather: Weather, zone: ZoneInfo, typed: float | None = None) -> None:
        self.weather, self.zone, self.typed = weather, zone, typed
        self._base: int | None = None
        self._sums = [0.0]
        self._guard = Lock()
        self._months: dict[int, float | None] = {}
        self._by_hour = [cure_rate(warmth) / 2 for warmth in weather.temperature]
        self._epoch = beginning(zone)
        self._begins = 0 if weather.start is None else (weather.start - self._epoch) // QUARTER

    @classmethod
    def of(cls, refit: Refit) -> CureClock:
        """The clock of a refit."""
        return _clock(refit.weather, refit.yard.zone, refit.yard.temperature)

    def temperature(self, moment: datetime) -> float:
        """The temperature (°C) a cure has at a moment."""
        return temperature_at(self.weather, moment, moment.astimezone(self.zone).month, self.typed)

    def rate(self, at: int) -> float:
        """What a half-hour adds, in hours at 20 °C."""
        hour, later = (2 * at - self._begins) // 4, (2 * at + 1 - self._begins) // 4
        first = self._in_hour(hour, at)
        return first if later == hour else (first + self._in_hour(later, at)) / 2

    def _in_hour(self, hour: int, at: int) -> float:
        """What a half-hour adds in an hour of the forecast, or, where it doesn't reach, in its month."""
        if 0 <= hour < len(self._by_hour):
            return self._by_hour[hour]
        day = at // 48
        if day not in self._months:  # beyond the forecast it is the same all month
            first, last = self._epoch + day * 48 * HALF_HOUR, self._epoch + (day * 48 + 47) * HALF_HOUR
            months = {moment.astimezone(self.zone).month for moment in (first, last)}
            self._months[day] = self._beyond(months.pop()) if len(months) == 1 else None
        found = self._months[day]
        return self._beyond((self._epoch + at * HALF_HOUR).astimezone(self.zone).month) if found is None else found

    def _beyond(self, month: int) -> float:
        """What a half-hour of a month adds where the forecast doesn't reach."""
        return cure_rate(temperature_at(self.weather, LONG_AGO, month, self.typed)) / 2

    def _sum(self, at: int) -> float:
        """What all half-hours from the first asked for until ``at`` are worth."""
        with self._guard:
            sums, base = self._sums, at if self._base is None else self._base
            if at < base:
                more = [0.0]
                for one in range(at, base):
                    more.append(more[-1] + self.rate(one))
                self._sums = sums = [sums[0] - more[-1] + value for value in more[:-1]] + sums
                base = at
            self._base = base
            while at - base >= len(sums):
                sums.append(sums[-1] + self.rate(base + len(sums) - 1))
            return sums[at - base]

    def worth(self, first: datetime, then: datetime) -> float:
        """Hours at 20 °C that the time from ``first`` to ``then`` is worth; negative when ``then`` lies before."""
        return self._until(then) - self._until(first)

    def _until(self, moment: datetime) -> float:
        at, rest = divmod(moment - self._epoch, HALF_HOUR)
        return self._sum(at) + (self.rate(at) * (rest / HALF_HOUR) if rest else 0.0)

    def ready(self, since: datetime, hours: float) -> datetime:
        """When a cure of ``hours`` at 20 °C that began at ``since`` is ready, to the half-hour it is reached in."""
        at, left = (since - self._epoch) // HALF_HOUR, hours
        share = (self._epoch + (at + 1) * HALF_HOUR - since) / HALF_HOUR
        for _ in range(MOST_DAYS * 48):
            gain = self.rate(at) * share
            if gain >= left - CLOSE:
                return (
                    self._epoch + (at + 1) * HALF_HOUR
                    if left > CLOSE
                    else self._epoch + at * HALF_HOUR + (1 - share) * HALF_HOUR
                )
            left -= gain
            at, share = at + 1, 1.0
        return self._epoch + at * HALF_HOUR

    def ready_after(self, link: Link, event: datetime) -> datetime:
        """From when a tie's least wait after ``event`` is over."""
        return self.ready(event, link.min_lag) if link.cures else event + link.min_lag * HOUR

    def closes_after(self, link: Link, event: datetime) -> datetime | None:
        """Until when a tie's longest wait after ``event`` lasts; None if it has none.

        The first half-hour in which the least wait is over is always in time.
        """
        if link.max_lag is None:
            return None
        if not link.cures:
            return event + link.max_lag * HOUR
        after = self.ready(event, link.max_lag)
        if self.worth(event, after) > link.max_lag + CLOSE:
            after -= HALF_HOUR
        return max(after, self.ready(event, link.min_lag))


@derived()
def _clock(weather: Weather, zone: ZoneInfo, typed: float | None) -> CureClock:
    """The clock of a yard's weather, the same for all who ask, so that its hours are summed up once."""
    return CureClock(weather, zone, typed)
