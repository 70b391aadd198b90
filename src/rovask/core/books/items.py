"""What the refit costs as one flat list: every sum on every page, export and print is a sum over these very items.

An item is one thing's share for one job: an order's, an agreement's, a bill's, what the yard charges for, a part still to
be bought, a person's hours, nights elsewhere, something not found yet. Shares are cut so that they add up to the last unit.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from rovask.core.books.item import Item, ItemKind
from rovask.core.books.paid_work import hourly_totals, paid_people
from rovask.core.books.yard_bill import against_invoices, yard_bill
from rovask.core.plain.derived import derived
from rovask.core.plain.money import Money, shared
from rovask.core.plain.words import count
from rovask.core.plan.result import Plan
from rovask.core.plan.verdict.services import nights_elsewhere
from rovask.core.readings.commitments import Commitment, CommitmentKind, changed, commitments, order_total
from rovask.core.readings.stock import Coming, Stock, lines_by_part, stocks
from rovask.core.readings.uses import uses_of
from rovask.core.refit.givens.choices import Section, Spot
from rovask.core.refit.model import Job, Part, Refit, Unknown
from rovask.core.refit.seen.choices import UnknownState
from rovask.core.refit.stores.choices import OrderState, PartStatus
from rovask.core.refit.work.choices import Need
from rovask.core.refit.work.make_good import with_make_good

SECTION_OF = {
    Section.RIG: (Spot.RIG, Spot.MAST),
    Section.DECK: (Spot.FOREDECK, Spot.DECK, Spot.COCKPIT),
    Section.BELOW: (Spot.FOREPEAK, Spot.SALOON, Spot.GALLEY, Spot.HEADS, Spot.NAV, Spot.BERTHS, Spot.TANKS, Spot.BILGE),
    Section.ENGINE: (Spot.ENGINE, Spot.LAZARETTE, Spot.SHAFT),
    Section.HULL: (Spot.TOPSIDES, Spot.WATERLINE, Spot.BOTTOM, Spot.THROUGH_HULLS, Spot.KEEL, Spot.RUDDER),
}


_BY_SPOT = {spot: section for section, spots in SECTION_OF.items() for spot in spots}


_SHARES = ("paid", "owed", "to_come", "rest", "bound", "invoiced", "by_rate", "back", "low", "high")


@derived(of=1)
def items(refit: Refit, plan: Plan) -> tuple[Item, ...]:
    """Everything the refit costs, as it stands and as planned. O(entries + parts + hours)."""
    return tuple(_Items(with_make_good(refit, plan.made_good), plan).all())


class _Items:
    def __init__(self, refit: Refit, plan: Plan) -> None:
        self.refit, self.plan = refit, plan
        self.left_out = left_out(refit, plan)
        self.jobs = {job.id: job for job in refit.jobs}
        self.takers: dict[str, list[tuple[str, float]]] = defaultdict(list)
        for (task, part), (amount, _) in uses_of(refit).items():
            self.takers[part].append((refit.job_of[task].id, amount))
        self.accounts = commitments(refit, hourly_totals(refit, plan))
        self.stocks, self.ordered = stocks(refit), lines_by_part(refit)
        self.sections: dict[str, Section] = {}
        self.lines: dict[Section, str | None] = {}

    def all(self) -> Iterator[Item]:
        for item in (
            *self.yard(),
            *self.orders(),
            *self.parts(),
            *self.agreements(),
            *self.bills(),
            *self.people(),
            *self.nights(),
            *self.unknowns(),
        ):
            if item.kind is ItemKind.YARD or any(getattr(item, name) for name in _SHARES):
                yield item

    # -- what is agreed, owed and paid -------------------------------------------------------------

    def orders(self) -> Iterator[Item]:
        lines = defaultdict(list)
        for line in self.refit.order_lines:
            lines[line.order].append(line)
        orders = {order.id: order for order in self.refit.orders}
        for one in self.accounts:
            if one.kind is not CommitmentKind.ORDER:
                continue
            order, rows = orders[one.key], lines[one.key]
            if order.state is OrderState.CANCELLED and not one.entries:
                continue
            high = 0
            if one.bound and any(row.price_most is not None for row in rows):
                more = order_total(order, rows, most=True) - order_total(order, rows)
                high = changed(more, order.currency, order.rate, self.refit.currency)
            item = self._of(one, ItemKind.ORDER)._replace(high=one.here.will_be + high)
            weights = [float(row.price) for row in rows]
            for row, part in zip(rows, self._cut(item, weights), strict=True) if rows else ():
                named = part._replace(title=self._named(row.part, row.what))
                yield from self._by_job(named, row.part)
            if not rows:
                yield item

    def _named(self, part: str, what: str) -> str:
        row = self.refit.part_by_id.get(part)
        return row.name if row is not None else what or "a part that is gone"

    def _of(self, one: Commitment, kind: ItemKind) -> Item:
        here = one.here
        return Item(
            kind,
            one.key,
            one.title,
            party=one.party,
            paid=here.paid,
            owed=here.owed,
            to_come=here.to_come - here.back,
            bound=here.bound,
            invoiced=here.invoiced,
            by_rate=here.by_rate,
            back=here.back,
            low=here.will_be,
            high=here.will_be,
        )

    def agreements(self) -> Iterator[Item]:
        rows = {one.id: one for one in self.refit.agreements}
        for one in self.accounts:
            if one.kind is CommitmentKind.AGREEMENT:
                agreed = rows[one.key]
                item = self._of(one, ItemKind.AGREEMENT)._replace(person=agreed.person)
                yield self._placed(item, agreed.job, agreed.line)

    def bills(self) -> Iterator[Item]:
        for one in self.accounts:
            if one.kind is CommitmentKind.BILL:
                first = one.entries[0]
                item = self._of(one, ItemKind.BILL)._replace(person=first.person)
                yield self._placed(item, first.job, first.line)

    # -- the yard ------------------------------------------------------------------------------------

    def yard(self) -> Iterator[Item]:
        rows = against_invoices(self.refit, yard_bill(self.refit, self.plan))
        kept = [one for one in self.accounts if one.kind is CommitmentKind.YARD]
        whole = Item(
            ItemKind.YARD,
            "yard",
            self.refit.yard.name,
            party=self.refit.yard.name,
            section=Section.YARD,
            line=self._line_of(Section.YARD),
            paid=sum(one.here.paid for one in kept),
            owed=sum(one.here.owed for one in kept),
            to_come=-sum(one.here.back for one in kept),
            by_rate=sum(one.here.by_rate for one in kept),
            back=sum(one.here.back for one in kept),
        )
        if not rows and (whole.will_be or whole.by_rate):
            yield whole
        weights = [float(max(row.invoiced, 0)) for row in rows]
        for row, part in zip(rows, self._cut(whole, weights), strict=True):
            yield part._replace(
                key=row.charge.value,
                title=row.title,
                how=row.how,
                rest=row.rest,
                invoiced=row.invoiced,
                low=part.paid + part.owed + part.to_come + row.rest,
                high=part.paid + part.owed + part.to_come + row.rest,
            )

    # -- what is planned -----------------------------------------------------------------------------

    def parts(self) -> tuple[Item, ...]:
        """What is still to be bought at the expected price; and what is had without an order, as typed."""
        return tuple(self._parts())

    def _parts(self) -> Iterator[Item]:
        for part in self.refit.parts:
            if not self.counts(part):
                continue
            share = _unbought(part, self.stocks[part.id], bool(self.ordered.get(part.id)))
            if not share:
                continue
            rest, low, high = (
                Money(price, self.refit.currency).times(share).minor
                for price in (
                    part.price,
                    part.price if part.price_least is None else part.price_least,
                    part.price if part.price_most is None else part.price_most,
                )
            )
            item = Item(ItemKind.PART, part.id, part.name, party=part.supplier, rest=rest, low=low, high=high)
            yield from self._by_job(item, part.id)

    def counts(self, part: Part) -> bool:
        """Whether a part costs something: had, or of work that isn't left out, or that no task names."""
        users = {job for job, _ in self.takers[part.id]}
        return part.status is not PartStatus.NEEDED or not users or bool(users - self.left_out)

    def people(self) -> Iterator[Item]:
        """Hours outside agreements: what was worked and not billed, and what is planned."""
        billed: dict[str, int] = defaultdict(int)
        for one in self.accounts:
            if one.kind is CommitmentKind.BILL and one.entries[0].person is not None:
                billed[one.entries[0].person] += one.here.invoiced
        for paid in paid_people(self.refit, self.plan):
            person = paid.person
            rest = max(paid.done - billed[person.id], 0) + paid.planned
            how = f"{paid.hours:g} h on {count(len(paid.by_day), 'day')}"
            if person.call_out_hours:
                how += f", at least {person.call_out_hours:g} h a day"
            low, high = self._spread(person.id, paid.planned)
            item = Item(
                ItemKind.WORK,
                person.id,
                person.name,
                how,
                person.name,
                person.id,
                rest=rest,
                low=rest - paid.planned + low,
                high=rest - paid.planned + high,
            )
            jobs = list(paid.by_job)
            for job, part in zip(jobs, self._cut(item, [paid.by_job[key] for key in jobs]), strict=True):
                yield self._placed(part, job, None)

    def _spread(self, who: str, planned: int) -> tuple[int, int]:
        """What planned hours come to if every task of that person's takes its least, and its most."""
        tasks = [
            self.refit.tasks[item.task]
            for item in self.plan.assignments
            if who in item.people and not self.refit.tasks[item.task].begun_at
        ]
        likely = sum(task.work.likely * task.units for task in tasks)
        if not likely:
            return planned, planned
        least = sum(task.work.least * task.units for task in tasks) / likely
        most = sum(task.work.most * task.units for task in tasks) / likely
        amount = Money(planned, self.refit.currency)
        return amount.times(round(least, 6)).minor, amount.times(round(most, 6)).minor

    def nights(self) -> Iterator[Item]:
        price = self.refit.price_night_ashore
        nights = nights_to_pay(self.refit, self.plan)
        if price and nights:
            how, amount = count(nights, "night"), price * nights
            title = "Nights elsewhere"
            item = Item(ItemKind.NIGHTS, "nights", title, how, section=Section.LIVING, rest=amount)
            yield item._replace(line=self._line_of(Section.LIVING), low=amount, high=amount)

    def unknowns(self) -> Iterator[Item]:
        for one in unknowns_that_count(self.refit, self.plan):
            amount = Money(one.money, self.refit.currency).times(chance_of(self.refit, one)).minor
            item = Item(ItemKind.UNKNOWN, one.id, one.title, rest=amount, low=0, high=one.money)
            job = self.refit.job_of.get(one.task or "")
            yield self._placed(item, job.id if job is not None else None, None)

    # -- where it goes ---------------------------------------------------------------------------------

    def _cut(self, item: Item, weights: list[float]) -> list[Item]:
        """The item in shares by weight, every amount cut by itself."""
        if len(weights) == 1:
            return [item]
        cut = {name: shared(getattr(item, name), weights) for name in _SHARES}
        rows: list[dict[str, Any]] = [{name: cut[name][at] for name in _SHARES} for at in range(len(weights))]
        return [item._replace(**row) for row in rows]

    def _by_job(self, item: Item, part: str) -> Iterator[Item]:
        """A part's item, cut by how much each job takes of it."""
        by_job: dict[str, float] = defaultdict(float)
        for job, amount in self.takers[part]:
            by_job[job] += amount
        row = self.refit.part_by_id.get(part)
        line = row.line if row is not None else None
        if not by_job:
            yield self._placed(item, None, line)
            return
        jobs = list(by_job)
        for job, share in zip(jobs, self._cut(item, [by_job[key] for key in jobs]), strict=True):
            yield self._placed(share, job, line)

    def _placed(self, item: Item, job: str | None, line: str | None) -> Item:
        row = self.jobs.get(job or "")
        section = self._section(row) if row is not None else Section.OTHER
        if row is not None and line is None:
            line = row.line
        return item._replace(job=job if row is not None else None, section=section, line=line or self._line_of(section))

    def _section(self, job: Job) -> Section:
        if job.id not in self.sections:
            self.sections[job.id] = section_of(self.refit, job)
        return self.sections[job.id]

    def _line_of(self, section: Section) -> str | None:
        if section not in self.lines:
            found = (line.id for line in self.refit.budget_lines if section in line.sections)
            self.lines[section] = next(found, None)
        return self.lines[section]


