"""Does the new one fit where the old one sits? Every clash with its millimetres, and what must be made or moved for it."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from pydantic import Field

from rovask.core.refit.craft.kinds import Fit, Measures, WayIn
from rovask.core.refit.values import Frozen, Line, Text

FINE = 0.5  # mm by which two measured things may differ and are still the same (a rule and a steady hand)


class Remedy(Frozen):
    """What is made or moved for a kind of clash, from _fits.toml: hours of work, hours it cures before the thing is fitted."""

    make: Line
    hours: float = Field(gt=0, le=200)
    wait: float = Field(default=0, ge=0, le=400)
    note: Text = ""


class FitTables(Frozen):
    """The remedies by kind of clash, and where their hours come from."""

    fits_source: Text
    remedy: dict[str, Remedy]


@dataclass(frozen=True, slots=True)
class Clash:
    """Where it does not fit. key: of this clash on this sheet; of: its kind, a key of the remedies. off: by how much, in ``unit``.

    said: a sentence. must: it can't be fitted like this at all; else it can, when something is made.
    """

    key: str
    of: str
    said: str
    off: float
    unit: str = "mm"
    must: bool = True


def clashes(fit: Fit) -> list[Clash]:
    """Every clash of a sheet, in the order in which one measures. What is not known on either side clashes with nothing."""
    return [*_foot(fit), *_holes(fit), *_room(fit), *_ways(fit), *_works(fit)]


def unknown_yet(fit: Fit) -> list[str]:
    """What ought to be measured or read in the data sheet and isn't: the sheet says nothing of it."""
    out = []
    for name, words in (("length", "length of its foot"), ("width", "width of its foot"), ("height", "height")):
        if getattr(fit.new, name) is None:
            out.append(f"the new one's {words}")
    if (fit.old.circle or fit.old.along) and not (fit.new.circle or fit.new.along):
        out.append("the new one's holes")
    if fit.room.height is None:
        out.append("how high there is room")
    if not fit.ways_in:
        out.append("the openings it comes through")
    return out


def with_coats(new: Measures) -> Measures:
    """A thing as it is when it is painted: larger by a coat on both faces. Its holes are drilled for its bolts, so they stay.

    >>> with_coats(Measures(width=42.0, hole=9.0, coat=0.4)).width
    42.8
    """
    if not new.coat:
        return new
    more = {
        name: value + 2 * new.coat
        for name in ("length", "width", "height")
        if (value := getattr(new, name)) is not None
    }
    if new.swing is not None:
        more["swing"] = new.swing + new.coat
    return new.model_copy(update=more)


def _foot(fit: Fit) -> Iterator[Clash]:
    new = with_coats(fit.new)
    for name, words in (("length", "longer"), ("width", "wider")):
        mine, old, room = getattr(new, name), getattr(fit.old, name), getattr(fit.room, name)
        if mine is None:
            continue
        if room is not None and mine + 2 * fit.play > room + 1e-9:
            over = mine + 2 * fit.play - room
            play = f" and {fit.play:g} mm free on each side" if fit.play else ""
            yield Clash(
                f"room-{name}",
                "move",
                f"{over:.1f} mm {words} than there is room ({mine:g} mm{play} in {room:g} mm)",
                over,
            )
        if old is not None and mine - old > FINE:
            yield Clash(f"foot-{name}", "base", f"foot {mine - old:.1f} mm {words} than the old one: {(mine - old) / 2:.1f} mm over its base on each side", mine - old)  # fmt: skip
        elif old is not None and old - mine > FINE:
            yield Clash(f"print-{name}", "print", f"foot {old - mine:.1f} mm less {'long' if name == 'length' else 'wide'}: the old one's print shows", old - mine, must=False)  # fmt: skip


def _holes(fit: Fit) -> Iterator[Clash]:
    old, new = fit.old, fit.new
    apart = _between_holes(old, new)
    if old.holes and new.holes and old.holes != new.holes:
        off = abs(new.holes - old.holes)
        yield Clash("holes", "holes", f"{new.holes} holes where there are {old.holes}", off, "holes")
    elif apart is not None and apart > FINE:
        yield Clash("pattern", "holes", f"new holes {apart:.1f} mm from the old ones{_cut(old, new, apart)}", apart)
    elif (new.circle and old.along and not old.circle) or (new.along and old.circle and not new.circle):
        yield Clash("pattern", "holes", "holes in a ring where they stand in a rectangle: lay the template on", 0.0)
    if old.hole and new.hole and new.hole - old.hole > FINE:
        yield Clash("hole", "drill", f"holes to be drilled {new.hole - old.hole:.1f} mm larger", new.hole - old.hole)
    elif old.hole and new.hole and old.hole - new.hole > FINE:
        yield Clash(
            "hole", "sleeve", f"bolts have {old.hole - new.hole:.1f} mm of play in the old holes", old.hole - new.hole
        )
    if old.thread and new.thread and _plain(old.thread) != _plain(new.thread):
        yield Clash("thread", "thread", f"thread {new.thread} where it is {old.thread}", 0.0, "")


