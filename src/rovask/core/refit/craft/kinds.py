"""What hands meet: what will not come off, what is measured before it is ordered, shapes, searches, metals, what is in the way."""

from __future__ import annotations

from itertools import pairwise
from typing import Annotated, Self

from pydantic import Field, model_validator

from rovask.core.refit.craft.choices import (
    CoverSort,
    Holds,
    InSeries,
    Larger,
    Means,
    NearIt,
    OfMetal,
    Reach,
    SeizedState,
    Showed,
    TraceAbout,
    TraceState,
    Tried,
    Wetness,
)
from rovask.core.refit.register import Gone, To, kept
from rovask.core.refit.values import Day, Frozen, Hours, Key, Label, Line, Moment, Remark, Text

Mm = Annotated[float, Field(strict=True, ge=0, le=20000, allow_inf_nan=False)]
Along = Annotated[float, Field(strict=True, ge=-20000, le=20000, allow_inf_nan=False)]
Amount = Annotated[float, Field(strict=True, ge=0, le=1e6, allow_inf_nan=False)]
InTask = Annotated[Key, To("task", Gone.FORGET)]
AtPlace = Annotated[Key, To("place", Gone.ASK)]


class Rung(Frozen):
    """One means that was tried, and how it turned out."""

    means: Means
    outcome: Tried
    at: Moment


@kept(
    "seized", "seized", table="seized", word="seized thing", page="hands", fresh={"size_mm": 8, "years": 10}, most=400
)
class Seized(Frozen):
    """A thing that will not come off: a bolt, a nut, a bush. The ladder of means is worked out from it (core/craft/seized.py).

    task: the work in which it was met; place: where, when it was met in none. metal: of the fastening or of the inner part; around: what it sits in. size_mm: across
    the thread or the fit, 2 to 200; years: since it was last apart. wet: it lives under water or in the splash. near: what lies
    beside it. part: a new one, had before anything is done that may break it. now: the means that is in the plan; tried: those
    before. Its tasks are ``<id>-<means>``; its unknowns ``<id>-rest`` and ``<id>-break``.
    """

    id: Annotated[Key, Field(max_length=26)]
    title: Line
    task: InTask | None = None
    place: AtPlace | None = None
    holds: Holds = Holds.THREAD
    metal: OfMetal = OfMetal.STAINLESS
    around: OfMetal = OfMetal.STAINLESS
    size_mm: Annotated[float, Field(strict=True, ge=2, le=200, allow_inf_nan=False)]
    years: Annotated[int, Field(strict=True, ge=0, le=99)] = 10
    wet: Annotated[bool, Field(strict=True)] = True
    reach: Reach = Reach.FREE
    near: Annotated[tuple[NearIt, ...], Field(max_length=8)] = ()
    part: Annotated[Key, To("part", Gone.FORGET)] | None = None
    now: Means | None = None
    tried: Annotated[tuple[Rung, ...], Field(max_length=20)] = ()
    state: SeizedState = SeizedState.FAST
    note: Remark = ""
    at: Moment


class Measures(Frozen):
    """What was measured of a thing, or stands in its data sheet; None: not known. In mm unless said.

    length, width: of its foot, along and across; height: over it. holes: how many; circle: through their middles, where they
    stand in a ring; along, across: between their middles, where they stand in a rectangle; hole: across each. swing: what it needs
    round its middle to turn or open. load_kg: what it carries in work; volts, amps; thread: as written (M8, 3/8-16). coat: of
    paint on each face.
    """

    length: Mm | None = None
    width: Mm | None = None
    height: Mm | None = None
    holes: Annotated[int, Field(strict=True, ge=0, le=60)] | None = None
    circle: Mm | None = None
    along: Mm | None = None
    across: Mm | None = None
    hole: Mm | None = None
    swing: Mm | None = None
    load_kg: Amount | None = None
    volts: Amount | None = None
    amps: Amount | None = None
    thread: Label = ""
    coat: Mm | None = None

    @property
    def said(self) -> dict[str, float | int | str]:
        """What is known of it, by name."""
        return {name: value for name, value in self.model_dump().items() if value not in (None, "")}


class WayIn(Frozen):
    """An opening that a thing has to come through: a hatch, the companionway; free width and height in mm."""

    name: Line
    width: Annotated[Mm, Field(gt=0)]
    height: Annotated[Mm, Field(gt=0)]


