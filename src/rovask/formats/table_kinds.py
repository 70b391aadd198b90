"""What stands in the tables that are brought in and handed out: parts, offers, orders, the ledger, hours, a bank statement.

Each kind says its columns, how a cell is read, and by what one knows a row again: a row that is there already, as often as
the file has it, is not added a second time.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from decimal import Decimal
from typing import Any

from pydantic import ValidationError

from rovask.core.books.accounts import Account, accounts
from rovask.core.refit import typed
from rovask.core.refit.choices import EntryKind
from rovask.core.refit.currency import is_currency
from rovask.core.refit.faults import faults_of
from rovask.core.refit.model import Entry, HoursEntry, Offer, Order, OrderLine, Part, Refit
from rovask.core.refit.values import Frozen
from rovask.formats.tables import Row, Table, Value

MOST_FAULTS = 100
Cells = Mapping[str, str]
NewId = Callable[[str], str]


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


@dataclass(frozen=True, slots=True)
class LineFault:
    """What is wrong in a row of the file, by the number of its line."""

    line: int
    message: str


@dataclass
class Reading:
    """What a table comes to. new: the records to be added, in order; known: rows that are there already.

    faults: of rows that can't be read; matched: by the id of a payment, what it pays, in words. lines: rows read in all.
    """

    new: list[Frozen] = field(default_factory=list)
    known: int = 0
    faults: list[LineFault] = field(default_factory=list)
    matched: dict[str, str] = field(default_factory=dict)
    lines: int = 0
    shown: list[tuple[int, tuple[str, ...]]] = field(default_factory=list)


def read_rows(
    refit: Refit, kind: TableKind, table: Table, columns: Mapping[str, int], new_id: NewId, now: datetime
) -> Reading:
    """The records a table holds that the refit doesn't have yet, and everything that is wrong, by line. O(rows)."""
    found = Reading()
    reader = _READERS[kind.name](refit, new_id, now)
    there = Counter(reader.known())
    missing = [column.name for column in kind.columns if column.needed and column.name not in columns]
    if missing:
        found.faults.append(LineFault(1, f"no column is {' and none is '.join(missing)}; choose which it is"))
        return found
    for row in table.rows:
        found.lines += 1
        try:
            records, key = reader.read(_cells(kind, row, columns))
        except ValidationError as error:
            for fault in faults_of(error)[:3]:
                found.faults.append(LineFault(row.number, f"{fault.path.replace('_', ' ')}: {fault.message}"))
            continue
        except ValueError as error:
            found.faults.append(LineFault(row.number, str(error)))
            continue
        if there[key] > 0:
            there[key] -= 1
            found.known += 1
            continue
        found.new += records
        found.matched |= reader.matched
    used = {row.order for row in found.new if isinstance(row, OrderLine)}
    found.new = [*(one for one in reader.first() if one.id in used), *found.new]  # type: ignore[attr-defined]
    return found


def _cells(kind: TableKind, row: Row, columns: Mapping[str, int]) -> Cells:
    """A row's cells by the kind's columns. Raises ValueError for a formula and for what is missing."""
    if row.formula is not None and row.formula - 1 in columns.values():
        name = next(name for name, at in columns.items() if at == row.formula - 1)
        raise ValueError(f"{name} is a formula; put its value there and bring the file in again")
    out = {name: row.cells[at].strip().removeprefix("'") if at < len(row.cells) else "" for name, at in columns.items()}
    for column in kind.columns:
        if column.needed and not out.get(column.name):
            raise ValueError(f"{column.name} is missing")
    return out


Key = tuple[Any, ...]


