"""Where each commitment stands: agreed, invoiced, paid, owed, still to come; each bill by itself, and the yard's.

A commitment is an order or an agreement. What was agreed is bound until invoices consume it, so it can't count twice: it
will cost what is invoiced (less credit notes) and what is agreed beyond that, until it is closed. Everything is reckoned in
the commitment's own currency, then counted in the refit's: payments at the rate of their day, what is owed at the rate of
its invoice, what is bound at the rate agreed; what rates gained or lost on what is paid is told apart.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from decimal import Decimal
from enum import StrEnum
from functools import lru_cache
from operator import attrgetter

from rovask.core.plain.derived import derived
from rovask.core.plain.money import Money
from rovask.core.refit.givens.choices import Charge
from rovask.core.refit.model import Entry, Order, OrderLine, Refit
from rovask.core.refit.purse.choices import AgreementForm, EntryKind
from rovask.core.refit.stores.choices import OrderState

RAISES, PAYS = (EntryKind.INVOICE, EntryKind.CREDIT), (EntryKind.PAYMENT, EntryKind.REFUND)


class CommitmentKind(StrEnum):
    """What an account is of."""

    ORDER = "order"
    AGREEMENT = "agreement"
    BILL = "bill"
    YARD = "yard"


@dataclass(frozen=True, slots=True)
class Commitment:
    """One commitment or bill, in minor units. The first seven in its own currency, the others in the refit's.

    invoiced: less credit notes; paid: less refunds; bound: agreed and not invoiced yet. owed: invoiced and not paid;
    to_come: bound and not paid ahead; back: paid beyond all that, to be had back; by_rate: what payments cost more
    (negative: less) than at the rates they were owed at. will_be is paid + owed + to_come - back.
    invoiced_here, bound_here: those in the refit's currency. held: of what is owed, what is held back till acceptance.
    """

    kind: CommitmentKind
    key: str
    title: str
    party: str
    currency: str
    agreed: int
    invoiced: int
    paid: int
    bound: int
    owed: int
    held: int
    differs: int
    here: Here
    at: datetime
    entries: tuple[Entry, ...] = ()

    @property
    def payable(self) -> int:
        """Of what is owed, in its own currency, what may be paid now."""
        return max(self.owed - self.held, 0)


@dataclass(frozen=True, slots=True)
class Here:
    """An account's figures in the refit's currency, in minor units."""

    invoiced: int
    paid: int
    bound: int
    owed: int
    to_come: int
    back: int
    by_rate: int

    @property
    def will_be(self) -> int:
        """What it comes to in the end."""
        return self.paid + self.owed + self.to_come - self.back


def worth(entry: Entry, currency: str) -> int:
    """An entry in the refit's currency, at the rate kept with it; rounded half away from zero."""
    return changed(entry.amount, entry.currency, entry.rate, currency)


@lru_cache(maxsize=40_000)
def changed(minor: int, currency: str, rate: str, to: str) -> int:
    """An amount in another currency at a kept rate."""
    return minor if currency == to and rate == "1" else Money(minor, currency).changed_to(to, Decimal(rate)).minor


def landed(price: int, freight: int, duty: float, tax: float, currency: str) -> int:
    """Price at the boat: with freight, duty on both, and tax on all three; each rounded to the minor unit.

    >>> landed(10000, 1000, 5, 20, "EUR")
    13860
    """
    bare = Money(price + freight, currency)
    with_duty = bare + bare.times(Decimal(str(duty)) / 100)
    return (with_duty + with_duty.times(Decimal(str(tax)) / 100)).minor


def order_total(order: Order, lines: Iterable[OrderLine], *, most: bool = False) -> int:
    """What an order comes to, landed, in its own currency. most: at the most that unquoted lines may come to."""
    price = sum(line.price_most if most and line.price_most is not None else line.price for line in lines)
    return landed(price, order.freight, order.duty, order.tax, order.currency)


def commitments(refit: Refit, hourly: Mapping[str, int] | None = None) -> tuple[Commitment, ...]:
    """Every commitment. hourly: what agreements by the hour come to so far and as planned, by id, in their own currency.

    O(entries).
    """
    known = _as_said(refit)
    return tuple(one for _, one in (_Reader(refit, known).all(hourly) if hourly else known.values()))


Told = tuple[tuple[object, ...], Commitment]


