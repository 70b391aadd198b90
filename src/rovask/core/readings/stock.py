"""What there is of each part, what is coming, what the work still takes, and what covers whose need.

All of it follows from facts: what was counted, what came and fits, what tasks that are done took. Stock aboard is given
first to work under way, then to whoever begins first by the plan, without one to must, should and could in the order of
the jobs; then comes what is ordered, by the day it is due; what is left is still to be ordered.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import cached_property
from math import ceil
from typing import Protocol

from rovask.core.plain.derived import Derived, derived
from rovask.core.readings.uses import Uses, fine, uses_of
from rovask.core.refit.model import Order, OrderLine, Part, Receipt, Refit, Task
from rovask.core.refit.stores.choices import Condition, OrderState, PartStatus, Remedy
from rovask.core.refit.work.choices import Need

NO_TASK = ""  # whose need it is when no task says that it takes it


@dataclass(frozen=True, slots=True)
class Coming:
    """So much that is under way. at: when it is due (None: nobody said); order: its id, "" by the sailor's word."""

    at: datetime | None
    quantity: float
    order: str = ""


@dataclass(frozen=True, slots=True)
class Cover:
    """Where what one task takes comes from. tried: here and fits; untried: here; away: lies elsewhere or is to be made fit.

    coming: parcels it waits for; short: what nobody has ordered. taken: what it takes still; one that takes nothing has it
    at hand, and waits for what the first taker waits for.
    """

    taken: float
    tried: float = 0
    untried: float = 0
    away: float = 0
    coming: tuple[Coming, ...] = ()
    short: float = 0


@dataclass(frozen=True)
class Stock:
    """One part. tried, untried: here; away: elsewhere; used: drawn since it was counted; over: drawn beyond what there was.

    by_task: what covers each task that still takes some. wanted: all they take.
    """

    part: Part
    tried: float
    untried: float
    away: float
    coming: tuple[Coming, ...]
    used: float
    over: float
    wanted: float
    by_task: Mapping[str, Cover]

    @cached_property
    def here(self) -> float:
        """What can be taken in hand."""
        return fine(self.tried + self.untried)

    @cached_property
    def there_is(self) -> float:
        """All there is, wherever it lies."""
        return fine(self.here + self.away)

    @cached_property
    def short(self) -> float:
        """What is still to be ordered."""
        return fine(sum(cover.short for cover in self.by_task.values() if cover.taken))

    def to_buy(self, ordered: bool) -> float:
        """How much of it is still to be bought, in its unit. ordered: whether an order of it stands.

        What work takes and nobody has or ordered; as much as was typed, where nobody counted, ordered or had any; packs whole.
        """
        part = self.part
        wanted = self.wanted + self.used
        if part.counted is None:
            wanted = max(wanted, part.quantity)
        missing = max(wanted - (self.there_is + self.on_order + self.used - self.over), 0.0)
        if part.counted is None and part.status is PartStatus.NEEDED and not ordered:
            missing = wanted  # never had, as far as anybody said: also what was used of it is still to be paid
        return ceil(round(missing / part.pack, 6)) * part.pack if part.pack and missing else fine(missing)

    @cached_property
    def on_order(self) -> float:
        """What is under way."""
        return fine(sum(one.quantity for one in self.coming))

    @cached_property
    def left_over(self) -> float:
        """What the work does not take."""
        return fine(max(self.there_is + self.on_order - self.wanted, 0.0))

    @cached_property
    def status(self) -> PartStatus:
        """How far the whole need has come: as far as its least covered part."""
        if not self.by_task:
            return PartStatus.CHECKED if self.there_is or not self.coming else PartStatus.ORDERED
        covers = self.by_task.values()
        if any(cover.short for cover in covers):
            return PartStatus.NEEDED
        if any(cover.coming for cover in covers):
            return PartStatus.ORDERED
        return PartStatus.ABOARD if any(cover.untried or cover.away for cover in covers) else PartStatus.CHECKED

    @cached_property
    def arrives(self) -> datetime | None:
        """When the last parcel that work waits for is due; without one, when it came by the sailor's word."""
        due = [one.at for cover in self.by_task.values() for one in cover.coming if one.at]
        return max(due, default=self.part.arrives if not self.coming else None)


@derived(lambda refit: (refit.orders, refit.order_lines))
def lines_by_part(refit: Refit) -> dict[str, tuple[OrderLine, ...]]:
    """Lines of orders that weren't cancelled, by their part."""
    open_ = {order.id for order in refit.orders if order.state is not OrderState.CANCELLED}
    out: dict[str, tuple[OrderLine, ...]] = {}
    for line in refit.order_lines:
        if line.order in open_:
            out[line.part] = (*out.get(line.part, ()), line)
    return out


