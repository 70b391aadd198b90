"""What moved the odds, told where it is more than the simulation's noise."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from itertools import pairwise

from rovask.store.odds import OddsThen

LEAST_TOLD = 0.01  # less than one in a hundred is nobody's news
MOST_TOLD = 40


@dataclass(frozen=True, slots=True)
class OddsMove:
    """By how much the odds moved after a change (in hundredths, signed), when, and what that change was."""

    change: int
    when: datetime
    by: int
    what: str


def moved(before: OddsThen, after: OddsThen) -> int | None:
    """Hundredths by which the odds moved; None where that may be chance (two standard errors) or too little to tell.

    Both were played under the same luck, so chance is less than this takes it to be: what is told is there.
    """
    if before.odds is None or after.odds is None or not before.runs or not after.runs:
        return None
    by = after.odds - before.odds
    noise = math.sqrt(sum(one.odds * (1 - one.odds) / one.runs for one in (before, after) if one.odds is not None))
    return round(100 * by) if abs(by) >= max(2 * noise, LEAST_TOLD) and round(100 * by) else None


def moves_by_change(rows: list[OddsThen]) -> dict[int, int]:
    """Hundredths by which each change moved the odds, by the change; without those that didn't."""
    pairs = ((after.change, moved(before, after)) for before, after in pairwise(rows))
    return {change: by for change, by in pairs if by is not None}


def odds_moves(rows: list[OddsThen], told: Mapping[int, str]) -> list[OddsMove]:
    """What moved the odds, the newest first. told: what each change was, by its number; one that isn't in it was days going by."""
    by_change, when = moves_by_change(rows), {row.change: row.now for row in rows}
    found = [OddsMove(change, when[change], by, told.get(change, "days went by")) for change, by in by_change.items()]
    return sorted(found, key=lambda one: -one.change)[:MOST_TOLD]
