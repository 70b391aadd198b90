"""Orders: placed, moved on, received, tried; offers chosen; stock counted and used up; trips to fetch things."""

from __future__ import annotations

import secrets
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from rovask.core.explain.offers import alternatives, offer_worked
from rovask.core.judged.misfit_edits import lost_overboard, made_to_fit, misfit
from rovask.core.judged.offer_edits import offer_of, open_offers, ordered_from
from rovask.core.judged.order_edits import (
    confirmed,
    heard,
    line_of,
    order_of,
    placed,
    receipt_of,
    received,
    sent_again,
    stepped,
    to_send,
    tried,
)
from rovask.core.judged.part_edits import counted, part_of
from rovask.core.judged.trips import Trip, planned_trip
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plain.words import count
from rovask.core.refit.edits import put, rebuilt
from rovask.core.refit.givens.choices import Certainty
from rovask.core.refit.model import Decision, Order, OrderLine, Receipt, Refit, Use
from rovask.core.refit.stores.choices import Condition, Lies, OrderState, Remedy
from rovask.core.refit.whole import Edited
from rovask.core.refit.work.edits import task_of
from rovask.desk.command import ChangeCommand, EditOutcome, RefitCommand, Situation
from rovask.desk.commands.seen import WithPicture, photo_of
from rovask.formats.photo import Picture


@dataclass(frozen=True)
class PlaceOrder(RefitCommand):
    """Order some parts from one supplier. data: fields of an Order; lines: fields of its lines. Both without ids."""

    data: Mapping[str, object]
    lines: tuple[Mapping[str, object], ...]

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """The refit with it. Raises ValidationError and RefitFaults."""
        key = at.new_id("purchase")
        order = Order.model_validate({"placed_at": at.moment} | dict(self.data) | {"id": key})
        rows = tuple(
            OrderLine.model_validate(dict(line) | {"id": at.new_id("order-line"), "order": key}) for line in self.lines
        )
        told = f"ordered {count(len(rows), 'line')} from {order.supplier}"
        return EditOutcome(Edited(placed(refit, order, rows)), told, key)


@dataclass(frozen=True)
class StepOrder(ChangeCommand):
    """An order came a step further, or is expected at another time."""

    order: str
    state: OrderState
    expected: datetime | None = None
    note: str = ""

    def told(self, refit: Refit) -> str:
        """Which step."""
        return f"noted the order from {order_of(refit, self.order).supplier}: {self.state.value}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """So."""
        return stepped(refit, self.order, self.state, at.moment, expected=self.expected, note=self.note)


@dataclass(frozen=True)
class Receive(WithPicture, RefitCommand):
    """Something came of a line: so much, and where it lies. fits: it was tried at once."""

    line: str
    quantity: float
    lies: Lies = Lies.ABOARD
    stowed: str = ""
    fits: bool = False
    condition: Condition = Condition.ARRIVED
    picture: Picture | None = None

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """The refit with the delivery."""
        line = line_of(refit, self.line)
        name = part_of(refit, line.part).name
        photos, photo = photo_of(self.picture, name, at)
        condition = Condition.FITS if self.fits else self.condition
        receipt = Receipt(
            id=at.new_id("receipt"),
            line=self.line,
            at=at.moment,
            quantity=self.quantity,
            condition=condition,
            lies=self.lies,
            stowed=self.stowed,
            tried_at=at.moment if self.fits else None,
            photos=(photo,) if photo else (),
        )
        said = "" if condition is Condition.ARRIVED else f": {condition.value}"
        told = f"received {self.quantity:g} of “{name}”{said}"
        return EditOutcome(Edited(received(refit, receipt), photos), told, receipt.id)


@dataclass(frozen=True)
class TryDelivery(ChangeCommand):
    """A delivery was tried: it fits, or it doesn't, by how much, and what is done about it.

    hours: of a modification, which becomes a task before what needs the part; other: what is altered instead of the part.
    """

    receipt: str
    condition: Condition = Condition.FITS
    off_by: str = ""
    remedy: Remedy | None = None
    hours: float = 2
    other: str = ""

    def told(self, refit: Refit) -> str:
        """What came of it."""
        name = part_of(refit, line_of(refit, receipt_of(refit, self.receipt).line).part).name
        off = f", off by {self.off_by}" if self.off_by else ""
        then = f"; {self.remedy.value}" if self.remedy else ""
        return f"noted “{name}”: {self.condition.value}{off}{then}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """So."""
        refit = tried(refit, self.receipt, at.moment, off_by=self.off_by, condition=self.condition)
        if self.condition is Condition.FITS or self.remedy is None:
            return refit
        row = receipt_of(refit, self.receipt).model_copy(update={"remedy": self.remedy})
        return remedied(put(refit, row), row, at, self.hours, self.other)


def remedied(refit: Refit, row: Receipt, at: Situation, hours: float, other: str) -> Refit:
    """What is done about a delivery that can't be used, done."""
    if row.remedy is Remedy.MODIFY:
        return made_to_fit(refit, row, hours, at.new_id, other)
    return sent_again(refit, row, at.moment) if row.remedy is Remedy.EXCHANGE else refit