def to_buy(refit: Refit, key: str) -> float:
    """How much of a part is still to be bought: what an order of it, a shopping list and the forecast reckon with."""
    return stocks(refit)[key].to_buy(bool(lines_by_part(refit).get(key)))


class Planned(Protocol):
    """One task of a plan: which, and when it begins."""

    @property
    def task(self) -> str:
        """Its id."""

    @property
    def start(self) -> datetime:
        """When it begins."""


class InOrder(Protocol):
    """A plan, as far as it says who begins first."""

    @property
    def derived(self) -> Derived:
        """What was worked out of it."""

    @property
    def assignments(self) -> Sequence[Planned]:
        """Its tasks."""


def stocks(refit: Refit, plan: InOrder | None = None) -> dict[str, Stock]:
    """Every part's stock, by its id, given in the order of a plan where there is one. O(parts + uses + deliveries)."""
    return _bare(refit) if plan is None else _by_plan(refit, plan)


def _hang_on(refit: Refit) -> tuple[object, ...]:
    """The stores, and of the work what each task takes, how much it matters, and how far it is."""
    made_by = {row.by for row in refit.receipts if row.by}
    signature = tuple(
        (task.id, task.parts, job.need, task.begun_at, task.done_at, task.units, task.units_done)
        for job in refit.jobs
        for task in job.tasks
        if task.parts or task.id in made_by
    )
    return (refit.parts, refit.uses, refit.orders, refit.order_lines, refit.receipts, signature)


@derived(_hang_on)
def _bare(refit: Refit) -> dict[str, Stock]:
    """The stocks as nobody knows yet who begins first."""
    return _all(refit)


@derived(lambda refit, _: (_bare(refit),), of=1)
def _by_plan(refit: Refit, plan: InOrder) -> dict[str, Stock]:
    """The stocks again where several tasks that wait for something take of one part, the first to begin first."""
    bare = _bare(refit)
    starts = {item.task: item.start for item in plan.assignments}
    mixed = {
        key
        for key, stock in bare.items()
        if sum(bool(cover.taken) for cover in stock.by_task.values()) > 1
        and any(cover.short or cover.coming or cover.away for cover in stock.by_task.values())
    }
    return bare | _all(refit, starts, mixed) if mixed else bare


def _all(
    refit: Refit, starts: Mapping[str, datetime] | None = None, only: Collection[str] | None = None
) -> dict[str, Stock]:
    takers: dict[str, list[tuple[tuple[int, float], Task]]] = defaultdict(list)
    rank = list(Need)
    for job in refit.jobs:
        for task in job.tasks:
            for key in task.parts:
                begins = starts.get(task.id) if starts is not None else None
                if task.begun_at:
                    place = (-1, 0.0)
                elif begins is not None:
                    place = (0, begins.timestamp())
                else:  # nobody knows when: by need, after whatever is planned
                    place = (1 + rank.index(job.need), 0.0)
                takers[key].append((place, task))
    amounts = uses_of(refit)
    orders = {order.id: order for order in refit.orders}
    lines: dict[str, list[OrderLine]] = defaultdict(list)
    for line in refit.order_lines:
        if orders[line.order].state.is_open:
            lines[line.part].append(line)
    came: dict[str, list[Receipt]] = defaultdict(list)
    for receipt in refit.receipts:
        came[receipt.line].append(receipt)
    return {
        part.id: _stock(
            refit,
            part,
            [task for _, task in sorted(takers[part.id], key=lambda row: row[0])],
            amounts,
            [(orders[line.order], line, came[line.id]) for line in lines[part.id]],
        )
        for part in refit.parts
        if only is None or part.id in only
    }