@kept("fit", "fits", table="fit", word="measured sheet", page="hands", planned=False, most=400)
class Fit(Frozen):
    """A thing that is to be replaced, measured before the new one is ordered: its old figures, the new ones' beside them.

    task: the work that fits it; part: the new one. old: as it sits there, with its holes; room: what there is for it, up to the next
    thing, and what the place demands of it (load, volts, amps its circuit carries). new: by its data sheet. ways_in: what it must come through.
    play: mm that must stay free on each side. settled: clashes that are in the plan, or that somebody said do not matter.
    """

    id: Key
    title: Line
    task: InTask | None = None
    part: Annotated[Key, To("part", Gone.FORGET)] | None = None
    old: Measures = Measures()
    room: Measures = Measures()
    new: Measures = Measures()
    ways_in: Annotated[tuple[WayIn, ...], Field(max_length=12)] = ()
    play: Mm = 0
    settled: Annotated[tuple[Label, ...], Field(max_length=60)] = ()
    note: Text = ""
    at: Moment


class Corner(Frozen):
    """A corner of a shape, mm along and across from any point one chose."""

    x: Along
    y: Along


class Hole(Frozen):
    """A hole in a shape: its middle, and across, in mm."""

    x: Along
    y: Along
    d: Annotated[Mm, Field(gt=0)]


@kept("shape", "shapes", table="shape", word="shape", page="hands", planned=False, most=400)
class Shape(Frozen):
    """The shape of a thing that is made: its outline corner by corner, its holes, how thick, of what. mirror_of: the one it is
    the other side's of. task: the work that makes it.
    """

    id: Key
    title: Line
    task: InTask | None = None
    corners: Annotated[tuple[Corner, ...], Field(min_length=3, max_length=200)]
    holes: Annotated[tuple[Hole, ...], Field(max_length=100)] = ()
    thick: Mm = 0
    of: Label = ""
    mirror_of: Annotated[Key, To("shape", Gone.FORGET)] | None = None
    note: Text = ""
    at: Moment

    @model_validator(mode="after")
    def _sides(self) -> Self:
        for one, then in pairwise((*self.corners, self.corners[0])):
            if one == then:
                raise ValueError(f"has the corner {one.x:g} {one.y:g} twice running")
        return self


class Looked(Frozen):
    """One look at a candidate, and what it showed."""

    candidate: Label
    showed: Showed
    at: Moment
    note: Remark = ""


class OwnCandidate(Frozen):
    """Where it may come from on this boat besides: weight against the others, and minutes that looking takes."""

    name: Line
    weight: Annotated[float, Field(strict=True, gt=0, le=100, allow_inf_nan=False)] = 5
    minutes: Annotated[int, Field(strict=True, ge=1, le=2000)] = 30


@kept("trace", "traces", table="trace", word="search", page="hands", most=200)
class Trace(Frozen):
    """A search for where something comes from. clues: what was answered, by name (recipes/_whence.toml); own: candidates of this boat.

    task: the searching in the plan; waits: what closes up over it and waits until it is found. found: the candidate that it was;
    why_not: why somebody closes up without knowing.
    """

    id: Key
    title: Line
    about: TraceAbout = TraceAbout.WATER
    place: AtPlace | None = None
    since: Day | None = None
    clues: Annotated[tuple[Label, ...], Field(max_length=40)] = ()
    own: Annotated[tuple[OwnCandidate, ...], Field(max_length=20)] = ()
    looks: Annotated[tuple[Looked, ...], Field(max_length=200)] = ()
    task: InTask | None = None
    waits: Annotated[tuple[Key, ...], Field(max_length=60), To("task", Gone.FORGET)] = ()
    found: Label = ""
    why_not: Remark = ""
    state: TraceState = TraceState.OPEN
    note: Text = ""
    at: Moment


@kept("contact", "contacts", table="contact", word="contact of metals", page="hands", planned=False, most=400)
class Contact(Frozen):
    """Two metals that touch. one, other: of the galvanic series. larger: whose wetted surface is the larger.
    apart: something lies between them that does not conduct. job: in which they are cleaned and kept apart. checked: seen on this boat.
    """

    id: Key
    title: Line
    place: AtPlace | None = None
    one: InSeries
    other: InSeries
    wet: Wetness = Wetness.SPLASH
    larger: Larger = Larger.ALIKE
    apart: Annotated[bool, Field(strict=True)] = False
    job: Annotated[Key, To("job", Gone.FORGET)] | None = None
    note: Remark = ""
    at: Moment


@kept(
    "cover",
    "covers",
    table="cover",
    word="thing in the way",
    page="hands",
    fresh={"open_hours": 1, "close_hours": 1},
    most=200,
)
class Cover(Frozen):
    """What must be emptied, lifted or taken off to get at work, once for all jobs behind it.

    bunks: how many can't be slept in while it is open. open_task, close_task: in the plan; the jobs behind it are those tied between them.
    """

    id: Key
    title: Line
    place: AtPlace | None = None
    sort: CoverSort = CoverSort.LOCKER
    open_hours: Annotated[Hours, Field(gt=0)] = 1
    close_hours: Annotated[Hours, Field(gt=0)] = 1
    bunks: Annotated[int, Field(strict=True, ge=0, le=12)] = 0
    open_task: InTask | None = None
    close_task: InTask | None = None
    note: Remark = ""
    at: Moment
