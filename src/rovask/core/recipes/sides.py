"""Two of everything: which hulls, engines, rudders, keels, heads and masts a boat has, and what a recipe reckons for one of them.

A recipe that says ``each`` makes its steps once for each of what was chosen, every copy in its own place, with the figures of its
own share: one engine, half the bottom.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from enum import StrEnum

from rovask.core.recipes.formula import Value
from rovask.core.refit.givens.choices import Keel, MastStep, Spot, Which
from rovask.core.refit.givens.kinds import Boat

ALL = "all"  # the answer that means every one of them
WHICH = "which"  # the question that asks it
_LETTER = {
    Which.PORT: "p", Which.STARBOARD: "s", Which.MIDDLE: "c", Which.MAIN: "m", Which.MIZZEN: "z", Which.THIRD: "t"
}  # fmt: skip
_OF_LETTER = {letter: which for which, letter in _LETTER.items()}
SAID = {
    Which.PORT: "port", Which.STARBOARD: "starboard", Which.MIDDLE: "middle hull",
    Which.MAIN: "main mast", Which.MIZZEN: "mizzen", Which.THIRD: "third mast",
}  # fmt: skip
_PAIR = (Which.PORT, Which.STARBOARD)
_MASTS = (Which.MAIN, Which.MIZZEN, Which.THIRD)


class Each(StrEnum):
    """What a recipe, or a step of one, is done once for each of."""

    HULL = "hull"
    ENGINE = "engine"
    RUDDER = "rudder"
    KEEL = "keel"
    HEAD = "head"
    MAST = "mast"


EACH_OF: dict[Spot, Each] = {
    Spot.RIG: Each.MAST,
    Spot.MAST: Each.MAST,
    Spot.HEADS: Each.HEAD,
    Spot.BERTHS: Each.HULL,
    Spot.BILGE: Each.HULL,
    Spot.ENGINE: Each.ENGINE,
    Spot.LAZARETTE: Each.HULL,
    Spot.TOPSIDES: Each.HULL,
    Spot.WATERLINE: Each.HULL,
    Spot.BOTTOM: Each.HULL,
    Spot.THROUGH_HULLS: Each.HULL,
    Spot.SHAFT: Each.ENGINE,
    Spot.KEEL: Each.KEEL,
    Spot.RUDDER: Each.RUDDER,
}
# What one of them has its share of, besides being one.
_SHARED: dict[Each, tuple[str, ...]] = {
    Each.HULL: ("bottom_area", "topsides_area", "through_hulls", "engines", "rudders", "keels", "heads", "berths"),
    Each.ENGINE: ("fuel_tanks",),
    Each.RUDDER: (),
    Each.KEEL: (),
    Each.HEAD: (),
    Each.MAST: (),
}
_COUNT = {
    Each.HULL: "hulls",
    Each.ENGINE: "engines",
    Each.RUDDER: "rudders",
    Each.KEEL: "keels",
    Each.HEAD: "heads",
    Each.MAST: "masts",
}


def rudders_of(boat: Boat) -> int:
    """How many rudders she has: as said, else one a hull of two."""
    return boat.rudders or (2 if boat.hulls == 2 else 1)


def keels_of(boat: Boat) -> int:
    """How many keels: two for twin keels, and for two hulls unless they have boards."""
    return 2 if boat.keel is Keel.TWIN or (boat.hulls == 2 and boat.keel is not Keel.CENTREBOARD) else 1


def sides_of(boat: Boat, each: Each) -> tuple[Which, ...]:
    """Which of them there are, in order; empty where there is only one (or more than can be told apart)."""
    if each is Each.MAST:
        return _MASTS[: boat.masts] if boat.masts > 1 else ()
    if each is Each.HULL:
        return {2: _PAIR, 3: (Which.MIDDLE, *_PAIR)}.get(boat.hulls, ())
    if each is Each.HEAD:
        return _PAIR if boat.hulls == 2 and boat.heads > 1 else ()
    if each is Each.ENGINE:
        return {2: _PAIR, 3: (Which.PORT, Which.MIDDLE, Which.STARBOARD)}.get(boat.engines, ())
    return _PAIR if (rudders_of(boat) if each is Each.RUDDER else keels_of(boat)) == 2 else ()


def step_of_mast(boat: Boat, which: Which | None) -> MastStep:
    """Where a mast stands: on the keel or on deck; as the first where nothing else was said."""
    said = {Which.MIZZEN: boat.mizzen_step, Which.THIRD: boat.third_step}.get(which) if which is not None else None
    return said or boat.mast_step


def chosen_of(there: Sequence[Which], answer: Value) -> tuple[Which, ...]:
    """The sides an answer means."""
    return tuple(one for one in there if answer in (ALL, one.value))


def share_of(
    names: Mapping[str, Value], boat: Boat, each: Each, there: Sequence[Which], some: Sequence[Which]
) -> dict[str, Value]:
    """The names with the figures of ``some`` of ``there``: as many of them, and their share of areas and numbers.

    >>> boat = Boat(name="Two", hulls=2, length_m=11.0, waterline_m=10.6, beam_m=6.1, draft_m=1.1, displacement_kg=7000, engines=2)
    >>> found = share_of({"hulls": 2, "bottom_area": 46.0, "engines": 2}, boat, Each.HULL, _PAIR, (Which.PORT,))
    >>> found["hulls"], found["bottom_area"], found["engines"]
    (1, 23.0, 1)
    """
    if not there:
        return dict(names)
    out = dict(names) | {_COUNT[each]: len(some)}
    for name in _SHARED[each]:
        whole = names.get(name)
        if isinstance(whole, int | float) and not isinstance(whole, bool):
            part = whole * len(some) / len(there)
            out[name] = int(part) if part == int(part) and isinstance(whole, int) else part
    if each is Each.MAST and len(some) == 1:
        out["mast_step"] = step_of_mast(boat, some[0]).value
        out["first_mast"] = some[0] is there[0]
    return out


def divided(total: float, at: int, among: int) -> float:
    """The ``at``-th share of a total: whole numbers in whole numbers, the first ones the larger.

    >>> [divided(5, at, 2) for at in range(2)], [divided(2.5, at, 2) for at in range(2)]
    ([3, 2], [1.25, 1.25])
    """
    if total != int(total):
        return total / among
    return int(total) // among + (at < int(total) % among)


def letter_of(which: Which | None) -> str:
    """What a copy's id ends with; "" for what is there once."""
    return f"-{_LETTER[which]}" if which is not None else ""


def apart(step: str) -> tuple[str, Which | None]:
    """A step as a task's id has it: the recipe's step, and which of them.

    >>> apart("coat1-s"), apart("coat1")
    (('coat1', <Which.STARBOARD: 'starboard'>), ('coat1', None))
    """
    name, dash, letter = step.rpartition("-")
    return (name, _OF_LETTER[letter]) if dash and letter in _OF_LETTER else (step, None)


def alike(one: Which | None, other: Which | None) -> bool:
    """Whether what is done for one side goes with what is done for another: the same side, or not both told by the same names."""
    if one is None or other is None or one is other:
        return True
    return (one in _MASTS) != (other in _MASTS)
