"""Calculators about laminate: taper, blisters, resin against the plan, sealant."""

from __future__ import annotations

import math
from datetime import datetime, timedelta

from rovask.core.bench.calculator import (
    AskedAt,
    Calculator,
    Input,
    PartResult,
    Result,
    Row,
    Values,
    inches,
    pounds,
    square_feet,
)
from rovask.core.bench.laminate import bowl, filler_for, lay_up_hours, ply_thickness, sessions_for, taper_of
from rovask.core.bench.water import sealant_for
from rovask.core.plain.words import day
from rovask.core.readings.stock import stocks
from rovask.core.refit.model import Part

EPOXY = "Epoxy sensitises for life: gloves, long sleeves, mask when sanding; small batches, away from heat."
GRIND = "Grinding laminate: mask, goggles, extraction; dust is a burden to everybody in the yard."


def _taper(values: Values, _: AskedAt) -> Result:
    taper = taper_of(
        values["hole"],
        values["skin"],
        values["ratio"],
        ply_mm=values["ply"],
        ply_kg=values["mass"] / 1000,
        share=values["share"] / 100,
        waste=values["waste"] / 100,
        mix=values["mix"],
        largest_first=values["order"] == "largest",
    )
    thick = values["ply"] or ply_thickness(values["mass"] / 1000, values["share"] / 100)
    sessions = sessions_for(len(taper.plies), thick)
    filler = math.pi / 4 * (taper.outer / 1000) ** 2 * 1.5 * 0.9  # a fairing coat of 1.5 mm of light filler
    rows = (
        Row(
            "Taper on every side",
            f"{taper.width:.0f} mm",
            inches(taper.width),
            f"{values['skin']:g} mm × {values['ratio']:g}",
            main=True,
        ),
        Row("Ground area across", f"{taper.outer:.0f} mm", inches(taper.outer)),
        Row("Plies", f"{len(taper.plies)}", "", f"{thick:.2g} mm each", main=True),
        Row("Sessions", f"{sessions}", "", "at most some 5 mm each, so that it stays cool"),
        Row("Cloth", f"{taper.cloth:.2f} m²", square_feet(taper.cloth), f"with {values['waste']:g} % waste", main=True),
        Row("Glass in it", f"{taper.fibre:.2f} kg", pounds(taper.fibre)),
        Row(
            "Resin with its hardener",
            f"{taper.resin + taper.hardener:.2f} kg",
            pounds(taper.resin + taper.hardener),
            f"fibre {values['share']:g} % by weight, with {values['waste']:g} % waste",
            main=True,
        ),
        Row("Of that resin", f"{taper.resin:.2f} kg", pounds(taper.resin), f"{values['mix']:g} : 1 by weight"),
        Row("and hardener", f"{taper.hardener:.2f} kg", pounds(taper.hardener)),
        Row("Fairing filler, first coat", f"{filler:.2f} kg", pounds(filler), "1.5 mm over all of it"),
    )
    warnings = []
    if values["ratio"] < 12:
        warnings.append("Under 12 : 1: only where it can't be otherwise, and never under 10 : 1.")
    if taper.plies[0].area > 1:
        warnings.append("A repair this large is a matter for a surveyor and a builder's schedule.")
    return Result(
        rows,
        (
            PartResult("Biaxial glass", round(taper.cloth + 0.049, 1), "m²"),
            PartResult("Laminating epoxy with hardener", math.ceil((taper.resin + taper.hardener) * 2) / 2, "kg"),
            PartResult("Fairing filler", max(math.ceil(filler * 2) / 2, 0.5), "kg"),
        ),
        hours=lay_up_hours(len(taper.plies), sum(ply.area for ply in taper.plies), sessions),
        warnings=tuple(warnings),
        drawing=("taper", taper),
        table=(
            ("Ply", "Across", "Area"),
            *(
                (f"{ply.number}", f"{ply.across:.0f} mm ({inches(ply.across)})", f"{ply.area:.3f} m²")
                for ply in taper.plies
            ),
        ),
    )


