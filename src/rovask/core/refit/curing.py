"""The cure clock: how far a cure has come, with the temperature of its own hours, and when it is ready.

Warmth only adds up: with C(t) the hours at 20 °C that all hours until t were worth, a cure that wants h hours at 20 °C
and began at a is ready at the first half-hour t with C(t) - C(a) >= h. One table of C serves every reader of the plan.
"""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

from rovask.core.refit.model import Link, Refit, Weather
from rovask.core.refit.weather import HOUR, cure_rate, temperature_at

HALF_HOUR = timedelta(minutes=30)
EPOCH = datetime(2000, 1, 1, tzinfo=UTC)
MOST_DAYS = 400  # a cure that takes longer is told as ready then
CLOSE = 1e-6


class CureClock:
    """C(t) of one yard and its weather, worked out where it is asked for."""

    def __init__(self, weather: Weather, zone: ZoneInfo, typed: float | None = None) -> None:
        self.weather, self.zone, self.typed = weather, zone, typed
        self._rates: dict[int, float] = {}

    @classmethod
    def of(cls, refit: Refit) -> CureClock:
        """The clock of a refit."""
        return cls(refit.weather, refit.yard.zone, refit.yard.temperature)

    def temperature(self, moment: datetime) -> float:
        """The temperature (°C) a cure has at a moment."""
        return temperature_at(self.weather, moment, moment.astimezone(self.zone).month, self.typed)

    def rate(self, at: int) -> float:
        """What half-hour ``at`` (since 2000 in UTC) adds, in hours at 20 °C."""
        found = self._rates.get(at)
        if found is None:
            found = self._rates[at] = cure_rate(self.temperature(EPOCH + at * HALF_HOUR)) / 2
        return found

    def worth(self, first: datetime, then: datetime) -> float:
        """Hours at 20 °C that the time from ``first`` to ``then`` is worth; negative when ``then`` lies before."""
        if then < first:
            return -self.worth(then, first)
        at, last = (first - EPOCH) // HALF_HOUR, (then - EPOCH) // HALF_HOUR
        if at == last:
            return self.rate(at) * ((then - first) / HALF_HOUR)
        whole = sum(self.rate(one) for one in range(at + 1, last))
        begin = self.rate(at) * ((EPOCH + (at + 1) * HALF_HOUR - first) / HALF_HOUR)
        return begin + whole + self.rate(last) * ((then - EPOCH - last * HALF_HOUR) / HALF_HOUR)

    def ready(self, since: datetime, hours: float) -> datetime:
        """When a cure of ``hours`` at 20 °C that began at ``since`` is ready, to the half-hour it is reached in."""
        at, left = (since - EPOCH) // HALF_HOUR, hours
        share = (EPOCH + (at + 1) * HALF_HOUR - since) / HALF_HOUR
        for _ in range(MOST_DAYS * 48):
            gain = self.rate(at) * share
            if gain >= left - CLOSE:
                return (
                    EPOCH + (at + 1) * HALF_HOUR if left > CLOSE else EPOCH + at * HALF_HOUR + (1 - share) * HALF_HOUR
                )
            left -= gain
            at, share = at + 1, 1.0
        return EPOCH + at * HALF_HOUR

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
