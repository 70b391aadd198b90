"""How the rows of each table are read: cell by cell, into the records they stand for, and by what one knows a row again."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from datetime import datetime
from functools import cached_property
from typing import Any, ClassVar, cast

from rovask.core.plain.currency import is_currency
from rovask.core.readings.commitments import Commitment, commitments
from rovask.core.refit import typed
from rovask.core.refit.model import Entry, HoursEntry, Offer, Order, OrderLine, Part, Refit
from rovask.core.refit.purse.choices import EntryKind
from rovask.core.refit.register import kind_of
from rovask.core.refit.values import Frozen
from rovask.core.refit.work.titles import title_in

Cells = Mapping[str, str]
NewId = Callable[[str], str]
Key = tuple[Any, ...]


class Reader:
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

    listed: ClassVar[str]  # the refit's list of what the rows are
    given: ClassVar[Mapping[str, tuple[str, ...]]]  # what each column says of a record, by the record's fields
    along: ClassVar[Mapping[str, str]] = {}  # fields that change with another one
    shares: ClassVar[bool] = False  # whether several rows stand for one record besides their own

    @cached_property
    def _records(self) -> dict[str, Frozen]:
        return {row.id: row for row in getattr(self.refit, self.listed)}

    def record(self, key: str) -> Frozen:
        """What the refit has by an id."""
        return self._records[key]

    def name_of(self, record: Frozen) -> Key | None:
        """What names a record of this kind, where something does. Raises NotImplementedError for what is only read."""
        raise NotImplementedError

    def called(self, record: Frozen) -> str:
        """What a record is called."""
        return title_in(self.refit, kind_of(type(record)), record)

    def head(self, was: Cells, cells: Cells, record: Frozen) -> tuple[Frozen, list[str]] | None:
        """What a row changes of a record that it shares with other rows (``shares``), and by which columns; None for nothing."""
        raise NotImplementedError

    def says(self, column: str, record: Mapping[str, Any]) -> tuple[Any, ...]:
        """What a column says of a record."""
        return tuple(record.get(name) for name in self.given.get(column, ()))

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


class _Parts(Reader):
    listed = "parts"
    given: ClassVar = {
        "name": ("name",),
        "quantity": ("quantity",),
        "unit": ("unit",),
        "supplier": ("supplier",),
        "price": ("price",),
        "lead days": ("lead_days",),
        "dimension": ("dimension",),
        "stowed": ("stowed",),
        "counted": ("counted",),
    }
    along: ClassVar = {"counted": "counted_at"}

    def name_of(self, record: Frozen) -> Key:
        part = cast(Part, record)
        return part.name.casefold(), part.supplier.casefold(), part.dimension

    def known(self) -> Iterator[Key]:
        yield from (self.name_of(part) for part in self.refit.parts)

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
            counted = self.number(cells, "counted", 0)
            data |= {"counted": counted, "counted_at": self.now}
        part = Part.model_validate(data)
        return [part], self.name_of(part)


class _Offers(Reader):
    listed = "offers"
    given: ClassVar = {
        "part": ("part",),
        "supplier": ("supplier",),
        "what": ("what",),
        "quantity": ("quantity",),
        "price": ("price",),
        "currency": ("currency",),
        "rate": ("rate",),
        "freight": ("freight",),
        "duty": ("duty",),
        "tax": ("tax",),
        "lead days": ("lead_days",),
    }

    def name_of(self, record: Frozen) -> Key:
        offer = cast(Offer, record)
        return offer.part, offer.supplier.casefold(), offer.what.casefold()

    def known(self) -> Iterator[Key]:
        yield from (self.name_of(one) for one in self.refit.offers)

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
        return [offer], self.name_of(offer)


class _Orders(Reader):
    listed = "order_lines"
    given: ClassVar = {"part": ("part",), "quantity": ("quantity",), "price": ("price",)}
    shares = True

    def name_of(self, record: Frozen) -> Key | None:
        line = cast(OrderLine, record)
        return line.order, line.part

    def called(self, record: Frozen) -> str:
        return self.refit.part_by_id[cast(OrderLine, record).part].name

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

    def head(self, was: Cells, cells: Cells, record: Frozen) -> tuple[Frozen, list[str]] | None:
        order = next(one for one in self.refit.orders if one.id == cast(OrderLine, record).order)
        changes: dict[str, Any] = {}
        names: list[str] = []
        for name, field in (("number", "number"), ("ordered", "placed_at"), ("expected", "expected"), ("rate", "rate")):
            text = cells.get(name, "")
            then = [self._said(name, one) for one in (was.get(name, ""), text)]
            if name in cells and then[0] != then[1] and (text or name == "expected"):
                changes[field], names = then[1], [*names, name]
        return (Order.model_validate(dict(order) | changes), names) if changes else None

    def _said(self, name: str, text: str) -> object:
        if name in ("ordered", "expected"):
            return self.day(text) if text else None
        return f"{typed.rate(text):f}" if name == "rate" and text else text


class _Ledger(Reader):
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


class _Hours(Reader):
    listed = "hours_log"
    given: ClassVar = {
        "date": ("at",),
        "person": ("person",),
        "task": ("task",),
        "job": ("task",),
        "hours": ("hours",),
        "note": ("note",),
    }

    def name_of(self, record: Frozen) -> Key | None:
        entry = cast(HoursEntry, record)
        return entry.at.astimezone(self.zone).date(), entry.person, entry.task

    def called(self, record: Frozen) -> str:
        entry = cast(HoursEntry, record)
        return f"{self.refit.persons[entry.person].name}, {self.refit.tasks[entry.task].title}"

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


class _Bank(Reader):
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


READERS: dict[str, type[Reader]] = {
    "parts": _Parts,
    "offers": _Offers,
    "orders": _Orders,
    "ledger": _Ledger,
    "hours": _Hours,
    "bank": _Bank,
}
