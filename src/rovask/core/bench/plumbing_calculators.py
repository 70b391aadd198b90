"""Calculators about water: hose, flooding."""

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
)
from rovask.core.bench.water import PUMP_SHARE, hose_length, inflow


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
    "Q = Cd · A · √(2 · g · h), Cd 0.6",
    "Torricelli's law with a discharge coefficient (textbook); 0.6: from memory. Half of a pump's print: judgement.",
    "A round sharp-edged hole; the flow falls as the water inside rises.",
    _flood,
    ("Sound the alarm first, count the people, then look for the hole.",),
)
