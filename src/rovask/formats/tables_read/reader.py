"""What reads rows of one kind: what a row comes to, and what it is known again by."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from datetime import datetime
from functools import cached_property
from typing import Any, ClassVar

from rovask.core.plain.currency import is_currency
from rovask.core.refit import typed
from rovask.core.refit.model import Part, Refit
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