@derived(
    lambda refit: (refit.orders, refit.order_lines, refit.agreements, refit.entries, refit.currency, refit.yard.name),
    grows=True,
)
def _as_said(
    refit: Refit, before: Mapping[tuple[CommitmentKind, str], Told] | None = None
) -> dict[tuple[CommitmentKind, str], Told]:
    """Every commitment without what is worked by the hour, with what it was worked out of."""
    return {(one.kind, one.key): (said, one) for said, one in _Reader(refit, before or {}).all({})}


class _Reader:
    """Reads commitments off a refit; one of which nothing is different from before is the very one there was."""

    def __init__(self, refit: Refit, before: Mapping[tuple[CommitmentKind, str], Told]) -> None:
        self.refit, self.before = refit, before

    def all(self, hourly: Mapping[str, int]) -> Iterator[Told]:
        """Every commitment, with what it was worked out of."""
        return _all(self, hourly)

    def one(self, head: _Head, agreed: int, entries: Sequence[Entry], closed: bool, hold_back: float | int) -> Told:
        """One commitment. hold_back: per cent, or as int a sum."""
        said = (self.refit.currency, head, agreed, closed, (type(hold_back), hold_back), tuple(entries))
        kept = self.before.get((head.kind, head.key))
        if kept is not None and kept[0] == said:
            return kept
        return said, _worked_out(self.refit, head, agreed, entries, closed, hold_back)


def _all(reader: _Reader, hourly: Mapping[str, int]) -> Iterator[Told]:
    refit = reader.refit
    lines: dict[str, list[OrderLine]] = defaultdict(list)
    for line in refit.order_lines:
        lines[line.order].append(line)
    of_order, of_agreement, bills, yard = _sorted(refit)
    for order in refit.orders:
        agreed = 0 if order.state is OrderState.CANCELLED else order_total(order, lines[order.id])
        title = order.number or f"from {order.supplier}"
        head = _Head(CommitmentKind.ORDER, order.id, title, order.supplier, order.currency, order.rate, order.placed_at)
        yield reader.one(head, agreed, of_order[order.id], order.closed, 0.0)
    for one in refit.agreements:
        head = _Head(CommitmentKind.AGREEMENT, one.id, one.title, one.party, one.currency, one.rate, one.at)
        agreed = one.price if one.form is AgreementForm.FIXED else hourly.get(one.id, 0)
        held: float | int = 0.0 if one.accepted_at else one.hold_back
        if one.hold_back_sum is not None and not one.accepted_at:
            held = one.hold_back_sum
        yield reader.one(head, agreed, of_agreement[one.id], one.closed, held)
    for entries in bills:
        first = entries[0]
        head = _Head(CommitmentKind.BILL, first.id, first.title, first.party, first.currency, first.rate, first.at)
        yield reader.one(head, 0, entries, True, 0.0)
    for currency, entries in yard.items():
        first = entries[0]
        head = _Head(CommitmentKind.YARD, currency, refit.yard.name, refit.yard.name, currency, first.rate, first.at)
        yield reader.one(head, 0, entries, True, 0.0)


@dataclass(frozen=True, slots=True)
class _Head:
    kind: CommitmentKind
    key: str
    title: str
    party: str
    currency: str
    rate: str
    at: datetime


Sorted = tuple[dict[str, list[Entry]], dict[str, list[Entry]], list[list[Entry]], dict[str, list[Entry]]]


def _sorted(refit: Refit) -> Sorted:
    """Entries by order, by agreement, bills with what pays them, the yard's by currency; each in order of time."""
    by_id = {entry.id: entry for entry in refit.entries}
    of_order: dict[str, list[Entry]] = defaultdict(list)
    of_agreement: dict[str, list[Entry]] = defaultdict(list)
    bills: dict[str, list[Entry]] = defaultdict(list)
    yard: dict[str, list[Entry]] = defaultdict(list)
    for entry in in_order(refit):
        root = root_of(entry, by_id)
        if root.order:
            of_order[root.order].append(entry)
        elif root.agreement:
            of_agreement[root.agreement].append(entry)
        elif root.charge is not None:
            yard[root.currency].append(entry)
        else:
            bills[root.id].append(entry)
    return of_order, of_agreement, list(bills.values()), dict(yard)


@derived(lambda refit: (refit.entries,))
def in_order(refit: Refit) -> tuple[Entry, ...]:
    """The entries of the ledger by time."""
    return tuple(sorted(refit.entries, key=attrgetter("at", "id")))


