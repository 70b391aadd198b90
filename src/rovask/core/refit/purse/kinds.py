"""Money that is planned, agreed, owed and paid: budget lines, draws on the contingency, agreements, the ledger.

The ledger holds documents and payments, each in its own currency with the rate of its day; what is bound, owed and paid
follows from them (readings/commitments.py) and is kept nowhere.
"""

from __future__ import annotations

from typing import Annotated, Self

from pydantic import Field, model_validator

from rovask.core.refit.givens.choices import Charge, Section
from rovask.core.refit.purse.choices import AgreementForm, EntryKind
from rovask.core.refit.register import Gone, To, kept
from rovask.core.refit.seen.kinds import Photos
from rovask.core.refit.values import (
    Currency,
    Day,
    Frozen,
    Key,
    Label,
    Line,
    Minor,
    Moment,
    OwnMinor,
    Percent,
    Rate,
    Remark,
    Text,
)

OnLine = Annotated[Key, To("budget-line", Gone.FORGET)]


@kept("budget-line", "budget_lines", planned=False, page="purse", fresh={"amount": 0}, givens=True, most=100)
class BudgetLine(Frozen):
    """A line of the budget. sections: what goes on it that names no line of its own. contingency: what is drawn from."""

    id: Key
    title: Line
    amount: Minor = 0
    sections: tuple[Section, ...] = ()
    contingency: Annotated[bool, Field(strict=True)] = False


@kept("draw", "draws", planned=False, word="draw on the contingency", page="purse", most=500)
class Draw(Frozen):
    """So much of the contingency given to another line, by name. to: None while it is only set aside for that name."""

    id: Key
    title: Line
    amount: Minor
    source: Annotated[Key, To("budget-line", Gone.GO)]
    to: Annotated[Key, To("budget-line", Gone.GO)] | None = None
    at: Moment


class Stage(Frozen):
    """A part of an agreed price that falls due with something: a deposit, the mast down, the end."""

    title: Line
    amount: OwnMinor
    due: Day | None = None


@kept("agreement", "agreements", page="purse", fresh={"form": "fixed price", "hold_back": 10}, most=300)
class Agreement(Frozen):
    """What was agreed with a trade or the yard for a job, or for whatever is done by the hour.

    price: of a fixed price, all of it; rate_of_pay: of an hour. person: whose hours it pays; job: of what (none: all).
    deposit: paid before work begins. hold_back: per cent of what is invoiced that stays unpaid until the work is accepted;
    hold_back_sum: so much instead, where a sum was agreed.
    """

    id: Key
    title: Line
    party: Line
    person: Annotated[Key, To("person", Gone.ASK)] | None = None
    job: Annotated[Key, To("job", Gone.FORGET)] | None = None
    form: AgreementForm = AgreementForm.FIXED
    currency: Currency
    rate: Rate
    price: OwnMinor = 0
    rate_of_pay: OwnMinor = 0
    deposit: OwnMinor = 0
    stages: Annotated[tuple[Stage, ...], Field(max_length=20)] = ()
    hold_back: Percent = 0
    hold_back_sum: OwnMinor | None = None
    accepted_at: Moment | None = None
    closed: Annotated[bool, Field(strict=True)] = False
    line: OnLine | None = None
    at: Moment
    note: Text = ""
    photos: Photos = ()

    @model_validator(mode="after")
    def _paid_somehow(self) -> Self:
        if self.form is AgreementForm.HOURLY and self.person is None:
            raise ValueError("is by the hour, so it needs the person whose hours it pays")
        if self.form is AgreementForm.FIXED and sum(stage.amount for stage in self.stages) + self.deposit > self.price:
            raise ValueError("has a deposit and stages that come to more than its price")
        return self


@kept(
    "entry",
    "entries",
    planned=False,
    word="entry of the ledger",
    page="purse",
    fresh={"kind": "invoice"},
    index=("order", "agreement"),
    most=20000,
)
class Entry(Frozen):
    """A line of the ledger: an invoice, a payment, a credit note or a refund, with its document.

    order, agreement: what it is part of (one at most; none: a bill by itself); against: the entry it pays or lowers.
    charge: what the yard charges for, on a bill of the yard's. source: the mark of the row of a file it was read from.
    """

    id: Key
    kind: EntryKind = EntryKind.INVOICE
    title: Line
    at: Moment
    party: Label = ""
    number: Label = ""
    currency: Currency
    rate: Rate
    amount: Annotated[OwnMinor, Field(gt=0)]
    order: Annotated[Key, To("purchase")] | None = None
    agreement: Annotated[Key, To("agreement")] | None = None
    against: Annotated[Key, To("entry")] | None = None
    person: Annotated[Key, To("person", Gone.ASK)] | None = None
    job: Annotated[Key, To("job", Gone.FORGET)] | None = None
    charge: Charge | None = None
    line: OnLine | None = None
    source: Label = ""
    note: Remark = ""
    photos: Photos = ()

    @model_validator(mode="after")
    def _of_one_thing(self) -> Self:
        if self.order and self.agreement:
            raise ValueError("is part of an order and of an agreement; choose one")
        if self.charge is not None and (self.order or self.agreement or self.person):
            raise ValueError("is on the yard's bill, so it is part of no order, agreement or person's hours")
        if self.against == self.id:
            raise ValueError("pays itself")
        return self


@kept("column-match", "column_matches", word="way a table is read", title="table", page="purse", aside=True, most=200)
class ColumnMatch(Frozen):
    """Which column of a file is which, as matched by hand once: for a kind of table, by the names in its first row.

    head: the names; columns: for each of them the column of ours, "" for one that isn't read.
    """

    id: Key
    table: Label
    head: Annotated[tuple[Label, ...], Field(max_length=60)]
    columns: Annotated[tuple[Label, ...], Field(max_length=60)]
    at: Moment


@kept(
    "yard-extra",
    "yard_extras",
    planned=False,
    word="thing the yard charges for",
    page="purse",
    fresh={"count": 1},
    most=300,
)
class YardExtra(Frozen):
    """Something the yard does or allows once: a move, a second lift, a permit; priced by the tariff or by itself."""

    id: Key
    title: Line
    charge: Charge = Charge.OTHER
    on: Day
    count: Annotated[float, Field(strict=True, gt=0, le=1000, allow_inf_nan=False)] = 1
    price: Minor | None = None


@kept(
    "rate",
    "rates",
    table="exchange_rate",
    word="rate of exchange",
    title="currency",
    page="purse",
    aside=True,
    most=4000,
)
class ExchangeRate(Frozen):
    """What one unit of a currency was worth in another (``base``) on a day, and who said so; offered where one is typed."""

    id: Key
    currency: Currency
    base: Currency
    rate: Rate
    at: Moment
    source: Label = ""
