"""The places of a boat, ready from what she is."""

from __future__ import annotations

from rovask.core.recipes.common import Common
from rovask.core.recipes.facts import FACT_OF
from rovask.core.recipes.formula import holds
from rovask.core.refit.givens.choices import Spot
from rovask.core.refit.givens.kinds import Boat, Place

# What the water, the weather and people outside see; a mast's own parts are named after it when there are two.
_SIDES = ("port", "starboard")


def places_of(boat: Boat, common: Common) -> tuple[Place, ...]:
    """Every usual place this boat has, from masthead to keel: no engine bay without an engine, one for each hull."""
    facts = {name: fact(boat) for name, fact in FACT_OF.items()}
    rows = [row for row in common.place if holds(row.when, facts)]
    names = {row.spot: _names(boat, row.spot, row.name) for row in rows}
    ids = {spot: [_key(spot, n) for n in range(len(called))] for spot, called in names.items()}
    out = []
    for row in rows:
        for n, name in enumerate(names[row.spot]):
            opens = tuple(ids[other][min(n, len(ids[other]) - 1)] for other in row.opens_onto if other in ids)
            out.append(
                Place(
                    id=ids[row.spot][n],
                    name=name,
                    spot=row.spot,
                    capacity=row.capacity,
                    outdoors=row.outdoors,
                    opens_onto=opens,
                )
            )
    return tuple(out)


def _key(spot: Spot, count: int) -> str:
    return spot.value if count == 0 else f"{spot.value}-{count + 1}"


def _names(boat: Boat, spot: Spot, name: str) -> list[str]:
    """What places of a spot are called: one, or one for each mast or hull."""
    if spot in (Spot.RIG, Spot.MAST) and boat.masts > 1:
        return [name, *(f"{name}, {which}" for which in ("mizzen", "third mast")[: boat.masts - 1])]
    twice = (Spot.BOTTOM, Spot.KEEL, Spot.RUDDER, Spot.SHAFT, Spot.ENGINE, Spot.TOPSIDES)
    if spot in twice and boat.hulls == 2:
        return [f"{name}, {side}" for side in _SIDES]
    return [name]
