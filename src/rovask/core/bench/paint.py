"""Paint: film thickness, spreading rate, litres and the tins they come in."""

from __future__ import annotations

import math
from collections.abc import Sequence

MOST_TINS = 200


def spreading_rate(solids: float, dry_film: float) -> float:
    """Theoretical spreading rate in m²/L: 10 x volume solids (%) / dry film (µm).

    By definition: a litre spread over 1 m² lies 1000 µm thick wet, and the share of solids of it stays. So defined in
    ISO 23811 and the data sheets of paints (from memory). solids 1-100, dry_film above 0.

    >>> round(spreading_rate(50, 100), 1)
    5.0
    """
    return 10 * solids / dry_film


def wet_film(solids: float, dry_film: float) -> float:
    """Wet film in µm that dries to ``dry_film`` (µm) at ``solids`` (% by volume)."""
    return dry_film * 100 / solids


def practical_rate(theory: float, loss: float) -> float:
    """Spreading rate in m²/L with a share ``loss`` (0-0.9) left in the roller, the air and the tray."""
    return theory * (1 - loss)


def litres_for(area: float, coats: float, rate: float) -> float:
    """Litres for ``coats`` on ``area`` (m²) at a practical ``rate`` (m²/L)."""
    return area * coats / rate


def tins_for(litres: float, sizes: Sequence[float], slack: float = 0.1) -> dict[float, int]:
    """Which tins of the ``sizes`` sold (L) hold at least ``litres``: the fewest that leave no more than ``slack`` of it
    over, or than the smallest tin; of as many, those that leave least.

    Exact to a hundredth of a litre, by counting up what each amount can be made of. Raises ValueError for sizes that
    are not above 0, or more than 200 tins of the largest.

    >>> tins_for(7.3, [0.75, 2.5, 5])
    {2.5: 1, 5.0: 1}
    """
    cups = sorted({round(size * 100) for size in sizes})
    if not cups or cups[0] <= 0:
        raise ValueError("a tin holds more than nothing")
    need = math.ceil(round(litres * 100, 6))
    if need <= 0:
        return {}
    if need > cups[-1] * MOST_TINS:
        raise ValueError(f"more than {MOST_TINS} of the largest tin; ask for drums")
    top = need + max(cups[0], round(need * slack))
    fewest: list[tuple[int, int] | None] = [(0, 0)]  # for each amount: the fewest tins, and one of them
    for amount in range(1, top + 1):
        ways = [(one[0] + 1, cup) for cup in cups if cup <= amount and (one := fewest[amount - cup]) is not None]
        fewest.append(min(ways, default=None))
    amount = min((row[0], amount) for amount, row in enumerate(fewest) if row is not None and amount >= need)[1]
    counts: dict[float, int] = {}
    while amount:
        cup = (fewest[amount] or (0, amount))[1]
        counts[cup / 100] = counts.get(cup / 100, 0) + 1
        amount -= cup
    return dict(sorted(counts.items()))
