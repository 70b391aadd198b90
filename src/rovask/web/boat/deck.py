"""The plan of a boat: the upper half her deck, the lower half her inside; metres, y to starboard positive."""

from __future__ import annotations

from rovask.core.refit.givens.choices import Keel
from rovask.core.refit.givens.kinds import Boat
from rovask.web.boat.curves import CABIN, COCKPIT, SAMPLES, Poly, curve, mirrored


def plan_of(boat: Boat) -> dict[str, tuple[Poly, ...]]:
    """Named closed shapes of the plan."""
    return _plan_one(boat) if boat.hulls == 1 else _plan_two(boat)


def half_breadth(boat: Boat, x: float, beam: float | None = None) -> float:
    """Half the beam at x: pointed at the bow, widest a little aft of amidships, a transom at the stern."""
    beam = boat.beam_m if beam is None else beam
    t = min(max(x / boat.length_m, 0.0), 1.0)
    widest = 0.52
    if t <= widest:
        return beam / 2 * float((1 - (1 - t / widest) ** 2) ** 0.85)
    narrow = 0.72 if boat.keel is not Keel.LONG else 0.5
    return beam / 2 * (1 - (1 - narrow) * float(((t - widest) / (1 - widest)) ** 2))


def _side(boat: Boat, first: float, last: float, share: float = 1.0, beam: float | None = None) -> Poly:
    """The starboard edge of the deck between two x, drawn in by ``share``."""
    return tuple(
        (x, half_breadth(boat, x, beam) * share)
        for n in range(SAMPLES + 1)
        for x in [first + (last - first) * n / SAMPLES]
    )


def _box(boat: Boat, first: float, last: float, inner: float, outer: float) -> Poly:
    """A space inside to starboard: between two x (shares of the length), from inner to outer (shares of the breadth)."""
    a, b = boat.length_m * first, boat.length_m * last
    outside = _side(boat, a, b, outer)
    inside = tuple((x, half_breadth(boat, x) * inner) for x in (b, a))
    return (*outside, *inside)


def _plan_one(boat: Boat) -> dict[str, tuple[Poly, ...]]:
    length = boat.length_m
    starboard = _side(boat, 0, length)
    cabin = tuple(length * share for share in CABIN)
    well = tuple(length * share for share in COCKPIT)
    half = boat.beam_m / 2

    def port(points: Poly) -> Poly:
        return tuple((x, -abs(y)) for x, y in points)

    house = (
        (cabin[0], 0.0),
        *curve((cabin[0], half * 0.3), (cabin[0] + length * 0.1, half * 0.56), (cabin[1], half * 0.6)),
        (cabin[1], 0.0),
    )
    foredeck = (*_side(boat, 0, cabin[0]), (cabin[0], 0.0))
    side = (
        *_side(boat, cabin[0], length),
        (length, 0.0),
        (well[1], 0.0),
        (well[1], half * 0.45),
        (well[0], half * 0.45),
        (well[0], 0.0),
        (cabin[1], 0.0),
        *tuple(reversed(house[1:-1])),
        (cabin[0], 0.0),
    )
    cockpit = ((well[0], 0.0), (well[0], half * 0.45), (well[1], half * 0.45), (well[1], 0.0))
    inside = {
        "forepeak": _box(boat, 0.06, 0.25, 0.0, 0.9),
        "heads": _box(boat, 0.26, 0.36, 0.4, 0.92),
        "berths": _box(boat, 0.26, 0.36, 0.0, 0.38),
        "saloon": _box(boat, 0.37, 0.54, 0.12, 0.6),
        "tanks": _box(boat, 0.37, 0.54, 0.62, 0.92),
        "bilge": _box(boat, 0.37, 0.54, 0.0, 0.1),
        "galley": _box(boat, 0.55, 0.67, 0.5, 0.92),
        "nav": _box(boat, 0.55, 0.67, 0.0, 0.22),
        "engine": _box(boat, 0.55, 0.72, 0.24, 0.48) if boat.engines else (),
        "lazarette": _box(boat, 0.74, 0.97, 0.0, 0.85),
    }
    return {
        "outline": ((*starboard, *mirrored(starboard)),),
        "foredeck": (port(foredeck),),
        "deck": (port(side),),
        "cockpit": (port(cockpit),),
        "house": (port(house),),
        **{name: (shape,) for name, shape in inside.items() if shape},
    }


def _plan_two(boat: Boat) -> dict[str, tuple[Poly, ...]]:
    """A catamaran: two hulls, a bridge between them, a net before it. The lower hull is seen from inside."""
    length, half = boat.length_m, boat.beam_m / 2
    slim = boat.length_m * 0.13  # beam of one hull at the deck (judgement)
    centre = half - slim / 2

    def hull(first: float, last: float, share: float = 1.0) -> Poly:
        edge = _side(boat, length * first, length * last, share, slim)
        return tuple((x, centre + y) for x, y in (*edge, *mirrored(edge)))

    def up(points: Poly) -> Poly:
        return tuple((x, -y) for x, y in points)

    bridge = ((length * 0.28, -centre), (length * 0.28, 0.0), (length * 0.9, 0.0), (length * 0.9, -centre))
    house = (
        (length * 0.34, 0.0),
        (length * 0.36, -centre * 0.75),
        (length * 0.64, -centre * 0.8),
        (length * 0.64, 0.0),
    )
    cockpit = (
        (length * 0.65, 0.0),
        (length * 0.65, -centre * 0.8),
        (length * 0.88, -centre * 0.8),
        (length * 0.88, 0.0),
    )
    net = (
        (length * 0.06, 0.0),
        (length * 0.06, -centre + slim * 0.4),
        (length * 0.28, -centre + slim * 0.4),
        (length * 0.28, 0.0),
    )
    inside = {
        "forepeak": hull(0.05, 0.22, 0.9),
        "heads": hull(0.23, 0.36, 0.9),
        "berths": hull(0.37, 0.55, 0.9),
        "tanks": hull(0.56, 0.68, 0.9),
        "engine": hull(0.70, 0.84, 0.9),
        "lazarette": hull(0.86, 0.98, 0.9),
        "saloon": (
            (length * 0.34, 0.1),
            (length * 0.36, centre * 0.72),
            (length * 0.52, centre * 0.74),
            (length * 0.52, 0.1),
        ),
        "galley": (
            (length * 0.53, centre * 0.42),
            (length * 0.53, centre * 0.74),
            (length * 0.64, centre * 0.74),
            (length * 0.64, centre * 0.42),
        ),
        "nav": (
            (length * 0.53, 0.1),
            (length * 0.53, centre * 0.4),
            (length * 0.64, centre * 0.4),
            (length * 0.64, 0.1),
        ),
        "bilge": (
            (length * 0.66, 0.1),
            (length * 0.66, centre * 0.6),
            (length * 0.74, centre * 0.6),
            (length * 0.74, 0.1),
        ),
    }
    port, starboard = up(hull(0, 1)), hull(0, 1)
    lower = tuple((x, -y) for x, y in bridge)
    return {
        "outline": (port, starboard, bridge, lower),
        "deck": (port,),
        "foredeck": (net,),
        "cockpit": (cockpit,),
        "house": (house,),
        **{name: (shape,) for name, shape in inside.items()},
    }
