"""Water: what comes in through a hole, and what pumps, hoses and sealant are made of it."""

from __future__ import annotations

import math

GRAVITY = 9.81  # m/s²
DISCHARGE = 0.6  # of a sharp-edged opening: contraction and friction (handbook value, from memory)
PUMP_SHARE = 0.5  # what a pump really moves of what is printed on it, with its head and hose (judgement)


def inflow(across: float, depth: float, discharge: float = DISCHARGE) -> float:
    """Litres a minute through a round hole ``across`` mm, its middle ``depth`` m under water.

    Q = Cd A sqrt(2 g h): Torricelli's law with a discharge coefficient (textbook). It slows as the water inside rises.

    >>> round(inflow(38, 0.5))
    128
    """
    area = math.pi / 4 * (across / 1000) ** 2
    return discharge * area * math.sqrt(2 * GRAVITY * max(depth, 0)) * 60_000


def hose_length(straight: float, bends: float, radius: float) -> float:
    """Length in mm of a hose with straight runs (mm) and quarter bends of a ``radius`` (mm): it neither bows nor chafes."""
    return straight + bends * math.pi / 2 * radius


def sealant_for(perimeter: float, bead: float, waste: float = 0.25) -> float:
    """Sealant in mL for a bead ``bead`` mm across along ``perimeter`` mm, with waste: a cylinder of that diameter."""
    return math.pi / 4 * bead**2 * perimeter / 1000 * (1 + waste)