@dataclass(frozen=True)
class DoesNotFit(ChangeCommand):
    """A part does not fit, however it came; by how much, and what is done about it.

    hours: of altering it, or ``other`` instead of it, which becomes a task before what needs it.
    """

    part: str
    off_by: str = ""
    remedy: Remedy | None = None
    hours: float = 2
    other: str = ""

    def told(self, refit: Refit) -> str:
        """What came of it."""
        off = f", off by {self.off_by}" if self.off_by else ""
        then = f"; {self.remedy.value}" if self.remedy else ""
        return f"noted that “{part_of(refit, self.part).name}” does not fit{off}{then}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """So."""
        refit, rows = misfit(refit, self.part, at.moment, self.off_by, at.new_id)
        if self.remedy is None:
            return refit
        for row in rows:
            refit = put(refit, row.model_copy(update={"remedy": self.remedy}))
        return remedied(refit, receipt_of(refit, rows[0].id), at, self.hours, self.other)


@dataclass(frozen=True)
class Overboard(ChangeCommand):
    """So much of a part went overboard, or is lost for good otherwise; amount: None: all there is."""

    part: str
    amount: float | None = None

    def told(self, refit: Refit) -> str:
        """What."""
        much = f"{self.amount:g} of " if self.amount is not None else ""
        return f"lost {much}“{part_of(refit, self.part).name}” overboard"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Needed again."""
        return lost_overboard(refit, self.part, self.amount, at.moment)


@dataclass(frozen=True)
class CountPart(ChangeCommand):
    """Say how much there is of a part."""

    part: str
    amount: float

    def told(self, refit: Refit) -> str:
        """How much."""
        part = part_of(refit, self.part)
        return f"counted “{part.name}”: {self.amount:g} {part.unit}".rstrip()

    def change(self, refit: Refit, at: Situation) -> Refit:
        """So."""
        return counted(refit, self.part, self.amount, at.moment)


@dataclass(frozen=True)
class SayUsed(ChangeCommand):
    """Say how much of a part a task takes, or took."""

    task: str
    part: str
    amount: float
    took: bool = False

    def told(self, refit: Refit) -> str:
        """How much of what."""
        part, task = part_of(refit, self.part), task_of(refit, self.task)
        verb = "took" if self.took else "takes"
        return f"said that “{task.title}” {verb} {self.amount:g} of “{part.name}”"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """So."""
        if self.part not in task_of(refit, self.task).parts:
            raise RefitFaults([Fault("", "This task does not use that part; say so on its sheet first.")])
        old = next((use for use in refit.uses if (use.task, use.part) == (self.task, self.part)), None)
        data = old.model_dump() if old else {"id": at.new_id("use"), "task": self.task, "part": self.part}
        if not self.took:
            data |= {"amount": self.amount}
        else:
            data |= {"used": self.amount, "amount": data.get("amount") or max(self.amount, 1e-6)}
        return put(refit, Use.model_validate(data))


