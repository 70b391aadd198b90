"""The budget line by line: given, drawn from the contingency, bound, invoiced, paid, still to come, what it will be."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass

from rovask.core.books.item import Item
from rovask.core.books.items import items
from rovask.core.plain.derived import derived
from rovask.core.plan.result import Plan
from rovask.core.refit.model import BudgetLine, Draw, Refit


@dataclass(frozen=True, slots=True)
class Sums:
    """Sums of some items, in minor units: see Item. will_be is paid and still."""

    bound: int
    invoiced: int
    paid: int
    owed: int
    to_come: int
    rest: int
    by_rate: int

    @property
    def still(self) -> int:
        """What is still to be paid: owed, agreed and planned."""
        return self.owed + self.to_come + self.rest

    @property
    def will_be(self) -> int:
        """What it comes to."""
        return self.paid + self.still


def sums(rows: list[Item] | tuple[Item, ...]) -> Sums:
    """The sums of some items."""
    return Sums(
        sum([row.bound for row in rows]),
        sum([row.invoiced for row in rows]),
        sum([row.paid for row in rows]),
        sum([row.owed for row in rows]),
        sum([row.to_come for row in rows]),
        sum([row.rest for row in rows]),
        sum([row.by_rate for row in rows]),
    )


@dataclass(frozen=True, slots=True)
class LineStanding:
    """One budget line (None: what is on no line). given: its amount and what was drawn for it, less what was drawn from it.

    draws: those on it, when it is a contingency.
    """

    line: BudgetLine | None
    given: int
    sums: Sums
    rows: tuple[Item, ...]
    draws: tuple[Draw, ...] = ()

    @property
    def left(self) -> int:
        """What is given and will not be needed; negative when it is overspent."""
        return self.given - self.sums.will_be


@derived(of=1)
def by_line(refit: Refit, plan: Plan) -> list[LineStanding]:
    """Every budget line in order, then what is on none, if anything is."""
    return _by_line(refit, plan)


def _by_line(refit: Refit, plan: Plan) -> list[LineStanding]:
    mine: dict[str | None, list[Item]] = defaultdict(list)
    for row in items(refit, plan):
        mine[row.line].append(row)
    out = []
    for line in refit.budget_lines:
        drawn = tuple(draw for draw in refit.draws if draw.source == line.id)
        given = line.amount - sum(draw.amount for draw in drawn)
        given += sum(draw.amount for draw in refit.draws if draw.to == line.id)
        rows = mine.pop(line.id, [])
        out.append(LineStanding(line, given, sums(rows), tuple(rows), drawn))
    rest = [row for some in mine.values() for row in some]
    if rest:
        ungiven = refit.budget - sum(line.amount for line in refit.budget_lines) if not refit.budget_lines else 0
        out.append(LineStanding(None, ungiven, sums(rest), tuple(rest)))
    return out


def grouped(refit: Refit, plan: Plan, by: Callable[[Item], str | None]) -> dict[str | None, Sums]:
    """Sums by whatever an item is asked for: job, section, supplier, person."""
    mine: dict[str | None, list[Item]] = defaultdict(list)
    for row in items(refit, plan):
        mine[by(row)].append(row)
    return {key: sums(rows) for key, rows in mine.items()}
