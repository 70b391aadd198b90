"""Calculators about ground tackle and loads: chain, rudder, what hands can lift."""

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
    inches,
    pounds,
)
from rovask.core.bench.loads import HAND, hands_for, lift_for, rudder_mass
from rovask.core.bench.metal import CHAIN_LEAST, CHAIN_MOST, chain_mass

PROPS = "Nobody but the yard lifts her, digs near a prop or touches one."


LOAD = "Rig the tackle before the last bolt is out; feet and hands clear; one gives the word."


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
                "By its label",
                f"{kg * CHAIN_LEAST:.0f} to {kg * CHAIN_MOST:.0f} kg",
                f"{pounds(kg * CHAIN_LEAST)} to {pounds(kg * CHAIN_MOST)}",
                "makers differ: the label comes first",
            ),
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
    "0.0225 × size² kg/m",
    "DIN 766: 1.4, 2.25 and 3.3 kg/m for 8, 10 and 12 mm, from memory; labels from 3 % under to 8 % over it. Loads: by what hands may lift, as the recipe counts them.",
    "Short link steel chain of 6 to 16 mm; long links weigh less.",
    _chain,
    ("Chain runs out on its own: lash it before you lean over it. " + LOAD,),
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
    "Geometry; dry-fit before paint and allow for it on both faces, a skeg's too. Room by the maker, else two views: room for growth (type some), or so tight that none enters (type 0): common practice. 750 kg/m³ for a blade: judgement.",
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
