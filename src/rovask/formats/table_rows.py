"""What a table comes to: rows that are new, rows that change what is there, rows that are there already; and tables written.

A row that is there already, as often as the file has it, is not added a second time. One that is known by its id, or by what
names it (of a bill its party and number), and says something else now, changes what is there, in the columns the file has.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from decimal import Decimal

from pydantic import ValidationError

from rovask.core.plain.faults import faults_of
from rovask.core.refit import typed
from rovask.core.refit.model import OrderLine, Refit
from rovask.core.refit.values import Frozen
from rovask.formats.table_kinds import TableKind
from rovask.formats.table_readers import READERS
from rovask.formats.tables import Row, Table, Value
from rovask.formats.tables_read.reader import Cells, Key, NewId, Reader

MOST_FAULTS = 100


@dataclass(frozen=True, slots=True)
class LineChange:
    """A row that changes what is there: the records after it, and column by column what it was and what it becomes."""

    line: int
    records: tuple[Frozen, ...]
    told: str
    differs: tuple[tuple[str, str, str], ...]


@dataclass(frozen=True, slots=True)
class LineFault:
    """What is wrong in a row of the file, by the number of its line."""

    line: int
    message: str


@dataclass
class Reading:
    """What a table comes to. new: the records to be added, in order; known: rows that are there already.

    changed: rows that change what is there. faults: of rows that can't be read; matched: by the id of a payment, what it
    pays, in words. lines: rows read in all; marks: by line what it comes to, for whoever looks it over.
    """

    new: list[Frozen] = field(default_factory=list)
    changed: list[LineChange] = field(default_factory=list)
    known: int = 0
    marks: dict[int, str] = field(default_factory=dict)
    faults: list[LineFault] = field(default_factory=list)
    matched: dict[str, str] = field(default_factory=dict)
    lines: int = 0


def read_rows(
    refit: Refit, kind: TableKind, table: Table, columns: Mapping[str, int], new_id: NewId, now: datetime
) -> Reading:
    """The records a table holds that the refit doesn't have yet, those it changes, and everything that is wrong, by line.

    O(rows).
    """
    found = Reading()
    reader = READERS[kind.name](refit, new_id, now)
    there = Counter(reader.known())
    past = _Past(refit, kind, reader)
    missing = [column.name for column in kind.columns if column.needed and column.name not in columns]
    if missing:
        found.faults.append(LineFault(1, f"no column is {' and none is '.join(missing)}; choose which it is"))
        return found
    for row in table.rows:
        found.lines += 1
        found.marks[row.number] = "can't be read"
        try:
            cells = _cells(kind, row, columns)
            records, key = reader.read(cells)
            change = past.changed(cells, records[-1], row.number)
        except ValidationError as error:
            for fault in faults_of(error)[:3]:
                found.faults.append(LineFault(row.number, f"{fault.path.replace('_', ' ')}: {fault.message}"))
            continue
        except ValueError as error:
            found.faults.append(LineFault(row.number, str(error)))
            continue
        if change is not None and change.differs:
            found.changed.append(change)
            found.marks[row.number] = "changed"
        elif change is not None or there[key] > 0:
            found.known += 1
            found.marks[row.number] = "there already"
        else:
            found.new += records
            found.matched |= reader.matched
            found.marks[row.number] = "new"
            continue
        there[key] -= 1
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


class _Past:
    """What the refit has, as the rows of a file name it: by id, or by what names a record of its kind, where one does."""

    def __init__(self, refit: Refit, kind: TableKind, reader: Reader) -> None:
        self.reader, self.columns = reader, [column.name for column in kind.columns]
        self.rows = dict(_written(refit, kind)) if kind.written else {}
        self.by_name: dict[Key, list[str]] = {}
        for key in self.rows:
            name = reader.name_of(reader.record(key))
            if name is not None:
                self.by_name.setdefault(name, []).append(key)
        self.claimed: set[str] = set()

    def changed(self, cells: Cells, read: Frozen, line: int) -> LineChange | None:
        """What a row changes; None for one that names nothing there is. Raises ValueError for an id nobody has."""
        mine = self._named(cells, read)
        if mine is None:
            return None
        self.claimed.add(mine)
        old = self.reader.record(mine)
        was = dict(zip(self.columns, (_as_text(cell) for cell in self.rows[mine]), strict=True))
        stood, _ = self.reader.read({name: was.get(name, "") for name in cells} | {"id": mine})
        before, after = dict(stood[-1]), dict(read)
        columns = [name for name in cells if self.reader.says(name, before) != self.reader.says(name, after)]
        fields = [one for name in columns for one in self.reader.given[name]]
        fields += [self.reader.along[name] for name in fields if name in self.reader.along]
        records = (type(old).model_validate(dict(old) | {name: after[name] for name in fields}),) if fields else ()
        head = self.reader.head(was, cells, old) if self.reader.shares else None
        if head is not None:
            records, columns = (*records, head[0]), [*columns, *head[1]]
        differs = tuple((name, was.get(name, ""), cells[name]) for name in columns)
        return LineChange(line, records, self.reader.called(old), differs)

    def _named(self, cells: Cells, read: Frozen) -> str | None:
        if cells.get("id"):
            if cells["id"] not in self.rows:
                raise ValueError(f"id: nothing here has the id “{cells['id'][:40]}”; leave it empty for a new row")
            return cells["id"]
        if not self.rows:
            return None
        name = self.reader.name_of(read)
        found = [key for key in self.by_name.get(name, ()) if key not in self.claimed] if name is not None else []
        return found[0] if len(found) == 1 and len(self.by_name[name]) == 1 else None  # type: ignore[index]


def _as_text(cell: Value) -> str:
    return "" if cell is None else f"{cell:.12g}" if isinstance(cell, float) else str(cell)


def written_rows(refit: Refit, kind: TableKind) -> Iterator[list[Value]]:
    """The rows of a kind, in the order of its columns; amounts with a decimal point, days and times by the yard's clock."""
    for _, row in _written(refit, kind):
        yield row


