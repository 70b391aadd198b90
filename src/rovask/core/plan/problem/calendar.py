"""Elapsed half-hours on the yard's clock, right across a daylight-saving change.

A slot is half an hour of elapsed time. Slot 0 begins at a local midnight; slot k begins k half-hours
later by the sun, whatever the clocks do meanwhile, so a cure of twelve hours is always 24 slots, while
the hours of a working day are read off the local clock.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import UTC, date, datetime, time, timedelta
from functools import lru_cache
from zoneinfo import ZoneInfo

import numpy as np
import numpy.typing as npt

from rovask.core.plain.derived import Derived, derived
from rovask.core.plain.half_hours import HALF_HOUR
from rovask.core.refit.givens.kinds import MIDNIGHT
from rovask.core.refit.model import DayRange, Person, Shift, Visit

SLOT = HALF_HOUR
Mask = npt.NDArray[np.bool_]


def slots_of(hours: float) -> int:
    """Half-hours in ``hours``, which is a multiple of one half.

    >>> slots_of(2.5)
    5
    """
    return round(hours * 2)


@dataclass(frozen=True)
class SlotGrid:
    """The half-hours from local midnight of ``first`` to local midnight after ``last``."""

    zone: ZoneInfo
    first: date
    last: date
    origin: datetime = field(init=False, compare=False, repr=False)  # start of slot 0, in UTC
    size: int = field(init=False, compare=False, repr=False)  # number of slots
    derived: Derived = field(init=False, compare=False, repr=False, default_factory=Derived)

    def __post_init__(self) -> None:
        object.__setattr__(self, "origin", _midnight(self.zone, self.first))
        object.__setattr__(self, "size", self.floor(_midnight(self.zone, self.last + timedelta(days=1))))

    def at(self, day: date, clock: time) -> datetime:
        """A local day and clock time, in UTC."""
        return datetime.combine(day, clock, tzinfo=self.zone).astimezone(UTC)

    def floor(self, moment: datetime) -> int:
        """The slot that ``moment`` lies in; may be negative or past the end."""
        return (moment - self.origin) // SLOT

    def ceil(self, moment: datetime) -> int:
        """The first slot that begins at or after ``moment``."""
        return -((self.origin - moment) // SLOT)

    def moment(self, slot: int) -> datetime:
        """When ``slot`` begins, in UTC."""
        return self.origin + slot * SLOT

    def local(self, slot: int) -> datetime:
        """When ``slot`` begins, on the yard's clock."""
        return self.moment(slot).astimezone(self.zone)

    def days(self) -> list[date]:
        """Every local day of the grid."""
        return [self.first + timedelta(days=n) for n in range((self.last - self.first).days + 1)]

    def day_starts(self) -> npt.NDArray[np.int64]:
        """The slot at which each local day begins. Read only."""
        return _day_starts(self)

    def midnight(self, day: date) -> int:
        """The slot at which local ``day`` begins, held inside the grid."""
        return min(max(self.floor(self.at(day, time(0))), 0), self.size)

    def open_slots(self, shifts: Iterable[Shift]) -> Mask:
        """True where one of the shifts runs. A clock hour that is skipped in spring gives no slot."""
        return _open_slots(self, tuple(shifts)).copy()

    def close(self, mask: Mask, ranges: Iterable[DayRange]) -> None:
        """Take whole local days out of ``mask``, in place."""
        for span in ranges:
            mask[self.midnight(span.first) : self.midnight(span.last + timedelta(days=1))] = False

    def hours_of(self, person: Person, visits: Iterable[Visit] = ()) -> Mask:
        """True where ``person`` works: shifts, less absences, between arriving and leaving; only in visits, if any."""
        mask = self.open_slots(person.hours)
        here = [(self.midnight(one.first), self.midnight(one.last + timedelta(days=1))) for one in visits]
        if here:
            inside = np.zeros_like(mask)
            for first, last in here:
                inside[first:last] = True
            mask &= inside
        self.close(mask, person.absences)
        if person.arrives:
            mask[: self.midnight(person.arrives)] = False
        if person.leaves:
            mask[self.midnight(person.leaves + timedelta(days=1)) :] = False
        return mask


@lru_cache(maxsize=512)
def _midnight(zone: ZoneInfo, day: date) -> datetime:
    return datetime.combine(day, time(0), tzinfo=zone).astimezone(UTC)


@derived()
def _day_starts(grid: SlotGrid) -> npt.NDArray[np.int64]:
    return np.array([grid.midnight(day) for day in grid.days()], dtype=np.int64)


@derived(beside=60)
def _open_slots(grid: SlotGrid, shifts: tuple[Shift, ...]) -> Mask:
    """Hours change seldom, and a plan is made at every edit."""
    mask = np.zeros(grid.size, dtype=np.bool_)
    by_day: list[list[tuple[time, time]]] = [[] for _ in range(7)]
    for shift in shifts:
        for day in shift.days:
            by_day[day.number].append((shift.start, shift.end))
    for today in grid.days():
        for start, end in by_day[today.weekday()]:
            until = grid.midnight(today + timedelta(days=1)) if end == MIDNIGHT else grid.floor(grid.at(today, end))
            lo, hi = grid.ceil(grid.at(today, start)), until
            mask[max(lo, 0) : max(hi, 0)] = True
    return mask
