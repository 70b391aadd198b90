"""The yard's bill for a plan, from its tariff, line by line and day by day; and against what it has invoiced.

Days of her stay count from the day of the haul-out to the day of the launch, both included. A month is a calendar month
begun, or one begun from the haul-out, as the yard counts. Metres are her length over all, square metres her length by her beam (common practice).
Amounts are rounded half away from zero once per line; its days add up to it.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from decimal import Decimal
from math import ceil

from rovask.core.books.paid_work import stints_of
from rovask.core.plain.derived import derived
from rovask.core.plain.money import Money, shared
from rovask.core.plain.words import count
from rovask.core.plan.result import Plan
from rovask.core.readings.commitments import yard_invoiced
from rovask.core.refit.givens.choices import Charge, Per, Role
from rovask.core.refit.givens.kinds import TariffLine
from rovask.core.refit.model import Refit
from rovask.core.refit.purse.choices import EntryKind
from rovask.core.refit.work.choices import State

PER_HUNDRED = Decimal(10_000)  # hundredths of a per cent in the whole


@dataclass(frozen=True, slots=True)
class BillLine:
    """One line: what for, how it was worked out, the amount in minor units, and on which days it arises."""

    charge: Charge
    title: str
    how: str
    amount: int
    days: tuple[tuple[date, int], ...]

    def until(self, day: date) -> int:
        """What of it has arisen by the end of a day."""
        return sum(amount for when, amount in self.days if when <= day)


@dataclass(frozen=True, slots=True)
class Stay:
    """What the bill depends on besides the tariff: the days ashore, nights hanging, days on which contractors come.

    charged: what tasks make the yard charge for, and on which day.
    """

    first: date
    last: date
    slings: tuple[date, ...]
    visits: tuple[date, ...]
    charged: tuple[tuple[Charge, date], ...] = ()

    @property
    def days(self) -> list[date]:
        """Every day of her stay."""
        return [self.first + timedelta(days=n) for n in range(max((self.last - self.first).days + 1, 0))]


@derived(of=1)
def stay_of(refit: Refit, plan: Plan) -> Stay:
    """The stay that a plan makes."""
    return _stay(refit, plan)


def _stay(refit: Refit, plan: Plan) -> Stay:
    zone = refit.yard.zone
    last = plan.launch.astimezone(zone).date()
    lifted = [item.start for item in plan.assignments if refit.tasks[item.task].state is State.SLINGS]
    hangs: tuple[date, ...] = ()
    if lifted:
        first = min(lifted).astimezone(zone).date()
        paid = _nights_charged(refit)
        nights = (first + timedelta(days=n) for n in range(max((last - first).days, 0)))
        hangs = tuple(night for night in nights if night not in paid)
    needs_visits = any(line.per is Per.VISIT for line in refit.yard.tariff)
    visits = tuple(sorted(_visits(refit, plan))) if needs_visits else ()
    at = plan.by_task()
    charged = tuple(
        (task.charge, (task.begun_at or at[task.id].start).astimezone(zone).date())
        for task in refit.tasks.values()
        if task.charge is not None and (task.begun_at is not None or task.id in at)
    )
    return Stay(refit.haul_at.astimezone(zone).date(), last, hangs, visits, charged)


def hangs(refit: Refit, now: datetime) -> bool:
    """Whether she hangs in the slings by now: work in them is begun, or a night in them was charged, and her slot lies ahead."""
    begun = any(task.state is State.SLINGS and task.begun_at for task in refit.tasks.values())
    today = now.astimezone(refit.yard.zone).date()
    charged = any(one.charge is Charge.SLINGS and one.on <= today for one in refit.yard_extras)
    return (begun or charged) and now < refit.launch_at


def _nights_charged(refit: Refit) -> set[date]:
    """Nights in the slings that stand among the yard's extras already: whatever the plan, each is paid once."""
    return {
        extra.on + timedelta(days=n)
        for extra in refit.yard_extras
        if extra.charge is Charge.SLINGS
        for n in range(ceil(extra.count))
    }


def _visits(refit: Refit, plan: Plan) -> Iterator[date]:
    """A day for each contractor's day in the yard: worked, and planned before the launch."""
    zone = refit.yard.zone
    first, last = refit.haul_at.astimezone(zone).date(), plan.launch.astimezone(zone).date()
    seen = {
        (stint.person, stint.day) for stint in stints_of(refit, plan) if refit.persons[stint.person].role is Role.TRADE
    }
    yield from (day for _, day in sorted(seen) if first <= day <= last)


def yard_bill(refit: Refit, plan: Plan) -> tuple[BillLine, ...]:
    """The whole bill of a plan as it stands."""
    return bill_for(refit, stay_of(refit, plan))


