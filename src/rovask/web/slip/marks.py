"""The marks the Slip is drawn with, in pixels from the top left."""

from __future__ import annotations

from dataclasses import dataclass, field

from rovask.core.plain.derived import Derived


@dataclass(frozen=True, slots=True)
class Block:
    """A task: a rectangle in its band. ``tone``: done, doing, todo. ``fill``: share that is done. ``sky``: needs weather."""

    task: str
    title: str
    told: str
    x: float
    y: float
    width: float
    height: float
    tone: str
    fill: float
    keel: bool
    bite: bool
    pinned: bool
    optional: bool
    name: str = ""
    sky: bool = False


@dataclass(frozen=True, slots=True)
class Tail:
    """A cure: hatched, running on from its block through the night."""

    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True, slots=True)
class Bracket:
    """An overcoating window: open at (x, y), closed at x + width."""

    x: float
    y: float
    width: float


@dataclass(frozen=True, slots=True)
class Ribbon:
    """A job's stretch in one place, with its name over it."""

    x: float
    y: float
    width: float
    height: float
    label: str
    label_x: float
    anchor: str
    done: bool


@dataclass(frozen=True, slots=True)
class Band:
    """A place of the boat."""

    name: str
    y: float
    height: float


@dataclass(frozen=True, slots=True)
class DayMark:
    """A day: its countdown number to launch, its date, whether it is today or a day nobody works ashore."""

    x: float
    width: float
    number: str
    date: str
    today: bool
    quiet: bool


@dataclass(frozen=True, slots=True)
class Parcel:
    """A part on the quay; the thread leads to the block that waits for it."""

    x: float
    told: str
    late: bool
    thread_to: tuple[float, float] | None


@dataclass(frozen=True, slots=True)
class PersonDay:
    """How much of a person's day is planned: a bar of ``height`` on the strip; or away."""

    x: float
    y: float
    width: float
    height: float
    away: bool


@dataclass(frozen=True, slots=True)
class Ghost:
    """Where a block lay before the last change."""

    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True, slots=True)
class Rain:
    """A spell of rain on the weather ribbon; ``heavy`` from 0 to 1."""

    x: float
    width: float
    heavy: float


@dataclass(frozen=True, slots=True)
class Sky:
    """A day on the weather ribbon: coldest and warmest, as far as the forecast goes."""

    x: float
    told: str


@dataclass(frozen=True, slots=True)
class OutageMark:
    """A service of life aboard that is out, on the strip under the quay."""

    x: float
    width: float
    y: float
    told: str
    name: str


@dataclass(frozen=True, slots=True)
class Chance:
    """A dot: one in twenty, and whether it misses what it is measured by."""

    x: float
    y: float
    misses: bool


@dataclass(frozen=True, slots=True)
class Chances:
    """A strip of dots over the bands, with its name, what it says, and how many are later than is shown."""

    name: str
    y: float
    height: float
    dots: list[Chance]
    told: str
    later: int
    of_job: bool = False


@dataclass
class Chart:
    """Everything the template draws."""

    width: float
    height: float = 0
    left: float = 0
    right: float = 0
    top: float = 0
    bands: list[Band] = field(default_factory=list)
    days: list[DayMark] = field(default_factory=list)
    ribbons: list[Ribbon] = field(default_factory=list)
    blocks: list[Block] = field(default_factory=list)
    tails: list[Tail] = field(default_factory=list)
    brackets: list[Bracket] = field(default_factory=list)
    ghosts: list[Ghost] = field(default_factory=list)
    parcels: list[Parcel] = field(default_factory=list)
    people: list[tuple[str, float]] = field(default_factory=list)
    person_days: list[PersonDay] = field(default_factory=list)
    rain: list[Rain] = field(default_factory=list)
    sky: list[Sky] = field(default_factory=list)
    chances: list[Chances] = field(default_factory=list)
    sky_y: float | None = None
    sky_from: float = 0
    sky_end: float | None = None
    outages: list[OutageMark] = field(default_factory=list)
    outage_y: float = 0
    knots: list[tuple[str, float]] = field(default_factory=list)
    quay_y: float = 0
    bands_bottom: float = 0
    water_x: float | None = None
    slot_x: float | None = None
    now_x: float | None = None
    now_told: str = ""
    launch_told: str = ""
    derived: Derived = field(default_factory=Derived, compare=False, repr=False)
