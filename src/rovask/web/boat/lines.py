"""The lines of a boat from her figures: profile, and a plan whose upper half is the deck and lower half the inside.

Metres throughout. Profile: x from the bow aft, z upward from the waterline. Plan: x from the bow aft, y to port is
negative (upward on the page), to starboard positive. Shapes are closed polygons, curves are sampled. Proportions that a
boat's figures don't give are ordinary ones, by judgement; the drawing is to know her by, not to build her by.
"""

from __future__ import annotations

from dataclasses import dataclass, field

from rovask.core.bench.bottom import freeboards
from rovask.core.refit.givens.choices import Drive, Fitting, Keel, MastStep, Rudder
from rovask.core.refit.givens.kinds import Boat
from rovask.web.boat.curves import CABIN, SAMPLES, Poly, curve
from rovask.web.boat.deck import plan_of

BAND = 0.2  # height of the waterline band in metres, drawn wider than it is so that it can be touched


@dataclass(frozen=True)
class Mast:
    """A mast: where it stands, how high its top is over the waterline, and the end of its boom."""

    x: float
    top: float
    foot: float
    boom_end: float


@dataclass(frozen=True)
class Lines:
    """All shapes of one boat. profile and plan: named closed shapes. strokes: open lines of the profile."""

    boat: Boat
    bow: float
    stern: float
    masts: tuple[Mast, ...]
    profile: dict[str, Poly] = field(default_factory=dict)
    plan: dict[str, tuple[Poly, ...]] = field(default_factory=dict)
    strokes: tuple[Poly, ...] = ()

    @property
    def top(self) -> float:
        """The highest point over the waterline."""
        return max([mast.top for mast in self.masts], default=self.bow + 1.2) + 0.3

    @property
    def bowsprit(self) -> float:
        """How far a bowsprit sticks out before the bow."""
        return self.boat.length_m * 0.1 if Fitting.BOWSPRIT in self.boat.fitted else 0.0


def lines_of(boat: Boat) -> Lines:
    """The lines of a boat."""
    bow, stern = freeboards(boat)
    lines = Lines(boat, bow, stern, _masts(boat, bow))
    profile = _hull(boat, bow, stern) | _keel(boat) | _rudder(boat, stern) | _drive(boat)
    return Lines(boat, bow, stern, lines.masts, profile, plan_of(boat), _rigging(boat, lines))


def _overhangs(boat: Boat) -> tuple[float, float]:
    over = boat.length_m - boat.waterline_m
    return over * 0.55, over * 0.45


def body_depth(boat: Boat) -> float:
    """Depth of the hull itself below the waterline, without the keel."""
    if boat.keel is Keel.LONG:
        return min(boat.draft_m * 0.55, boat.waterline_m * 0.09)
    return min(boat.draft_m * 0.45, boat.waterline_m * 0.055)


def bottom_at(boat: Boat, x: float) -> float:
    """z of the hull's bottom (negative) at x, keel left out."""
    ahead, astern = _overhangs(boat)
    run = (x - ahead) / (boat.length_m - ahead - astern)
    share = max(0.0, 1 - (2 * run - 1) ** 2) if 0 <= run <= 1 else 0.0
    return -body_depth(boat) * float(share**0.7)


def sheer_at(boat: Boat, x: float) -> float:
    """z of the deck edge at x: highest at the bow, lowest two thirds aft."""
    bow, stern = freeboards(boat)
    low = min(bow, stern) * 0.94
    t = x / boat.length_m
    if t < 0.68:
        return low + (bow - low) * (1 - t / 0.68) ** 2
    return low + (stern - low) * ((t - 0.68) / 0.32) ** 2


def _hull(boat: Boat, bow: float, stern: float) -> dict[str, Poly]:
    length = boat.length_m
    ahead, astern = _overhangs(boat)
    ends = (length - astern, 0.0)
    sheer = tuple((length * n / 24, sheer_at(boat, length * n / 24)) for n in range(25))
    stem = curve((0, bow), (ahead * 0.25, bow * 0.35), (ahead, 0))
    counter = curve((length, stern), (length - astern * 0.15, stern * 0.45), ends)
    under = tuple(
        (ahead + boat.waterline_m * n / 24, bottom_at(boat, ahead + boat.waterline_m * n / 24)) for n in range(25)
    )
    cabin_from, cabin_to = (length * share for share in CABIN)
    high = max(0.35, length * 0.045)
    house = (
        (cabin_from - high * 0.6, sheer_at(boat, cabin_from)),
        *curve(
            (cabin_from + high * 0.3, sheer_at(boat, cabin_from) + high * 0.8),
            ((cabin_from + cabin_to) / 2, sheer_at(boat, cabin_from) + high * 1.3),
            (cabin_to - high * 0.2, sheer_at(boat, cabin_to) + high),
        ),
        (cabin_to + high * 0.4, sheer_at(boat, cabin_to)),
    )
    if boat.hulls > 1:
        house = tuple((x, z + high * 0.5 if z > stern + 0.2 else z) for x, z in house)
    band = ((ahead * 0.92, BAND / 2), (length - astern * 0.96, BAND / 2), ends, (ahead, 0))
    return {
        "topsides": (*sheer, *counter, *tuple(reversed(stem))),
        "waterline": band,
        "bottom": (*under, ends, (ahead, 0)),
        "house": house,
    }