@dataclass(frozen=True)
class PlanTrip(RefitCommand):
    """Plan a trip to fetch or buy some parts: a task with a person and hours, before what needs them."""

    trip: Trip

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """The refit with it."""
        after, key = planned_trip(refit, self.trip, at.new_id)
        told = f"planned a trip to {self.trip.to} for {count(len(self.trip.parts), 'part')}"
        return EditOutcome(Edited(after), told, key)


@dataclass(frozen=True)
class ChooseCertainty(ChangeCommand):
    """Reckon order-by with the likely lead times, or with the longest."""

    certainty: Certainty

    def told(self, refit: Refit) -> str:
        """Which."""
        return f"reckons order-by with {'the longest' if self.certainty is Certainty.SAFE else 'likely'} lead times"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """So."""
        return rebuilt(refit, certainty=self.certainty)


@dataclass(frozen=True)
class ChooseOffer(RefitCommand):
    """Choose an offer with its reason: the decision is kept, the order placed, a substitute's ties taken over."""

    offer: str
    reason: str

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """The refit with the order, and the decision put aside. Raises RefitFaults without a reason or once it is over."""
        offer = offer_of(refit, self.offer)
        if not self.reason.strip():
            raise RefitFaults([Fault("reason", "Say in a few words why this one; it is kept with the decision.")])
        if offer.valid_until is not None and offer.valid_until < at.now.astimezone(refit.yard.zone).date():
            raise RefitFaults([Fault("", "This offer no longer holds; ask again, or say on its sheet that it does.")])
        rows = [offer_worked(refit, at.planned.plan, one, at.now, at.moment) for one in open_offers(refit, offer.part)]
        part = part_of(refit, offer.part)
        decision = Decision(
            id=at.new_id("decision"),
            title=f"Which offer for {part.name}?"[:120],
            alternatives=alternatives(refit, rows),
            adopted=f"{offer.supplier}: {offer.what}"[:120],
            reason=self.reason,
            at=at.moment,
        )
        after = ordered_from(refit, offer, at.moment, at.new_id)
        told = f"chose {offer.supplier} for “{part.name}” and ordered it ({self.reason})"
        return EditOutcome(Edited(after, (decision,)), told, after.orders[-1].id)


@dataclass(frozen=True)
class SendOrder(RefitCommand):
    """Hand an order to its supplier's service: kept first, then sent by the worker, as often as it takes, once."""

    order: str
    final = True

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """The order as being sent."""
        order = order_of(refit, self.order)
        after = to_send(refit, self.order, secrets.token_urlsafe(18), at.moment)
        return EditOutcome(Edited(after), f"sent the order to {order.supplier}", self.order, self.order)


@dataclass(frozen=True)
class ConfirmOrder(ChangeCommand):
    """The supplier's service took the order."""

    order: str
    number: str
    state: OrderState
    expected: datetime
    final = True

    def told(self, refit: Refit) -> str:
        """Which."""
        return f"heard from {order_of(refit, self.order).supplier}: order {self.number} is taken"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """So."""
        return confirmed(refit, self.order, self.number, self.state, self.expected, at.moment)


@dataclass(frozen=True)
class HearOfOrder(ChangeCommand):
    """Something was told of an order from outside."""

    order: str
    state: OrderState
    when: datetime
    note: str = ""
    final = True

    def told(self, refit: Refit) -> str:
        """What."""
        return f"heard of the order from {order_of(refit, self.order).supplier}: {self.state.value}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """So."""
        return heard(refit, self.order, self.state, self.when, self.note)
