"""Laminate: the taper of a repair, its plies one by one, resin by weight fraction, filler of blisters."""

from __future__ import annotations

import math
from dataclasses import dataclass

GLASS_KG_M2 = 0.9  # mass of a square metre of a ply, 800-900 g cloth with mat (from memory)
GLASS_DENSITY, RESIN_DENSITY = 2.55, 1.15  # kg/L of E-glass and of cured epoxy (handbook values, from memory)


@dataclass(frozen=True, slots=True)
class Ply:
    """One ply: its number as laid, its diameter in mm, its area in m²."""

    number: int
    across: float
    area: float


@dataclass(frozen=True)
class Taper:
    """A tapered repair of a round hole. width: of the taper on every side, mm; outer: across the ground area, mm.

    resin, hardener, cloth: kg, kg, m² with waste; fibre: kg of glass in the plies.
    """

    hole: float
    skin: float
    ratio: float
    width: float
    outer: float
    plies: tuple[Ply, ...]
    fibre: float
    cloth: float
    resin: float
    hardener: float


def taper_width(skin: float, ratio: float) -> float:
    """Width of the taper in mm on every side: thickness x ratio; 12:1 is common practice.

    >>> taper_width(9, 12)
    108
    """
    return skin * ratio


def resin_for(fibre: float, share: float) -> float:
    """Resin in kg for ``fibre`` kg at a fibre share by weight: fibre x (1 - share) / share.

    By definition of the weight fraction; 0.45-0.5 by hand (from memory). share strictly between 0 and 1.

    >>> round(resin_for(4.5, 0.45), 2)
    5.5
    """
    return fibre * (1 - share) / share


def ply_thickness(mass: float, share: float) -> float:
    """Cured thickness in mm of a ply of ``mass`` kg of glass a square metre at a fibre share by weight: glass and resin by volume.

    >>> round(ply_thickness(0.9, 0.45), 1)
    1.3
    """
    return mass / GLASS_DENSITY + resin_for(mass, share) / RESIN_DENSITY


MOST_A_SESSION = 5.5  # mm of cured laminate that stay cool while they set; from memory, the resin's sheet comes first


def sessions_for(plies: int, thick: float) -> int:
    """In how many goes plies of ``thick`` mm are laid, so that none heats itself: at most MOST_A_SESSION mm each.

    >>> sessions_for(10, 1.31), sessions_for(23, 1.31), sessions_for(2, 6)
    (3, 6, 2)
    """
    return math.ceil(plies / max(math.floor(MOST_A_SESSION / thick), 1))


def lay_up_hours(plies: int, area: float, sessions: int = 1) -> float:
    """Hours for two to lay ``plies`` plies of ``area`` m² in all: setting out each session, each ply cut, wetted and rolled (judgement).

    Each session is rounded up to the half-hour.

    >>> lay_up_hours(10, 0.6), lay_up_hours(10, 0.6, 3)
    (2.0, 3.0)
    """
    return sessions * math.ceil(round((0.5 + (plies * 0.05 + area * 1.5) / sessions) * 2, 6)) / 2


def taper_of(
    hole: float,
    skin: float,
    ratio: float,
    *,
    ply_mm: float = 0.0,
    ply_kg: float = GLASS_KG_M2,
    share: float = 0.45,
    waste: float = 0.2,
    mix: float = 5.0,
    largest_first: bool = True,
) -> Taper:
    """The plies of a repair: as many as fill the skin, stepping evenly from the hole to the edge of the taper.

    hole, skin, ply_mm in mm (0: by its glass and resin); ply_kg in kg/m²; share: fibre by weight; waste: part of cloth and resin lost;
    mix: parts of resin to one of hardener by weight.
    """
    width = taper_width(skin, ratio)
    count = max(2, round(skin / (ply_mm or ply_thickness(ply_kg, share))))
    step = 2 * width / count
    sizes = [hole + step * (n + 1) for n in range(count)]
    if largest_first:
        sizes.reverse()
    plies = tuple(Ply(n, across, math.pi / 4 * (across / 1000) ** 2) for n, across in enumerate(sizes, 1))
    area = sum(ply.area for ply in plies)
    fibre = area * ply_kg
    whole = resin_for(fibre, share) * (1 + waste)
    return Taper(
        hole,
        skin,
        ratio,
        width,
        hole + 2 * width,
        plies,
        fibre,
        area * (1 + waste),
        whole * mix / (mix + 1),
        whole / (mix + 1),
    )


def bowl(across: float, deep: float) -> float:
    """Volume in mL of a bowl ground to ``across`` and ``deep`` mm: a cap of a sphere, pi h (3 a² + h²) / 6, a the half.

    >>> round(bowl(20, 10), 2)  # half a ball of radius 10 mm
    2.09
    """
    return math.pi * deep * (3 * (across / 2) ** 2 + deep**2) / 6 / 1000


def filler_for(blisters: float, across: float, deep: float, density: float, waste: float = 0.3) -> float:
    """Filler in kg for so many bowls; density in kg/L, waste a share of it."""
    return blisters * bowl(across, deep) / 1000 * density * (1 + waste)
