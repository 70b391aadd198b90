"""Days that pass while something is under way: a lead time runs only on days on which those who move it work.

A lead time of three days is three such days after the day of the order, at the same hour of the yard's clock: a weekend
on which the shop is shut, its holidays, and the days on which every carrier or customs are shut don't count. Where nobody
has said when a supplier is open, every day counts.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

from rovask.core.plain.derived import derived
from rovask.core.refit.givens.choices import Weekday
from rovask.core.refit.model import Refit
from rovask.core.refit.stores.choices import SupplierKind
from rovask.core.refit.stores.kinds import Supplier

_WEEK = frozenset(day.number for day in Weekday)
MOST_SHUT = 400  # days in a row; whoever is shut longer is taken to be open every day


@dataclass(frozen=True)
class OpenDays:
    """On which local days a supplier sends and what it sends travels. O(days) for each question."""

    zone: ZoneInfo
    weekdays: frozenset[int]
    shut: tuple[tuple[date, date], ...]

    def is_open(self, day: date) -> bool:
        """Whether that day counts."""
        return day.weekday() in self.weekdays and not any(first <= day <= last for first, last in self.shut)

    def after(self, moment: datetime, days: int) -> datetime:
        """When what is ordered at ``moment`` is here: so many open days later, at the same hour; never before it."""
        local = moment.astimezone(self.zone)
        day = self._first_open(local.date(), +1)
        for _ in range(days):
            day = self._first_open(day + timedelta(days=1), +1)
        return self._at(day, local)

    def before(self, moment: datetime, days: int) -> datetime:
        """The latest order that is here by ``moment``: the inverse of ``after``."""
        local = moment.astimezone(self.zone)
        day = self._first_open(local.date(), -1)
        for _ in range(days):
            day = self._first_open(day - timedelta(days=1), -1)
        return self._at(day, local)

    def _first_open(self, day: date, step: int) -> date:
        for _ in range(MOST_SHUT):
            if self.is_open(day):
                return day
            day += timedelta(days=step)
        return day

    def _at(self, day: date, local: datetime) -> datetime:
        there = datetime.combine(day, local.time(), tzinfo=self.zone)
        return there.astimezone(UTC)


@derived(lambda refit: (refit.suppliers,))
def suppliers_by_name(refit: Refit) -> dict[str, Supplier]:
    """Suppliers by their name, upper and lower case alike."""
    return {one.name.casefold(): one for one in refit.suppliers}


def open_days(refit: Refit, supplier: str) -> OpenDays:
    """The days that count for a supplier of that name. What it orders in also travels and is cleared."""
    one = suppliers_by_name(refit).get(supplier.casefold())
    rows = [] if one is None else [one]
    if one is None or one.what in (SupplierKind.ORDERS, SupplierKind.WORKSHOP):
        rows += [other for other in refit.suppliers if other.what in (SupplierKind.CARRIER, SupplierKind.CUSTOMS)]
    weekdays = _WEEK
    for row in rows:
        if row.open_days:
            weekdays &= frozenset(day.number for day in row.open_days)
    shut = tuple((span.first, span.last) for row in rows for span in row.shut)
    return OpenDays(refit.yard.zone, weekdays or _WEEK, shut)
