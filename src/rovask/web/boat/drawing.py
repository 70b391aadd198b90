"""The drawing of the boat as marks in pixels: places to choose, pins of findings, ghosts of what is off."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from rovask.core.plain.words import count
from rovask.core.readings.standings import PlaceStanding, Standing
from rovask.core.refit.givens.choices import Fitting, Spot, Which
from rovask.core.refit.givens.kinds import Place
from rovask.core.refit.model import Finding, Refit
from rovask.core.refit.seen.choices import Severity
from rovask.web.boat.curves import Point
from rovask.web.boat.lines import Lines, Mast, bottom_at, lines_of, sheer_at

MARGIN = 26.0
SPAR = 0.08  # half the thickness a mast is drawn with
SKY = 3.4  # metres of rig shown over the deck when it is cut
LABELS = {
    Spot.BOTTOM: "bottom",
    Spot.KEEL: "keel",
    Spot.RUDDER: "rudder",
    Spot.SHAFT: "propeller",
    Spot.TOPSIDES: "topsides",
    Spot.FOREPEAK: "forepeak",
    Spot.HEADS: "heads",
    Spot.BERTHS: "cabin",
    Spot.SALOON: "saloon",
    Spot.TANKS: "tanks",
    Spot.GALLEY: "galley",
    Spot.NAV: "chart",
    Spot.ENGINE: "engine",
    Spot.LAZARETTE: "lazarette",
    Spot.FOREDECK: "foredeck",
    Spot.COCKPIT: "cockpit",
    Spot.DECK: "side deck",
}
_PROFILE = (Spot.TOPSIDES, Spot.BOTTOM, Spot.KEEL, Spot.WATERLINE, Spot.RUDDER, Spot.SHAFT, Spot.THROUGH_HULLS)
_ON_DECK = (Spot.DECK, Spot.FOREDECK, Spot.COCKPIT)
_INSIDE = (Spot.FOREPEAK, Spot.HEADS, Spot.BERTHS, Spot.SALOON, Spot.TANKS, Spot.BILGE, Spot.GALLEY, Spot.NAV)
_AFT = (Spot.ENGINE, Spot.LAZARETTE)


@dataclass(frozen=True, slots=True)
class Shape:
    """A place on the drawing. ghost: what makes it up is off the boat. x, y: where its pins go."""

    place: str
    path: str
    standing: Standing
    told: str
    ghost: bool
    x: float
    y: float
    label: str = ""
    label_size: float = 10
    thin: bool = False  # too thin to be touched: reached by what is round it too


@dataclass(frozen=True, slots=True)
class FindingPin:
    """A finding, numbered as in the list beside the drawing."""

    number: int
    finding: str
    x: float
    y: float
    severity: Severity
    told: str


@dataclass(frozen=True)
class Drawing:
    """Everything to be drawn, in pixels. plain: outlines that are no place; rigging: thin lines; breaks: cut masts."""

    width: float
    height: float
    waterline: float
    centre: float
    scale: float
    shapes: list[Shape] = field(default_factory=list)
    plain: list[str] = field(default_factory=list)
    rigging: list[str] = field(default_factory=list)
    spars: list[str] = field(default_factory=list)
    details: list[str] = field(default_factory=list)
    breaks: list[Point] = field(default_factory=list)
    pins: list[FindingPin] = field(default_factory=list)
    elsewhere: list[Shape] = field(default_factory=list)
    sky: float = 0.0


class _Paper:
    """From metres to pixels: the profile above, the plan below it."""

    def __init__(self, lines: Lines, width: float, whole: bool) -> None:
        boat = lines.boat
        ahead, astern = 0.4 + lines.bowsprit, 0.9
        self.scale = (width - 2 * MARGIN) / (boat.length_m + ahead + astern)
        self.left = MARGIN + ahead * self.scale
        self.top = lines.top if whole else min(lines.top, lines.bow + SKY)
        self.waterline = MARGIN / 2 + self.top * self.scale
        self.keel = self.waterline + boat.draft_m * self.scale
        self.centre = self.keel + 30 + boat.beam_m / 2 * self.scale
        self.height = self.keel + 10 if whole else self.centre + boat.beam_m / 2 * self.scale + 16

    def profile(self, point: Point) -> Point:
        """A point of the profile."""
        return self.left + point[0] * self.scale, self.waterline - point[1] * self.scale

    def plan(self, point: Point) -> Point:
        """A point of the plan."""
        return self.left + point[0] * self.scale, self.centre + point[1] * self.scale


def path_of(points: list[Point], closed: bool = True) -> str:
    """An SVG path through points."""
    return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in points) + ("Z" if closed else "")


def draw(
    refit: Refit, standings: Mapping[str, PlaceStanding], width: float, whole: bool = False, side: Which | None = None
) -> Drawing:
    """The drawing, ``width`` pixels wide. whole: the profile with all of the rig; else the rig is cut and the plan shown.

    side: of what there are two of, which is drawn; the others stand beside the drawing. None: the first of each.
    """
    lines = lines_of(refit.boat)
    paper = _Paper(lines, width, whole)
    out = Drawing(width, paper.height, paper.waterline, paper.centre, paper.scale, sky=MARGIN / 2)
    for stroke in lines.strokes:
        out.rigging.append(path_of([paper.profile(point) for point in stroke], closed=False))
    for mast in lines.masts:
        _spar(out, paper, mast)
    for name in ("house", "skeg", "tube"):
        if name in lines.profile:
            out.plain.append(path_of([paper.profile(point) for point in lines.profile[name]]))
    if not whole:
        for poly in (*lines.plan["outline"], *lines.plan["house"]):
            out.plain.append(path_of([paper.plan(point) for point in poly]))
        _details(out, paper, lines)
    firsts: dict[Spot, Place] = {}
    for place in refit.places:
        if place.spot is not None and (place.spot not in firsts or (side is not None and place.which is side)):
            firsts[place.spot] = place
    drawn = {shape.place for shape in _shapes(out, paper, lines, firsts, standings, whole)}
    masts = [place for place in refit.places if place.spot in (Spot.RIG, Spot.MAST)]
    drawn |= _mast_places(out, paper, lines, masts, standings)
    for place in refit.places:
        if place.id not in drawn:
            out.elsewhere.append(_shape(place, "", standings, (0.0, 0.0)))
    _pins(out, refit, standings)
    return out


def _spar(out: Drawing, paper: _Paper, mast: Mast) -> None:
    """A mast as a spar; a cut one is broken off below its break mark."""
    top = min(mast.top, paper.top)
    box = ((mast.x - SPAR, mast.foot), (mast.x - SPAR, top), (mast.x + SPAR, top), (mast.x + SPAR, mast.foot))
    out.spars.append(path_of([paper.profile(point) for point in box]))
    if mast.top > paper.top:
        out.breaks.append(paper.profile((mast.x, paper.top)))


def _details(out: Drawing, paper: _Paper, lines: Lines) -> None:
    """What makes a deck a deck: hatches, winches, the windlass, the masts where they come through."""
    boat, details = lines.boat, []
    length, one_hull = boat.length_m, boat.hulls == 1
    if one_hull:
        for share, size in ((0.2, 0.5), (0.35, 0.4), (0.58, 0.5)):
            x = length * share
            details.append(((x, -0.02), (x, -size / 2), (x + size, -size / 2), (x + size, -0.02)))
        wheel = length * 0.86
        details.append(((wheel, 0.0), (wheel, -0.45), (wheel + 0.05, -0.45), (wheel + 0.05, 0.0)))
    if Fitting.WINDLASS in boat.fitted and one_hull:
        details.append(((length * 0.07, 0.0), (length * 0.07, -0.17), (length * 0.1, -0.17), (length * 0.1, 0.0)))
    out.details.extend(path_of([paper.plan(point) for point in box]) for box in details)
    y = -boat.beam_m * (0.31 if one_hull else 0.34)
    rounds = [(length * share, y, 0.13) for share in ((0.74, 0.8) if one_hull else (0.7, 0.76))]
    rounds += [(mast.x, -0.001, 0.13) for mast in lines.masts]
    for x, across, size in rounds:
        cx, cy = paper.plan((x, across))
        r = size * paper.scale
        arc = f"a{r:.1f} {r:.1f} 0 0 1 {2 * r:.1f} 0"
        out.details.append(
            f"M{cx - r:.1f} {cy:.1f}{arc}" + ("Z" if across > -0.1 else f"a{r:.1f} {r:.1f} 0 0 1 {-2 * r:.1f} 0Z")
        )


def _shapes(
    out: Drawing,
    paper: _Paper,
    lines: Lines,
    firsts: Mapping[Spot, Place],
    standings: Mapping[str, PlaceStanding],
    whole: bool,
) -> list[Shape]:
    for spot in _PROFILE:
        place = firsts.get(spot)
        if place is None:
            continue
        if spot is Spot.THROUGH_HULLS:
            out.shapes.append(_openings(paper, lines, place, standings))
        elif spot.value in lines.profile:
            points = [paper.profile(point) for point in lines.profile[spot.value]]
            shape = _shape(place, path_of(points), standings, _middle(points), _room(points))
            if spot in (Spot.TOPSIDES, Spot.BOTTOM):  # the middle is crowded: keel, mast and openings
                shape = replace(shape, x=paper.profile((lines.boat.length_m * 0.23, 0))[0])
            out.shapes.append(shape)
    if whole:
        return out.shapes
    for spot in (*_ON_DECK, *_INSIDE, *_AFT):
        place = firsts.get(spot)
        if place is None or spot.value not in lines.plan:
            continue
        polys = [[paper.plan(point) for point in poly] for poly in lines.plan[spot.value]]
        anchor = _middle(polys[0])
        if spot is Spot.DECK and lines.boat.hulls == 1:
            anchor = paper.plan((lines.boat.length_m * 0.5, -lines.boat.beam_m * 0.40))
        out.shapes.append(_shape(place, "".join(map(path_of, polys)), standings, anchor, _room(polys[0])))
    return out.shapes


def _mast_places(
    out: Drawing, paper: _Paper, lines: Lines, places: list[Place], standings: Mapping[str, PlaceStanding]
) -> set[str]:
    """The mast from its step to the boom, and the rig over it, of each mast."""
    drawn = set()
    for spot in (Spot.RIG, Spot.MAST):
        for place, mast in zip((one for one in places if one.spot is spot), lines.masts, strict=False):
            boom = sheer_at(lines.boat, mast.x) + lines.boat.length_m * 0.11
            low, high = (boom, paper.top) if spot is Spot.RIG else (max(mast.foot, -0.2), boom)
            box = [(mast.x - SPAR, low), (mast.x - SPAR, high), (mast.x + SPAR, high), (mast.x + SPAR, low)]
            points = [paper.profile(point) for point in box]
            shape = _shape(place, path_of(points), standings, (points[0][0] + 16, points[1][1] + 26))
            out.shapes.append(shape)
            drawn.add(place.id)
    return drawn


def _openings(paper: _Paper, lines: Lines, place: Place, standings: Mapping[str, PlaceStanding]) -> Shape:
    """The openings of the hull as dots along the bottom."""
    boat, path, anchor = lines.boat, "", (0.0, 0.0)
    count = max(min(boat.through_hulls, 16), 1)
    for n in range(count):
        x = boat.length_m * (0.3 + 0.58 * (n + 0.5) / count)
        cx, cy = paper.profile((x, bottom_at(boat, x) * (0.35 + 0.3 * (n % 2)) - 0.02))
        path += f"M{cx - 5:.1f} {cy:.1f}a5 5 0 1 0 10 0a5 5 0 1 0 -10 0Z"
        anchor = (cx, cy) if n == count // 2 else anchor
    return _shape(place, path, standings, anchor)


def _shape(
    place: Place, path: str, standings: Mapping[str, PlaceStanding], at: Point, room: Point = (0.0, 0.0)
) -> Shape:
    stands = standings[place.id]
    found = f", {count(len(stands.findings), 'finding')}" if stands.findings else ""
    told = f"{place.name}: {stands.standing.value}, {stands.why}{found}"
    label = LABELS.get(place.spot, "") if place.spot else ""
    size = 11.0 if room[0] > len(label) * 6.4 else 9.0
    if room[0] < len(label) * 4.6 or room[1] < 13:
        label = ""
    ghost = stands.standing is Standing.OPEN and place.spot in (Spot.RUDDER, Spot.SHAFT, Spot.KEEL, Spot.RIG, Spot.MAST)
    thin = place.spot in (Spot.RIG, Spot.MAST, Spot.SHAFT, Spot.WATERLINE, Spot.THROUGH_HULLS)
    return Shape(place.id, path, stands.standing, told, ghost, at[0], at[1], label, size, thin)


def _middle(points: list[Point]) -> Point:
    """The centroid of a polygon (its points' mean when it has no area)."""
    area = x = y = 0.0
    for (x0, y0), (x1, y1) in zip(points, points[1:] + points[:1], strict=True):
        cross = x0 * y1 - x1 * y0
        area, x, y = area + cross, x + (x0 + x1) * cross, y + (y0 + y1) * cross
    if abs(area) < 1e-6:
        return sum(p[0] for p in points) / len(points), sum(p[1] for p in points) / len(points)
    return x / (3 * area), y / (3 * area)


def _room(points: list[Point]) -> Point:
    """How much room a shape has for a word: width and height of its box."""
    xs, ys = [p[0] for p in points], [p[1] for p in points]
    return max(xs) - min(xs), max(ys) - min(ys)


def _pins(out: Drawing, refit: Refit, standings: Mapping[str, PlaceStanding]) -> None:
    used: dict[str, int] = {}
    at = {shape.place: shape for shape in out.shapes}
    for number, finding in enumerate(open_findings(refit), 1):
        if finding.place in at:
            shape, count = at[finding.place], used.get(finding.place, 0)
            used[finding.place] = count + 1
            out.pins.append(
                FindingPin(number, finding.id, shape.x + 20 * count, shape.y - 13, finding.severity, finding.title)
            )


def open_findings(refit: Refit) -> list[Finding]:
    """What was found and isn't settled, the worst first."""
    order = list(Severity)
    return sorted((one for one in refit.findings if not one.settled), key=lambda one: -order.index(one.severity))