def root_of(entry: Entry, by_id: Mapping[str, Entry]) -> Entry:
    """The document an entry is about: what it pays or lowers, however far back; itself where it is about none."""
    seen = {entry.id}
    while entry.against and entry.against in by_id and entry.against not in seen:
        entry = by_id[entry.against]
        seen.add(entry.id)
    return entry


def _worked_out(
    refit: Refit, head: _Head, agreed: int, entries: Sequence[Entry], closed: bool, hold_back: float | int
) -> Commitment:
    paid = sum(entry.amount if entry.kind is EntryKind.PAYMENT else -entry.amount for entry in entries if _pays(entry))
    raised = [entry for entry in entries if entry.kind is EntryKind.INVOICE]
    credit = sum(entry.amount for entry in entries if entry.kind is EntryKind.CREDIT)
    gross = sum(entry.amount for entry in raised)
    invoiced = gross - credit
    if head.kind is CommitmentKind.BILL and not raised and not credit:
        invoiced = paid  # bought over the counter: what is paid is the bill
    bound = 0 if closed else max(agreed - gross, 0)
    owed, ahead = max(invoiced - paid, 0), max(paid - invoiced, 0)
    wanted = (
        min(hold_back, max(invoiced, 0))
        if isinstance(hold_back, int)
        else Money(max(invoiced, 0), head.currency).times(Decimal(str(hold_back)) / 100).minor
    )
    held = min(wanted, owed)
    differs = gross - agreed if gross > agreed or (closed and gross) else 0
    return Commitment(
        head.kind,
        head.key,
        head.title,
        head.party,
        head.currency,
        agreed,
        invoiced,
        paid,
        bound,
        owed,
        held,
        differs if head.kind in (CommitmentKind.ORDER, CommitmentKind.AGREEMENT) else 0,
        _here(refit.currency, head, raised, credit, entries, invoiced, bound, max(ahead - bound, 0)),
        head.at,
        tuple(entries),
    )


def _pays(entry: Entry) -> bool:
    return entry.kind in PAYS


def _here(
    currency: str,
    head: _Head,
    raised: Sequence[Entry],
    credit: int,
    entries: Sequence[Entry],
    invoiced: int,
    bound: int,
    back: int,
) -> Here:
    """The figures in the refit's currency; what is paid clears invoices in order of time, at their rates."""
    paid = sum(entry.amount if entry.kind is EntryKind.PAYMENT else -entry.amount for entry in entries if _pays(entry))
    paid_here = sum(
        worth(entry, currency) * (1 if entry.kind is EntryKind.PAYMENT else -1) for entry in entries if _pays(entry)
    )
    if head.kind is CommitmentKind.BILL and not raised and not credit:
        return Here(paid_here, paid_here, 0, 0, 0, 0, 0)
    cleared, left, total, room = 0, paid, 0, invoiced
    for entry in raised:
        amount = min(entry.amount, max(room, 0))  # credit notes lower the latest invoices
        room -= amount
        some = min(max(left, 0), amount)
        left -= some
        total += changed(amount, entry.currency, entry.rate, currency)
        cleared += changed(some, entry.currency, entry.rate, currency)
    if invoiced < 0:
        total = changed(invoiced, head.currency, head.rate, currency)

    def here(minor: int) -> int:
        return changed(minor, head.currency, head.rate, currency)

    # what was paid beyond what is invoiced, and refunded beyond what was paid, has the commitment's own rate
    by_rate = paid_here - cleared - here(max(paid - max(invoiced, 0), 0)) - here(min(left, 0))
    plain = invoiced >= 0 and paid >= 0
    owed = total - cleared if plain else here(max(invoiced - paid, 0))
    bound_here, back_here = here(bound), here(back)
    to_come = bound_here - here(max(paid - invoiced, 0)) + back_here
    return Here(total, paid_here, bound_here, owed, to_come, back_here, by_rate)


def yard_invoiced(refit: Refit) -> dict[Charge, int]:
    """What the yard has invoiced, less credit notes, by what for; in the refit's currency."""
    out: dict[Charge, int] = defaultdict(int)
    for entry in refit.entries:
        if entry.charge is not None and entry.kind in RAISES:
            out[entry.charge] += worth(entry, refit.currency) * (1 if entry.kind is EntryKind.INVOICE else -1)
    return dict(out)