TAPER = Calculator(
    "taper",
    "Taper repair",
    "Structure",
    "How wide to taper, which plies in which sizes, how much cloth, resin and filler.",
    (
        Input("hole", "Hole across", "mm", 150, 1, 3000),
        Input("skin", "Laminate", "mm", 9, 1, 80),
        Input("ratio", "Taper", ": 1", 12, 10, 30),
        Input(
            "order",
            "Plies",
            "",
            "largest",
            choices=(
                ("largest", "largest first: each bonds to old laminate over its whole face"),
                ("smallest", "smallest first: none is sanded through in fairing"),
            ),
        ),
        Input("ply", "Ply, cured", "mm", 0, 0, 5, help="0: by its glass and resin"),
        Input("mass", "Cloth", "g/m²", 900, 50, 3000),
        Input("share", "Fibre by weight", "%", 45, 20, 75),
        Input("waste", "Waste", "%", 20, 0, 100),
        Input("mix", "Resin to hardener", ": 1 by weight", 5, 0.5, 20),
    ),
    "taper = thickness × ratio; ply = glass ÷ 2.55 + resin ÷ 1.15; plies = thickness ÷ ply; resin and hardener together = fibre × (1 − Wf) ÷ Wf × (1 + waste)",
    "12 : 1, never under 10 : 1: common practice. Densities of glass and epoxy: handbook values, from memory. Hours for two: judgement. Some 5 mm a session: from memory, the resin's sheet comes first. Resin: by definition of the fibre weight fraction Wf.",
    "Solid laminate of glass, a round hole; reach both faces where you can.",
    _taper,
    (GRIND, EPOXY),
)


def _blister(values: Values, _: AskedAt) -> Result:
    each = bowl(values["across"], values["deep"])
    kg = filler_for(values["count"], values["across"], values["deep"], values["density"], values["waste"] / 100)
    return Result(
        (
            Row("One bowl", f"{each:.2f} mL", "", "a cap of a sphere"),
            Row("All of them", f"{each * values['count'] / 1000:.2f} L"),
            Row("Filler", f"{kg:.2f} kg", pounds(kg), f"with {values['waste']:g} % waste", main=True),
        ),
        (PartResult("Epoxy filler", max(math.ceil(kg * 4) / 4, 0.25), "kg"),),
        hours=math.ceil((1 + values["count"] * 0.06) * 2) / 2,
    )


BLISTER = Calculator(
    "blisters",
    "Blister fill",
    "Structure",
    "How much filler the opened bowls take.",
    (
        Input("count", "Blisters", "", 40, 1, 20000),
        Input("across", "Across, ground", "mm", 25, 1, 500),
        Input("deep", "Deep", "mm", 4, 0.2, 50),
        Input("density", "Filler", "kg/L", 1.1, 0.2, 3),
        Input("waste", "Waste", "%", 30, 0, 100),
    ),
    "bowl = π × h × (3 × a² + h²) ÷ 6 with a half its width",
    "Geometry of the spherical cap (textbook).",
    "Bowls not deeper than half their width; a deeper one is a hole and takes a laminate.",
    _blister,
    (EPOXY, GRIND),
)


def _is_resin(part: Part) -> bool:
    return part.unit == "kg" and any(word in part.name.lower() for word in ("epoxy", "resin"))


def _in_stores(place: AskedAt) -> float:
    """All the resin there is by the Stores, kg."""
    return round(sum(one.there_is for one in stocks(place.refit, place.plan).values() if _is_resin(one.part)), 2)