def section_of(refit: Refit, job: Job) -> Section:
    """The part of the boat a job is about: that of the place where most of its tasks are; haul and launch are the yard's."""
    if job.recipe in ("haul", "launch"):
        return Section.YARD
    seen: dict[Section, int] = defaultdict(int)
    for task in job.tasks:
        spot = refit.place_by_id[task.place].spot
        seen[_BY_SPOT.get(spot, Section.OTHER) if spot is not None else Section.OTHER] += 1
    return max(seen, key=lambda section: seen[section], default=Section.OTHER)


def unbought(refit: Refit, part: Part) -> float:
    """Which share of a part's price is still to be spent, or was spent without an order: 1 for all of it.

    What work takes beyond the quantity costs more in proportion; what was counted or ordered costs nothing here; what was
    lost, can't be found or is no use is bought again; packs are bought whole. What is aboard costs nothing more.
    """
    return _unbought(part, stocks(refit)[part.id], bool(lines_by_part(refit).get(part.id)))


def spared_by(refit: Refit, part: Part, quantity: float) -> int:
    """Minor units of the expected price that are not spent besides, once so much more of a part is on order."""
    stock, ordered = stocks(refit)[part.id], bool(lines_by_part(refit).get(part.id))
    more = replace(stock, coming=(*stock.coming, Coming(None, quantity)))
    price = Money(part.price, refit.currency)
    return (price.times(_unbought(part, stock, ordered)) - price.times(_unbought(part, more, True))).minor


