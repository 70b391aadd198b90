"""What happens to a part by one tap: ordered, received, tried for fit, missed, found, counted."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from typing import Any

from rovask.core.judged.order_edits import placed, received
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plain.money import Money
from rovask.core.plain.words import day_and_time
from rovask.core.readings.open_days import open_days, suppliers_by_name
from rovask.core.readings.stock import stocks, to_buy
from rovask.core.refit.edits import put, rebuilt
from rovask.core.refit.model import Entry, Order, OrderLine, Part, Receipt, Refit, Use
from rovask.core.refit.purse.choices import EntryKind
from rovask.core.refit.stores.choices import Condition, Lies, OrderState, PartStatus
from rovask.core.refit.work.edits import task_of, update_task

STATUS_TOLD = {
    PartStatus.NEEDED: "put back on the list to order: {}",
    PartStatus.ORDERED: "ordered {}",
    PartStatus.ABOARD: "received {}",
    PartStatus.CHECKED: "tried {}: it fits",
}
NewId = Callable[[str], str]


def part_of(refit: Refit, key: str) -> Part:
    """The part of that id. Raises RefitFaults if it is gone."""
    if key not in refit.part_by_id:
        raise RefitFaults([Fault("", "This part is gone; somebody removed it meanwhile.")])
    return refit.part_by_id[key]


def moved_on(refit: Refit, key: str, status: PartStatus, now: datetime, new_id: NewId) -> Refit:
    """The part one step further, at ``now``. Raises RefitFaults when there is nothing to order, receive or try."""
    part = part_of(refit, key)
    match status:
        case PartStatus.ORDERED:
            return order_now(refit, part, now, new_id)
        case PartStatus.ABOARD:
            return _came(refit, part, now, new_id)
        case PartStatus.CHECKED:
            return _fits(refit, part, now, new_id)
        case PartStatus.NEEDED:
            return _back_on_the_list(refit, part)


def order_now(
    refit: Refit, part: Part, now: datetime, new_id: NewId, *, days: int | None = None, freight: int = 0
) -> Refit:
    """An order for what is short of it, at the expected price, with the supplier it names. days: it takes, None: its lead
    time; freight: minor units on top.
    """
    refit = not_missing(refit, part.id, now)
    part = refit.part_by_id[part.id]
    stock = stocks(refit)[part.id]
    if stock.coming and not stock.short:
        when = stock.arrives
        due = f", expected {day_and_time(when, refit.yard.zone)}" if when is not None else ""
        raise RefitFaults([Fault("", f"{part.name} is ordered already{due}; to order more of it, raise its quantity.")])
    amount = to_buy(refit, part.id) or part.quantity
    supplier = suppliers_by_name(refit).get(part.supplier.casefold())
    key = new_id("purchase")
    order = Order(
        id=key,
        supplier=part.supplier or "not said",
        currency=refit.currency,
        rate="1",
        placed_at=now,
        freight=freight,
        expected=open_days(refit, part.supplier).after(now, part.lead_days if days is None else days),
        made=supplier is not None and supplier.what == "workshop",
    )
    price = Money(part.price, refit.currency).times(amount / part.quantity).minor
    line = OrderLine(id=new_id("order-line"), order=key, part=part.id, quantity=amount, price=price)
    return rebuilt(refit, orders=(*refit.orders, order), order_lines=(*refit.order_lines, line))


def not_missing(refit: Refit, key: str, now: datetime) -> Refit:
    """The refit once another is had of what can't be found: that counts as used up."""
    part = refit.part_by_id.get(key)
    if part is None or part.missing_since is None:
        return refit
    return put(refit, part.model_copy(update={"counted": 0.0, "counted_at": now, "missing_since": None}))


def _came(refit: Refit, part: Part, now: datetime, new_id: NewId) -> Refit:
    """All that is under way of it is here; not tried yet."""
    orders = {order.id for order in refit.orders if order.state.is_open and not order.closed}
    lines = [line for line in refit.order_lines if line.part == part.id and line.order in orders]
    open_ = [(line, left) for line in lines if (left := _left(refit, line))]
    if not open_:
        arrives = part.arrives if part.arrives is not None and part.arrives <= now else now
        changed = part.model_dump() | {"status": PartStatus.ABOARD, "arrives": arrives, "missing_since": None}
        return put(refit, Part.model_validate(changed))
    for line, left in open_:
        receipt = Receipt(id=new_id("receipt"), line=line.id, at=now, quantity=left, lies=part.lies, stowed=part.stowed)
        refit = received(refit, receipt)
    return refit


def _left(refit: Refit, line: OrderLine) -> float:
    parcels = stocks(refit)[line.part].coming
    return next((one.quantity for one in parcels if one.order == line.order), 0.0)


