"""Spreads: what something uncertain may turn out to be, as a thousand values that are equally likely.

A table is all that the play needs to draw from: one number between 0 and 1 picks a row. Each row is the mean of its
thousandth of the distribution, so that the mean of the table is that of the distribution whatever its shape.
"""

from __future__ import annotations

from functools import lru_cache
from statistics import NormalDist

import numpy as np
import numpy.typing as npt

ROWS = 1024
SHAPE = 4.0  # of the modified PERT distribution
_FINE = 16 * ROWS  # cells the density is summed over

Table = npt.NDArray[np.float64]


def pert(least: float, likely: float, most: float, shape: float = SHAPE) -> Table:
    """The modified PERT distribution between ``least`` and ``most``: a beta distribution whose mode is ``likely``.

    mean = (least + shape * likely + most) / (shape + 2),
    variance = (mean - least) * (most - mean) / (shape + 3).

    shape 4 is that of Malcolm, Roseboom, Clark & Fazar, "Application of a technique for research and development program
    evaluation", Operations Research 7, 1959 (PERT); the freedom to choose it is Vose's (Risk Analysis, 3rd ed., 2008).
    Both from memory. Raises ValueError for figures the wrong way round. Without a spread every row is ``likely``.

    >>> table = pert(2, 4, 12)
    >>> round(float(table.mean()), 3), float(table.min()) >= 2, float(table.max()) <= 12
    (5.0, True, True)
    >>> set(pert(3, 3, 3).tolist())
    {3.0}
    """
    if not least <= likely <= most:
        raise ValueError(f"a spread runs from least over likely to most, not {least:g}, {likely:g}, {most:g}")
    width = most - least
    if width <= 0:
        return np.full(ROWS, float(likely))
    return least + width * _unit_pert(round((likely - least) / width, 12), shape)


@lru_cache(maxsize=1024)
def _unit_pert(mode: float, shape: float) -> Table:
    """The distribution between 0 and 1. Read only."""
    alpha, beta = 1 + shape * mode, 1 + shape * (1 - mode)
    at = (np.arange(_FINE) + 0.5) / _FINE
    return _thousandths(at, np.exp((alpha - 1) * np.log(at) + (beta - 1) * np.log1p(-at)))


def lognormal(sigma: float, middle: float = 1.0) -> Table:
    """A factor that people err by: the exponential of a normal deviate, as often above ``middle`` as below it.

    sigma: standard deviation of its logarithm, at least 0.

    Its mean is middle * exp(sigma**2 / 2): whoever is as often slower as faster still takes longer in all.

    >>> round(float(lognormal(0.3).mean()), 3), round(float(np.exp(0.3**2 / 2)), 3)
    (1.046, 1.046)
    """
    if sigma < 0:
        raise ValueError("a spread can't be less than none")
    if sigma == 0:
        return np.full(ROWS, float(middle))
    rows: Table = np.exp(sigma * _normal_deviates()).reshape(ROWS, -1).mean(axis=1)
    return middle * rows


@lru_cache(maxsize=1)
def _normal_deviates() -> Table:
    """Eight for each row, by equal parts of their probability. Read only."""
    normal = NormalDist()
    return np.array([normal.inv_cdf((at + 0.5) / (ROWS * 8)) for at in range(ROWS * 8)])


def _thousandths(values: Table, weights: Table) -> Table:
    """The mean of each thousandth of a distribution that is given by many cells. Cells are cut where a thousandth ends."""
    mass = np.concatenate([[0.0], np.cumsum(weights)])
    moment = np.concatenate([[0.0], np.cumsum(weights * values)])
    cuts = np.linspace(0, mass[-1], ROWS + 1)
    upto = np.interp(cuts, mass, moment)
    return np.asarray(np.clip(np.diff(upto) / np.diff(cuts), values[0], values[-1]))


def at_least(table: Table, low: float) -> Table:
    """The same outcomes once it is known that they are more than ``low``; just above it where none was.

    >>> at_least(pert(2, 4, 12), 6).min() > 6
    np.True_
    """
    kept = table[table > low]
    if not len(kept):
        return np.full(ROWS, np.nextafter(low, np.inf))
    return np.asarray(kept[(np.arange(ROWS) * len(kept)) // ROWS])
