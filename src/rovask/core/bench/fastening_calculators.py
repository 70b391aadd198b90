"""Calculators about what holds and what pulls: a bolt's strength, a puller and its bar."""

from __future__ import annotations

from rovask.core.bench.calculator import AskedAt, Calculator, Input, Result, Row, Values, inches, pounds
from rovask.core.bench.fastening import (
    PITCH,
    SAFE,
    TENSILE,
    bar_stress,
    breaking_torque,
    lever_for,
    opens_by,
    pulls,
    screw_force,
    shears,
    stress_area,
)
from rovask.core.refit.craft.choices import OfMetal

METALS = tuple((one.value, one.value) for one in OfMetal)
SPRINGS = "What lets go flies: stand out of its line, nut left on by two turns, goggles."
CARRIES = "What carries a stay, a keel, a rudder or somebody is sized by its maker or a surveyor, never by a table."


def _kg(kilonewton: float) -> str:
    return f"{kilonewton * 1000 / 9.81:.0f} kg"


def _bolt(values: Values, _: AskedAt) -> Result:
    metal = OfMetal(str(values["metal"]))
    area = stress_area(values["size"])
    if area is None:
        raise ValueError(f"M{values['size']:g} is no coarse thread; there are M{', M'.join(map(str, PITCH))}")
    torque, pull, across = (
        breaking_torque(metal, values["size"]),
        pulls(metal, values["size"]),
        shears(metal, values["size"]),
    )
    if torque is None or pull is None or across is None:
        raise ValueError("that is no coarse thread")
    count, planes = values["count"], values["planes"]
    return Result(
        (
            Row("Twists off at", f"{torque:.0f} N·m", f"{torque * 0.7376:.0f} lbf·ft", "a sound one; corroded, sooner", main=True),
            Row("By a lever of", f"{lever_for(torque) * 100:.0f} cm", inches(lever_for(torque) * 1000), "and 40 kg in one arm", main=True),
            Row("Breaks, pulled", f"{pull * count:.1f} kN", pounds(pull * count * 1000 / 9.81), f"{_kg(pull * count)}; {area:.1f} mm² each", main=True),
            Row("Breaks, across", f"{across * count * planes:.1f} kN", pounds(across * count * planes * 1000 / 9.81), f"{_kg(across * count * planes)}, thread in the plane", main=True),
            Row("In work, across", f"{across * count * planes / SAFE:.1f} kN", pounds(across * count * planes / SAFE * 1000 / 9.81), "a third of that, and only if all of them share it"),
        )
    )  # fmt: skip


BOLT = Calculator(
    "bolt",
    "Bolts: twist, pull, shear",
    "Fittings",
    "At which torque a bolt twists off, and what some of them carry pulled and across.",
    (
        Input("size", "Thread, M", "mm", 8, 3, 30),
        Input("metal", "Of", "", "stainless", choices=METALS),
        Input("count", "Bolts that share it", "", 1, 1, 40),
        Input("planes", "Planes it is cut in", "", 1, 1, 2, help="two where it is held on both sides"),
    ),
    "twist 0.577 · Rm · π · d³ ÷ 12; pull Rm · As; across 0.6 · Rm · As; As = π ÷ 4 · (size − 0.9382 · pitch)²",
    "Stress area ISO 898-1, pitch ISO 261, strength of class 70 ISO 3506-1 and of 8.8 ISO 898-1, shear EN 1993-1-8: from memory.",
    "Coarse ISO threads, sound metal; rust, fine threads and old bronze carry less.",
    _bolt,
    (CARRIES,),
)


def _puller(values: Values, _: AskedAt) -> Result:
    metal = OfMetal(str(values["metal"]))
    force = screw_force(values["torque"], values["screw"])
    stress = bar_stress(force, values["span"], values["wide"], values["high"])
    yields = TENSILE[metal] * 0.6
    warnings = ("The bar bends for good: a thicker one, or less torque and more patience.",) if stress > yields else ()
    opens = opens_by(metal, values["bore"], values["warm"])
    return Result(
        (
            Row("Screw presses with", f"{force:.0f} kN", pounds(force * 1000 / 9.81), f"{_kg(force)}, dry thread", main=True),
            Row("Bar is bent with", f"{stress:.0f} N/mm²", "", f"it gives at some {yields:.0f}", main=True),
            Row("Heat opens the bore", f"{opens:.3f} mm", inches(opens), f"{values['warm']:g} K on {values['bore']:g} mm of {metal.value}", main=True),
        ),
        warnings=warnings,
    )  # fmt: skip


PULLER = Calculator(
    "puller",
    "Puller, its bar, and heat",
    "Fittings",
    "What a puller's screw presses with, whether its bar stands it, and what warming the hub gains.",
    (
        Input("torque", "On the screw", "N·m", 60, 1, 2000, help="40 kg on a handle of 15 cm is 60"),
        Input("screw", "Screw", "mm", 20, 6, 60),
        Input("span", "Bar between its bolts", "mm", 140, 20, 800),
        Input("wide", "Bar, wide", "mm", 40, 5, 200),
        Input("high", "Bar, thick in the pull's direction", "mm", 25, 5, 200),
        Input("metal", "Bar and hub of", "", "steel", choices=METALS),
        Input("bore", "Bore of the hub", "mm", 35, 5, 300),
        Input("warm", "Warmed by", "K", 80, 0, 250),
    ),
    "force torque ÷ (0.2 · screw); bar F · L ÷ 4 ÷ (b · h² ÷ 6); bore α · d · ΔT",
    "Screw and bar: textbook; 0.2 for a dry thread and expansion: handbooks, from memory; yield 0.6 of the strength: judgement.",
    "A bar pressed in its middle between two bolts; a hub that is free to grow.",
    _puller,
    (SPRINGS,),
)
