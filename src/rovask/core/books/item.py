"""One thing’s share of what the refit costs, for one job."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import Enum, StrEnum, auto
from typing import NamedTuple

from rovask.core.plain.words import count
from rovask.core.refit.givens.choices import Section


class ItemKind(StrEnum):
    """Where an item comes from."""

    ORDER = "orders"
    AGREEMENT = "agreements"
    BILL = "bills"
    YARD = "yard"
    PART = "parts to buy"
    WORK = "paid hours"
    NIGHTS = "nights elsewhere"
    UNKNOWN = "not found yet"


class Item(NamedTuple):
    """One thing's share for one job, in minor units of the refit's currency.

    paid, owed: as in accounts.py; to_come: agreed and neither invoiced nor paid ahead, less what is to be had back;
    rest: planned and not agreed. bound, invoiced: for telling; they are no part of the sum. low, high: what it may come
    to at the least and the most. by_rate: of what is paid, what rates made of it.
    """

    kind: ItemKind
    key: str
    title: str
    how: str = ""
    party: str = ""
    person: str | None = None
    job: str | None = None
    section: Section = Section.OTHER
    line: str | None = None
    paid: int = 0
    owed: int = 0
    to_come: int = 0
    rest: int = 0
    bound: int = 0
    invoiced: int = 0
    by_rate: int = 0
    back: int = 0
    low: int = 0
    high: int = 0

    @property
    def sort(self) -> Sort:
        """How it is told and reckoned."""
        return SORTS[self.kind]

    @property
    def still(self) -> int:
        """What is still to be paid."""
        return self.owed + self.to_come + self.rest

    @property
    def will_be(self) -> int:
        """What it comes to."""
        return self.paid + self.still


class Falls(Enum):
    """When what is planned and not agreed falls due: all of it at the launch, or on the days it is about."""

    AT_LAUNCH = auto()
    AS_WORKED = auto()
    DAY_BY_DAY = auto()  # as the yard charges it
    WHEN_NEEDED = auto()  # the day the first task needs it


def _own_line(row: Item) -> tuple[str, str]:
    return row.title, row.key


def _own_words(rows: list[Item]) -> str:
    return rows[0].how


@dataclass(frozen=True, slots=True)
class Sort:
    """How items of a kind are told and reckoned, everywhere: a new sort of cost is a row of SORTS and its items.

    line: (title, key) of the line of the forecast an item is in. told: how a line was worked out. falls: when what is planned
    of it falls due. of_work: it measures how far work has come; others go by the calendar or by chance. known: False for
    what nobody has found yet.
    """

    line: Callable[[Item], tuple[str, str]] = _own_line
    told: Callable[[list[Item]], str] = _own_words
    falls: Falls = Falls.AT_LAUNCH
    of_work: bool = True
    known: bool = True


def _parts_told(rows: list[Item]) -> str:
    orders = {row.key for row in rows if row.kind is ItemKind.ORDER}
    lines = len({row.key for row in rows if row.kind is ItemKind.PART})
    words = [count(len(orders), "order")] if orders else []
    words += [f"{count(lines, 'line')} without an order"] if lines and orders else []
    words += [count(lines, "line")] if lines and not orders else []
    return ", ".join(words)


def _bill_line(row: Item) -> tuple[str, str]:
    if row.person is None:
        return "Bills and things bought", ""
    return f"Bills of {row.party or row.title}", row.person


def _how_many(rows: list[Item], word: str) -> str:
    return count(len({row.key for row in rows}), word)


SORTS: Mapping[ItemKind, Sort] = {
    ItemKind.ORDER: Sort(lambda _: ("Parts", ""), _parts_told),
    ItemKind.PART: Sort(lambda _: ("Parts", ""), _parts_told, Falls.WHEN_NEEDED),
    ItemKind.AGREEMENT: Sort(told=lambda rows: f"agreed with {rows[0].party}"),
    ItemKind.BILL: Sort(_bill_line, lambda rows: _how_many(rows, "bill")),
    ItemKind.YARD: Sort(falls=Falls.DAY_BY_DAY, of_work=False),
    ItemKind.WORK: Sort(falls=Falls.AS_WORKED),
    ItemKind.NIGHTS: Sort(of_work=False),
    ItemKind.UNKNOWN: Sort(
        lambda _: ("Not found yet", ""),
        lambda rows: f"{_how_many(rows, 'unknown')}, chance by cost",
        of_work=False,
        known=False,
    ),
}


def summed(rows: tuple[Item, ...], by: Callable[[Item], str | None]) -> dict[str | None, list[Item]]:
    """Items by something, in the order they come."""
    out: dict[str | None, list[Item]] = defaultdict(list)
    for row in rows:
        out[by(row)].append(row)
    return dict(out)