def _unbought(part: Part, stock: Stock, ordered: bool) -> float:
    had = float(part.counted is None and part.status is PartStatus.ORDERED and not ordered)
    return round(had + stock.to_buy(ordered) / part.quantity, 9)


def left_out(refit: Refit, plan: Plan) -> set[str]:
    """Jobs left out; one that may be, can't be planned whole and isn't begun is as good as that."""
    out = set(plan.left_out)
    for key in plan.unplanned:
        job = refit.job_of.get(key)
        if job is not None and job.need is not Need.MUST and not any(task.begun_at for task in job.tasks):
            out.add(job.id)
    return out


def unknowns_that_count(refit: Refit, plan: Plan) -> list[Unknown]:
    """Unknowns that may still cost something: open ones, but for those that only work left out would come upon."""
    out, job_of = left_out(refit, plan), refit.job_of
    return [
        one
        for one in refit.unknowns
        if one.state is UnknownState.OPEN and not (one.task in job_of and job_of[one.task].id in out)
    ]


def chance_of(refit: Refit, unknown: Unknown) -> float:
    """How likely an unknown is as things stand: its own chance, times those of what it hangs on and nobody has settled.

    What hangs on something that is real has its own chance alone; on something that was looked at and wasn't there, none.
    """
    by_id, chance, seen = {one.id: one for one in refit.unknowns}, unknown.chance, {unknown.id}
    while unknown.after is not None and unknown.after not in seen:
        unknown = by_id[unknown.after]
        seen.add(unknown.id)
        if unknown.state is UnknownState.VANISHED:
            return 0.0
        if unknown.state is UnknownState.REAL:
            break
        chance *= unknown.chance
    return chance


@derived(of=1)
def nights_to_pay(refit: Refit, plan: Plan) -> int:
    """Nights on which somewhere that is slept in isn't fit for it."""
    return len({night.day for night in nights_elsewhere(refit, plan)})