def _between_holes(old: Measures, new: Measures) -> float | None:
    """How far the middle of each new hole lies from the old one's, laid middle on middle; None where either isn't known."""
    if old.circle and new.circle:
        return abs(new.circle - old.circle) / 2
    if old.along and new.along:
        return math.hypot(new.along - old.along, (new.across or 0) - (old.across or 0)) / 2
    return None


def _cut(old: Measures, new: Measures, apart: float) -> str:
    """Whether new holes run into old ones, or leave too little between them."""
    if not (old.hole and new.hole):
        return ""
    left = apart - (old.hole + new.hole) / 2
    if left < 0:
        return ": they run into one another"
    return (
        f": {left:.1f} mm between their edges, too little to hold"
        if left < new.hole / 2
        else f": {left:.1f} mm between their edges"
    )


def _plain(thread: str) -> str:
    return "".join(thread.lower().split()).replace("×", "x").replace(",", ".")


def _room(fit: Fit) -> Iterator[Clash]:
    new = with_coats(fit.new)
    for name, words in (("height", "higher than there is room"), ("swing", "more than it can turn or open in")):
        mine, room = getattr(new, name), getattr(fit.room, name)
        if mine is not None and room is not None and mine + fit.play > room + 1e-9:
            over = mine + fit.play - room
            play = f" and {fit.play:g} mm free" if fit.play else ""
            yield Clash(f"room-{name}", "move", f"{over:.1f} mm {words} ({mine:g} mm{play} in {room:g} mm)", over)


def passes(one: float, other: float, way: WayIn) -> bool:
    """Whether a thing whose face is a rectangle goes through a rectangular opening, straight or tilted.

    p x q in a x b (p >= q, a >= b): p <= a and q <= b; or p > a, q <= b and b >= (2 p q a + (p² - q²) √(p² + q² - a²)) ÷ (p² + q²).
    Carver, American Mathematical Monthly 64 (1957), cited from memory; a test turns rectangles by hand against it.

    >>> way = WayIn(name="hatch", width=450, height=450)
    >>> passes(440, 449, way), passes(610, 20, way), passes(640, 20, way)
    (True, True, False)
    """
    p, q = max(one, other), min(one, other)
    a, b = max(way.width, way.height), min(way.width, way.height)
    if p <= a and q <= b:
        return True
    if q > b or p * p + q * q < a * a:
        return False
    return b >= (2 * p * q * a + (p * p - q * q) * math.sqrt(p * p + q * q - a * a)) / (p * p + q * q) - 1e-9


def _ways(fit: Fit) -> Iterator[Clash]:
    sides = [getattr(fit.new, name) for name in ("length", "width", "height")]
    if None in sides:
        return
    low, middle, _ = sorted(float(side) for side in sides if side is not None)
    for at, way in enumerate(fit.ways_in):
        if not passes(low, middle, way):
            wide, high = sorted((way.width, way.height))
            off = max(low - wide, middle - high, 0.1)
            said = f"does not come through “{way.name}”: its end is {low:g} × {middle:g} mm, the opening {way.width:g} × {way.height:g} mm"
            yield Clash(f"way-{at}", "way", said, off)


def _works(fit: Fit) -> Iterator[Clash]:
    need, new = fit.room, fit.new
    if need.load_kg is not None and new.load_kg is not None and new.load_kg < need.load_kg:
        yield Clash(
            "load",
            "load",
            f"carries {new.load_kg:g} kg where {need.load_kg:g} kg are wanted",
            need.load_kg - new.load_kg,
            "kg",
        )
    volts = need.volts if need.volts is not None else fit.old.volts
    if volts is not None and new.volts is not None and volts != new.volts:
        yield Clash("volts", "volts", f"{new.volts:g} V where there are {volts:g} V", abs(new.volts - volts), "V")
    if need.amps is not None and new.amps is not None and new.amps > need.amps:
        yield Clash(
            "amps",
            "amps",
            f"takes {new.amps:g} A where the cable and fuse carry {need.amps:g} A",
            new.amps - need.amps,
            "A",
        )


def hours_of(found: list[Clash], remedies: Mapping[str, Remedy]) -> float:
    """Hours of all that must be made or moved, by the usual figures; one remedy counts once for each clash it is for."""
    return sum(remedies[one.of].hours for one in found if one.of in remedies)
