"""Loads and room: what hands can carry, and the height a rudder needs."""

from __future__ import annotations

import math

HAND = 20.0  # kg for each pair of hands, held close at waist height (from memory: guidance lies between 16 and 25 kg)


PAIR = 2 * 0.8 * HAND  # kg that two carry together in one go


def hands_for(mass: float, hand: float = HAND) -> int:
    """Pairs of hands for a mass in kg, carried together: each adds less, since the load is never shared evenly.

    Two lift as much as 1.6 alone, three 2.4, and so on, four fifths of each (judgement).

    >>> hands_for(20), hands_for(30), hands_for(60)
    (1, 2, 4)
    """
    if mass <= hand:
        return 1
    return max(2, math.ceil(round(mass / (hand * 0.8), 6)))


def rudder_mass(area: float, thick: float, stock: float, density: float = 750) -> float:
    """Mass in kg of a blade of ``area`` m² and mean thickness ``thick`` mm, with a stock of ``stock`` kg.

    density: kg/m³ of foam, laminate and webs together (judgement); more when it is wet inside.
    """
    return area * thick / 1000 * density + stock


def lift_for(stock: float, room: float, spare: float = 0.05) -> float:
    """How much she must be lifted (or the pit dug), m, to drop a stock ``stock`` m long with ``room`` m under the blade."""
    return max(stock + spare - room, 0.0)
