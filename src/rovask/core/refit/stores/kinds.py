"""What is bought and where it stands: suppliers, uses, offers, orders with their lines, deliveries.

A part (jobs.py) is the need and its stock. What each task takes of it is a Use; what somebody would sell, an Offer; what
was agreed, an Order with its lines; what came of it, a Receipt for each lot. How much there is, is coming and is still to
be ordered follows from these and from the ticks (readings/stock.py) and is kept nowhere.
"""

from __future__ import annotations

from typing import Annotated, Self

from pydantic import Field, model_validator

from rovask.core.refit.givens.choices import Weekday
from rovask.core.refit.givens.kinds import DayRange
from rovask.core.refit.register import Gone, To, kept
from rovask.core.refit.seen.kinds import Photos
from rovask.core.refit.stores.choices import Condition, Lies, OfferForm, OfferState, OrderState, Remedy, SupplierKind
from rovask.core.refit.values import (
    Amount,
    Currency,
    Day,
    Frozen,
    Hours,
    Key,
    Label,
    Line,
    Moment,
    OwnMinor,
    Percent,
    Rate,
    Remark,
    Text,
)
from rovask.core.refit.work.kinds import LeadDays

Share = Annotated[float, Field(strict=True, ge=0, le=1, allow_inf_nan=False)]


@kept("supplier", "suppliers", title="name", page="stores", fresh={"what": "by order", "away_hours": 2}, most=400)
class Supplier(Frozen):
    """Who sells, makes, keeps or carries. Parts, offers and orders name one by its name.

    open_days: on which it serves, sends or delivers (none: every day); shut: holidays. currency: what it invoices in.
    away_hours: there and back, for a trip. returns: on which terms it takes back. by_service: it takes orders through its
    own service.
    """

    id: Key
    name: Line
    what: SupplierKind = SupplierKind.ORDERS
    town: Label = ""
    currency: Currency | None = None
    open_days: tuple[Weekday, ...] = ()
    shut: Annotated[tuple[DayRange, ...], Field(max_length=60)] = ()
    away_hours: Hours = 2
    contact: Label = ""
    returns: Remark = ""
    by_service: Annotated[bool, Field(strict=True)] = False
    note: Text = ""


@kept("use", "uses", title="id", page="stores", unique=(("task", "part"),), index=("part",), most=6000)
class Use(Frozen):
    """How much of a part a task takes; used: how much it really took, once that is known."""

    id: Key
    task: Annotated[Key, To("task", Gone.GO)]
    part: Annotated[Key, To("part", Gone.GO)]
    amount: Amount
    used: Annotated[float, Field(strict=True, ge=0, le=1e6, allow_inf_nan=False)] | None = None


class Quoted(Frozen):
    """What is asked besides the price to have a thing at the boat, in the record's own currency.

    duty: per cent of price and freight; tax: per cent of price, freight and duty.
    """

    currency: Currency
    rate: Rate
    freight: OwnMinor = 0
    duty: Percent = 0
    tax: Percent = 0


@kept(
    "offer",
    "offers",
    planned=False,
    title="what",
    page="stores",
    fresh={"quantity": 1, "lead_days": 3},
    index=("part",),
    most=2000,
)
class Offer(Quoted):
    """What somebody would sell for a need. ``price`` for the whole ``quantity``, in the offer's own currency.

    misfit: the chance that it doesn't fit. least_lag, most_lag: of a substitute that cures: the shortest and the longest
    wait to the next coat at 20 °C, which the ties of the tasks that use it take over when it is chosen.
    """

    id: Key
    part: Annotated[Key, To("part", Gone.GO)]
    supplier: Line
    what: Line
    form: OfferForm = OfferForm.KIT
    state: OfferState = OfferState.OFFERED
    quantity: Amount = 1
    price: OwnMinor = 0
    lead_least: LeadDays | None = None
    lead_days: LeadDays = 3
    lead_most: LeadDays | None = None
    misfit: Share = 0
    returns: Remark = ""
    valid_until: Day | None = None
    least_lag: Hours | None = None
    most_lag: Hours | None = None
    note: Text = ""

    @model_validator(mode="after")
    def _spread(self) -> Self:
        least, most = self.lead_least, self.lead_most
        if (least is not None and least > self.lead_days) or (most is not None and most < self.lead_days):
            raise ValueError("has a lead time that does not lie between its shortest and its longest")
        if self.least_lag is not None and self.most_lag is not None and self.most_lag < self.least_lag:
            raise ValueError("has a longest wait that is shorter than the shortest")
        return self


class Step(Frozen):
    """One step of an order: when it came to what, and what was said."""

    at: Moment
    state: OrderState
    note: Remark = ""


@kept("purchase", "orders", word="order", title="supplier", page="stores", fresh={"state": "placed"}, most=1000)
class Order(Quoted):
    """What was ordered from one supplier, or is made by a workshop. Its lines say what.

    expected: when it is due; expected_most: at the latest. made: something goes there first and comes back changed.
    mark: by which the supplier's service knows this order again, so that it is never placed twice.
    closed: nothing more will come or be invoiced of it.
    """

    id: Key
    supplier: Line
    number: Label = ""
    state: OrderState = OrderState.PLACED
    placed_at: Moment
    expected: Moment | None = None
    expected_most: Moment | None = None
    carrier: Label = ""
    tracking: Label = ""
    made: Annotated[bool, Field(strict=True)] = False
    closed: Annotated[bool, Field(strict=True)] = False
    mark: Label = ""
    steps: Annotated[tuple[Step, ...], Field(max_length=100)] = ()
    note: Text = ""
    photos: Photos = ()


@kept(
    "order-line",
    "order_lines",
    word="line of an order",
    title="what",
    page="stores",
    fresh={"quantity": 1},
    index=("order", "part"),
    most=4000,
)
class OrderLine(Frozen):
    """So much of a part in an order. ``price`` for all of it, in the order's currency, without freight, duty and tax.

    price_most: the most it may come to while it isn't quoted for good.
    """

    id: Key
    order: Annotated[Key, To("purchase", Gone.GO)]
    part: Annotated[Key, To("part")]
    what: Label = ""
    quantity: Amount = 1
    price: OwnMinor = 0
    price_most: OwnMinor | None = None

    @model_validator(mode="after")
    def _range(self) -> Self:
        if self.price_most is not None and self.price_most < self.price:
            raise ValueError("has a price that lies above the most it may come to")
        return self


@kept("receipt", "receipts", word="delivery", title="stowed", page="stores", index=("line",), most=6000)
class Receipt(Frozen):
    """What came of a line: so much of it, when, in what condition, and where it lies.

    off_by: by how much it doesn't fit; remedy: what is done about it; by: the task that makes it fit, after which it does.
    tried_at: when it was tried for fit.
    """

    id: Key
    line: Annotated[Key, To("order-line", Gone.GO)]
    at: Moment
    quantity: Amount = 1
    condition: Condition = Condition.ARRIVED
    lies: Lies = Lies.ABOARD
    stowed: Label = ""
    off_by: Label = ""
    remedy: Remedy | None = None
    by: Annotated[Key, To("task", Gone.FORGET)] | None = None
    tried_at: Moment | None = None
    photos: Photos = ()