def bill_for(refit: Refit, stay: Stay) -> tuple[BillLine, ...]:
    """The bill of a stay. Lines that come to nothing are left out, but for free lay-days; those in per cent come last, each on all that isn't."""
    yard = refit.yard
    lines = [*_in_short(refit, stay)]
    for row in yard.tariff:
        if row.per is not Per.PERCENT:
            lines += _line(refit, row, stay)
    for extra in refit.yard_extras:
        if extra.price is not None:
            amount = Money(extra.price, refit.currency).times(extra.count).minor
            lines.append(BillLine(extra.charge, extra.title, f"{extra.count:g} ×", amount, ((extra.on, amount),)))
    whole = sum(line.amount for line in lines)
    for row in yard.tariff:
        if row.per is Per.PERCENT:
            amount = Money(whole, refit.currency).times(Decimal(row.price) / PER_HUNDRED).minor
            how = f"{row.price / 100:g} % of {count(len(lines), 'line')}"
            lines.append(BillLine(row.charge, _title(row), how, amount, ((stay.last, amount),)))
    return tuple(line for line in lines if line.amount or line.charge is Charge.LAY)


def _in_short(refit: Refit, stay: Stay) -> Iterator[BillLine]:
    yard = refit.yard
    if yard.lift_and_launch:
        amount = yard.lift_and_launch
        yield BillLine(Charge.LIFT, "Lift, block and launch", "the yard's tariff", amount, ((stay.first, amount),))
    days = stay.days
    paid = days[yard.free_days :]
    if yard.lay_day:
        how = f"{len(days)} days, {min(yard.free_days, len(days))} of them free"
        rows = tuple((day, yard.lay_day) for day in paid)
        yield BillLine(Charge.LAY, "Lay-days", how, len(paid) * yard.lay_day, rows)
    if yard.slings_night and stay.slings:
        rows = tuple((day, yard.slings_night) for day in stay.slings)
        how, amount = f"{len(stay.slings)}", yard.slings_night * len(stay.slings)
        yield BillLine(Charge.SLINGS, "Nights in the slings", how, amount, rows)


TITLES = {Charge.LAY: "Lay-days", Charge.SLINGS: "Nights in the slings"}


def _title(row: TariffLine) -> str:
    return row.title or TITLES.get(row.charge, row.charge.value.capitalize())


def _line(refit: Refit, row: TariffLine, stay: Stay) -> Iterator[BillLine]:
    """One line of the tariff for a stay; nothing where it does not arise."""
    when, much, how = _quantity(refit, row, stay)
    if not when:
        return
    amount = rounded_price(refit, row, much)
    parts = shared(amount, [1] * len(when))
    yield BillLine(row.charge, _title(row), how, amount, tuple(zip(when, parts, strict=True)))


def rounded_price(refit: Refit, row: TariffLine, much: Decimal) -> int:
    """So much of a tariff line, in minor units."""
    return Money(row.price, refit.currency).times(much).minor


BY_TASK = (Charge.MOVE, Charge.SECOND_LIFT)  # charged for when a task needs it, and not because it stands in the tariff


def _quantity(refit: Refit, row: TariffLine, stay: Stay) -> tuple[list[date], Decimal, str]:
    """(days on which a line arises, how much of it, in words)."""
    length, beam = Decimal(str(refit.boat.length_m)), Decimal(str(refit.boat.beam_m))
    size, words = {
        Per.METRE: (length, f"{length:f} m"),
        Per.METRE_DAY: (length, f" × {length:f} m"),
        Per.AREA_DAY: (length * beam, f" × {length * beam:f} m²"),
    }.get(row.per, (Decimal(1), ""))
    if row.charge in BY_TASK and row.per in (Per.ONCE, Per.PIECE, Per.METRE):
        times = [(day, Decimal(1)) for charge, day in stay.charged if charge is row.charge]
        times += [
            (one.on, Decimal(str(one.count)))
            for one in refit.yard_extras
            if one.charge is row.charge and one.price is None
        ]
        much = sum((count_ for _, count_ in times), Decimal(0))
        return [day for day, _ in times], size * much, f"{much:f} ×{words}"
    match row.per:
        case Per.DAY | Per.METRE_DAY | Per.AREA_DAY:
            days = stay.days[row.from_day - 1 : row.to_day]
            return days, size * len(days), f"{count(len(days), 'day')}{words}"
        case Per.MONTH:
            days = stay.days[row.from_day - 1 : row.to_day]
            months = calendar_months(days[0], days[-1]) if days else 0
            return days, Decimal(months), f"{count(months, 'calendar month')} begun"
        case Per.MONTH_OF_STAY:
            days = stay.days[row.from_day - 1 : row.to_day]
            months = months_from(days[0], days[-1]) if days else 0
            since = "the haul-out" if row.from_day == 1 else f"day {row.from_day}"
            return days, Decimal(months), f"{count(months, 'month')} begun from {since}"
        case Per.NIGHT:
            return list(stay.slings), Decimal(len(stay.slings)), count(len(stay.slings), "night")
        case Per.VISIT:
            return list(stay.visits), Decimal(len(stay.visits)), count(len(stay.visits), "contractor's day")
        case Per.KWH:
            return _power(refit, stay)
        case Per.PIECE:
            extras = [one for one in refit.yard_extras if one.charge is row.charge and one.price is None]
            much = sum((Decimal(str(one.count)) for one in extras), Decimal(0))
            return [one.on for one in extras], much, f"{much:f} ×"
        case _:
            reached = len(stay.days) >= row.from_day
            day = stay.last if row.charge is Charge.LAUNCH else stay.first + timedelta(days=row.from_day - 1)
            return ([day] if reached else []), size, words or "once"


