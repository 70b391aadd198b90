"""What hands meet is one of: which metals, how it is reached, by which means, what is searched for, what is in the way."""

from __future__ import annotations

from enum import StrEnum


class OfMetal(StrEnum):
    """What a fastening, or what it sits in, is made of."""

    STAINLESS = "stainless"
    STEEL = "steel"
    IRON = "iron"
    BRONZE = "bronze"
    BRASS = "brass"
    ALUMINIUM = "aluminium"


class InSeries(StrEnum):
    """A metal of the galvanic series, or what is told with them; their potentials stand in bench/metal.py under the same keys."""

    MAGNESIUM = "magnesium"
    ZINC = "zinc"
    ALUMINIUM = "aluminium"
    STEEL = "steel"
    STAINLESS_STARVED = "stainless_starved"
    BRASS = "brass"
    COPPER = "copper"
    BRONZE = "bronze"
    CUPRONICKEL = "cupronickel"
    LEAD = "lead"
    MONEL = "monel"
    STAINLESS = "stainless"
    TITANIUM = "titanium"
    CARBON = "carbon"


class Holds(StrEnum):
    """How it holds: by a thread, or pressed on or in."""

    THREAD = "thread"
    PRESS = "press"


class Reach(StrEnum):
    """How hands and tools get at it."""

    FREE = "free"
    TIGHT = "tight"
    BLIND = "blind"


class NearIt(StrEnum):
    """What lies beside it and suffers from heat, sparks or shock."""

    WIRING = "wiring"
    BEDDING = "bedding"
    CORE = "core"
    PAINT = "paint"
    RUBBER = "rubber"
    WOOD = "wood"
    FUEL = "fuel"
    GAS = "gas"


class Means(StrEnum):
    """The rungs of the ladder, from what harms least to what leaves nothing."""

    OIL = "oil"
    SHOCK = "shock"
    WARM = "warm"
    COLD = "cold"
    FLAME = "flame"
    PULLER = "puller"
    WELD = "weld"
    DRILL = "drill"
    GRIND = "grind"
    CUT = "cut"


class Tried(StrEnum):
    """How a rung turned out."""

    CAME = "came"
    HELD = "held"
    BROKE = "broke"


class SeizedState(StrEnum):
    """How it stands with the thing: still fast, broken and the rest still in, off, or given to somebody else."""

    FAST = "fast"
    BROKEN = "broken"
    OFF = "off"
    GIVEN_UP = "given up"


class TraceAbout(StrEnum):
    """What is searched for: where it comes from."""

    WATER = "water"
    FUMES = "fumes"
    SMELL = "smell"
    BATTERY = "flat battery"
    HEAT = "warm engine"


class Showed(StrEnum):
    """What one look showed of a candidate: it is the source, it is not, or it can't be said."""

    SOURCE = "source"
    CLEAR = "clear"
    UNCLEAR = "unclear"


class TraceState(StrEnum):
    """How a search stands: open, found, or given up for a reason somebody said."""

    OPEN = "open"
    FOUND = "found"
    GIVEN_UP = "given up"


class Wetness(StrEnum):
    """How wet two metals are where they touch."""

    UNDER = "under water"
    SPLASH = "splash"
    DRY = "dry"


class Larger(StrEnum):
    """Which of two things that touch has the larger wetted surface, by more than about three to one."""

    ONE = "one"
    OTHER = "other"
    ALIKE = "alike"


class CoverSort(StrEnum):
    """What is in the way of work."""

    LOCKER = "locker"
    SOLE = "sole"
    CEILING = "ceiling"
    PANEL = "panel"
    TANK = "tank"
    ENGINE_BOX = "engine box"