def _resin(values: Values, place: AskedAt) -> Result:
    zone, at = place.refit.yard.zone, place.plan.by_task()
    moves: list[tuple[float, str, str, float]] = []
    for part in place.refit.parts:
        if not _is_resin(part):
            continue
        stock = stocks(place.refit, place.plan)[part.id]
        for parcel in stock.coming:
            due = max(parcel.at or place.now, place.now)
            moves.append((due.timestamp(), day(due, zone), f"{part.name} comes", parcel.quantity))
        for task in place.refit.tasks.values():
            if part.id in task.parts and not task.done_at and task.id in at:
                start, cover = at[task.id].start, stock.by_task.get(task.id)
                moves.append((start.timestamp(), day(start, zone), task.title, -(cover.taken if cover else 0.0)))
    moves.sort()
    left, rows, short = values["stock"], [], None
    for at_, when, title, kg in moves:
        left += kg
        takes = f"{abs(kg):.1f} kg ({pounds(abs(kg))})"
        rows.append((when, title, takes if kg < 0 else f"+ {takes}", f"{left:.1f} kg ({pounds(left)})"))
        if left < values["reserve"] and short is None:
            short = at_
    need = -sum(kg for *_, kg in moves if kg < 0)
    arriving = sum(kg for *_, kg in moves if kg > 0)
    warnings = []
    if short is not None:
        runs_out = datetime.fromtimestamp(short, zone)
        order = runs_out - timedelta(days=values["lead"])
        until = f"order by {day(order, zone)}, it takes {values['lead']:g} days."
        if order <= place.now:
            until = f"what takes {values['lead']:g} days comes too late: look for some nearer by."
        warnings.append(f"Below the reserve from {day(runs_out, zone)} on: {until}")
    return Result(
        (
            Row("The plan still takes", f"{need:.1f} kg", pounds(need), main=True),
            Row("On its way", f"{arriving:.1f} kg", pounds(arriving), "counted on the day it is due"),
            Row("Left at the end", f"{left:.1f} kg", pounds(left), f"reserve {values['reserve']:g} kg", main=True),
        ),
        (PartResult("Laminating epoxy with hardener", math.ceil(max(values["reserve"] - left, 0.5)), "kg"),)
        if short is not None
        else (),
        warnings=tuple(warnings),
        table=(("Day", "Task", "Takes", "Left"), *rows) if rows else (),
    )


RESIN = Calculator(
    "resin",
    "Resin stock against the plan",
    "Structure",
    "When the resin runs out, by the tasks that take it, and by when more is ordered.",
    (
        Input("stock", "In stock", "kg", _in_stores, 0, 5000, help="as Stores has it"),
        Input("reserve", "Reserve", "kg", 2, 0, 500),
        Input("lead", "More takes", "days", 5, 0, 365),
    ),
    "stock and what is on its way, less what each planned task's epoxy or resin part takes, in the order of the plan; order by = that day less the lead time",
    "Arithmetic on the plan; a part of several tasks is shared evenly among them.",
    "Parts in kg with “epoxy” or “resin” in their name.",
    _resin,
    (EPOXY,),
)


def _sealant(values: Values, _: AskedAt) -> Result:
    length = values["length"] * values["count"]
    ml = sealant_for(length, values["bead"], values["waste"] / 100)
    tubes = math.ceil(ml / values["tube"] - 1e-9)
    return Result(
        (
            Row("Bead in all", f"{length / 1000:.2f} m"),
            Row("Sealant", f"{ml:.0f} mL", "", f"with {values['waste']:g} % waste", main=True),
            Row(
                "Tubes",
                f"{tubes} of {values['tube']:g} mL",
                "",
                f"{tubes * values['tube'] - ml:.0f} mL left over",
                main=True,
            ),
        ),
        (PartResult("Bedding sealant", float(tubes), "tubes"),) if tubes else (),
    )


SEALANT = Calculator(
    "sealant",
    "Bedding and sealant",
    "Structure",
    "How many tubes for the bead round so many fittings.",
    (
        Input("length", "Bead round one", "mm", 400, 1, 1e5),
        Input("count", "Fittings", "", 6, 1, 1000),
        Input("bead", "Bead across", "mm", 8, 1, 40),
        Input("tube", "Tube", "mL", 290, 50, 1000),
        Input("waste", "Waste", "%", 25, 0, 100),
    ),
    "π ÷ 4 × bead² × length × (1 + waste)",
    "Volume of a cylinder (textbook).",
    "A round bead; a ring under a flange takes less.",
    _sealant,
)
ALL = (TAPER, BLISTER, RESIN, SEALANT)
