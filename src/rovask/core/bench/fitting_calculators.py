"""Calculators about fittings: hose, flooding, chain, cable, rudder, loads, unlike metals."""

from __future__ import annotations

import math

from rovask.core.bench.calculator import (
    AskedAt,
    Calculator,
    Input,
    PartResult,
    Result,
    Row,
    Values,
    feet,
    gallons,
    inches,
    pounds,
)
from rovask.core.bench.loads import HAND, hands_for, lift_for, rudder_mass
from rovask.core.bench.metal import (
    FUSES,
    METALS,
    TROUBLE,
    ampacity,
    chain_mass,
    drop_of,
    fuse_for,
    metal_of,
    section_for,
    section_to_carry,
    sold_section,
)
from rovask.core.bench.water import PUMP_SHARE, hose_length, inflow

PROPS = "Nobody but the yard lifts her, digs near a prop or touches one."
LOAD = "Rig the tackle before the last bolt is out; feet and hands clear; one gives the word."


def _hose(values: Values, _: AskedAt) -> Result:
    mm = hose_length(values["straight"], values["bends"], values["radius"]) + 2 * values["spigot"]
    whole = mm * values["count"] / 1000
    clamps = int(values["count"] * 2 * (2 if values["below"] == "yes" else 1))
    warnings = []
    if values["radius"] < 4 * values["bore"]:
        warnings.append(
            f"A bend of {values['radius']:g} mm is tight for a bore of {values['bore']:g} mm: it will flatten. Take a formed hose."
        )
    return Result(
        (
            Row("Cut each", f"{mm:.0f} mm", inches(mm), main=True),
            Row("In all", f"{whole * 1000:.0f} mm", feet(whole), f"{whole:.2f} m", main=True),
            Row(
                "Clamps",
                f"{clamps}",
                "",
                "two at every end near or below the waterline" if values["below"] == "yes" else "one at every end",
                main=True,
            ),
        ),
        (
            PartResult(f"Hose {values['bore']:g} mm", math.ceil(whole * 2) / 2, "m"),
            PartResult("Hose clamps, stainless", float(clamps), ""),
        ),
        hours=math.ceil((values["count"] * 0.4) * 2) / 2,
        warnings=tuple(warnings),
    )


HOSE = Calculator(
    "hose",
    "Hose and clamps",
    "Fittings",
    "How long to cut, so that it neither bows nor chafes, and how many clamps.",
    (
        Input("straight", "Straight runs", "mm", 600, 0, 50000),
        Input("bends", "Quarter bends", "", 2, 0, 20),
        Input("radius", "Radius of a bend", "mm", 150, 10, 2000),
        Input("bore", "Bore", "mm", 38, 6, 200),
        Input("spigot", "On each spigot", "mm", 45, 0, 200),
        Input("count", "Hoses alike", "", 1, 1, 50),
        Input("below", "Near or below the waterline", "", "yes", choices=(("yes", "yes"), ("no", "no"))),
    ),
    "straight + bends × π ÷ 2 × radius + both spigots",
    "Geometry; two clamps near or below the waterline: common practice.",
    "Wire hose bent no tighter than four times its bore (judgement).",
    _hose,
    ("No loose hose within reach of a turning shaft; no plastic elbow below the waterline.",),
)


