"""The figures of the boat that formulas of recipes may use, by name."""

from __future__ import annotations

import re
from collections.abc import Callable

from rovask.core.bench.bottom import bottom_area, topsides_area
from rovask.core.bench.loads import PAIR
from rovask.core.bench.metal import CHAIN
from rovask.core.bench.paint import practical_rate, spreading_rate
from rovask.core.plain.derived import derived
from rovask.core.recipes.formula import Value
from rovask.core.recipes.sides import keels_of, rudders_of
from rovask.core.refit.givens.choices import Fitting
from rovask.core.refit.model import Boat, Refit

# m² a litre of an ordinary bottom paint, as the Bench has it by default: 50 % solids, 55 µm dry, a roller
PAINT_RATE = practical_rate(spreading_rate(50, 55), 0.10)
FACT_OF: dict[str, Callable[[Boat], Value]] = {
    "length": lambda boat: boat.length_m,
    "waterline": lambda boat: boat.waterline_m,
    "beam": lambda boat: boat.beam_m,
    "draft": lambda boat: boat.draft_m,
    "displacement": lambda boat: boat.displacement_kg,
    "hulls": lambda boat: boat.hulls,
    "material": lambda boat: boat.hull_material.value,
    "keel": lambda boat: boat.keel.value,
    "rudder": lambda boat: boat.rudder.value,
    "drive": lambda boat: boat.drive.value,
    "rig": lambda boat: boat.rig.lower(),
    "masts": lambda boat: boat.masts,
    "first_mast": lambda _: True,
    "rudders": rudders_of,
    "keels": keels_of,
    "mast_step": lambda boat: boat.mast_step.value,
    "mast_height": lambda boat: boat.mast_height_m or round(boat.length_m * 1.35, 1),
    "engines": lambda boat: boat.engines,
    "propeller": lambda boat: boat.propeller.value,
    "cooling": lambda boat: boat.cooling.value,
    "through_hulls": lambda boat: boat.through_hulls,
    "heads": lambda boat: boat.heads,
    "berths": lambda boat: boat.berths,
    "water_tanks": lambda boat: boat.water_tanks,
    "fuel_tanks": lambda boat: boat.fuel_tanks,
    "bottom_area": lambda boat: round(bottom_area(boat), 1),
    "topsides_area": lambda boat: round(topsides_area(boat), 1),
    "paint_rate": lambda _: round(PAINT_RATE, 3),
    "chain_mass": lambda _: CHAIN,
    "load_for_two": lambda _: PAIR,
} | {f"has_{fitting.name.lower()}": (lambda boat, fitting=fitting: fitting in boat.fitted) for fitting in Fitting}
DAYS_ASHORE, MAST_COMES_OUT = "days_ashore", "mast_comes_out"
FACTS = frozenset(FACT_OF) | {DAYS_ASHORE, MAST_COMES_OUT}
MAST_OUT = "mast-out"  # the recipe by which the mast comes out
_MAST_WORDS = re.compile(r"\bmasts?\b.{0,20}\b(out|down|lowered|unstepped)\b|\bunstep", re.IGNORECASE)


@derived(lambda refit: (refit.boat, refit.jobs, refit.haul_at, refit.launch_at))
def facts_of(refit: Refit) -> dict[str, Value]:
    """Every figure a formula may use, for this boat and haul-out. mast_height is a guess when it isn't known; mast_comes_out:
    whether a task that takes it out is in the refit already, of the recipe or by its title.
    """
    out = {name: fact(refit.boat) for name, fact in FACT_OF.items()}
    return out | {DAYS_ASHORE: (refit.launch_at - refit.haul_at).days, MAST_COMES_OUT: mast_comes_out(refit)}


def mast_comes_out(refit: Refit) -> bool:
    """Whether the mast lies ashore for a while in this refit: some task takes it out, by the recipe or by its title."""
    return any(_MAST_WORDS.search(task.title) for task in refit.tasks.values())
