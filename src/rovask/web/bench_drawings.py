"""Drawings of the bench to scale: a taper in section and plan, films of paint, flooding, a rudder's drop."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from rovask.core.bench.laminate import Ply, Taper

WIDTH = 640.0


@dataclass(frozen=True, slots=True)
class Mark:
    """A word on the drawing."""

    x: float
    y: float
    text: str
    anchor: str = "middle"


@dataclass
class Sketch:
    """A drawing: shapes as (class, path), lines as (class, path), words; in pixels."""

    width: float
    height: float
    told: str
    shapes: list[tuple[str, str]] = field(default_factory=list)
    marks: list[Mark] = field(default_factory=list)


def drawn(drawing: tuple[str, Any] | None) -> Sketch | None:
    """The drawing of a result; None for those without."""
    if drawing is None:
        return None
    kind, figures = drawing
    makers: dict[str, Callable[[Any], Sketch]] = {
        "taper": _taper,
        "film": _film,
        "flood": _flood,
        "rudder": _rudder,
        "beside": _beside,
        "galvanic": _galvanic,
    }
    return makers[kind](figures)


def _box(x: float, y: float, width: float, height: float) -> str:
    return f"M{x:.1f} {y:.1f}h{width:.1f}v{height:.1f}h{-width:.1f}Z"


def _circle(x: float, y: float, r: float) -> str:
    return f"M{x - r:.1f} {y:.1f}a{r:.1f} {r:.1f} 0 1 0 {2 * r:.1f} 0a{r:.1f} {r:.1f} 0 1 0 {-2 * r:.1f} 0Z"


def _taper(taper: Taper) -> Sketch:
    """Section over plan, both to the same scale across; thickness in the section twice as large where it is thin."""
    scale = (WIDTH - 60) / taper.outer
    tall = max(scale, min(4.0, 60 / taper.skin))
    middle, top = WIDTH / 2, 46.0
    skin = taper.skin * tall
    edge, hole = taper.outer / 2 * scale, taper.hole / 2 * scale
    radius = min(edge, 150.0)
    plan_scale = radius / (taper.outer / 2)
    plan_y = top + skin + 60 + radius
    out = Sketch(WIDTH, plan_y + radius + 26, f"Taper of {taper.width:.0f} mm on every side, {len(taper.plies)} plies")
    for side in (-1, 1):
        out.shapes.append(
            (
                "skin",
                f"M{middle + side * WIDTH / 2:.1f} {top:.1f}L{middle + side * edge:.1f} {top:.1f}"
                f"L{middle + side * hole:.1f} {top + skin:.1f}L{middle + side * WIDTH / 2:.1f} {top + skin:.1f}Z",
            )
        )
    for ply in taper.plies:
        out.shapes.append(("ply", _ply(taper, ply, middle, top, scale, tall)))
        out.shapes.append(("ring", _circle(middle, plan_y, ply.across / 2 * plan_scale)))
    out.shapes.append(("hole", _circle(middle, plan_y, taper.hole / 2 * plan_scale)))
    line = top - 14
    out.shapes.append(("measure", f"M{middle - edge:.1f} {line:.1f}H{middle - hole:.1f}"))
    out.shapes.append(("measure", f"M{middle - hole:.1f} {line:.1f}H{middle + hole:.1f}"))
    for x in (-edge, -hole, hole):
        out.shapes.append(("measure", f"M{middle + x:.1f} {line - 5:.1f}v10"))
    out.marks = [
        Mark(middle - (edge + hole) / 2, line - 6, f"taper {taper.width:.0f} mm"),
        Mark(middle, line - 6, f"hole {taper.hole:.0f}"),
        Mark(
            WIDTH - 6,
            top + skin + 16,
            f"skin {taper.skin:g} mm, drawn {tall / scale:.0f} times as thick as wide",
            "end",
        ),
        Mark(6, plan_y - radius, f"{taper.outer:.0f} mm across", "start"),
        Mark(middle, plan_y + radius + 18, "each ring is a ply's edge"),
    ]
    return out


def _ply(taper: Taper, ply: Ply, middle: float, top: float, scale: float, tall: float) -> str:
    """One ply in section: smallest first they lie flat in the hollow, largest first each drapes over those before."""
    thick = taper.skin / len(taper.plies)
    half, hole = ply.across / 2, taper.hole / 2
    if taper.plies[0].across < taper.plies[-1].across:
        low = taper.skin - (ply.number - 1) * thick
        edges = [(-half, low), (half, low)]
    else:
        slope = taper.skin / (taper.outer / 2 - hole)
        depth = (taper.outer / 2 - half) * slope - (ply.number - 1) * thick
        floor = taper.skin - (ply.number - 1) * thick
        edges = [(-half, depth), (-hole, floor), (hole, floor), (half, depth)]
    under = [(middle + x * scale, top + y * tall) for x, y in edges]
    over = [(x, y - thick * tall) for x, y in reversed(under)]
    return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in (*under, *over)) + "Z"


def _film(figures: dict[str, float]) -> Sketch:
    """Coats beside each other: wet as laid, dry as they stay, one on the other."""
    coats = int(figures["coats"])
    whole = max(figures["wet"], figures["dry"] * coats)
    scale = 110 / whole
    base = 150.0
    out = Sketch(WIDTH, 176, f"Wet film {figures['wet']:.0f} µm, dry {figures['dry']:.0f} µm, {coats} coats")
    out.shapes.append(("skin", _box(20, base, WIDTH - 40, 10)))
    wet = figures["wet"] * scale
    out.shapes.append(("wet", _box(60, base - wet, 200, wet)))
    out.marks.append(Mark(160, base - wet - 6, f"wet {figures['wet']:.0f} µm"))
    for n in range(coats):
        high = figures["dry"] * scale
        out.shapes.append(("ply", _box(340, base - high * (n + 1), 220, high)))
    out.marks.append(
        Mark(
            450,
            base - figures["dry"] * scale * coats - 6,
            f"dry {coats} × {figures['dry']:.0f} = {coats * figures['dry']:.0f} µm",
        )
    )
    return out


def _flood(figures: dict[str, float]) -> Sketch:
    """What comes in against what goes out, as two bars."""
    most = max(figures["flow"], figures["pumps"], 1)
    out = Sketch(WIDTH, 120, f"{figures['flow']:.0f} litres a minute in, {figures['pumps']:.0f} out")
    for y, name, flow, kind in ((20, "in", figures["flow"], "bad"), (66, "out", figures["pumps"], "good")):
        long = (WIDTH - 220) * flow / most
        out.shapes.append((kind, _box(60, y, long, 30)))
        out.marks += [Mark(50, y + 20, name, "end"), Mark(70 + long, y + 20, f"{flow:.0f} L/min", "start")]
    return out


def _rudder(figures: dict[str, float]) -> Sketch:
    """The stock in the hull, the room beneath, and what is missing."""
    whole = figures["stock"] + figures["room"] + figures["lift"] + 0.4
    scale = 220 / whole
    hull, out = 90.0, Sketch(WIDTH, 300, f"Lift {figures['lift'] * 100:.0f} cm")
    blade = 60.0
    out.shapes.append(("skin", _box(180, hull - 12, 280, 12)))
    out.shapes.append(("ply", _box(314, hull - figures["stock"] * scale, 12, figures["stock"] * scale + 6)))
    out.shapes.append(("wet", _box(285, hull + 4, 70, blade)))
    ground = hull + 4 + blade + figures["room"] * scale
    out.shapes.append(("measure", f"M120 {ground:.1f}H520"))
    out.marks.append(Mark(126, ground - 5, "ground", "start"))
    out.marks.append(Mark(336, hull - figures["stock"] * scale / 2, f"stock {figures['stock'] * 100:.0f} cm", "start"))
    out.marks.append(Mark(365, (hull + blade + ground) / 2 + 6, f"room {figures['room'] * 100:.0f} cm", "start"))
    if figures["lift"]:
        low = ground + figures["lift"] * scale
        out.shapes.append(("ghost", f"M120 {low:.1f}H520"))
        out.marks.append(Mark(126, low - 5, f"lift her, or dig, {figures['lift'] * 100:.0f} cm", "start"))
    return out


def _galvanic(figures: dict[str, Any]) -> Sketch:
    """The metals in order of nobility, the two that meet marked."""
    metals = figures["metals"]
    low, high = metals[0].volts, metals[-1].volts
    out = Sketch(WIDTH, 40 + 20 * len(metals), "Metals in sea water, the one that is eaten first at the top")
    for n, metal in enumerate(metals):
        x = 220 + (WIDTH - 250) * (metal.volts - low) / (high - low)
        chosen = metal.key in (figures["one"], figures["other"])
        out.shapes.append(("measure", f"M220 {24 + 20 * n}H{x:.1f}"))
        out.shapes.append(("bad" if chosen else "ply", _circle(x, 24 + 20 * n, 6)))
        out.marks.append(Mark(210, 28 + 20 * n, metal.name, "end"))
    return out


def _beside(figures: dict[str, Any]) -> Sketch:
    """Two fittings seen from inside, to scale, with the arcs their handles sweep."""
    centres, one, other = figures["centres"], figures["one"], figures["other"]
    reach = max(one / 2, other / 2, figures["swing_one"], figures["swing_other"])
    scale = min((WIDTH - 40) / (centres + 2 * reach), 220 / (2 * reach))
    height = 2 * reach * scale + 40
    left, middle = 20 + reach * scale, height / 2
    right = left + centres * scale
    sketch = Sketch(WIDTH, height, f"Two fittings {centres:g} mm apart, with the sweep of their handles")
    for x, width, swing in ((left, one, figures["swing_one"]), (right, other, figures["swing_other"])):
        if swing:
            sketch.shapes.append(("ghost", _circle(x, middle, swing * scale)))
        sketch.shapes.append(("skin", _circle(x, middle, width / 2 * scale)))
        sketch.marks.append(Mark(x, middle + 4, f"{width:g}"))
    sketch.marks.append(Mark((left + right) / 2, height - 6, f"{centres:g} mm between centres"))
    return sketch
