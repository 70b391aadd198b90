"""Calculators about cable and unlike metals."""

from __future__ import annotations

import math

from rovask.core.bench.calculator import AskedAt, Calculator, Input, PartResult, Result, Row, Values
from rovask.core.bench.metal import (
    FUSES,
    METALS,
    TROUBLE,
    ampacity,
    drop_of,
    fuse_for,
    metal_of,
    section_for,
    section_to_carry,
    sold_section,
)


def _cable(values: Values, _: AskedAt) -> Result:
    share = {"3": 0.03, "10": 0.10}[values["drop"]]
    amps, metres, volts = values["amps"], values["metres"], values["volts"]
    stands, bundle, heat = int(values["stands"]), values["bundle"], values["heat"] == "yes"
    by_drop = section_for(amps, metres, volts, share)
    drops, carries, fuse = sold_section(by_drop), section_to_carry(amps, stands, bundle, heat=heat), fuse_for(amps)
    rows = [
        Row("Section by voltage drop", f"{by_drop:.2f} mm²", "", f"{share:.0%} of {volts:g} V"),
        Row(
            "Section by what it carries",
            f"{carries:g} mm²" if carries else "none sold",
            _awg(carries) if carries else "",
            f"{ampacity(carries, stands, bundle, heat=heat):.0f} A for good, its fuse {fuse:g} A"
            if carries and fuse
            else "",
        ),
    ]
    warnings = ["The fuse protects the cable and sits at the source, within a hand's breadth of the battery."]
    if drops is None or carries is None or fuse is None:
        warnings.append(
            "Larger than any section sold: run two side by side, each with its fuse, or move battery and load together."
        )
        return Result(tuple(rows), warnings=tuple(warnings))
    sold = max(drops, carries)
    most = ampacity(sold, stands, bundle, heat=heat)
    largest = max(one for one in FUSES if one <= most)
    rows += [
        Row(
            "Take",
            f"{sold:g} mm²",
            _awg(sold),
            f"{'what it carries' if carries > drops else 'the drop'} decides; then the drop is {drop_of(amps, metres, volts, sold):.1%}",
            main=True,
        ),
        Row(
            "Fuse",
            f"{fuse:g} A",
            "",
            f"{amps:g} A and a quarter; never more than {largest:g} A for this cable",
            main=True,
        ),
    ]
    return Result(
        tuple(rows), (PartResult(f"Tinned cable {sold:g} mm²", math.ceil(metres * 2), "m"),), warnings=tuple(warnings)
    )


def _awg(section: float) -> str:
    """A section in the American gauge, the next thicker one: diameter = 0.127 x 92^((36 - n) / 39) mm.

    >>> _awg(6.0), _awg(50)
    ('9 AWG', '1/0 AWG')
    """
    across = math.sqrt(4 * section / math.pi)
    n = math.floor(36 - 39 * math.log(across / 0.127) / math.log(92) + 1e-9)
    return f"{n} AWG" if n > 0 else f"{1 - n}/0 AWG"


CABLE = Calculator(
    "cable",
    "Cable and its fuse",
    "Fittings",
    "Which copper section, so that enough volts arrive and it never grows hot, and which fuse.",
    (
        Input("amps", "Current", "A", 10, 0.1, 1000),
        Input("metres", "Length, one way", "m", 6, 0.1, 200),
        Input("volts", "Battery", "V", 12, 5, 60),
        Input(
            "drop",
            "May be lost",
            "",
            "3",
            choices=(("3", "3 %: lights, instruments, bilge pumps"), ("10", "10 %: the rest")),
        ),
        Input(
            "stands",
            "Its insulation stands",
            "°C",
            "70",
            choices=(("70", "70 °C, or not printed on it"), ("90", "90 °C"), ("105", "105 °C")),
        ),
        Input("heat", "Through the engine space", "", "no", choices=(("no", "no"), ("yes", "yes, up to 60 °C"))),
        Input(
            "bundle",
            "In one bundle",
            "",
            "3",
            choices=(("3", "up to 3"), ("6", "4 to 6"), ("24", "7 to 24"), ("25", "more")),
        ),
    ),
    "the larger of S = 0.0164 · I · L ÷ ΔU (L out and back) and the smallest section that carries its own fuse for good",
    "Drop: ISO 10133 form. What it carries: ISO 10133, table A.1, with its note for engine spaces; bundles: ISO 13297; all from "
    "memory, the standards and the cable's sheet come first. 3 % and 10 %, a fuse of a quarter more: common practice.",
    "Extra-low voltage, single copper conductors, the current that flows for long; a windlass or a starter by its maker's sheet.",
    _cable,
    ("Mains work is for a licensed electrician. Batteries: rings off, fuse out first.",),
)


def _galvanic(values: Values, _: AskedAt) -> Result:
    one, other = metal_of(values["one"]), metal_of(values["other"])
    eaten, kept = sorted((one, other), key=lambda metal: metal.volts)
    gap = kept.volts - eaten.volts
    warnings = []
    names = {one.key, other.key}
    if names >= {"aluminium"} and names & {"copper", "bronze", "brass", "cupronickel", "monel"}:
        warnings.append("Aluminium and copper alloys: never, not even on the same water nearby.")
    if "carbon" in names:
        warnings.append("Carbon is noble and large: it eats what it touches. Glass between, always.")
    if "brass" in names:
        warnings.append(
            "Brass loses its zinc in sea water and turns to sponge: below the waterline bronze or brass proof against it."
        )
    said = "leave them apart, or isolate them" if gap >= TROUBLE else "they get on in sea water"
    return Result(
        (
            Row("Between them", f"{gap * 1000:.0f} mV", "", f"trouble from {TROUBLE * 1000:.0f} mV", main=True),
            Row(
                "Eaten",
                eaten.name if gap else "neither",
                "",
                f"{eaten.volts:+.2f} V against silver chloride",
                main=True,
            ),
            Row(
                "So",
                said,
                "",
                "tape, sealant or barrier paste between; a small noble part on a large base one is the lesser evil",
                main=True,
            ),
        ),
        warnings=tuple(warnings),
        drawing=("galvanic", {"one": one.key, "other": other.key, "metals": METALS}),
    )


_METALS = tuple((metal.key, metal.name) for metal in METALS)


GALVANIC = Calculator(
    "galvanic",
    "Galvanic neighbours",
    "Fittings",
    "Which of two metals is eaten when they touch in sea water.",
    (Input("one", "One", "", "bronze", choices=_METALS), Input("other", "The other", "", "aluminium", choices=_METALS)),
    "difference of the potentials in flowing sea water",
    "Mean values of published galvanic series, from memory; 0.2 V: common practice.",
    "Sea water; areas matter as much as volts: much noble metal on little base metal is the worst.",
    _galvanic,
)
