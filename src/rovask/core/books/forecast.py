"""The forecast at completion: paid, owed, agreed, planned, what the yard will charge, what nobody has found yet.

It is a sum over the items of items.py and nothing else, told by what it is for and by how sure it is.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass

from rovask.core.books.item import Item, ItemKind
from rovask.core.books.items import items, nights_to_pay
from rovask.core.plain.derived import derived
from rovask.core.plain.money import Money, total
from rovask.core.plain.words import count
from rovask.core.plan.result import Plan
from rovask.core.readings.standings import is_agreed_with
from rovask.core.readings.stock import stocks
from rovask.core.refit.givens.choices import Role
from rovask.core.refit.model import Refit
from rovask.core.refit.purse.choices import AgreementForm
from rovask.core.refit.work.make_good import with_make_good


@dataclass(frozen=True, slots=True)
class CostLine:
    """One line of the forecast: what for, how it was worked out, and the amount."""

    title: str
    how: str
    amount: Money


@dataclass(frozen=True, slots=True)
class Forecast:
    """The forecast at completion.

    expected: what is not found yet is worth, chance by cost; it is one of the lines. notes: what is counted as nothing
    and why. paid, owed, agreed, planned: the same total by how sure it is; planned is without what is expected.
    low, high: what it comes to if every range comes out at its least, nothing more is found and all is found.
    by_rate: what rates of exchange made what is paid dearer (negative: cheaper) than it was owed. bound: agreed and not
    invoiced; back: paid beyond what is agreed and invoiced, to be had back; both are in ``agreed``, which is net of them.
    """

    lines: tuple[CostLine, ...]
    budget: Money
    expected: Money
    paid: Money
    owed: Money
    agreed: Money
    low: Money
    high: Money
    by_rate: Money
    bound: Money
    back: Money
    notes: tuple[str, ...] = ()

    @property
    def ahead(self) -> Money:
        """Of what is agreed and not invoiced, what is paid already."""
        return self.bound - self.agreed - self.back

    @property
    def total(self) -> Money:
        """Sum of the lines."""
        return total((line.amount for line in self.lines), self.budget.currency)

    @property
    def known(self) -> Money:
        """Without what is not found yet."""
        return self.total - self.expected

    @property
    def planned(self) -> Money:
        """What is neither paid, owed, agreed nor only expected."""
        return self.known - self.paid - self.owed - self.agreed

    @property
    def left(self) -> Money:
        """Budget less forecast; negative when it is overspent."""
        return self.budget - self.total


@derived(of=1)
def forecast(refit: Refit, plan: Plan) -> Forecast:
    """The forecast of a plan: what is paid, owed and agreed, the yard's bill to the planned launch, parts, paid hours, and
    what is expected to be found. Of jobs left out only what is bound counts.
    """
    return _worked_out(refit, plan)


def _worked_out(refit: Refit, plan: Plan) -> Forecast:
    refit = with_make_good(refit, plan.made_good)
    rows = items(refit, plan)

    def money(minor: int) -> Money:
        return Money(minor, refit.currency)

    return Forecast(
        tuple(_lines(refit, rows)),
        money(refit.budget),
        money(sum(row.will_be for row in rows if not row.sort.known)),
        money(sum(row.paid for row in rows)),
        money(sum(row.owed for row in rows)),
        money(sum(row.to_come for row in rows)),
        money(sum(row.low for row in rows)),
        money(sum(row.high for row in rows)),
        money(sum(row.by_rate for row in rows)),
        money(sum(row.bound for row in rows)),
        money(sum(row.back for row in rows)),
        tuple(_notes(refit, plan)),
    )


def _lines(refit: Refit, rows: tuple[Item, ...]) -> Iterator[CostLine]:
    """The lines as a sailor reads them: the yard by what for, parts together, work by person, agreements by themselves."""
    grouped: dict[tuple[str, str], list[Item]] = defaultdict(list)
    for row in rows:
        grouped[row.sort.line(row)].append(row)
    for (title, _), mine in grouped.items():
        amount = sum(row.will_be for row in mine)
        if amount or mine[0].kind is ItemKind.YARD:
            yield CostLine(title, mine[0].sort.told(mine), Money(amount, refit.currency))


def _unsaid(refit: Refit) -> Iterator[str]:
    """Fixed prices for a job that don't say whose hours they pay, where somebody with a rate works on it."""
    for one in refit.agreements:
        if one.person is None and one.job is not None and one.form is AgreementForm.FIXED:
            job = next(job for job in refit.jobs if job.id == one.job)
            skills = {task.skill for task in job.tasks if task.skill}
            paid = [who.name for who in refit.people if who.rate and skills & set(who.skills)]
            if paid:
                yield f"“{one.title}” doesn't say whose hours it pays: those of {', '.join(paid)} are counted besides."


def _notes(refit: Refit, plan: Plan) -> Iterator[str]:
    """What is counted as nothing, and why: trades without a rate, nights without a price, more used than there was."""
    fixed = {one.job for one in refit.agreements if one.job and one.form is AgreementForm.FIXED}
    busy = {
        who
        for item in plan.assignments
        if not refit.tasks[item.task].done_at and refit.job_of[item.task].id not in fixed
        for who in item.people
    }
    for person in refit.people:
        unpaid = person.role in (Role.TRADE, Role.YARD) and not person.rate and not is_agreed_with(refit, person)
        if person.id in busy and unpaid:
            yield f"{person.name} has no rate yet and is counted as nothing."
    priced = {row.charge for row in refit.yard.tariff}
    for task in refit.tasks.values():
        if (
            task.charge is not None
            and task.charge not in priced
            and any(item.task == task.id for item in plan.assignments)
        ):
            yield f"“{task.title}” is counted as nothing: the tariff under Yard has no price for a {task.charge.value}."
    yield from _unsaid(refit)
    nights = nights_to_pay(refit, plan)
    if nights and refit.price_night_ashore is None:
        yield f"{count(nights, 'night')} elsewhere counted as nothing: say under Yard what one costs."
    for stock in stocks(refit).values():
        if stock.over:
            unit = f" {stock.part.unit}".rstrip()
            yield f"{stock.part.name}: {stock.over:g}{unit} more used than there was; count what is left."