def _keel(boat: Boat) -> dict[str, Poly]:
    length, draft = boat.length_m, -boat.draft_m
    ahead, astern = _overhangs(boat)
    if boat.keel is Keel.LONG:
        aft = length - astern - boat.waterline_m * 0.06
        fore = ahead + boat.waterline_m * 0.12
        forefoot = curve(
            (fore, bottom_at(boat, fore)), (ahead + boat.waterline_m * 0.3, draft * 0.95), (length * 0.5, draft)
        )
        top = tuple((x, bottom_at(boat, x)) for n in range(SAMPLES + 1) for x in [aft + (fore - aft) * n / SAMPLES])
        return {"keel": (*forefoot, (aft - boat.waterline_m * 0.07, draft), *top)}
    if boat.keel is Keel.CENTREBOARD:
        root, tip = length * 0.42, length * 0.53
        return {
            "keel": (
                (root, bottom_at(boat, root)),
                (tip - length * 0.02, draft),
                (tip + length * 0.04, draft * 0.97),
                (root + length * 0.13, bottom_at(boat, root + length * 0.13)),
            )
        }
    chord = 0.17 if boat.keel is Keel.FIN else 0.2
    root = length * 0.40
    sweep = length * (0.05 if boat.keel is Keel.FIN else 0.02)
    aft = root + length * chord
    return {
        "keel": (
            (root, bottom_at(boat, root)),
            *curve((root + sweep * 0.9, draft * 0.96), (root + sweep, draft), (root + sweep * 1.2, draft), samples=4),
            *curve(
                (aft + sweep * 0.5, draft), (aft + sweep * 0.7, draft), (aft + sweep * 0.6, draft * 0.95), samples=4
            ),
            (aft, bottom_at(boat, aft)),
        )
    }


def _rudder(boat: Boat, stern: float) -> dict[str, Poly]:
    length, draft = boat.length_m, -boat.draft_m
    _, astern = _overhangs(boat)
    deep = draft * 0.86
    if boat.rudder is Rudder.TRANSOM:
        x = length
        return {
            "rudder": (
                (x - 0.02, stern * 0.75),
                (x + 0.28, stern * 0.75),
                (x + length * 0.045, 0),
                (x + length * 0.03, deep),
                (x - astern * 0.6 + 0.05, deep * 0.98),
                (x - astern * 0.5, 0),
            )
        }
    if boat.rudder is Rudder.KEEL:
        x = length - astern - boat.waterline_m * 0.06
        heel = x - boat.waterline_m * 0.07
        return {
            "rudder": (
                (x, bottom_at(boat, x)),
                (x + length * 0.06, bottom_at(boat, x) * 0.6),
                (x + length * 0.03, draft * 0.8),
                (heel + length * 0.02, draft * 0.98),
                (heel, draft),
            )
        }
    x = length - astern - boat.waterline_m * 0.1
    wide = length * 0.055
    blade = ((x, bottom_at(boat, x)), (x + wide, bottom_at(boat, x + wide)), (x + wide * 0.85, deep), (x, deep * 0.98))
    if boat.rudder is Rudder.SPADE:
        return {"rudder": blade}
    skeg = (
        (x - wide * 0.9, bottom_at(boat, x - wide * 0.9)),
        (x - 0.01, bottom_at(boat, x)),
        (x - 0.01, deep * 0.93),
        (x - wide * 0.35, deep * 0.93),
    )
    return {"rudder": blade, "skeg": skeg}