def calendar_months(first: date, last: date) -> int:
    """Calendar months begun from one day to another, both included.

    >>> calendar_months(date(2026, 11, 23), date(2027, 1, 4)), calendar_months(date(2026, 5, 4), date(2026, 5, 31))
    (3, 1)
    """
    return (last.year - first.year) * 12 + last.month - first.month + 1


def months_from(first: date, last: date) -> int:
    """Months begun from one day to another, both included, counted from the first: the same day of the next month begins one.

    >>> months_from(date(2026, 5, 4), date(2026, 6, 3)), months_from(date(2026, 11, 23), date(2027, 1, 4))
    (1, 2)
    """
    months = (last.year - first.year) * 12 + last.month - first.month
    return months + (last.day >= first.day)


def _power(refit: Refit, stay: Stay) -> tuple[list[date], Decimal, str]:
    """kWh read so far and, at the mean of the days read, as many a day until the launch."""
    readings = sorted(refit.yard.meter, key=lambda one: one.at)
    if len(readings) < 2:
        return [], Decimal(0), ""
    zone = refit.yard.zone
    first, last = readings[0].at.astimezone(zone).date(), readings[-1].at.astimezone(zone).date()
    used = Decimal(str(readings[-1].kwh)) - Decimal(str(readings[0].kwh))
    days = max((last - first).days, 1)
    more = max((stay.last - last).days, 0)
    until = [first + timedelta(days=n) for n in range(days + more)]
    expected = used + used * more / days
    return until, expected, f"{used.normalize():f} kWh read, {count(more, 'day')} more at {used / days:.1f}"


@dataclass(frozen=True, slots=True)
class YardRow:
    """One thing the yard charges for: by the tariff up to its last invoice, invoiced, and still to come. Minor units.

    differs: invoiced less what the tariff says up to then; it is the yard's to explain. whole: by the tariff in all.
    """

    charge: Charge
    title: str
    how: str
    whole: int
    until: int
    invoiced: int
    rest: int

    @property
    def differs(self) -> int:
        """By how much the invoice is higher (negative: lower) than the tariff."""
        return self.invoiced - self.until

    @property
    def will_be(self) -> int:
        """Invoiced, and the rest by the tariff."""
        return self.invoiced + self.rest


def against_invoices(refit: Refit, bill: tuple[BillLine, ...]) -> list[YardRow]:
    """The bill by what it is for, beside what the yard has invoiced up to the day of its last invoice for it."""
    zone, invoiced = refit.yard.zone, yard_invoiced(refit)
    last: dict[Charge, date] = {}
    for entry in refit.entries:
        if entry.charge is not None and entry.kind is EntryKind.INVOICE:
            day = entry.at.astimezone(zone).date()
            last[entry.charge] = max(last.get(entry.charge, day), day)
    by_charge: dict[Charge, list[BillLine]] = defaultdict(list)
    for line in bill:
        by_charge[line.charge].append(line)
    out = []
    for charge in Charge:
        lines = by_charge.get(charge, [])
        if not lines and not invoiced.get(charge):
            continue
        whole = sum(line.amount for line in lines)
        until = sum(line.until(last[charge]) for line in lines) if charge in last else 0
        title = " and ".join(dict.fromkeys(line.title for line in lines)) or charge.value.capitalize()
        how = "; ".join(line.how for line in lines) or "not in the tariff"
        out.append(YardRow(charge, title, how, whole, until, invoiced.get(charge, 0), whole - until))
    return out


def by_day(bill: tuple[BillLine, ...]) -> Mapping[date, int]:
    """What arises on each day, in order."""
    out: dict[date, int] = defaultdict(int)
    for line in bill:
        for day, amount in line.days:
            out[day] += amount
    return dict(sorted(out.items()))
