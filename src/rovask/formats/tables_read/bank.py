"""A statement of the bank, a row for each payment."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from typing import Any, ClassVar

from rovask.core.readings.commitments import Commitment, commitments
from rovask.core.refit import typed
from rovask.core.refit.model import Entry, Refit
from rovask.core.refit.purse.choices import EntryKind
from rovask.core.refit.values import Frozen
from rovask.formats.tables_read.reader import Cells, Key, NewId, Reader


class BankReader(Reader):
    """Money out is a payment, money in a refund; each is laid to what is owed where number, or party and amount, say so."""

    listed = "entries"
    given: ClassVar = {}

    def __init__(self, refit: Refit, new_id: NewId, now: datetime) -> None:
        super().__init__(refit, new_id, now)
        self.owed = {(one.kind, one.key): one.owed for one in commitments(refit)}
        self.accounts = [one for one in commitments(refit) if one.owed]

    def key(self, entry: Entry) -> Key:
        sign = -1 if entry.kind is EntryKind.PAYMENT else 1
        return entry.at.astimezone(self.zone).date(), sign * entry.amount, entry.currency, entry.title

    def known(self) -> Iterator[Key]:
        yield from (self.key(one) for one in self.refit.entries if one.kind in (EntryKind.PAYMENT, EntryKind.REFUND))

    def read(self, cells: Cells) -> tuple[list[Frozen], Key]:
        currency = (cells.get("currency") or self.refit.currency).upper()
        if currency != self.refit.currency:
            raise ValueError(
                f"is in {currency}; enter what the bank took in {self.refit.currency} with the bill it pays"
            )
        try:
            amount = typed.minor(cells["amount"], currency, negative=True)
        except ValueError as error:
            raise ValueError(f"amount: {error}") from None
        if not amount:
            raise ValueError("amount: is nothing")
        text = cells["text"][:120]
        data: dict[str, Any] = {
            "id": self.new_id("entry"),
            "kind": "payment" if amount < 0 else "refund",
            "title": text,
            "at": self.day(cells["date"]),
            "currency": currency,
            "rate": "1",
            "amount": abs(amount),
            "source": "a bank statement",
        }
        pays = self.pays(text, -amount) if amount < 0 else None
        if pays is not None:
            account, invoice = pays
            data |= {
                "against": invoice.id,
                "party": account.party,
                "order": invoice.order,
                "agreement": invoice.agreement,
            }
            data |= {"charge": invoice.charge}
        entry = Entry.model_validate(data)
        if pays is not None:
            self.owed[pays[0].kind, pays[0].key] -= entry.amount
            self.matched[entry.id] = f"{pays[0].party or pays[0].title} {pays[1].number}".strip()
        return [entry], self.key(entry)

    def pays(self, text: str, amount: int) -> tuple[Commitment, Entry] | None:
        """What a payment is for: the invoice whose number the text holds, else the one owed by a party it names, of that amount."""
        words = text.casefold()
        for by_number in (True, False):
            for account in self.accounts:
                if account.currency != self.refit.currency or self.owed[account.kind, account.key] < amount:
                    continue
                for entry in account.entries:
                    if entry.kind is not EntryKind.INVOICE:
                        continue
                    named = len(entry.number) > 2 and entry.number.casefold() in words
                    party = account.party.casefold().split()
                    known = bool(party) and party[0] in words and self.owed[account.kind, account.key] == amount
                    if named if by_number else known:
                        return account, entry
        return None
