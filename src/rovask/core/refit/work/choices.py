"""What work is one of: how much it is needed, in which state, what it emits, opens and does."""

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


class LinkKind(StrEnum):
    """The four kinds of precedence: which end of the first task ties which end of the second."""

    FS = "FS"
    SS = "SS"
    FF = "FF"
    SF = "SF"


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


class Sureness(StrEnum):
    """How sure a figure is, where no three are given: nearly so, as such things usually are, or anybody's guess."""

    SURE = "sure"
    USUAL = "usual"
    WILD = "wild"


class UsualOf(StrEnum):
    """What a usual spread is of."""

    TAKING_APART = "taking apart"
    WORK = "work"
    COATS = "coats"
    TESTS = "tests"
    DRYING = "drying"
    WAIT = "wait"
    LEAD = "lead time"
    UNKNOWN = "unknown"


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