def _fits(refit: Refit, part: Part, now: datetime, new_id: NewId) -> Refit:
    """All that is here of it was tried and fits; what had not come by then has come."""
    if not stocks(refit)[part.id].untried:
        refit = _came(refit, part, now, new_id)
    mine = {line.id for line in refit.order_lines if line.part == part.id}
    rows = tuple(
        row.model_copy(update={"condition": Condition.FITS, "tried_at": now})
        if row.line in mine and row.condition is Condition.ARRIVED
        else row
        for row in refit.receipts
    )
    part = refit.part_by_id[part.id]
    if part.status is PartStatus.ABOARD:
        part = part.model_copy(update={"status": PartStatus.CHECKED})
    return put(rebuilt(refit, receipts=rows), part)


def _back_on_the_list(refit: Refit, part: Part) -> Refit:
    """Nothing of it is ordered any more: its open orders without a delivery are cancelled, its word taken back."""
    mine = {line.order for line in refit.order_lines if line.part == part.id}
    begun = {line.order for line in refit.order_lines if any(row.line == line.id for row in refit.receipts)}
    orders = tuple(
        order.model_copy(update={"state": OrderState.CANCELLED}) if order.id in mine - begun else order
        for order in refit.orders
    )
    changed = part.model_dump() | {"status": PartStatus.NEEDED, "arrives": None, "missing_since": None}
    return put(rebuilt(refit, orders=orders), Part.model_validate(changed))


def got(refit: Refit, key: str, now: datetime, new_id: NewId, price: int | None = None) -> Refit:
    """It was bought over the counter, or fetched from where it lay: it is here now, and paid for where a price is said.

    price: paid for it, in minor units of the refit's currency; 0 for nothing; None: nobody said.
    """
    part = part_of(refit, key)
    stock = stocks(refit)[key]
    if stock.away and not stock.short:
        return put(refit, part.model_copy(update={"lies": Lies.ABOARD}))
    amount = to_buy(refit, key) or part.quantity
    expected = Money(part.price, refit.currency).times(amount / part.quantity).minor
    order = Order(
        id=new_id("purchase"),
        supplier=part.supplier or "over the counter",
        currency=refit.currency,
        rate="1",
        placed_at=now,
        expected=now,
        closed=price is not None,
    )
    line = OrderLine(
        id=new_id("order-line"), order=order.id, part=key, quantity=amount, price=expected if price is None else price
    )
    refit = placed(refit, order, (line,))
    refit = received(refit, Receipt(id=new_id("receipt"), line=line.id, at=now, quantity=amount, stowed=part.stowed))
    if not price:
        return refit
    bill = {"id": new_id("entry"), "title": part.name, "at": now, "party": order.supplier, "order": order.id}
    money = {"currency": refit.currency, "rate": "1", "amount": price}
    invoice = Entry.model_validate(bill | money | {"kind": EntryKind.INVOICE})
    payment = Entry.model_validate(
        bill | money | {"id": new_id("entry"), "kind": EntryKind.PAYMENT, "against": invoice.id}
    )
    return rebuilt(refit, entries=(*refit.entries, invoice, payment))


def given_to(refit: Refit, key: str, task: str, amount: float, use: str) -> Refit:
    """A task takes so much of a part from now on; what it took before of it is said anew. use: id of the use, if new."""
    part, taker = part_of(refit, key), task_of(refit, task)
    if key not in taker.parts:
        refit = update_task(refit, task, parts=(*taker.parts, part.id))
    old = next((one for one in refit.uses if (one.task, one.part) == (task, key)), None)
    row = Use(id=use, task=task, part=key, amount=amount) if old is None else old.model_copy(update={"amount": amount})
    return put(refit, row)


def missed(refit: Refit, key: str, since: datetime | None) -> Refit:
    """The part can't be found since then; None: it is found, and stands as it did."""
    return put(refit, part_of(refit, key).model_copy(update={"missing_since": since}))


def counted(refit: Refit, key: str, amount: float, now: datetime) -> Refit:
    """So much of it there is, as counted; what comes and is used from now on is added and taken off."""
    changed = part_of(refit, key).model_dump() | {"counted": amount, "counted_at": now, "missing_since": None}
    return put(refit, Part.model_validate(changed))


def expected_on(refit: Refit, key: str, comes: datetime | None, lead_days: int | None = None) -> dict[str, Any]:
    """The lists of the refit that change when a part comes at ``comes``, or takes ``lead_days`` once it is ordered."""
    part = refit.part_by_id[key]
    if lead_days is not None:
        changed = part.model_copy(update={"lead_days": lead_days, "lead_least": None, "lead_most": None})
    else:
        orders = {one.order for one in stocks(refit)[key].coming if one.order}
        if orders:
            rows = (one.model_copy(update={"expected": comes}) if one.id in orders else one for one in refit.orders)
            return {"orders": tuple(rows)}
        changed = part.model_copy(update={"status": PartStatus.ORDERED, "arrives": comes})
    return {"parts": tuple(changed if one.id == key else one for one in refit.parts)}
