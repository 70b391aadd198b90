"""A tariff, meter readings and stages of an agreement in forms: rows with a field for each thing, typed and read back."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any
from zoneinfo import ZoneInfo

from rovask.core.refit import typed
from rovask.core.refit.givens.choices import Charge, Per
from rovask.core.refit.givens.kinds import MeterReading, TariffLine
from rovask.core.refit.purse.kinds import Stage
from rovask.web.field import How
from rovask.web.spelling import day_text, moment_text

Row = Mapping[str, str]
MOST_ROWS = 400
NEW_ROWS = 3  # empty ones that a form offers
TYPED = ("title", "from_day", "to_day", "due")  # what somebody typed in a row, beside what makes it one


@dataclass(frozen=True, slots=True)
class Column:
    """One field of every row: its name, label and class of width on the page; choices where it has some."""

    name: str
    label: str
    width: str
    choices: tuple[str, ...] = ()


COLUMNS: Mapping[How, tuple[Column, ...]] = {
    How.TARIFF: (
        Column("charge", "What for", "!w-44", tuple(Charge)),
        Column("price", "Price", "!w-20"),
        Column("per", "for", "!w-48", tuple(Per)),
        Column("from_day", "from day", "!w-16"),
        Column("to_day", "to day", "!w-16"),
        Column("title", "Called", "!w-36"),
    ),
    How.METER: (Column("at", "When", "!w-44"), Column("kwh", "kWh", "!w-24")),
    How.STAGES: (
        Column("amount", "Amount", "!w-24"),
        Column("title", "For what", "!w-56"),
        Column("due", "By", "!w-36"),
    ),
}
_ANOTHER = re.compile(rf"\b(?:{'|'.join(re.escape(word) for word in Charge)})\s+\d", re.IGNORECASE)


def columns_of(how: How) -> tuple[Column, ...]:
    """The fields of a row; none for what isn't typed in rows."""
    return COLUMNS.get(how, ())


def new_rows(how: How) -> list[dict[str, str]]:
    """The empty rows that a form offers."""
    return [{one.name: "" for one in columns_of(how)} for _ in range(NEW_ROWS)]


def tariff_rows(lines: Iterable[TariffLine], currency: str) -> list[dict[str, str]]:
    """A tariff as it stands in its form; the price of what goes by per cent is in per cent."""
    return [
        {
            "charge": line.charge.value,
            "price": f"{line.price / 100:g}" if line.per is Per.PERCENT else typed.minor_text(line.price, currency),
            "per": line.per.value,
            "from_day": str(line.from_day) if line.from_day > 1 or line.to_day is not None else "",
            "to_day": str(line.to_day) if line.to_day is not None else "",
            "title": line.title,
        }
        for line in lines
    ]


def meter_rows(readings: Iterable[MeterReading], zone: ZoneInfo) -> list[dict[str, str]]:
    """Readings as they stand in their form."""
    return [{"at": moment_text(one.at, zone), "kwh": f"{one.kwh:.10g}"} for one in readings]


def stage_rows(stages: Iterable[Stage], currency: str) -> list[dict[str, str]]:
    """Stages as they stand in their form."""
    return [
        {"amount": typed.minor_text(one.amount, currency), "title": one.title, "due": day_text(one.due)}
        for one in stages
    ]


def read_tariff(rows: Sequence[Row], currency: str) -> list[dict[str, Any]]:
    """The tariff in such rows. Raises ValueError, naming the row."""

    def line(row: Row) -> dict[str, Any]:
        if row["charge"] not in set(Charge) or row["per"] not in set(Per):
            raise ValueError("choose what it is for, and of what it is the price")
        if _ANOTHER.search(row["title"]):
            raise ValueError(f"“{row['title']}” holds another line; give that a row of its own")
        per = Per(row["per"])
        price = (
            round(typed.number(row["price"].removesuffix("%"), 0, 100) * 100)
            if per is Per.PERCENT
            else typed.minor(row["price"], currency)
        )
        return {
            "charge": row["charge"],
            "title": row["title"],
            "price": price,
            "per": per.value,
            "from_day": typed.whole(row["from_day"], 1, 999) if row["from_day"] else 1,
            "to_day": typed.whole(row["to_day"], 1, 999) if row["to_day"] else None,
        }

    return _each(rows, line, "price")


def read_meter(rows: Sequence[Row], zone: ZoneInfo) -> list[dict[str, Any]]:
    """The readings in such rows, in order of time. Raises ValueError."""

    def reading(row: Row) -> dict[str, Any]:
        return {"at": typed.moment(row["at"], zone), "kwh": float(typed.number(row["kwh"], 0, 1e7))}

    return sorted(_each(rows, reading, "at", "kwh"), key=lambda one: one["at"])


def read_stages(rows: Sequence[Row], currency: str) -> list[dict[str, Any]]:
    """The stages in such rows. Raises ValueError."""

    def stage(row: Row) -> dict[str, Any]:
        if not row["title"]:
            raise ValueError("say for what it falls due")
        due = typed.day(row["due"]).isoformat() if row["due"] else None
        return {"title": row["title"], "amount": typed.minor(row["amount"], currency), "due": due}

    return _each(rows, stage, "amount", "title")


def _each(rows: Sequence[Row], read: Callable[[Row], dict[str, Any]], *said_by: str) -> list[dict[str, Any]]:
    """Every row that says something, read; said_by: what has to be typed for that, or something else is said for nothing."""
    out, faults = [], []
    for number, row in enumerate(rows, 1):
        if not any(row[name] for name in said_by):
            if said := [row[name] for name in TYPED if row.get(name)]:
                faults.append(f"row {number}: “{said[0]}” has no {said_by[0]}; to take the row out, empty all of it")
            continue
        try:
            out.append(read(row))
        except ValueError as error:
            faults.append(f"row {number}: {error}")
    if faults:
        raise ValueError("; ".join(faults))
    return out


def posted_rows(how: How, name: str, form: Any) -> list[dict[str, str]] | None:
    """The rows of a form as they were typed; None for a form that has none of them."""
    columns = COLUMNS[how]
    rows = []
    for number in range(MOST_ROWS):
        if f"{name}-{number}-{columns[0].name}" not in form:
            break
        rows.append({one.name: str(form.get(f"{name}-{number}-{one.name}", "")).strip() for one in columns})
    return rows or None


def as_posted(name: str, rows: Sequence[Row]) -> list[tuple[str, str]]:
    """Rows as the fields they are sent in."""
    return [(f"{name}-{number}-{key}", value) for number, row in enumerate(rows) for key, value in row.items()]


def said(how: How, rows: Sequence[Row]) -> list[tuple[str, ...]]:
    """What rows say, without the empty ones, to compare them."""
    chosen = {one.name for one in COLUMNS[how] if one.choices}
    return [
        tuple(row[one.name] for one in COLUMNS[how])
        for row in rows
        if any(value for key, value in row.items() if key not in chosen)
    ]


def spoken_rows(how: How, rows: Sequence[Row]) -> str:
    """Rows in words, to lay two versions side by side."""
    return "; ".join(" ".join(value for value in row if value) for row in said(how, rows))
