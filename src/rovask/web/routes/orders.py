"""Orders: what is under way, where it stands, and what comes of it: received in three taps, tried, or no use."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.judged.order_edits import deliveries_of, lines_of
from rovask.core.plain.derived import derived
from rovask.core.plain.faults import refused
from rovask.core.plain.money import Money
from rovask.core.readings.commitments import CommitmentKind, commitments, order_total
from rovask.core.readings.open_days import open_days
from rovask.core.readings.stock import still_to_come, stocks, to_buy
from rovask.core.refit import typed
from rovask.core.refit.model import Order, OrderLine, Photo, Receipt, Refit
from rovask.core.refit.stores.choices import Condition, Lies, OrderState, Remedy
from rovask.desk.commands.orders import PlaceOrder, Receive, StepOrder, TryDelivery
from rovask.desk.rights import Right
from rovask.store import outbox
from rovask.store.errors import NotFound
from rovask.web.acting import acted, back_to, let_in, on_to, picture_in
from rovask.web.asking import Pk, RecordId, desk_of
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.security import Form, Who

router = APIRouter()

MOST_ROWS = 60
MOST_PARCELS = 40  # each has its form; the rest are found by a word


@derived(lambda refit: (refit.orders, refit.order_lines, refit.receipts))
def _orders(refit: Refit) -> list[tuple[Order, list[OrderLine], list[float], int]]:
    """Every order with its lines, how much of each may still come, and its total."""
    rows = [(order, lines_of(refit, order.id)) for order in refit.orders]
    return [
        (
            order,
            lines,
            [still_to_come(order, line, deliveries_of(refit, line.id)) for line in lines],
            order_total(order, lines),
        )
        for order, lines in rows
    ]


def _rows(page: Page) -> list[tuple[Order, list[OrderLine], list[float], bool, int]]:
    """Every order with its lines, how much of each is open, whether it is late, and its total; open ones first."""
    out = []
    for order, lines, left, total in _orders(page.refit):
        late = any(left) and order.expected is not None and order.expected <= page.now
        out.append((order, lines, left, late, total))
    far = datetime.max.replace(tzinfo=page.now.tzinfo)
    out.sort(key=lambda row: (not any(row[2]), not row[3], row[0].expected or far, row[0].id))
    return out


def _of(page: Page, line: OrderLine) -> list[Receipt]:
    return deliveries_of(page.refit, line.id)


@router.get("/r/{pk}/stores/orders")
def orders(request: Request, who: Who, pk: Pk, all: str = "") -> Response:
    """All orders, those under way first."""
    page = page_here(request, who, pk)
    rows = _rows(page)
    open_ = [row for row in rows if any(row[2])]
    shown = rows if all else [*open_, *rows[len(open_) :]][: max(len(open_), MOST_ROWS)]
    return render(request, "orders.html", page.context(rows=shown, hidden=len(rows) - len(shown), tab="orders"))


@router.get("/r/{pk}/stores/receive")
def receiving(request: Request, who: Who, pk: Pk, find: str = "") -> Response:
    """What may come through the gate today: choose it, say where it lies, done."""
    page = page_here(request, who, pk)
    words = find.casefold().split()
    rows = [
        row
        for row in _coming(page)
        if all(word in f"{row['part'].name} {row['order'].supplier} {row['order'].number}".casefold() for word in words)
    ]
    found = stocks(page.refit)
    by_word = [
        part
        for part in page.refit.parts
        if any(not one.order for one in found[part.id].coming) and all(word in part.name.casefold() for word in words)
    ]
    context = page.context(
        rows=rows[:MOST_PARCELS],
        by_word=by_word[:MOST_PARCELS],
        hidden=max(len(rows) - MOST_PARCELS, 0) + max(len(by_word) - MOST_PARCELS, 0),
        find=find,
        lies=list(Lies),
        remedies=list(Remedy),
        tab="receive",
    )
    return render(request, "receive.html", context)


def _coming(page: Page) -> list[dict[str, Any]]:
    parts = page.refit.part_by_id
    return [
        {"order": order, "line": line, "part": parts[line.part], "left": much, "late": late}
        for order, lines, left, late, _ in _rows(page)
        for line, much in zip(lines, left, strict=True)
        if much
    ]


@router.post("/r/{pk}/line/{key}/receive")
def receive(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """It came: so much, where it lies, with a photo; and whether it fits."""
    let_in(request, who, pk, Receive.needs)
    page = page_here(request, who, pk)
    line = next((row for row in page.refit.order_lines if row.id == key), None)
    if line is None:
        raise NotFound("This line of the order is gone; somebody removed it meanwhile.")
    order = next(one for one in page.refit.orders if one.id == line.order)
    left = still_to_come(order, line, _of(page, line))
    try:
        quantity = float(typed.number(posted.text("quantity"), 1e-6, 1e6)) if posted.text("quantity") else left
        lies = Lies(posted.text("lies", "aboard"))
        condition = Condition(posted.text("condition", "arrived"))
    except ValueError as error:
        raise refused(str(error), "quantity") from None
    if not quantity:
        raise refused("All of it came already.", "quantity")
    command = Receive(
        key,
        quantity,
        lies,
        posted.words("stowed", 120),
        fits=posted.text("way") == "fits",
        condition=condition,
        picture=picture_in(posted),
    )
    acted(request, who, pk, command)
    return back_to(posted, f"/r/{pk}/stores/receive")


@router.post("/r/{pk}/receipt/{key}/try")
def try_it(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """It fits, or not: by how much, and what is done about it."""
    let_in(request, who, pk, TryDelivery.needs)
    try:
        condition = Condition(posted.text("condition", "fits"))
        remedy = Remedy(posted.text("remedy")) if posted.text("remedy") else None
        hours = typed.hours(posted.text("hours") or "2", 200)
    except ValueError as error:
        raise refused(str(error), "condition") from None
    other = posted.words("other", 80)
    acted(request, who, pk, TryDelivery(key, condition, posted.words("off_by", 120), remedy, hours, other))
    return back_to(posted, f"/r/{pk}/stores/orders")


def order_here(page: Page, key: str) -> Order:
    """The order of that id. Raises NotFound."""
    for order in page.refit.orders:
        if order.id == key:
            return order
    raise NotFound("This order is gone; somebody removed it meanwhile.")


@router.get("/r/{pk}/stores/order/{key}")
def order(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """One order: its lines, where each stands, its steps, its money."""
    page = page_here(request, who, pk, aside=(Photo,))
    one = order_here(page, key)
    lines = lines_of(page.refit, key)
    context = page.context(
        order=one,
        lines=[(line, page.refit.part_by_id[line.part], _of(page, line), still_to_come(one, line, _of(page, line))) for line in lines],
        states=[state for state in OrderState if state is not OrderState.SENDING],
        conditions=[one for one in Condition if not one.is_here],
        remedies=list(Remedy),
        lies=list(Lies),
        account=next(row for row in commitments(page.refit) if row.kind is CommitmentKind.ORDER and row.key == key),
        waiting=[
            task
            for task in page.refit.tasks.values()
            if not task.begun_at and {line.part for line in lines} & set(task.parts)
        ],
        at=page.plan.by_task(),
        by_service=any(row.by_service and row.name.casefold() == one.supplier.casefold() for row in page.refit.suppliers),
        handed=_handed(request, pk, key),
        tab="orders",
    )  # fmt: skip
    return render(request, "order.html", context)


def _handed(request: Request, pk: int, key: str) -> bool:
    """Whether it waits to be sent from here: one that came with a file was handed over elsewhere, if at all."""
    with desk_of(request).looking() as session:
        return outbox.waiting(session, pk, key) is not None


@router.post("/r/{pk}/order/{key}/step")
def step(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """The order came a step further, or is expected at another time."""
    let_in(request, who, pk, StepOrder.needs)
    page = page_here(request, who, pk)
    now = order_here(page, key)
    try:
        state = OrderState(posted.text("state") or now.state.value)
        expected = (
            typed.moment(posted.text("expected"), page.zone, page.today) if posted.text("expected").strip() else None
        )
    except ValueError as error:
        raise refused(str(error), "expected") from None
    acted(request, who, pk, StepOrder(key, state, expected, posted.words("note", 200)))
    return back_to(posted, f"/r/{pk}/stores/order/{key}")


@router.get("/r/{pk}/stores/new-order")
def new_order(request: Request, who: Who, pk: Pk, supplier: str = "", part: str = "") -> Response:
    """An order of all that is to be ordered from one supplier, to be looked over."""
    return _new_order(request, who, pk, {"supplier": supplier, "part": part})


def _new_order(
    request: Request,
    who: Who,
    pk: int,
    given: dict[str, str],
    faults: dict[str, str] | None = None,
    status: int = 200,
    posted_parts: Sequence[str] | None = None,
) -> Response:
    page = page_here(request, who, pk, Right.WORK)
    refit = page.refit
    wanted = [
        need
        for need in page.needs
        if need.part.id == given.get("part") or (need.to_order and need.part.supplier == given.get("supplier"))
    ]
    asked = posted_parts if posted_parts is not None else [given["part"]] if given.get("part") else []
    supplier = given.get("supplier") or (wanted[0].part.supplier if wanted else "")
    days = open_days(refit, supplier)
    lead = max((need.part.lead_days for need in wanted), default=3)
    much = {need.part.id: to_buy(refit, need.part.id) or need.part.quantity for need in wanted}
    context = page.context(
        wanted=wanted,
        ticked=set(asked) if asked else {need.part.id for need in wanted},
        much=much,
        share={
            need.part.id: Money(need.part.price, refit.currency).times(much[need.part.id] / need.part.quantity)
            for need in wanted
        },
        supplier=supplier,
        given=given,
        faults=faults or {},
        expected=days.after(page.now, lead),
        others=sorted({need.part.supplier for need in page.needs if need.to_order}),
        tab="orders",
    )
    return render(request, "new_order.html", context, status)


@router.post("/r/{pk}/stores/new-order")
def place_order(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Place it: what was ticked, at the prices typed."""
    let_in(request, who, pk, PlaceOrder.needs)
    page = page_here(request, who, pk)
    given = {name: value for name, value in posted.form.items() if isinstance(value, str)}
    faults: dict[str, str] = {}
    currency = given.get("currency", "").strip().upper() or page.refit.currency

    def read(name: str, how: Any, otherwise: Any) -> Any:
        text = given.get(name, "").strip()
        if not text:
            return otherwise
        try:
            return how(text)
        except ValueError as error:
            faults[name] = str(error)
            return otherwise

    lines = []
    for key in posted.many("take"):
        lines.append(
            {
                "part": key,
                "quantity": read(f"quantity:{key}", lambda text: float(typed.number(text, 1e-6, 1e6)), 1.0),
                "price": read(f"price:{key}", lambda text: typed.minor(text, currency), 0),
            }
        )
    data = {
        "supplier": given.get("supplier", "").strip() or "not said",
        "number": given.get("number", "").strip(),
        "currency": currency,
        "rate": read("rate", lambda text: f"{typed.rate(text):f}", "1" if currency == page.refit.currency else ""),
        "freight": read("freight", lambda text: typed.minor(text, currency), 0),
        "expected": read("expected", lambda text: typed.moment(text, page.zone, page.today), None),
    }
    if not data["rate"]:
        faults["rate"] = f"what one {currency} is worth in {page.refit.currency} is missing"
    if not lines:
        faults["take"] = "Tick at least one part."
    if faults:
        return _new_order(request, who, pk, given, faults, 422, posted.many("take"))
    done = acted(request, who, pk, PlaceOrder(data, tuple(lines)))
    return on_to(f"/r/{pk}/stores/order/{done.made}")
