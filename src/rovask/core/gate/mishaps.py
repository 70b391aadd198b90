"""What may go wrong in the slings and in the first minutes, and what to do, step by step. Common practice throughout."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Mishap:
    """One thing that may go wrong: what is seen, the steps in order, and what must not be done."""

    key: str
    title: str
    steps: tuple[str, ...]
    never: str


MISHAPS: tuple[Mishap, ...] = (
    Mishap(
        "weeps",
        "A fitting weeps",
        (
            "Say it aloud: the driver holds her where she is, in the straps.",
            "Shut its valve. Does it stop? Then it is the hose or what lies behind it.",
            "A hose: nip both clamps up, a quarter turn at a time; put a second one on where one is missing.",
            "Still wet at the flange or the valve: the plug that is tied there goes in from inside if it must.",
            "Dry it, wait five minutes by the clock, look again with a torch and paper.",
            "Still wet: she goes up again. A fitting is not bedded anew in the straps.",
        ),
        "Never tighten a flange against bedding that has cured: it lifts the whole bed.",
    ),
    Mishap(
        "no-water",
        "No water at the exhaust",
        (
            "Stop the engine within half a minute.",
            "Shut the inlet valve before the strainer's lid comes off: where the strainer lies below the waterline, its open lid is a hole in the boat.",
            "Lid off: basket clean? Fill it with water until it stands at the lid's seat, hose and all; seal in, lid tight.",
            "One at the stop, one at the valve. Start, and open the inlet at once.",
            "Eyes on the exhaust, by the clock: no water within 20 seconds, stop. Where the strainer lies above the waterline the pump must lift it there: fill its hose too and try once more.",
            "Still none: shut the inlet, take the pump's cover off, look at the impeller and which way its blades lie.",
            "The siphon break and the vented loop: free, and the right way round?",
            "Still none: she is not let go under engine. Warped to a berth, or she goes up again.",
        ),
        "Never let it run dry to see whether it comes: the impeller goes first, the exhaust next.",
    ),
    Mishap(
        "starter",
        "The starter clicks",
        (
            "Lights on, try again: do they die? Then it is the battery or its cables.",
            "Main switch on, terminals tight and bright, engine earth where it was taken off.",
            "The other battery bank, or a lead from the yard's.",
            "The lights hold: the small wire on the starter, the neutral switch, the stop pulled out?",
            "Not in ten minutes: the driver is told, and she goes up or is warped away.",
        ),
        "Nobody bridges a starter with a spanner where there is gas or petrol in the air.",
    ),
    Mishap(
        "gland",
        "The shaft gland drips",
        (
            "Packing: a drip every few seconds at rest is as it should be; a stream is not.",
            "Tighten both nuts alike, a sixth of a turn, and feel: it may be warm, never hot.",
            "A face seal: turn the shaft by hand, engine off, to seat it; squeeze the bellows once to burp it.",
            "Look at its compression against the figure that was written down; is the collar locked?",
            "Still running: she stays in the straps; the seal is set again ashore.",
        ),
        "Nobody is near the shaft while the engine can turn it; one person at the stop.",
    ),
    Mishap(
        "marks",
        "She floats off her marks",
        (
            "Which end is deep, and by how much? Read it off the boot-top, both sides.",
            "What is not where it was: tanks, chain, tools, the mast, crew at one end?",
            "Look into every compartment: is it water?",
            "Water: pumps on, find it, she goes up. No water: move the weight, write down the new marks.",
        ),
        "Nothing is put right by guessing while water may be coming in: look first.",
    ),
)


def mishap(key: str) -> Mishap | None:
    """The one of that name; None for none."""
    return next((one for one in MISHAPS if one.key == key), None)