class _Reader:
    """Reads rows of one kind."""

    def __init__(self, refit: Refit, new_id: NewId, now: datetime) -> None:
        self.refit, self.new_id, self.now, self.zone = refit, new_id, now, refit.yard.zone
        self.matched: dict[str, str] = {}

    def known(self) -> Iterator[Key]:
        """What each record the refit has is known again by."""
        raise NotImplementedError

    def read(self, cells: Cells) -> tuple[list[Frozen], Key]:
        """The records of a row, and what it is known again by. Raises ValueError or ValidationError."""
        raise NotImplementedError

    def first(self) -> list[Frozen]:
        """Records that several rows share, to be added before theirs."""
        return []

    def day(self, text: str) -> datetime:
        """A day, or a day with a time, on the yard's clock; noon for a day alone."""
        return typed.moment(text if ":" in text else f"{text} 12:00", self.zone)

    def money(self, cells: Cells, name: str, *, negative: bool = False) -> tuple[int, str, str]:
        """(amount, currency, rate) of a cell. Raises ValueError."""
        currency = (cells.get("currency") or self.refit.currency).upper()
        if not is_currency(currency):
            raise ValueError(f"{currency} is not a currency; write its three letters, like EUR")
        rate = "1"
        if currency != self.refit.currency:
            if not cells.get("rate"):
                raise ValueError(f"the rate of {currency} is missing: what one is worth in {self.refit.currency}")
            rate = f"{typed.rate(cells['rate']):f}"
        try:
            return typed.minor(cells[name] or "0", currency, negative=negative), currency, rate
        except ValueError as error:
            raise ValueError(f"{name}: {error}") from None

    def number(self, cells: Cells, name: str, otherwise: float, least: float = 0) -> float:
        """A number of a cell. Raises ValueError."""
        try:
            return float(typed.number(cells[name], least, 1e6)) if cells.get(name) else otherwise
        except ValueError as error:
            raise ValueError(f"{name}: {error}") from None

    def part(self, name: str) -> Part:
        """The part of that name. Raises ValueError."""
        rows = [part for part in self.refit.parts if part.name.casefold() == name.casefold()]
        if len(rows) != 1:
            raise ValueError(f"{'several parts are' if rows else 'no part is'} called “{name[:60]}”")
        return rows[0]


class _Parts(_Reader):
    def known(self) -> Iterator[Key]:
        yield from ((part.name.casefold(), part.supplier.casefold(), part.dimension) for part in self.refit.parts)

    def read(self, cells: Cells) -> tuple[list[Frozen], Key]:
        price = typed.minor(cells["price"], self.refit.currency) if cells.get("price") else 0
        data: dict[str, Any] = {
            "id": self.new_id("part"),
            "name": cells["name"],
            "quantity": self.number(cells, "quantity", 1, 1e-6),
            "price": price,
            "lead_days": int(self.number(cells, "lead days", 3)),
        }
        data |= {name: cells.get(name, "") for name in ("unit", "supplier", "dimension", "stowed")}
        if cells.get("counted"):
            data |= {"counted": self.number(cells, "counted", 0), "counted_at": self.now}
        part = Part.model_validate(data)
        return [part], (part.name.casefold(), part.supplier.casefold(), part.dimension)


class _Offers(_Reader):
    def known(self) -> Iterator[Key]:
        yield from (
            (one.part, one.supplier.casefold(), one.what.casefold(), one.price, one.currency)
            for one in self.refit.offers
        )

    def read(self, cells: Cells) -> tuple[list[Frozen], Key]:
        part = self.part(cells["part"])
        price, currency, rate = self.money(cells, "price")
        offer = Offer.model_validate(
            {
                "id": self.new_id("offer"),
                "part": part.id,
                "supplier": cells["supplier"],
                "what": cells.get("what") or part.name,
                "quantity": self.number(cells, "quantity", part.quantity, 1e-6),
                "price": price,
                "currency": currency,
                "rate": rate,
                "freight": self.money(cells, "freight")[0] if cells.get("freight") else 0,
                "duty": self.number(cells, "duty", 0),
                "tax": self.number(cells, "tax", 0),
                "lead_days": int(self.number(cells, "lead days", part.lead_days)),
            }
        )
        return [offer], (offer.part, offer.supplier.casefold(), offer.what.casefold(), offer.price, offer.currency)


class _Orders(_Reader):
    def __init__(self, refit: Refit, new_id: NewId, now: datetime) -> None:
        super().__init__(refit, new_id, now)
        self.orders = {(one.supplier.casefold(), one.number): one for one in refit.orders if one.number}
        self.made: dict[str, Order] = {}

    def known(self) -> Iterator[Key]:
        orders = {one.id: one for one in self.refit.orders}
        for line in self.refit.order_lines:
            order = orders[line.order]
            yield order.supplier.casefold(), order.number, line.part, line.quantity, line.price

    def read(self, cells: Cells) -> tuple[list[Frozen], Key]:
        part = self.part(cells["part"])
        price, currency, rate = self.money(cells, "price")
        name = (cells["supplier"].casefold(), cells.get("number") or f"of {cells['ordered']}")
        order = self.orders.get(name)
        if order is not None and order.currency != currency:
            raise ValueError(f"the order is in {order.currency}; type the price in {order.currency}")
        fresh = order is None
        if order is None:
            order = Order.model_validate(
                {
                    "id": self.new_id("purchase"),
                    "supplier": cells["supplier"],
                    "number": cells.get("number", ""),
                    "currency": currency,
                    "rate": rate,
                    "placed_at": self.day(cells["ordered"]),
                    "expected": self.day(cells["expected"]) if cells.get("expected") else None,
                }
            )
        line = OrderLine.model_validate(
            {
                "id": self.new_id("order-line"),
                "order": order.id,
                "part": part.id,
                "quantity": self.number(cells, "quantity", part.quantity, 1e-6),
                "price": price,
            }
        )
        if fresh:
            self.made[order.id] = order
            self.orders[name] = order
        return [line], (order.supplier.casefold(), order.number, part.id, line.quantity, line.price)

    def first(self) -> list[Frozen]:
        return list(self.made.values())