def _stock(
    refit: Refit, part: Part, tasks: list[Task], amounts: Uses, lines: list[tuple[Order, OrderLine, list[Receipt]]]
) -> Stock:
    tried, untried, away = _at_first(part)
    coming: list[Coming] = []
    if part.status is PartStatus.ORDERED and not lines and part.counted is None:
        coming.append(Coming(part.arrives, part.quantity))
    since = part.counted_at if part.counted is not None else None
    for order, line, receipts in lines:
        for receipt in receipts:
            if since is not None and receipt.at <= since:
                continue
            where = _pile(refit, part, receipt)
            tried += receipt.quantity * (where == "tried")
            untried += receipt.quantity * (where == "untried")
            away += receipt.quantity * (where == "away")
        open_ = still_to_come(order, line, receipts)
        if open_:
            coming.append(Coming(order.expected, open_, order.id))
    used, wanted = 0.0, []
    for task in tasks:
        amount, took = amounts[task.id, part.id]
        drawn = _drawn(task, amount, took)
        if drawn and not (since is not None and task.done_at is not None and task.done_at <= since):
            used += drawn
        if task.done_at is None and (amount - drawn > 0 or not amount):
            wanted.append((task.id, fine(max(amount - drawn, 0.0))))
    if not tasks and part.status is not PartStatus.CHECKED:
        wanted.append((NO_TASK, part.quantity))
    # of what nobody ever counted, ordered or said to be here there is nothing to be wrong about
    told_of = bool(lines) or part.counted is not None or part.status is not PartStatus.NEEDED
    over = max(used - tried - untried - away, 0.0) if told_of else 0.0
    tried, untried, away = _less(used, tried, untried, away)
    coming.sort(key=lambda one: (one.at is None, one.at or 0, one.order))
    tried, untried, away = fine(tried), fine(untried), fine(away)
    covers = dict(_covered(wanted, [tried, untried, away], coming))
    total = fine(sum(amount for _, amount in wanted))
    return Stock(part, tried, untried, away, tuple(coming), fine(used), fine(over), total, covers)


def _at_first(part: Part) -> tuple[float, float, float]:
    """(tried, untried, away) before anything came by an order: counted, or by the sailor's word."""
    if part.missing_since is not None:
        return 0.0, 0.0, 0.0
    if part.counted is not None:
        here, fits = part.counted, True
    elif part.status in (PartStatus.ABOARD, PartStatus.CHECKED):
        here, fits = part.quantity, part.status is PartStatus.CHECKED or not part.must_fit
    else:
        return 0.0, 0.0, 0.0
    if not part.lies.is_here:
        return 0.0, 0.0, here
    return (here, 0.0, 0.0) if fits else (0.0, here, 0.0)


def _pile(refit: Refit, part: Part, receipt: Receipt) -> str:
    """What a delivery adds to: "tried", "untried", "away", or "" when it is no use."""
    condition = receipt.condition
    if part.missing_since is not None and receipt.at <= part.missing_since:
        return ""
    if condition is Condition.MISFIT and receipt.remedy is Remedy.MODIFY:
        task = refit.tasks.get(receipt.by or "")
        return "tried" if task is not None and task.done_at else "away"
    if not condition.is_here:
        return ""
    if not receipt.lies.is_here:
        return "away"
    return "tried" if condition is Condition.FITS or not part.must_fit else "untried"


def still_to_come(order: Order, line: OrderLine, receipts: list[Receipt]) -> float:
    """So much of a line that may still come: what was not delivered, and what is sent again in exchange."""
    if order.closed or not order.state.is_open:
        return 0.0
    came = sum(one.quantity for one in receipts if one.remedy is not Remedy.EXCHANGE)
    return max(fine(line.quantity - came), 0.0)


def _drawn(task: Task, amount: float, took: float | None) -> float:
    """What a task has taken so far: what was said, all of it once it is done, or its finished units' share."""
    if took is not None and task.begun_at:
        return took
    if task.done_at:
        return amount
    return amount * task.units_done / task.units if task.units > 1 else 0.0


def _less(used: float, tried: float, untried: float, away: float) -> tuple[float, float, float]:
    """The piles after so much was taken from them, the best first."""
    out = []
    for pile in (tried, untried, away):
        taken = min(used, pile)
        used -= taken
        out.append(pile - taken)
    return out[0], out[1], out[2]


def _covered(wanted: list[tuple[str, float]], piles: list[float], coming: list[Coming]) -> Iterator[tuple[str, Cover]]:
    left = [one.quantity for one in coming]
    first: Cover | None = None
    for key, amount in sorted(wanted, key=lambda row: not row[1]):  # who takes some, in order; then who has it at hand
        if not amount:
            there = Cover(0.0, short=0.0 if sum(piles) else 1.0) if first is None else replace(first, taken=0.0)
            yield key, there
            continue
        need, taken = amount, list[float]()
        for at, pile in enumerate(piles):
            some = min(need, pile)
            piles[at], need = fine(pile - some), fine(need - some)
            taken.append(some)
        parcels = []
        for at, parcel in enumerate(coming):
            some = min(need, left[at])
            if some > 0:
                left[at], need = fine(left[at] - some), fine(need - some)
                parcels.append(Coming(parcel.at, some, parcel.order))
        cover = Cover(amount, taken[0], taken[1], taken[2], tuple(parcels), need)
        first = first or cover
        yield key, cover
