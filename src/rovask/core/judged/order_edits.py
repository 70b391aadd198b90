"""What happens to orders: a step further, something came of them, it fits or it doesn't, it is chosen among offers."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime
from typing import Any

from rovask.core.plain.derived import derived
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.readings.open_days import open_days
from rovask.core.refit.edits import put, rebuilt
from rovask.core.refit.model import Order, OrderLine, Receipt, Refit
from rovask.core.refit.stores.choices import Condition, OrderState, Remedy
from rovask.core.refit.stores.kinds import Step

FORWARD = (
    OrderState.SENDING,
    OrderState.PLACED,
    OrderState.ACKNOWLEDGED,
    OrderState.SHIPPED,
    OrderState.CUSTOMS,
    OrderState.ARRIVED,
)


def lines_of(refit: Refit, order: str) -> list[OrderLine]:
    """The lines of an order."""
    return _lines(refit).get(order, [])


def deliveries_of(refit: Refit, line: str) -> list[Receipt]:
    """What came of a line."""
    return _deliveries(refit).get(line, [])


@derived(lambda refit: (refit.order_lines,))
def _lines(refit: Refit) -> dict[str, list[OrderLine]]:
    return _by(refit.order_lines, "order")


@derived(lambda refit: (refit.receipts,))
def _deliveries(refit: Refit) -> dict[str, list[Receipt]]:
    return _by(refit.receipts, "line")


def _by(rows: Iterable[Any], field: str) -> dict[str, list[Any]]:
    out: dict[str, list[Any]] = {}
    for row in rows:
        out.setdefault(getattr(row, field), []).append(row)
    return out


def order_of(refit: Refit, key: str) -> Order:
    """The order of that id. Raises RefitFaults if it is gone."""
    for order in refit.orders:
        if order.id == key:
            return order
    raise RefitFaults([Fault("", "This order is gone; somebody removed it meanwhile.")])


def line_of(refit: Refit, key: str) -> OrderLine:
    """The line of an order. Raises RefitFaults if it is gone."""
    for line in refit.order_lines:
        if line.id == key:
            return line
    raise RefitFaults([Fault("", "This line of the order is gone; somebody removed it meanwhile.")])


def stepped(
    refit: Refit, key: str, state: OrderState, at: datetime, *, expected: datetime | None = None, note: str = ""
) -> Refit:
    """The order at a further state, or expected at another time; every step is kept."""
    order = order_of(refit, key)
    if order.state is OrderState.CANCELLED and state is not OrderState.CANCELLED:
        raise RefitFaults([Fault("", "This order was cancelled; place it again instead.")])
    changed = order.model_dump() | {
        "state": state,
        "expected": expected or order.expected,
        "steps": (*order.steps, Step(at=at, state=state, note=note)),
    }
    return put(refit, Order.model_validate(changed))


def to_send(refit: Refit, key: str, mark: str, now: datetime) -> Refit:
    """The order handed to its supplier's service; the mark it has already, from an earlier try, stays its own."""
    order = order_of(refit, key)
    if order.state not in (OrderState.PLACED, OrderState.SENDING) or order.number:
        raise RefitFaults([Fault("", f"It is {order.state.value} already; nothing was sent.")])
    refit = put(refit, order.model_copy(update={"mark": order.mark or mark}))
    return stepped(refit, key, OrderState.SENDING, now)


def confirmed(refit: Refit, key: str, number: str, state: OrderState, expected: datetime, now: datetime) -> Refit:
    """The order taken by its supplier; one that was confirmed before, or cancelled meanwhile, stays as it is."""
    order = order_of(refit, key)
    if order.state is not OrderState.SENDING:
        return refit
    refit = put(refit, order.model_copy(update={"number": number}))
    return stepped(refit, key, state, now, expected=expected, note="taken by its service")


def heard(refit: Refit, key: str, state: OrderState, at: datetime, note: str) -> Refit:
    """A step that was told from outside: kept once, and an order never goes back by it. Arrived is what we say ourselves."""
    order = order_of(refit, key)
    if any(step.state is state and step.at == at for step in order.steps) or order.state is OrderState.CANCELLED:
        return refit
    ahead = FORWARD.index(state) > FORWARD.index(order.state)
    steps = tuple(sorted((*order.steps, Step(at=at, state=state, note=note)), key=lambda step: step.at))
    changed = order.model_dump() | {"steps": steps, "state": state if ahead else order.state}
    return put(refit, Order.model_validate(changed))


def delivered(refit: Refit, line: OrderLine) -> float:
    """So much of a line was delivered, in whatever condition; what is exchanged is not."""
    return sum(one.quantity for one in refit.receipts if one.line == line.id and one.remedy is not Remedy.EXCHANGE)


def received(refit: Refit, receipt: Receipt) -> Refit:
    """Something came of a line. The order has arrived once all of every line has. Raises RefitFaults for too much."""
    line = line_of(refit, receipt.line)
    order = order_of(refit, line.order)
    if order.state is OrderState.CANCELLED:
        raise RefitFaults([Fault("", "This order was cancelled; say that it is placed after all, then receive it.")])
    refit = put(refit, receipt)
    if delivered(refit, line) > line.quantity + 1e-6:
        raise RefitFaults([Fault("quantity", f"is more than the {line.quantity:g} that were ordered")])
    lines = [one for one in refit.order_lines if one.order == order.id]
    if order.state is not OrderState.ARRIVED and all(delivered(refit, one) >= one.quantity - 1e-6 for one in lines):
        refit = stepped(refit, order.id, OrderState.ARRIVED, receipt.at)
    return refit


def tried(refit: Refit, key: str, now: datetime, *, off_by: str = "", condition: Condition = Condition.FITS) -> Refit:
    """A delivery was tried: it fits, or not, by how much."""
    receipt = receipt_of(refit, key)
    changed = receipt.model_dump() | {"condition": condition, "tried_at": now, "off_by": off_by}
    if condition is Condition.FITS:
        changed |= {"remedy": None, "by": None}
    return put(refit, Receipt.model_validate(changed))


def receipt_of(refit: Refit, key: str) -> Receipt:
    """The delivery of that id. Raises RefitFaults if it is gone."""
    for receipt in refit.receipts:
        if receipt.id == key:
            return receipt
    raise RefitFaults([Fault("", "This delivery is gone; somebody removed it meanwhile.")])


def placed(refit: Refit, order: Order, lines: tuple[OrderLine, ...]) -> Refit:
    """A new order with its lines. Raises RefitFaults when it has none."""
    if not lines:
        raise RefitFaults([Fault("lines", "An order needs at least one line: what, and how much of it.")])
    return rebuilt(refit, orders=(*refit.orders, order), order_lines=(*refit.order_lines, *lines))


def sent_again(refit: Refit, receipt: Receipt, now: datetime) -> Refit:
    """The order of a delivery that is exchanged: under way once more, expected after the part's usual lead time."""
    line = line_of(refit, receipt.line)
    part = refit.part_by_id[line.part]
    comes = open_days(refit, order_of(refit, line.order).supplier).after(now, part.lead_days)
    return stepped(refit, line.order, OrderState.PLACED, now, expected=comes, note=f"{part.name} is sent again")
