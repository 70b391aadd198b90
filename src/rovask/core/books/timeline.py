"""Money over the days of the haul-out: what was paid on which day, and when the rest is taken to fall due."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from rovask.core.books.item import Falls, Item
from rovask.core.books.items import items
from rovask.core.books.paid_work import stints_of
from rovask.core.books.yard_bill import by_day, yard_bill
from rovask.core.plain.derived import derived
from rovask.core.plain.money import shared
from rovask.core.plan.result import Plan
from rovask.core.readings.commitments import PAYS, worth
from rovask.core.refit.model import Refit
from rovask.core.refit.purse.choices import EntryKind
from rovask.core.refit.work.make_good import with_make_good

USUAL_TERM = timedelta(days=14)  # what is owed is taken to be paid a fortnight after its invoice (common practice)


@dataclass(frozen=True, slots=True)
class DaySpent:
    """One local day: paid on it, and what falls due on it of what is owed, agreed, planned, and not found yet. Minor units."""

    day: date
    paid: int = 0
    owed: int = 0
    to_come: int = 0
    rest: int = 0
    unknown: int = 0

    @property
    def total(self) -> int:
        """All of it."""
        return self.paid + self.owed + self.to_come + self.rest + self.unknown


@derived(of=1)
def timeline(refit: Refit, plan: Plan) -> list[DaySpent]:
    """Every day on which money moved or will, in order; their sums are those of the items.

    Owed falls due a fortnight after its invoice or today; orders when they are expected; agreements and hours on the days
    they are worked, else at the launch; the yard day by day; parts on the day they are first needed; the rest at the launch.
    """
    return _days(refit, plan)


def _days(refit: Refit, plan: Plan) -> list[DaySpent]:
    refit = with_make_good(refit, plan.made_good)
    days: dict[date, list[int]] = defaultdict(lambda: [0, 0, 0, 0, 0])
    zone = refit.yard.zone
    for entry in refit.entries:
        if entry.kind in PAYS:
            sign = 1 if entry.kind is EntryKind.PAYMENT else -1
            days[entry.at.astimezone(zone).date()][0] += sign * worth(entry, refit.currency)
    when = _When(refit, plan)
    for row in items(refit, plan):
        if row.owed:
            days[when.owed(row)][1] += row.owed
        if row.to_come:
            days[when.due(row)][2] += row.to_come
        if row.rest:
            for day, amount in when.planned(row):
                days[day][3 if row.sort.known else 4] += amount
    return [DaySpent(day, *days[day]) for day in sorted(days)]


class _When:
    """On which day an item's money falls due."""

    def __init__(self, refit: Refit, plan: Plan) -> None:
        self.refit, self.plan, zone = refit, plan, refit.yard.zone
        self.zone = zone
        self.today, self.launch = plan.now.astimezone(zone).date(), max(plan.launch, plan.now).astimezone(zone).date()
        self.orders = {order.id: order for order in refit.orders}
        self.last_invoice: dict[str, datetime] = {}
        for entry in refit.entries:
            for key in (entry.order, entry.agreement, entry.charge.value if entry.charge else None, entry.id):
                if key and entry.kind is EntryKind.INVOICE:
                    self.last_invoice[key] = max(entry.at, self.last_invoice.get(key, entry.at))
        self.work: dict[tuple[str, str], dict[date, float]] = defaultdict(lambda: defaultdict(float))
        for stint in stints_of(refit, plan):
            if not stint.past:
                self.work[stint.person, stint.job][stint.day] += stint.hours
        self.yard = by_day(yard_bill(refit, plan))
        self.first: dict[str, date] = {}
        for item in plan.assignments:
            for key in refit.tasks[item.task].parts if item.task in refit.tasks else ():
                day = item.start.astimezone(zone).date()
                self.first[key] = min(day, self.first.get(key, day))

    def owed(self, row: Item) -> date:
        """A fortnight after the invoice, today at the earliest."""
        at = self.last_invoice.get(row.key)
        return max((at + USUAL_TERM).astimezone(self.zone).date(), self.today) if at else self.today

    def due(self, row: Item) -> date:
        """When what is agreed will have to be paid."""
        order = self.orders.get(row.key)
        if order is not None and order.expected is not None:
            return max(order.expected.astimezone(self.zone).date(), self.today)
        days = self.work.get((row.person or "", row.job or ""))
        return max(*days, self.today) if days else self.launch

    def planned(self, row: Item) -> Iterator[tuple[date, int]]:
        """What is planned, cut over the days it falls on."""
        weights: Mapping[date, float] = {}
        match row.sort.falls:
            case Falls.AS_WORKED:
                weights = self.work.get((row.person or "", row.job or ""), {})
            case Falls.DAY_BY_DAY:
                weights = {day: float(amount) for day, amount in self.yard.items() if day >= self.today and amount > 0}
            case Falls.WHEN_NEEDED if row.key in self.first:
                weights = {max(self.first[row.key], self.today): 1.0}
        if not weights:
            yield self.launch, row.rest
            return
        days = sorted(weights)
        yield from zip(days, shared(row.rest, [weights[day] for day in days]), strict=True)


def by_month(rows: list[DaySpent]) -> dict[tuple[int, int], DaySpent]:
    """Days summed by calendar month, (year, month) in order; the day is the month's first."""
    out: dict[tuple[int, int], DaySpent] = {}
    for row in rows:
        key = (row.day.year, row.day.month)
        so_far = out.get(key, DaySpent(row.day.replace(day=1)))
        out[key] = DaySpent(
            so_far.day,
            so_far.paid + row.paid,
            so_far.owed + row.owed,
            so_far.to_come + row.to_come,
            so_far.rest + row.rest,
            so_far.unknown + row.unknown,
        )
    return out