class _Ledger(_Reader):
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


class _Hours(_Reader):
    def key(self, entry: HoursEntry) -> Key:
        return entry.at.astimezone(self.zone).date(), entry.person, entry.task, entry.hours

    def known(self) -> Iterator[Key]:
        yield from (self.key(entry) for entry in self.refit.hours_log)

    def read(self, cells: Cells) -> tuple[list[Frozen], Key]:
        who = [one for one in self.refit.people if one.name.casefold() == cells["person"].casefold()]
        if len(who) != 1:
            raise ValueError(f"person: nobody here is called “{cells['person'][:60]}”")
        tasks = [
            task
            for job, task in self.refit.walk()
            if task.title.casefold() == cells["task"].casefold()
            and (not cells.get("job") or job.title.casefold() == cells["job"].casefold())
        ]
        if len(tasks) != 1:
            what = "several tasks are" if tasks else "no task is"
            raise ValueError(f"task: {what} called “{cells['task'][:60]}”{'; say the job too' if tasks else ''}")
        try:
            hours = typed.hours(cells["hours"])
        except ValueError as error:
            raise ValueError(f"hours: {error}") from None
        entry = HoursEntry.model_validate(
            {
                "id": self.new_id("hours"),
                "task": tasks[0].id,
                "person": who[0].id,
                "at": self.day(cells["date"]),
                "hours": hours,
                "note": cells.get("note", "")[:200],
            }
        )
        return [entry], self.key(entry)


class _Bank(_Reader):
    """Money out is a payment, money in a refund; each is laid to what is owed where number, or party and amount, say so."""

    def __init__(self, refit: Refit, new_id: NewId, now: datetime) -> None:
        super().__init__(refit, new_id, now)
        self.owed = {(one.kind, one.key): one.owed for one in accounts(refit)}
        self.accounts = [one for one in accounts(refit) if one.owed]

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

    def pays(self, text: str, amount: int) -> tuple[Account, Entry] | None:
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


_READERS: dict[str, type[_Reader]] = {
    "parts": _Parts,
    "offers": _Offers,
    "orders": _Orders,
    "ledger": _Ledger,
    "hours": _Hours,
    "bank": _Bank,
}


def written_rows(refit: Refit, kind: TableKind) -> Iterator[list[Value]]:
    """The rows of a kind, in the order of its columns; amounts with a decimal point, days and times by the yard's clock."""
    zone = refit.yard.zone

    def money(minor: int, currency: str) -> Value:
        return Decimal(typed.minor_text(minor, currency))

    def moment(at: datetime | None) -> str:
        return f"{at.astimezone(zone):%Y-%m-%d %H:%M}" if at is not None else ""

    match kind.name:
        case "parts":
            for part in refit.parts:
                yield [
                    part.name, part.quantity, part.unit, part.supplier, money(part.price, refit.currency), part.lead_days,
                    part.dimension, part.stowed, part.counted,
                ]  # fmt: skip
        case "offers":
            for one in refit.offers:
                yield [
                    refit.part_by_id[one.part].name, one.supplier, one.what, one.quantity, money(one.price, one.currency),
                    one.currency, one.rate, money(one.freight, one.currency), one.duty, one.tax, one.lead_days,
                ]  # fmt: skip
        case "orders":
            orders = {one.id: one for one in refit.orders}
            for line in refit.order_lines:
                order = orders[line.order]
                yield [
                    order.supplier, order.number, moment(order.placed_at), moment(order.expected),
                    refit.part_by_id[line.part].name, line.quantity, money(line.price, order.currency), order.currency,
                    order.rate,
                ]  # fmt: skip
        case "ledger":
            for entry in sorted(refit.entries, key=lambda row: (row.at, row.id)):
                yield [
                    moment(entry.at), entry.kind.value, entry.title, entry.party, entry.number,
                    money(entry.amount, entry.currency), entry.currency, entry.rate, entry.note,
                ]  # fmt: skip
        case "hours":
            for row in refit.hours_log:
                yield [
                    moment(row.at), refit.persons[row.person].name, refit.tasks[row.task].title,
                    refit.job_of[row.task].title, row.hours, row.note,
                ]  # fmt: skip
