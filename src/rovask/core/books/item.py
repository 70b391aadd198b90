"""One thing’s share of what the refit costs, for one job."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable
from enum import StrEnum
from typing import NamedTuple

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
    def still(self) -> int:
        """What is still to be paid."""
        return self.owed + self.to_come + self.rest

    @property
    def will_be(self) -> int:
        """What it comes to."""
        return self.paid + self.still


def summed(rows: tuple[Item, ...], by: Callable[[Item], str | None]) -> dict[str | None, list[Item]]:
    """Items by something, in the order they come."""
    out: dict[str | None, list[Item]] = defaultdict(list)
    for row in rows:
        out[by(row)].append(row)
    return dict(out)
