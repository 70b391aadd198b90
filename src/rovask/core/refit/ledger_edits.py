"""What is written into the ledger, and what speaks against it: paid before it was looked at, twice, or more than is owed."""

from __future__ import annotations

from collections.abc import Iterator

from rovask.core.books.accounts import Account, AccountKind, accounts
from rovask.core.refit.choices import EntryKind
from rovask.core.refit.edits import put
from rovask.core.refit.model import Entry, Refit
from rovask.core.words import money


def entered(refit: Refit, entry: Entry) -> Refit:
    """The refit with an entry in its ledger; its currency must be that of what it belongs to (references.py)."""
    return put(refit, entry)


def account_of(refit: Refit, entry: Entry) -> Account | None:
    """The account an entry stands in."""
    return next((one for one in accounts(refit) if any(row.id == entry.id for row in one.entries)), None)


def ledger_doubts(refit: Refit, entry: Entry) -> list[str]:
    """What speaks against an entry, each in a sentence; empty when nothing does. It is asked once, and never forbidden."""
    return list(dict.fromkeys(_doubts(refit, entry)))


def _doubts(refit: Refit, entry: Entry) -> Iterator[str]:
    if entry.number and entry.kind is EntryKind.INVOICE:
        twin = next(
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
        if twin is not None:
            yield f"{twin.party or 'Somebody'}'s invoice {twin.number} is in the ledger already, {money(twin.amount, twin.currency)}."
    there = any(one.id == entry.id for one in refit.entries)
    before = account_of(refit, entry) if there else _joined(refit, entry)
    if before is None or there:
        return
    if entry.kind is EntryKind.PAYMENT and before.kind is not AccountKind.BILL:
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


def _joined(refit: Refit, entry: Entry) -> Account | None:
    """The account a new entry would stand in."""
    if entry.against:
        return next((one for one in accounts(refit) if any(row.id == entry.against for row in one.entries)), None)
    key = entry.order or entry.agreement
    kinds = (AccountKind.ORDER, AccountKind.AGREEMENT)
    return next((one for one in accounts(refit) if key and one.kind in kinds and one.key == key), None)