def _drive(boat: Boat) -> dict[str, Poly]:
    length = boat.length_m
    _, astern = _overhangs(boat)
    size = max(0.2, length * 0.022)
    if boat.drive is Drive.SHAFT:
        if boat.keel is Keel.LONG:
            x = length - astern - boat.waterline_m * 0.085
            z = (bottom_at(boat, x) - boat.draft_m) / 2
            return {"shaft": _blades(x, z, size)}
        fore, aft = length * 0.66, length * 0.66 + boat.waterline_m * 0.11
        z0, z1 = bottom_at(boat, fore), bottom_at(boat, fore) - size * 1.3
        tube = ((fore, z0 + 0.05), (aft, z1 + 0.04), (aft, z1 - 0.04), (fore, z0 - 0.06))
        return {"shaft": _blades(aft + 0.08, z1, size), "tube": tube}
    if boat.drive is Drive.LEG:
        x = length * 0.70
        z = bottom_at(boat, x)
        leg = (
            (x, z + 0.1),
            (x + 0.32, z + 0.1),
            (x + 0.3, z - 0.42),
            (x + 0.42, z - 0.5),
            (x + 0.05, z - 0.55),
            (x + 0.06, z - 0.4),
        )
        return {"tube": leg, "shaft": _blades(x + 0.5, z - 0.47, size * 0.9)}
    if boat.drive is Drive.OUTBOARD:
        x = length + 0.06
        motor = (
            (x, 0.75),
            (x + 0.32, 0.72),
            (x + 0.34, 0.35),
            (x + 0.2, 0.3),
            (x + 0.2, -0.45),
            (x + 0.08, -0.45),
            (x + 0.04, 0.3),
        )
        return {"tube": motor, "shaft": _blades(x + 0.28, -0.4, size * 0.7)}
    return {}


def _blades(x: float, z: float, size: float) -> Poly:
    """A propeller from the side: two narrow blades."""
    return (
        *curve((x, z), (x + size * 0.5, z + size * 0.6), (x, z + size), samples=6),
        *curve((x, z + size), (x - size * 0.3, z + size * 0.5), (x, z), samples=6),
        *curve((x, z), (x + size * 0.5, z - size * 0.6), (x, z - size), samples=6),
        *curve((x, z - size), (x - size * 0.3, z - size * 0.5), (x, z), samples=6),
    )


def _masts(boat: Boat, bow: float) -> tuple[Mast, ...]:
    if boat.masts == 0:
        return ()
    length = boat.length_m
    tall = boat.mast_height_m or length * 1.35
    deck_step = boat.mast_step is MastStep.DECK
    main = length * {1: 0.42, 2: 0.36, 3: 0.3}[boat.masts]
    if boat.masts == 1 and "cutter" in boat.rig.lower():
        main = length * 0.44
    schooner = boat.masts == 2 and "schooner" in boat.rig.lower()
    places = [(main, tall)]
    if schooner:
        places = [(length * 0.3, tall * 0.85), (length * 0.58, tall)]
    elif boat.masts == 2:
        aft = 0.93 if "yawl" in boat.rig.lower() else 0.78
        places.append((length * aft, tall * (0.5 if "yawl" in boat.rig.lower() else 0.7)))
    elif boat.masts == 3:
        places += [(length * 0.58, tall * 0.95), (length * 0.85, tall * 0.65)]
    out = []
    for at, (x, top) in enumerate(places):
        after = places[at + 1][0] if at + 1 < len(places) else length * 1.0
        foot = sheer_at(boat, x) + (length * 0.05 if CABIN[0] < x / length < CABIN[1] else 0)
        foot = foot if deck_step else bottom_at(boat, x) + 0.15
        out.append(Mast(x, top, foot, min(after - 0.4, x + length * 0.36)))
    return tuple(out)


def _rigging(boat: Boat, lines: Lines) -> tuple[Poly, ...]:
    """Stays, booms and spreaders."""
    if not lines.masts:
        return ()
    length, out = boat.length_m, []
    first, last = lines.masts[0], lines.masts[-1]
    main = max(lines.masts, key=lambda mast: mast.top)
    tack = (-lines.bowsprit, lines.bow + (0.15 if lines.bowsprit else 0))
    fraction = 0.86 if boat.hulls > 1 else 1.0
    out.append((tack, (first.x, lines.bow + (first.top - lines.bow) * fraction)))
    if "cutter" in boat.rig.lower() or lines.bowsprit:
        out.append(((length * 0.1 if not lines.bowsprit else 0.0, lines.bow), (first.x, first.top * 0.74)))
    if boat.hulls == 1:
        out.append(((length, lines.stern), (last.x, last.top)))
    if len(lines.masts) > 1 and main is first:
        out.append(((first.x, first.top), (last.x, last.top)))
    for mast in lines.masts:
        boom = max(sheer_at(boat, mast.x), 0.8) + length * 0.11
        out.append(((mast.x, boom), (mast.boom_end, boom - 0.05)))
        spreads = 2 if mast.top > 13 else 1
        for n in range(1, spreads + 1):
            z = boom + (mast.top - boom) * n / (spreads + 1)
            out.append(((mast.x - 0.35, z), (mast.x + 0.35, z)))
    if lines.bowsprit:
        out.append(((length * 0.04, lines.bow), tack))
    return tuple(out)
