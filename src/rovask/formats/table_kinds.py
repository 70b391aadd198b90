"""What stands in the tables that are brought in and handed out: parts, offers, orders, the ledger, hours, a bank statement.

Each kind says its columns; how their rows are read is in table_readers.py, what they come to in table_rows.py.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Column:
    """A column: its name in files, whether a row must have it, and other names it is known by."""

    name: str
    needed: bool = False
    also: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class TableKind:
    """One kind of table. word, words: what a row and what rows are."""

    name: str
    title: str
    word: str
    words: str
    columns: tuple[Column, ...]
    written: bool = True  # whether it is handed out too


_ID = Column("id", also=("key", "rovask id"))
_MONEY = (Column("currency", also=("cur", "ccy")), Column("rate", also=("exchange rate",)))
KINDS: dict[str, TableKind] = {
    kind.name: kind
    for kind in (
        TableKind(
            "parts",
            "Parts",
            "part",
            "parts",
            (
                Column("name", True, ("part", "item", "description", "article")),
                Column("quantity", also=("qty", "amount", "pcs")),
                Column("unit", also=("uom",)),
                Column("supplier", also=("from", "shop", "vendor")),
                Column("price", also=("cost", "total")),
                Column("lead days", also=("lead time", "lead")),
                Column("dimension", also=("size", "measure")),
                Column("stowed", also=("where", "locker", "location")),
                Column("counted", also=("stock", "on hand", "have")),
                _ID,
            ),
        ),
        TableKind(
            "offers",
            "Offers",
            "offer",
            "offers",
            (
                Column("part", True, ("for", "item", "name")),
                Column("supplier", True, ("from", "vendor")),
                Column("what", also=("description", "article")),
                Column("quantity", also=("qty",)),
                Column("price", True, ("cost", "total")),
                *_MONEY,
                Column("freight", also=("shipping", "carriage")),
                Column("duty", also=("customs",)),
                Column("tax", also=("vat",)),
                Column("lead days", also=("lead time", "lead")),
                _ID,
            ),
        ),
        TableKind(
            "orders",
            "Orders",
            "line of an order",
            "lines of orders",
            (
                Column("supplier", True, ("from", "vendor")),
                Column("number", also=("order", "order number", "no")),
                Column("ordered", True, ("date", "ordered on", "placed")),
                Column("expected", also=("due", "delivery")),
                Column("part", True, ("item", "name")),
                Column("quantity", also=("qty",)),
                Column("price", True, ("cost", "total")),
                *_MONEY,
                _ID,
            ),
        ),
        TableKind(
            "ledger",
            "Ledger",
            "entry",
            "entries",
            (
                Column("date", True, ("when", "day")),
                Column("kind", also=("type",)),
                Column("what", True, ("title", "description", "text", "for")),
                Column("party", also=("from", "to", "supplier", "payee")),
                Column("number", also=("no", "invoice", "document")),
                Column("amount", True, ("total", "sum", "price")),
                *_MONEY,
                Column("note", also=("remark",)),
                _ID,
            ),
        ),
        TableKind(
            "hours",
            "Hours",
            "entry of hours",
            "entries of hours",
            (
                Column("date", True, ("when", "day")),
                Column("person", True, ("who", "name")),
                Column("task", True, ("what", "work")),
                Column("job", also=("project",)),
                Column("hours", True, ("h", "time")),
                Column("note", also=("remark",)),
                _ID,
            ),
        ),
        TableKind(
            "bank",
            "Bank statement",
            "row of the statement",
            "rows of the statement",
            (
                Column("date", True, ("booking date", "value date", "when", "day")),
                Column("text", True, ("description", "details", "reference", "payee", "purpose")),
                Column("amount", True, ("value", "debit", "sum")),
                Column("currency", also=("cur", "ccy")),
            ),
            written=False,
        ),
    )
}


def guessed(kind: TableKind, head: Sequence[str]) -> dict[str, int]:
    """Which column of a file is which, by their names; each used once. Position from 0 by the kind's column."""
    plain = [name.strip().casefold().replace("_", " ") for name in head]
    out: dict[str, int] = {}
    for column in kind.columns:
        for name in (column.name, *column.also):
            if name in plain and plain.index(name) not in out.values():
                out[column.name] = plain.index(name)
                break
    return out