def _flood(values: Values, _: AskedAt) -> Result:
    flow = inflow(values["across"], values["depth"])
    pumps = values["pumps"] * values["printed"] / 60 * values["share"] / 100
    net = flow - pumps
    minutes = values["volume"] / net if net > 0 else math.inf
    warnings = []
    if net > 0:
        warnings.append("The pumps don't hold it. A plug at each opening, and everybody knows where.")
    return Result(
        (
            Row("Comes in", f"{flow * 60:.0f} L/h", gallons(flow * 60) + "/h", f"{flow:.0f} L/min", main=True),
            Row(
                "Pumps really move",
                f"{pumps * 60:.0f} L/h",
                gallons(pumps * 60) + "/h",
                f"{values['share']:g} % of what is printed on them, {pumps:.0f} L/min",
            ),
            Row(
                "Against each other",
                f"{abs(net) * 60:.0f} L/h {'gained by the sea' if net > 0 else 'to spare'}",
                gallons(abs(net) * 60) + "/h",
                f"{abs(net):.0f} L/min",
                main=True,
            ),
            Row(
                "Until the boards float",
                f"{minutes:.0f} min" if net > 0 else "never",
                "",
                f"{values['volume']:g} L below the boards",
                main=True,
            ),
        ),
        warnings=tuple(warnings),
        drawing=("flood", {"across": values["across"], "depth": values["depth"], "flow": flow, "pumps": pumps}),
    )


FLOOD = Calculator(
    "flooding",
    "Flooding through a hole",
    "Fittings",
    "What comes in through a hole of a size at a depth, and whether the pumps hold it.",
    (
        Input("across", "Hole across", "mm", 38, 1, 500),
        Input("depth", "Under water", "m", 0.5, 0, 5),
        Input("pumps", "Pumps", "", 2, 0, 20),
        Input("printed", "Each, as printed on it", "L/h", 4000, 0, 100000),
        Input("share", "Of which it moves", "%", PUMP_SHARE * 100, 5, 100),
        Input("volume", "Room below the boards", "L", 800, 1, 100000),
    ),
    "Q = Cd · A · √(2 g h), Cd 0.6",
    "Torricelli's law with a discharge coefficient (textbook); 0.6: from memory. Half of a pump's print: judgement.",
    "A round sharp-edged hole; the flow falls as the water inside rises.",
    _flood,
    ("Sound the alarm first, count the people, then look for the hole.",),
)


