"""What is looked at before, in and after the slings: the table the launch gate is read off.

All of it is common practice; the yard's rules, makers' sheets and licensed trades come first.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import timedelta

from rovask.core.refit.givens.choices import Cooling, Drive, Fitting
from rovask.core.refit.launch.choices import Stage
from rovask.core.refit.model import Boat
from rovask.core.refit.work.choices import Opens

Looks = tuple[tuple[Stage, str], ...]

_DRY_INSIDE: Looks = (
    (Stage.SLINGS, "dry inside with her weight in the water"),
    (Stage.MINUTES, "still dry"),
    (Stage.HOUR, "dry after an hour"),
    (Stage.DAY, "dry after a day"),
    (Stage.WEEK, "dry after a week, clamps nipped up"),
)

LOOKS: Mapping[Opens, Looks] = {
    Opens.THROUGH_HULL: ((Stage.BEFORE, "bedded, cured and tight; a tapered plug tied near it"), *_DRY_INSIDE),
    Opens.VALVE: ((Stage.BEFORE, "works by hand, and is shut"), *_DRY_INSIDE),
    Opens.HOSE: ((Stage.BEFORE, "clamped twice at each end, cut to length, nothing chafes"), *_DRY_INSIDE),
    Opens.SEAL: (
        (Stage.BEFORE, "set as its maker says, clamped, primed or vented"),
        (Stage.SLINGS, "dry, or dripping as packing should"),
        (Stage.MINUTES, "cool, and no more than its drip while the shaft turns"),
        (Stage.HOUR, "cool; set again if it must be"),
        (Stage.DAY, "as it was yesterday"),
        (Stage.WEEK, "as it was; packing nipped up"),
    ),
    Opens.ANODE: (
        (Stage.BEFORE, "on, bright behind, tight, with no paint on it"),
        (Stage.SLINGS, "seen bare from below, nobody under her"),
    ),
    Opens.PROPELLER: (
        (Stage.BEFORE, "nut locked, pin in and bent, every blade moves as it should"),
        (Stage.SLINGS, "turns free, clear of the straps"),
        (Stage.MINUTES, "ahead and astern without shake"),
    ),
    Opens.RUDDER: (
        (Stage.BEFORE, "locked so that it can't fall out, stop to stop"),
        (Stage.SLINGS, "stop to stop while she hangs; its gland dry"),
        (Stage.MINUTES, "she answers both ways"),
        (Stage.DAY, "its gland dry after a day"),
    ),
    Opens.STEERING: (
        (Stage.BEFORE, "every pin split, stop to stop without a catch, emergency tiller tried"),
        (Stage.SLINGS, "moves the rudder the right way"),
        (Stage.HOUR, "nothing works loose"),
        (Stage.DAY, "tension as it was set"),
    ),
    Opens.PLUG: ((Stage.BEFORE, "in, and tight"), *_DRY_INSIDE),
    Opens.TANK: (
        (Stage.BEFORE, "closed, tried for leaks, vent free"),
        (Stage.HOUR, "dry under it"),
        (Stage.DAY, "dry under it when full"),
    ),
    Opens.CIRCUIT: ((Stage.BEFORE, "fused, supported, labelled, tried under load"), (Stage.HOUR, "nothing warm")),
    Opens.GAS: (
        (Stage.BEFORE, "pressure test signed by the licensed fitter, paper aboard"),
        (Stage.HOUR, "no smell in the bilge, locker drain free"),
        (Stage.DAY, "no smell in the bilge"),
    ),
    Opens.ENGINE: (
        (Stage.BEFORE, "bolts tight, coupled, aligned ashore"),
        (Stage.MINUTES, "no shake; shaft turns true"),
        (Stage.DAY, "alignment looked at again after she has settled"),
        (Stage.WEEK, "mounts and coupling bolts tight"),
    ),
    Opens.KEEL: (
        (Stage.BEFORE, "joint cured and coated; bolts at their torque"),
        (Stage.SLINGS, "no weep at the bolts with the keel hanging"),
        (Stage.HOUR, "no weep at the bolts"),
        (Stage.DAY, "no weep at the bolts"),
        (Stage.WEEK, "no rust and no weep at the bolts"),
    ),
    Opens.SKIN: (
        (Stage.BEFORE, "cured through, no daylight, coated"),
        (Stage.SLINGS, "dry inside at the repair"),
        (Stage.HOUR, "dry inside at the repair"),
        (Stage.DAY, "dry inside at the repair"),
        (Stage.WEEK, "dry inside at the repair"),
    ),
    Opens.DECK: ((Stage.BEFORE, "bedded and cured; a hose on it shows nothing inside"), (Stage.DAY, "dry below")),
    Opens.RIG: (
        (Stage.BEFORE, "every pin split and taped; nothing left aloft"),
        (Stage.DAY, "tuned for moving"),
        (Stage.WEEK, "looked over after the first sail"),
    ),
}

# What lets water in, turns her over or burns when it is done badly: a second pair of eyes looks at that.
GRAVE = frozenset(Opens) - {Opens.ANODE, Opens.DECK}


def _every(boat: Boat) -> bool:  # noqa: ARG001
    return True


@dataclass(frozen=True, slots=True)
class Always:
    """Something every launch needs. step: the recipe's step (``recipe.step``) that stands for it once it is done.

    ahead: how long before the launch slot it should have been seen, at the latest.
    """

    key: str
    stage: Stage
    title: str
    words: str
    fits: Callable[[Boat], bool] = _every
    step: str = ""
    ahead: timedelta = timedelta(0)


def _has_engine(boat: Boat) -> bool:
    return boat.engines > 0 and boat.drive is not Drive.NONE


def _draws_water(boat: Boat) -> bool:
    wet = (Cooling.RAW_WATER, Cooling.HEAT_EXCHANGER)
    return _has_engine(boat) and boat.cooling in wet and boat.drive is not Drive.OUTBOARD


def _runs_in_slings(boat: Boat) -> bool:
    """Whether her engine can be tried before she is let go: its inlet is under water while she floats in the straps."""
    return _has_engine(boat) and boat.drive is not Drive.OUTBOARD


def _has_shaft(boat: Boat) -> bool:
    return _has_engine(boat) and boat.drive is Drive.SHAFT


ALWAYS: tuple[Always, ...] = (
    Always(
        "power",
        Stage.BEFORE,
        "Batteries, ignition and starter",
        "proved a day or more before the slings: it turns over; it is not run dry",
        _has_engine,
        "ready.power",
        timedelta(hours=24),
    ),
    Always("bungs", Stage.BEFORE, "Bungs and drain plugs", "in, each with somebody's hand on it"),
    Always("log", Stage.BEFORE, "Log and depth", "plugs in, faces clean and bare"),
    Always("valves", Stage.BEFORE, "Every opening below the waterline", "shut, and moves by hand", step="ready.below"),
    Always("anodes", Stage.BEFORE, "Anodes", "on, tight, with no paint on them"),
    Always("bilge", Stage.BEFORE, "Bilge", "dry everywhere, so that a leak shows", step="ready.pumps"),
    Always("pumps", Stage.BEFORE, "Bilge pumps and high-water alarm", "tried with water", step="ready.pumps"),
    Always("strainer", Stage.BEFORE, "Raw-water strainer", "filled; inlet shut until the start", _draws_water),
    Always("tanks", Stage.BEFORE, "Water and fuel", "aboard, fillers closed", step="ready.water"),
    Always("gas", Stage.BEFORE, "Gas", "off at the bottle, locker drain free", lambda boat: Fitting.GAS in boat.fitted),
    Always("stowed", Stage.BEFORE, "Below", "tools ashore, lockers shut, nothing loose", step="ready.stow"),
    Always("lines", Stage.BEFORE, "Lines, fenders, boathook", "rigged on the side she will lie on", step="ready.lines"),
    Always("keys", Stage.BEFORE, "Keys", "aboard: ignition, companionway, locks on valves"),
    Always("people", Stage.BEFORE, "Two people", "who know what each does", step="ready.lines"),
    Always("berth", Stage.BEFORE, "The berth", "its number, how she lies there, who takes the lines"),
    Always("tide", Stage.BEFORE, "Tide", "enough water at the slings and on the way"),
    Always("sky", Stage.BEFORE, "Weather for moving", "no more wind than you berth her in"),
    Always("papers", Stage.BEFORE, "Papers", "insurance, yard's bill, what the port asks"),
    Always(
        "hangs",
        Stage.SLINGS,
        "How she hangs",
        "level on her marks, straps clear of propeller, log and rudder; the yard lifts",
    ),
    Always("pads", Stage.SLINGS, "Pad patches", "sanded and coated", step="launch.pads"),
    Always(
        "below",
        Stage.SLINGS,
        "Last look from outside",
        "plugs, anodes, propeller, rudder; nobody under her",
        step="launch.last",
    ),
    Always(
        "inside", Stage.SLINGS, "Bilge, every compartment", "dry while she floats in the straps", step="launch.afloat"
    ),
    Always(
        "start",
        Stage.SLINGS,
        "Engine",
        "inlet open, started while she floats in the straps, water out of the exhaust within half a minute; no engine without water",
        _runs_in_slings,
        "launch.start",
    ),
    Always(
        "start",
        Stage.MINUTES,
        "Engine",
        "inlet open, started, water out of the exhaust within half a minute; no engine without water",
        lambda boat: _has_engine(boat) and not _runs_in_slings(boat),
        "launch.start",
    ),
    Always("gear", Stage.MINUTES, "Gear and helm", "ahead, astern, rudder both ways", _has_engine),
    Always("gland", Stage.MINUTES, "Shaft gland or seal", "cool; drips as it should, or not at all", _has_shaft),
    Always("bilge-1", Stage.MINUTES, "Bilge again", "as dry as before the engine ran"),
    Always("bilge-2", Stage.HOUR, "Bilge", "dry, every compartment", step="proving.hour"),
    Always("gland-2", Stage.HOUR, "Shaft gland or seal", "warm at most, its drip set", _has_shaft, "proving.gland"),
    Always("bilge-3", Stage.DAY, "Bilge", "as dry as yesterday", step="proving.settle"),
    Always("align", Stage.DAY, "Shaft alignment", "looked at again after she has settled", _has_shaft, "proving.align"),
    Always("bilge-4", Stage.WEEK, "Bilge", "dry; nothing green or white at a fitting", step="proving.week"),
)

CAUTIONS = (
    "Lifts, props, straps and slings are the yard's: the yard gives the word, and nobody is under her.",
    "No engine without water. One person at the stop.",
    "Gas and mains only by licensed people.",
)
