"""One uncertain thing: what it is of, what it may come to, where that comes from, and by which luck it is drawn."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from rovask.core.odds.spread import Table


class Sort(StrEnum):
    """What a source is of."""

    WORK = "work"
    WAIT = "wait"
    LEAD = "lead time"
    UNKNOWN = "unknown"
    UNKNOWN_LEAD = "unknown's parts"
    UNKNOWN_MONEY = "unknown's money"
    TRADE = "trade"
    ILLNESS = "illness"
    WEATHER = "weather"
    PRICE = "price"
    NOT_ACCEPTED = "not accepted"
    PACE = "pace"
    REFIT = "refit"


class Origin(StrEnum):
    """Where a spread comes from."""

    TYPED = "typed"
    LEARNED = "learned from this crew's logs"
    USUAL = "usual"


@dataclass(frozen=True, eq=False)
class Source:
    """One thing that is not certain.

    key: the record it is of. luck: the name of its stream, so that it hangs on nothing else; (): that of its sort
    and key. table: what it may come to, in ``unit``; None where there is only a chance. chance: that it
    comes at all. least, likely, most: as they are told, in ``unit``.
    """

    sort: Sort
    key: str
    title: str
    origin: Origin
    unit: str
    table: Table | None = None
    chance: float | None = None
    least: float = 0.0
    likely: float = 0.0
    most: float = 0.0
    luck: tuple[str, ...] = ()

    @property
    def stream(self) -> tuple[str, ...]:
        """The name of its luck."""
        return self.luck or (self.sort.value, self.key)

    @property
    def is_open(self) -> bool:
        """Whether there is any spread in it."""
        if self.chance is not None:
            return 0 < self.chance < 1 or (self.chance > 0 and self.most > self.least)
        return self.most > self.least


def table_of(source: Source) -> Table:
    """What a source may come to. Raises ValueError for one that has only a chance."""
    if source.table is None:
        raise ValueError(f"{source.title} comes or not, and has no table")
    return source.table
