"""What moved the forecast since some moment: what it was, what it is, and by what; the difference is exact whatever was taken back."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from rovask.core.plain.money import Money
from rovask.store.history import ChangeEntry

REST = "better plans found, time gone by, and what answers each other"


@dataclass(frozen=True, slots=True)
class MovedMoney:
    """was: the forecast then, None where nobody kept it; by: what was done since and by how much, the most first.

    rest: what of the difference none of that says.
    """

    was: Money | None
    moved: Money
    by: tuple[tuple[str, Money], ...]
    rest: Money


def moved_money(now: Money, entries: Iterable[ChangeEntry], before: Iterable[ChangeEntry]) -> MovedMoney:
    """entries: the changes since, before: those before them; both the newest first."""
    mine = [one for one in entries if one.effect and one.effect.get("currency") == now.currency]
    earlier = (one.effect for one in before if one.effect and one.effect.get("currency") == now.currency)
    was = next((int(effect["total"]) for effect in earlier if effect.get("total") is not None), None)
    if was is None:  # nothing kept from before: what it came to after the first change since, less what that did
        first = next((one.effect for one in reversed(mine) if one.effect and one.effect.get("total") is not None), None)
        was = int(first["total"]) - int(first["money"]) if first is not None else None
    by = [
        (one.what, Money(int((one.effect or {})["money"]), now.currency))
        for one in mine
        if not one.taken_back and one.undoes is None
    ]
    by = sorted((row for row in by if row[1]), key=lambda row: -abs(row[1].minor))
    told = sum(amount.minor for _, amount in by)
    moved = now.minor - was if was is not None else told
    return MovedMoney(
        None if was is None else Money(was, now.currency),
        Money(moved, now.currency),
        tuple(by),
        Money(moved - told, now.currency),
    )