def _chain(values: Values, _: AskedAt) -> Result:
    kg = chain_mass(values["metres"], values["size"])
    pair = 2 * 0.8 * values["head"]  # two share a load, never evenly
    trips = max(1, math.ceil(round(kg / pair, 6)))
    colours = str(values["colours"]).replace(",", " ").split()
    if not colours:
        raise ValueError("type at least one colour")
    count = int(values["metres"] // values["every"])
    marks = [
        (f"{(n + 1) * values['every']:g} m", _bands(n, colours), feet((n + 1) * values["every"])) for n in range(count)
    ][:60]
    return Result(
        (
            Row("Weighs", f"{kg:.0f} kg", pounds(kg), f"{kg / values['metres']:.2f} kg/m", main=True),
            Row(
                "Carried",
                f"by two in {trips} trip{'s' if trips > 1 else ''}, or by one in {math.ceil(round(kg / values['head'], 6))}",
                "",
                f"{values['head']:g} kg a head; two together carry {pair:g} kg, the load is never even",
            ),
            Row("Marks", f"{count}", "", f"every {values['every']:g} m", main=True),
        ),
        (PartResult(f"Chain {values['size']:g} mm", values["metres"], "m"),),
        hours=math.ceil((1 + values["metres"] / 40) * 2) / 2,
        table=(("At", "Mark", ""), *marks),
    )


def _bands(number: int, colours: list[str]) -> str:
    """The mark of a length: colours in a repeating order, one band more for each time round.

    >>> [_bands(n, ["red", "white"]) for n in range(4)]
    ['1 red', '1 white', '2 red', '2 white']
    """
    return f"{number // len(colours) + 1} {colours[number % len(colours)]}"


CHAIN_ = Calculator(
    "chain",
    "Chain weight and marks",
    "Fittings",
    "What it weighs, in how many loads, and a repeating order of colours to mark it by.",
    (
        Input("metres", "Length", "m", 60, 1, 500),
        Input("size", "Size", "mm", 10, 4, 30),
        Input("every", "A mark every", "m", 5, 1, 50),
        Input("colours", "Colours in order", "", "red white blue yellow"),
        Input("head", "For each head and trip", "kg", HAND, 5, 60, help="more in a barrow on level ground"),
    ),
    "0.022 kg/m for each mm² of size²",
    "Mass of short link chain, from memory; 75 m of 12 mm over 200 kg: common practice.",
    "Short link steel chain of 6 to 16 mm, some 5 % either way.",
    _chain,
    ("Chain runs out on its own: lash it before you lean over it. " + LOAD,),
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


def _rudder(values: Values, _: AskedAt) -> Result:
    mass = rudder_mass(values["area"], values["thick"], values["stock_kg"])
    lift = lift_for(values["stock"], values["room"])
    grow = (
        2 * values["paint"] / 1000 + values["growth"]
    )  # both faces of the gap are painted: the blade's and what it turns in
    gap = values["gap"] - grow
    back = max(values["least"] - gap, 0.0)
    warnings = []
    if gap <= 0:
        warnings.append(
            "It binds: paint and growth take more than the gap. Fair the blade or ease the hull before paint."
        )
    elif back:
        warnings.append("It turns, with less room than wanted: growth or a grain of sand will bind it.")
    return Result(
        (
            Row("Blade and stock", f"{mass:.0f} kg", pounds(mass), "more when it is wet inside", main=True),
            Row("Hands", f"{hands_for(mass)}", "", "and a tackle", main=True),
            Row("Lift, or pit", f"{lift * 100:.0f} cm", inches(lift * 1000), "to drop the stock clear", main=True),
            Row(
                "Gap left on that side",
                f"{gap:.1f} mm",
                inches(gap),
                f"{values['gap']:g} mm less {grow:.1f}; below nothing it rubs",
                main=True,
            ),
            Row(
                "Cut back",
                f"{back:.1f} mm" if back else "nothing",
                inches(back) if back else "",
                f"for {values['least']:g} mm of room",
                main=True,
            ),
        ),
        warnings=tuple(warnings),
        drawing=("rudder", {"stock": values["stock"], "room": values["room"], "lift": lift}),
    )


RUDDER = Calculator(
    "rudder",
    "Rudder clearance",
    "Fittings",
    "How high she must stand to get it out, how heavy it is, and whether it clears with its paint on.",
    (
        Input("stock", "Stock inside the hull", "m", 0.9, 0.05, 5),
        Input("room", "Room under the blade", "m", 0.4, 0, 5),
        Input("area", "Blade", "m²", 0.7, 0.05, 10),
        Input("thick", "Mean thickness", "mm", 70, 10, 400),
        Input("stock_kg", "Stock", "kg", 25, 0, 500),
        Input("gap", "Gap to hull or skeg", "mm", 4, -50, 50, help="on the tighter side; below 0: it rubs by so much"),
        Input("paint", "Paint on each face", "µm", 400, 0, 3000, help="the blade's and the one it turns in"),
        Input("growth", "Growth to allow", "mm", 2, 0, 30),
        Input("least", "Room wanted", "mm", 1, 0, 20),
    ),
    "lift = stock + 5 cm − room; gap left = gap − paint on both faces − growth; cut back = room wanted − gap left",
    "Geometry; dry-fit before paint and allow for it, growth needs clearance: common practice. 750 kg/m³ for a blade: judgement.",
    "Blades of foam and laminate on a metal stock.",
    _rudder,
    (PROPS, LOAD),
)


def _load(values: Values, _: AskedAt) -> Result:
    together = hands_for(values["mass"], values["hand"])
    return Result(
        (
            Row(
                "Together",
                f"{together} pair{'s' if together > 1 else ''} of hands",
                pounds(values["mass"]),
                "four fifths of each hand's share, the load is never even",
                main=True,
            ),
            Row(
                "In loads",
                f"{math.ceil(values['mass'] / values['hand'])} by one, {math.ceil(values['mass'] / (values['hand'] * 1.6))} by two",
                "",
                "when it can be divided",
            ),
        ),
        warnings=("More than four pairs of hands don't fit round a thing: take a tackle, a crane or the yard.",)
        if together > 4
        else (),
    )


LOADS = Calculator(
    "load",
    "Load for hands",
    "Fittings",
    "How many people for a weight, or how many trips.",
    (Input("mass", "Mass", "kg", 60, 0.1, 5000), Input("hand", "For each pair of hands", "kg", 20, 5, 40)),
    "hands = mass ÷ (0.8 × share of each), at least two above one share",
    "16 to 25 kg held close at the waist: guidance from memory; four fifths: judgement.",
    "Not up a ladder, not over a rail: there it is a tackle's work.",
    _load,
    (LOAD,),
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


def _beside(values: Values, _: AskedAt) -> Result:
    bodies = values["centres"] - (values["one"] + values["other"]) / 2
    handles = values["centres"] - swing_sum(values)
    tool = values["centres"] - values["one"] / 2 - values["other"] / 2 - values["tool"]
    warnings = []
    if bodies < 0:
        warnings.append("The bodies touch: set them farther apart before the blocks are bonded.")
    elif handles < 0 and values["turn"] == "both":
        warnings.append("The handles meet when both swing inwards: turn one round, or set them farther apart.")
    elif tool < 0:
        warnings.append("No room for the spanner between them.")
    wanted = max((values["one"] + values["other"]) / 2 + values["tool"], swing_sum(values)) + values["least"]
    return Result(
        (
            Row("Between the bodies", f"{bodies:.0f} mm", inches(bodies), "below nothing they touch", main=True),
            Row(
                "Between the handles at their closest",
                f"{handles:.0f} mm",
                inches(handles),
                _swing_told(values),
                main=True,
            ),
            Row("Beside the spanner", f"{tool:.0f} mm", inches(tool), f"a spanner takes {values['tool']:g} mm"),
            Row(
                "Centres wanted", f"{wanted:.0f} mm", inches(wanted), f"with {values['least']:g} mm to spare", main=True
            ),
        ),
        warnings=tuple(warnings),
        drawing=(
            "beside",
            {name: values[name] for name in ("centres", "one", "other", "swing_one", "swing_other", "turn")},
        ),
    )


def swing_sum(values: Values) -> float:
    """The centres at which two handles just meet, mm: both pointing at each other, or one at the other's body."""
    if values["turn"] == "both":
        return float(values["swing_one"] + values["swing_other"])
    if values["turn"] == "one":
        return float(max(values["swing_one"] + values["other"] / 2, (values["one"] + values["other"]) / 2))
    return float((values["one"] + values["other"]) / 2)


def _swing_told(values: Values) -> str:
    return {
        "both": "both can point at each other",
        "one": "the first can point at the second's body",
        "none": "both turn away",
    }[values["turn"]]


BESIDE = Calculator(
    "beside",
    "Two fittings side by side",
    "Fittings",
    "Whether two valves or fittings clear each other, bodies, handles and spanner, before their blocks are bonded.",
    (
        Input("centres", "Centre to centre", "mm", 120, 1, 5000),
        Input("one", "First one, width", "mm", 70, 1, 2000),
        Input("other", "Second one, width", "mm", 70, 1, 2000),
        Input("swing_one", "First handle, from its centre", "mm", 90, 0, 2000),
        Input("swing_other", "Second handle, from its centre", "mm", 90, 0, 2000),
        Input(
            "turn",
            "Handles turn",
            "",
            "both",
            choices=(
                ("both", "both towards each other"),
                ("one", "the first towards the second"),
                ("none", "both away"),
            ),
        ),
        Input("tool", "Spanner between them", "mm", 30, 0, 500),
        Input("least", "To spare", "mm", 10, 0, 500),
    ),
    "between bodies = centres − half of each width; between handles = centres − both swings",
    "Geometry; look that two valves side by side clear each other before the block is bonded: common practice.",
    "Fittings in one plane; try them dry all the same.",
    _beside,
)
ALL = (HOSE, BESIDE, FLOOD, CHAIN_, CABLE, RUDDER, LOADS, GALVANIC)
