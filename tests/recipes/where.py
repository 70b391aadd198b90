"""The table of where each recipe's tasks land on six boats: one and two hulls, one and two masts, steel, wood, leg and shaft.

``python -m tests.recipes.where`` writes where.csv anew; a test says when it no longer holds, so that a change of it is read.
"""

from __future__ import annotations

import csv
import io
from collections import Counter
from pathlib import Path

from rovask.core.recipes.expand import DoesNotFit, expand
from rovask.core.refit.model import Refit
from tests.recipes.crews import ALWAYS, LIBRARY, begun_of, refit_of

SIX = ("cutter", "ketch", "catamaran", "motor boat", "aluminium", "planked")
FILE = Path(__file__).with_name("where.csv")


def landed(boat: str, key: str) -> list[tuple[str, str, int]] | None:
    """Place by place: its name, the steps that land there (copies once), and how many tasks; None where she refuses it."""
    refit = begun_of(boat) if key not in ALWAYS else refit_of(boat)
    try:
        job = expand(LIBRARY, LIBRARY.recipes[key], refit, {}).job
    except DoesNotFit:
        return None
    return counted(refit, [task.place for task in job.tasks])


def counted(refit: Refit, places: list[str]) -> list[tuple[str, str, int]]:
    """Places in the boat's order, with how often each is worked in."""
    found = Counter(places)
    return [(place.name, str(place.which or ""), found[place.id]) for place in refit.places if place.id in found]


def table() -> str:
    """All of it as CSV: recipe, boat, place, which of two, tasks."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\n")
    rows.writerow(("recipe", "boat", "place", "which", "tasks"))
    for key in LIBRARY.recipes:
        for boat in SIX:
            there = landed(boat, key)
            rows.writerows((key, boat, *one) for one in ([("refused", "", 0)] if there is None else there))
    return out.getvalue()


if __name__ == "__main__":
    FILE.write_text(table(), encoding="utf-8")
