"""What is written into the ledger, and what speaks against it: paid before it was looked at, twice, or more than is owed."""

from __future__ import annotations

from collections.abc import Iterator

from rovask.core.plain.faults import Fault
from rovask.core.plain.words import day, money
from rovask.core.readings.commitments import Commitment, CommitmentKind, commitments
from rovask.core.refit.edits import put
from rovask.core.refit.model import Agreement, Draw, Entry, Refit
from rovask.core.refit.purse.choices import EntryKind


def entered(refit: Refit, entry: Entry) -> Refit:
    """The refit with an entry in its ledger; its currency must be that of what it belongs to (references.py)."""
    return put(refit, entry)


def account_of(refit: Refit, entry: Entry) -> Commitment | None:
    """The account an entry stands in."""
    return next((one for one in commitments(refit) if any(row.id == entry.id for row in one.entries)), None)


def ledger_doubts(refit: Refit, entry: Entry) -> list[str]:
    """What speaks against an entry, each in a sentence; empty when nothing does. It is asked once, and never forbidden."""
    return list(dict.fromkeys(_doubts(refit, entry)))


def _doubts(refit: Refit, entry: Entry) -> Iterator[str]:
    twin = _of_that_number(refit, entry)
    same = _the_very_same(refit, entry)
    if twin is not None:
        yield f"{twin.party or 'Somebody'}'s invoice {twin.number} is in the ledger already, {money(twin.amount, twin.currency)}."
    elif same is not None:
        yield (
            f"The same is in the ledger already: {same.kind.value} of {money(same.amount, same.currency)}, "
            f"{day(same.at, refit.yard.zone)}, “{same.title}”."
        )
    there = any(one.id == entry.id for one in refit.entries)
    if not there and entry.kind in (EntryKind.PAYMENT, EntryKind.CREDIT) and _is_loose(entry):
        yield from _counted_beside(refit, entry)
    before = account_of(refit, entry) if there else _joined(refit, entry)
    if before is None or there:
        return
    if entry.kind is EntryKind.PAYMENT and before.kind is not CommitmentKind.BILL:
        if before.owed and entry.amount > before.payable and before.held and entry.amount <= before.owed:
            held = money(before.held, before.currency)
            yield f"{held} of it is held back until the work is accepted, and it isn't."
        elif before.owed and entry.amount > before.owed:
            yield f"It is more than the {money(before.owed, before.currency)} that are owed."
        elif not before.owed and not before.bound and before.invoiced:
            yield "Nothing is owed there any more."
    if entry.kind is EntryKind.INVOICE and before.agreed and entry.amount > before.bound:
        over = money(entry.amount - before.bound, before.currency)
        yield f"It is {over} more than was agreed and not invoiced yet."


def _is_loose(entry: Entry) -> bool:
    return not (entry.order or entry.agreement or entry.against or entry.charge or entry.person)


def _counted_beside(refit: Refit, entry: Entry) -> Iterator[str]:
    """What is owed to the same party or agreed with it, which an entry of nothing leaves owed: it would be in the forecast twice."""
    for one in commitments(refit):
        open_ = one.owed or one.bound
        if entry.party and open_ and one.party.casefold() == entry.party.casefold():
            how = "owed" if one.owed else "agreed and not invoiced yet,"
            yield (
                f"{money(open_, one.currency)} is {how} for “{one.title}” of {one.party}: enter it there, from the ledger; "
                "written here it counts beside that."
            )


def _of_that_number(refit: Refit, entry: Entry) -> Entry | None:
    """An invoice of the same party with the same number; a yard's may come in lines, each for one charge."""
    if not entry.number or entry.kind is not EntryKind.INVOICE:
        return None
    return next(
        (
            one
            for one in refit.entries
            if one.id != entry.id
            and one.kind is entry.kind
            and one.number == entry.number
            and one.party.casefold() == entry.party.casefold()
            and one.charge is entry.charge
        ),
        None,
    )


def draw_faults(draw: Draw) -> list[Fault]:
    """What is wrong with a draw that would move nothing. Asked of what is typed; what stands in a file is left as it is."""
    out = [] if draw.amount else [Fault("amount", "Say how much is drawn.")]
    return out if draw.source != draw.to else [*out, Fault("to", "That is the line it is drawn from.")]


def _the_very_same(refit: Refit, entry: Entry) -> Entry | None:
    """An entry that says the same on the same day, where neither is told from the other by a number."""
    zone = refit.yard.zone
    day_ = entry.at.astimezone(zone).date()
    alike = (
        one
        for one in refit.entries
        if one.amount == entry.amount  # what tells most apart first: there are thousands
        and one.id != entry.id
        and (one.kind, one.currency, one.charge) == (entry.kind, entry.currency, entry.charge)
        and one.party.casefold() == entry.party.casefold()
        and one.title.casefold() == entry.title.casefold()
        and one.at.astimezone(zone).date() == day_
    )
    return next((one for one in alike if one.number == entry.number or not (one.number and entry.number)), None)


def loose_bills(refit: Refit, agreement: Agreement) -> list[Entry]:
    """Invoices and credit notes of an agreement's party, in its currency, that were written down as of nothing."""
    return [
        one
        for one in refit.entries
        if one.kind in (EntryKind.INVOICE, EntryKind.CREDIT)
        and one.party.casefold() == agreement.party.casefold()
        and one.currency == agreement.currency
        and _is_loose(one)
    ]


def _joined(refit: Refit, entry: Entry) -> Commitment | None:
    """The account a new entry would stand in."""
    if entry.against:
        return next((one for one in commitments(refit) if any(row.id == entry.against for row in one.entries)), None)
    key = entry.order or entry.agreement
    kinds = (CommitmentKind.ORDER, CommitmentKind.AGREEMENT)
    return next((one for one in commitments(refit) if key and one.kind in kinds and one.key == key), None)
