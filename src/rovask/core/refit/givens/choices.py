"""What the givens are one of: kinds of boat, fittings, services, roles, sections, charges."""

from __future__ import annotations

from enum import StrEnum


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


class Certainty(StrEnum):
    """At which lead time the order-by is reckoned: the likely one, or the longest, to be safe."""

    LIKELY = "likely"
    SAFE = "safe"


class Charge(StrEnum):
    """What a yard charges for."""

    LIFT = "lift"
    WASH = "wash"
    BLOCK = "block"
    LAY = "lay-days"
    LAUNCH = "launch"
    SLINGS = "nights in the slings"
    POWER = "power"
    MOVE = "move"
    SECOND_LIFT = "second lift"
    PERMIT = "permit"
    ACCESS = "contractors' access"
    LEVY = "environment levy"
    OTHER = "other"


class Per(StrEnum):
    """What a tariff's price is for. Months are those of the calendar, or from the day of the haul-out: the yard's way. Metres are the boat's length, square metres her length by her beam."""

    ONCE = "once"
    METRE = "a metre"
    DAY = "a day"
    METRE_DAY = "a metre and day"
    AREA_DAY = "a square metre and day"
    MONTH = "a month begun"
    MONTH_OF_STAY = "a month from the haul-out begun"
    NIGHT = "a night"
    KWH = "a kWh"
    VISIT = "a contractor's day"
    PIECE = "each"
    PERCENT = "per cent of the rest"


class Section(StrEnum):
    """Parts of the boat and of life round her, for sorting money."""

    RIG = "rig"
    DECK = "deck"
    BELOW = "below decks"
    ENGINE = "engine and drive"
    HULL = "hull and underwater"
    YARD = "yard"
    LIVING = "living ashore"
    OTHER = "other"


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


class Which(StrEnum):
    """Which of two or three: hulls and what is in them by side, masts by name."""

    PORT = "port"
    STARBOARD = "starboard"
    MIDDLE = "middle"
    MAIN = "main"
    MIZZEN = "mizzen"
    THIRD = "third"


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


_WEEKDAY_NUMBER = {day: number for number, day in enumerate(Weekday)}
