"""The places of a boat, ready from what she is."""

from __future__ import annotations

from rovask.core.recipes.common import Common
from rovask.core.recipes.facts import FACT_OF
from rovask.core.recipes.formula import holds
from rovask.core.recipes.sides import EACH_OF, SAID, sides_of
from rovask.core.refit.givens.choices import Spot, Which
from rovask.core.refit.givens.kinds import Boat, Place
from rovask.core.refit.model import Refit


def places_of(boat: Boat, common: Common) -> tuple[Place, ...]:
    """Every usual place this boat has, from masthead to keel: no engine bay without an engine, one for each hull."""
    facts = {name: fact(boat) for name, fact in FACT_OF.items()}
    rows = [row for row in common.place if holds(row.when, facts)]
    sides = {row.spot: _sides(boat, row.spot) for row in rows}
    ids = {spot: [_key(spot, n) for n in range(len(there))] for spot, there in sides.items()}
    out = []
    for row in rows:
        for n, which in enumerate(sides[row.spot]):
            opens = tuple(_beside(ids[other], sides[other], which, n) for other in row.opens_onto if other in ids)
            out.append(
                Place(
                    id=ids[row.spot][n],
                    name=name_of(row.name, which),
                    spot=row.spot,
                    which=which,
                    capacity=row.capacity,
                    outdoors=row.outdoors,
                    opens_onto=opens,
                )
            )
    return tuple(out)


def _sides(boat: Boat, spot: Spot) -> tuple[Which | None, ...]:
    return (sides_of(boat, EACH_OF[spot]) if spot in EACH_OF else ()) or (None,)


def _key(spot: Spot, count: int) -> str:
    return spot.value if count == 0 else f"{spot.value}-{count + 1}"


def _beside(ids: list[str], there: tuple[Which | None, ...], which: Which | None, at: int) -> str:
    """The place of a spot that lies on the same side; else the one of the same count, or the last."""
    return ids[there.index(which)] if which in there else ids[min(at, len(ids) - 1)]


def name_of(name: str, which: Which | None) -> str:
    """What a place is called: the first mast's as on a boat with one."""
    return name if which in (None, Which.MAIN) else f"{name}, {SAID[which]}"


def place_at(refit: Refit, spot: Spot, which: Which | None) -> Place | None:
    """The refit's place for a spot, on that side; in a refit whose places don't say which, by their order, or the only one."""
    found = [place for place in refit.places if place.spot is spot]
    told = next((place for place in found if place.which is which), None)
    if told is not None or which is None or spot not in EACH_OF:
        return told or (found[0] if found else None)
    there = sides_of(refit.boat, EACH_OF[spot])
    untold = [place for place in found if place.which is None]
    if which in there and len(untold) == len(there):
        return untold[there.index(which)]
    return found[0] if found else None
