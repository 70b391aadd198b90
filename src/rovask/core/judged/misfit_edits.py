"""What does not fit: a part that came, by an order or by the sailor's word; it, or what it goes on, is altered as a task."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime

from rovask.core.judged.order_edits import line_of, placed, receipt_of, received, tried
from rovask.core.judged.part_edits import counted, moved_on, part_of
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plain.money import Money
from rovask.core.readings.stock import stocks
from rovask.core.refit.edits import put, rebuilt
from rovask.core.refit.model import Link, Order, OrderLine, Part, Receipt, Refit
from rovask.core.refit.stores.choices import Condition, PartStatus
from rovask.core.refit.work.choices import State
from rovask.core.refit.work.kinds import Task, WorkTime

NewId = Callable[[str], str]


def misfit(refit: Refit, key: str, now: datetime, off_by: str, new_id: NewId) -> tuple[Refit, list[Receipt]]:
    """Nothing that is here of a part fits, or what is under way came just now and doesn't: its deliveries say so.

    What is here, or on its way, by the sailor's word alone becomes a delivery of an order, so that it can be exchanged,
    made to fit or sent back like any other; it costs what it was expected to. Raises RefitFaults when there is none of it.
    """
    part, stock = part_of(refit, key), stocks(refit)[key]
    mine = {line.id for line in refit.order_lines if line.part == key}
    here = [row for row in refit.receipts if row.line in mine and row.condition.is_here]
    if not here and any(one.order for one in stock.coming):
        came = {row.id for row in refit.receipts}
        refit = moved_on(refit, key, PartStatus.ABOARD, now, new_id)
        here = [row for row in refit.receipts if row.id not in came]
    if not here:
        amount = stock.there_is or stock.on_order
        if not amount:
            raise RefitFaults(
                [Fault("", f"There is nothing of {part.name} that could be tried; say first that it came.")]
            )
        refit, row = _as_delivery(refit, part, amount, now, new_id)
        here = [row]
    for row in here:
        refit = tried(refit, row.id, now, off_by=off_by, condition=Condition.MISFIT)
    return refit, [receipt_of(refit, row.id) for row in here]


def _as_delivery(refit: Refit, part: Part, amount: float, now: datetime, new_id: NewId) -> tuple[Refit, Receipt]:
    """What there is of a part by the sailor's word as what came of an order; what was aboard has cost what it did."""
    bought = part.status is PartStatus.ORDERED
    price = Money(part.price, refit.currency).times(amount / part.quantity).minor if bought else 0
    order = Order(
        id=new_id("purchase"), supplier=part.supplier or "not said", currency=refit.currency, rate="1", placed_at=now,
        expected=now, closed=not bought,
    )  # fmt: skip
    line = OrderLine(id=new_id("order-line"), order=order.id, part=part.id, quantity=amount, price=price)
    word = part.model_dump() | {"status": PartStatus.NEEDED, "arrives": None, "missing_since": None}
    if part.counted is not None:
        word |= {"counted": 0.0, "counted_at": now}
    refit = put(placed(refit, order, (line,)), Part.model_validate(word))
    row = Receipt(id=new_id("receipt"), line=line.id, at=now, quantity=amount, lies=part.lies, stowed=part.stowed)
    return received(refit, row), row


def lost_overboard(refit: Refit, key: str, amount: float | None, now: datetime) -> Refit:
    """So much of what there is of a part is gone for good, all of it where nobody says how much; it is needed again."""
    part, stock = part_of(refit, key), stocks(refit)[key]
    if not stock.there_is:
        raise RefitFaults([Fault("", f"There is nothing of {part.name} that could be lost.")])
    left = max(stock.there_is - amount, 0.0) if amount is not None else 0.0
    return counted(refit, key, left, now)


def made_to_fit(refit: Refit, receipt: Receipt, hours: float, new_id: NewId, other: str = "") -> Refit:
    """The refit with a task that makes a delivery fit, in the job that needs it first. other: what is altered instead of it.

    Raises RefitFaults if no task that is still to be begun uses it.
    """
    part = part_of(refit, line_of(refit, receipt.line).part)
    users = [task for task in refit.tasks.values() if part.id in task.parts and not task.begun_at]
    if not users:
        raise RefitFaults(
            [Fault("remedy", "No task that is still to be begun uses it; exchange it, or keep it as it is.")]
        )
    first = users[0]
    task = Task(
        id=new_id("task"),
        title=(f"Alter {other} so that {part.name} fits" if other else f"Make {part.name} fit")[:120],
        place=first.place,
        state=State.EITHER,
        work=WorkTime(least=hours, likely=hours, most=hours * 2),
        note=f"It is off by {receipt.off_by}." if receipt.off_by else "",
    )
    home = refit.job_of[first.id]
    at = next(n for n, one in enumerate(home.tasks) if one.id == first.id)
    job = home.model_copy(update={"tasks": (*home.tasks[:at], task, *home.tasks[at:])})
    links = tuple(Link(id=new_id("link"), first=task.id, then=user.id, reason="made to fit first") for user in users)
    made = rebuilt(refit, jobs=tuple(job if one is home else one for one in refit.jobs), links=(*refit.links, *links))
    return put(made, receipt.model_copy(update={"by": task.id}))
