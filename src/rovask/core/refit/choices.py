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


class Lies(StrEnum):
    """Where what there is of a part lies. Only what is aboard or in the yard's shed is here to be used."""

    ABOARD = "aboard"
    SHED = "yard shed"
    SHOP = "shop"
    WORKSHOP = "workshop"
    FAR = "far store"
    UNKNOWN = "unknown"

    @property
    def is_here(self) -> bool:
        """Whether it can be used without being fetched first."""
        return self in (Lies.ABOARD, Lies.SHED)


class SupplierKind(StrEnum):
    """What a supplier is. Carriers and customs sell nothing; their shut days make parcels late."""

    SHOP = "shop"
    ORDERS = "by order"
    WORKSHOP = "workshop"
    STORE = "store of our own"
    CARRIER = "carrier"
    CUSTOMS = "customs"


class OfferForm(StrEnum):
    """What exactly is offered for a need."""

    KIT = "maker's kit"
    BARE = "bare part by its code"
    SECOND_HAND = "second-hand"
    SUBSTITUTE = "substitute"
    MADE = "made for us"


class OfferState(StrEnum):
    """How far an offer has come."""

    ASKED = "asked for"
    OFFERED = "offered"
    CHOSEN = "chosen"
    DECLINED = "declined"


class OrderState(StrEnum):
    """How far an order has come. *sending*: handed to the supplier's service, which has not confirmed it yet."""

    SENDING = "sending"
    PLACED = "placed"
    ACKNOWLEDGED = "acknowledged"
    SHIPPED = "shipped"
    CUSTOMS = "customs"
    ARRIVED = "arrived"
    CANCELLED = "cancelled"

    @property
    def is_open(self) -> bool:
        """Whether something of it may still come."""
        return self is not OrderState.CANCELLED


class Condition(StrEnum):
    """What came of a delivery. Only what was tried and fits may be used."""

    ARRIVED = "arrived"
    FITS = "fits"
    WRONG = "wrong thing"
    DAMAGED = "damaged"
    MISFIT = "does not fit"
    LOST = "lost"
    RETURNED = "returned"

    @property
    def is_here(self) -> bool:
        """Whether it is stock: here, and not known to be useless."""
        return self in (Condition.ARRIVED, Condition.FITS)


class Remedy(StrEnum):
    """What is done about a delivery that can't be used."""

    EXCHANGE = "exchange"
    MODIFY = "modify"
    OTHER = "another offer"
    MONEY_BACK = "money back"


class Certainty(StrEnum):
    """At which lead time the order-by is reckoned: the likely one, or the longest, to be safe."""

    LIKELY = "likely"
    SAFE = "safe"


class EntryKind(StrEnum):
    """What a line of the ledger is. An invoice is owed until it is paid; a credit note lowers it; a refund comes back."""

    INVOICE = "invoice"
    PAYMENT = "payment"
    CREDIT = "credit note"
    REFUND = "refund"


class AgreementForm(StrEnum):
    """How work is paid: for a price, or by the hour."""

    FIXED = "fixed price"
    HOURLY = "by the hour"


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


class Opens(StrEnum):
    """What work on a boat opens, so that it must be looked at again before and after she floats."""

    THROUGH_HULL = "through-hull"
    VALVE = "valve"
    HOSE = "hose"
    SEAL = "shaft seal"
    ANODE = "anode"
    PROPELLER = "propeller"
    RUDDER = "rudder"
    STEERING = "steering"
    PLUG = "plug"
    TANK = "tank"
    CIRCUIT = "electric circuit"
    GAS = "gas line"
    ENGINE = "engine and shaft line"
    KEEL = "keel joint"
    SKIN = "hull skin"
    DECK = "deck opening"
    RIG = "rig"


class Closed(StrEnum):
    """What a prudent skipper has closed and proved some days before the slings."""

    HULL = "hull"
    WATER = "water"
    STEERING = "steering"
    ENGINE = "engine"
    GAS = "gas"
    STARTER = "starter"


class Deed(StrEnum):
    """What a task does to the place it is done in, as far as the order of the trade hangs on it.

    *lifts*: she, or something heavy over her, hangs; nobody is aboard or under her meanwhile (kept_away.py).
    """

    OPENS = "opens"
    WETS = "wets"
    SANDS = "sands"
    SEALS = "seals"
    COATS = "coats"
    ALIGNS = "aligns"
    SETS = "sets"
    TESTS = "tests"
    COVERS = "covers"
    LIFTS = "lifts"
    NOTHING = "nothing of these"


class Stage(StrEnum):
    """When something is looked at on the way into the water."""

    BEFORE = "before the slings"
    SLINGS = "in the slings"
    MINUTES = "first minutes"
    HOUR = "an hour"
    DAY = "a day"
    WEEK = "a week"


class OffSort(StrEnum):
    """What must be put right before she floats: a thing taken off, something left open, or a thing borrowed."""

    OFF = "off the boat"
    OPEN = "open"
    BORROWED = "borrowed"


class LostTo(StrEnum):
    """What working hours were lost to."""

    RAIN = "rain"
    PART = "a part"
    FOUND = "found work"
    SLOWER = "slower than thought"
    NO_SHOW = "somebody didn't come"
    TOOL = "a tool"
    OTHER = "something else"


class Said(StrEnum):
    """What a trade says of its work."""

    COMING = "coming"
    LATE = "late"
    DONE = "done"
    FOUND = "found"