def _written(refit: Refit, kind: TableKind) -> Iterator[tuple[str, list[Value]]]:
    """The rows with the id of what each is of."""
    zone = refit.yard.zone

    def money(minor: int, currency: str) -> Value:
        return Decimal(typed.minor_text(minor, currency))

    def moment(at: datetime | None) -> str:
        return f"{at.astimezone(zone):%Y-%m-%d %H:%M}" if at is not None else ""

    match kind.name:
        case "parts":
            for part in refit.parts:
                yield part.id, [
                    part.name, part.quantity, part.unit, part.supplier, money(part.price, refit.currency), part.lead_days,
                    part.dimension, part.stowed, part.counted, part.id,
                ]  # fmt: skip
        case "offers":
            for one in refit.offers:
                yield one.id, [
                    refit.part_by_id[one.part].name, one.supplier, one.what, one.quantity, money(one.price, one.currency),
                    one.currency, one.rate, money(one.freight, one.currency), one.duty, one.tax, one.lead_days, one.id,
                ]  # fmt: skip
        case "orders":
            orders = {one.id: one for one in refit.orders}
            for line in refit.order_lines:
                order = orders[line.order]
                yield line.id, [
                    order.supplier, order.number, moment(order.placed_at), moment(order.expected),
                    refit.part_by_id[line.part].name, line.quantity, money(line.price, order.currency), order.currency,
                    order.rate, line.id,
                ]  # fmt: skip
        case "ledger":
            for entry in sorted(refit.entries, key=lambda row: (row.at, row.id)):
                yield entry.id, [
                    moment(entry.at), entry.kind.value, entry.title, entry.party, entry.number,
                    money(entry.amount, entry.currency), entry.currency, entry.rate, entry.note, entry.id,
                ]  # fmt: skip
        case "hours":
            for row in refit.hours_log:
                yield row.id, [
                    moment(row.at), refit.persons[row.person].name, refit.tasks[row.task].title,
                    refit.job_of[row.task].title, row.hours, row.note, row.id,
                ]  # fmt: skip
