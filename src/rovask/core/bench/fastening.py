"""Fastenings: what a thread carries, when it twists off, what a lever and a puller do, by how much heat opens a bore."""

from __future__ import annotations

import math

from rovask.core.refit.craft.choices import OfMetal

# Tensile strength in N/mm²: stainless of class 70 (ISO 3506-1), steel of class 8.8 (ISO 898-1), the rest from handbooks; all from memory.
TENSILE = {
    OfMetal.STAINLESS: 700.0, OfMetal.STEEL: 800.0, OfMetal.IRON: 250.0,
    OfMetal.BRONZE: 400.0, OfMetal.BRASS: 380.0, OfMetal.ALUMINIUM: 260.0,
}  # fmt: skip
# Expansion in 1/K x 1e-6, handbook values from memory: austenitic stainless 16, steel 12, grey iron 10.5, bronze 18, brass 19, aluminium 23.
EXPANSION = {
    OfMetal.STAINLESS: 16.0, OfMetal.STEEL: 12.0, OfMetal.IRON: 10.5,
    OfMetal.BRONZE: 18.0, OfMetal.BRASS: 19.0, OfMetal.ALUMINIUM: 23.0,
}  # fmt: skip
# Coarse pitch in mm by thread size (ISO 261, from memory).
PITCH = {3: 0.5, 4: 0.7, 5: 0.8, 6: 1.0, 8: 1.25, 10: 1.5, 12: 1.75, 14: 2.0, 16: 2.0, 18: 2.5, 20: 2.5, 22: 2.5, 24: 3.0, 27: 3.0, 30: 3.5}  # fmt: skip
SHEAR = 0.6  # of the tensile strength that a thread carries across (EN 1993-1-8, class 8.8, from memory)
TWIST = 0.577  # of the tensile strength at which it yields twisted (von Mises)
NUT = 0.2  # of torque ÷ (force x diameter) of a dry thread (handbooks)
SAFE = 3.0  # by which one stays away from breaking (judgement)


def stress_area(size_mm: float) -> float | None:
    """Stress area of a coarse ISO thread in mm²: π ÷ 4 (d - 0.9382 p)² (ISO 898-1). None for a size that is no coarse thread.

    >>> round(stress_area(8) or 0, 1), stress_area(8.5)
    (36.6, None)
    """
    pitch = PITCH.get(int(size_mm)) if size_mm == int(size_mm) else None
    return None if pitch is None else math.pi / 4 * (size_mm - 0.9382 * pitch) ** 2


def breaking_torque(metal: OfMetal, size_mm: float) -> float | None:
    """The torque in N·m at which a coarse ISO thread twists off: τ π d³ ÷ 12, plastic, τ = 0.577 Rm, d of the stress area.

    None for a size that is no coarse thread. Within an eighth of the table of least breaking torques in ISO 3506-1 (from memory).
    A seized one breaks sooner: corrosion has taken of it.

    >>> round(breaking_torque(OfMetal.STAINLESS, 8) or 0, 1)
    33.6
    """
    area = stress_area(size_mm)
    if area is None:
        return None
    across = math.sqrt(4 * area / math.pi)
    return TWIST * TENSILE[metal] * math.pi * across**3 / 12 / 1000


def pulls(metal: OfMetal, size_mm: float) -> float | None:
    """The pull in kN that breaks a coarse thread: Rm x stress area. None for a size that is no coarse thread.

    >>> round(pulls(OfMetal.STEEL, 8) or 0, 1)
    29.3
    """
    area = stress_area(size_mm)
    return None if area is None else TENSILE[metal] * area / 1000


def shears(metal: OfMetal, size_mm: float) -> float | None:
    """The force across in kN that shears a coarse thread in one plane: 0.6 Rm x stress area (EN 1993-1-8, from memory)."""
    found = pulls(metal, size_mm)
    return None if found is None else SHEAR * found


def lever_for(torque: float, pull: float = 400) -> float:
    """How long a lever in m brings a torque (N·m) by a pull of some 400 N, 40 kg in one arm: M = F · l (textbook).

    >>> lever_for(40)
    0.1
    """
    return torque / pull


def screw_force(torque: float, size_mm: float) -> float:
    """What a puller's screw presses with in kN: torque ÷ (0.2 · d) for a dry thread, greased some third more (handbooks).

    >>> round(screw_force(60, 20), 1)
    15.0
    """
    return torque / (NUT * size_mm)


def bar_stress(force_kn: float, span_mm: float, wide_mm: float, high_mm: float) -> float:
    """Bending stress in N/mm² of a bar on two bolts, pressed in its middle: F L ÷ 4 over b h² ÷ 6 (textbook).

    >>> bar_stress(10, 120, 40, 30)
    50.0
    """
    return force_kn * 1000 * span_mm / 4 / (wide_mm * high_mm**2 / 6)


def opens_by(outer: OfMetal, size_mm: float, kelvin: float) -> float:
    """By how many mm the bore of a part widens when it is heated by so many K: α · d · ΔT (handbook).

    >>> round(opens_by(OfMetal.BRONZE, 35, 100), 3)
    0.063
    """
    return EXPANSION[outer] * 1e-6 * size_mm * kelvin
