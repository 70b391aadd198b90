"""Everything in a refit that is one of a few: how much, where, who, which kind."""

from __future__ import annotations

from enum import StrEnum


class Need(StrEnum):
    """How much a job matters: *must* holds the launch, *should* and *could* give way to it."""

    MUST = "must"
    SHOULD = "should"
    COULD = "could"


class State(StrEnum):
    """Where the boat has to be for a task.

    *lifting*: while she is lifted, washed and blocked at the haul-out; ashore work waits until that is over.
    *slings*: lifted for the launch and not let go yet.
    """

    AFLOAT_BEFORE = "afloat_before"
    LIFTING = "lifting"
    ASHORE = "ashore"
    SLINGS = "slings"
    AFLOAT_AFTER = "afloat_after"
    EITHER = "either"


class Emission(StrEnum):
    """What a task gives off, and what another can't stand."""

    DUST = "dust"
    FUMES = "fumes"
    SPARKS = "sparks"
    WATER = "water"
    NOISE = "noise"


class Service(StrEnum):
    """What life aboard needs, and a task may take out."""

    HEADS = "heads"
    WATER = "water"
    GALLEY = "galley"
    GAS = "gas"
    FRIDGE = "fridge"
    POWER = "power"
    HEATING = "heating"
    BERTH = "berth"
    LADDER = "ladder"


class Role(StrEnum):
    """What a person is to the boat; trades and yard crew work only at their own skills."""

    OWNER = "owner"
    HELPER = "helper"
    TRADE = "trade"
    YARD = "yard"


class LinkKind(StrEnum):
    """The four kinds of precedence: which end of the first task ties which end of the second."""

    FS = "FS"
    SS = "SS"
    FF = "FF"
    SF = "SF"


class PartStatus(StrEnum):
    """How far a part has come. Only *checked* parts (aboard and tried for fit) are ready to use."""

    NEEDED = "needed"
    ORDERED = "ordered"
    ABOARD = "aboard"
    CHECKED = "checked"


class Weekday(StrEnum):
    """Days of the week in ISO order."""

    MON = "mon"
    TUE = "tue"
    WED = "wed"
    THU = "thu"
    FRI = "fri"
    SAT = "sat"
    SUN = "sun"

    @property
    def number(self) -> int:
        """0 for Monday to 6 for Sunday, as ``date.weekday()``."""
        return _WEEKDAY_NUMBER[self]


_WEEKDAY_NUMBER = {day: number for number, day in enumerate(Weekday)}


class Keel(StrEnum):
    """Shape of the keel."""

    FIN = "fin"
    LONG = "long"
    TWIN = "twin"
    CENTREBOARD = "centreboard"


class Rudder(StrEnum):
    """How the rudder is hung."""

    SKEG = "skeg"
    SPADE = "spade"
    TRANSOM = "transom"
    KEEL = "keel"


class Drive(StrEnum):
    """What turns the propeller."""

    SHAFT = "shaft"
    LEG = "leg"
    OUTBOARD = "outboard"
    NONE = "none"


class HullMaterial(StrEnum):
    """What the hull is built of."""

    GRP = "grp"
    STEEL = "steel"
    ALUMINIUM = "aluminium"
    WOOD = "wood"
    FERRO = "ferro"


class MastStep(StrEnum):
    """What a mast stands on."""

    DECK = "deck"
    KEEL = "keel"


class Cooling(StrEnum):
    """How the engine is cooled. Raw water and a heat exchanger draw from the sea and don't run ashore."""

    HEAT_EXCHANGER = "heat exchanger"
    RAW_WATER = "raw water"
    KEEL = "keel"
    AIR = "air"
    NONE = "none"


class Propeller(StrEnum):
    """What kind of propeller she has."""

    FIXED = "fixed"
    FOLDING = "folding"
    FEATHERING = "feathering"
    NONE = "none"


class Fitting(StrEnum):
    """What a boat may have, and recipes and the first look ask for."""

    WINDLASS = "windlass"
    FURLER = "furler"
    WATERMAKER = "water maker"
    GAS = "gas"
    WATER_COOLED_FRIDGE = "water-cooled fridge"
    HOLDING_TANK = "holding tank"
    LIFE_RAFT = "life raft"
    TENDER = "tender"
    BOWSPRIT = "bowsprit"
    STANCHIONS = "stanchions"
    HEATER = "heater"
    AUTOPILOT = "autopilot"
    FACE_SEAL = "face seal"
    SHORE_POWER = "shore power"


class Spot(StrEnum):
    """What part of the boat a place is: where it is drawn, and what recipes mean by it."""

    RIG = "rig"
    MAST = "mast"
    FOREDECK = "foredeck"
    DECK = "deck"
    COCKPIT = "cockpit"
    FOREPEAK = "forepeak"
    SALOON = "saloon"
    GALLEY = "galley"
    HEADS = "heads"
    NAV = "nav"
    BERTHS = "berths"
    TANKS = "tanks"
    BILGE = "bilge"
    ENGINE = "engine"
    LAZARETTE = "lazarette"
    TOPSIDES = "topsides"
    WATERLINE = "waterline"
    BOTTOM = "bottom"
    THROUGH_HULLS = "through-hulls"
    SHAFT = "shaft"
    KEEL = "keel"
    RUDDER = "rudder"
    ASHORE = "ashore"


class Severity(StrEnum):
    """What a look at a thing said of it. *dangerous* outranks the list and blocks the launch."""

    GOOD = "good"
    WATCH = "watch"
    BAD = "bad"
    DANGEROUS = "dangerous"


class UnknownState(StrEnum):
    """What became of something nobody had looked at."""

    OPEN = "open"
    VANISHED = "vanished"
    REAL = "real"
