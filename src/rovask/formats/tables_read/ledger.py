"""The ledger, a row for each entry."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar, cast

from rovask.core.refit.model import Entry
from rovask.core.refit.purse.choices import EntryKind
from rovask.core.refit.values import Frozen
from rovask.formats.tables_read.reader import Cells, Key, Reader


class LedgerReader(Reader):
    """The ledger, a row for each entry."""

    listed = "entries"
    given: ClassVar = {
        "date": ("at",),
        "kind": ("kind",),
        "what": ("title",),
        "party": ("party",),
        "number": ("number",),
        "amount": ("amount",),
        "currency": ("currency",),
        "rate": ("rate",),
        "note": ("note",),
    }

    def name_of(self, record: Frozen) -> Key | None:
        entry = cast(Entry, record)
        return (entry.kind, entry.party.casefold(), entry.number.casefold()) if entry.number else None

    def key(self, entry: Entry) -> Key:
        day = entry.at.astimezone(self.zone).date()
        return day, entry.kind, entry.title, entry.party, entry.number, entry.amount, entry.currency

    def known(self) -> Iterator[Key]:
        yield from (self.key(entry) for entry in self.refit.entries)

    def read(self, cells: Cells) -> tuple[list[Frozen], Key]:
        amount, currency, rate = self.money(cells, "amount", negative=True)
        kind = cells.get("kind", "").casefold()
        if kind and kind not in set(EntryKind):
            raise ValueError(f"kind: “{kind[:40]}” is none of {', '.join(EntryKind)}")
        if not amount:
            raise ValueError("amount: is nothing")
        if amount < 0 and kind:
            raise ValueError("amount: is less than nothing; a credit note and a refund are written without a sign")
        entry = Entry.model_validate(
            {
                "id": self.new_id("entry"),
                "kind": kind or ("refund" if amount < 0 else "payment"),
                "title": cells["what"][:120],
                "at": self.day(cells["date"]),
                "party": cells.get("party", "")[:120],
                "number": cells.get("number", "")[:120],
                "currency": currency,
                "rate": rate,
                "amount": abs(amount),
                "note": cells.get("note", "")[:200],
                "source": "a table",
            }
        )
        return [entry], self.key(entry)
