"""How much of each part each task takes."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping

from rovask.core.plain.derived import derived
from rovask.core.refit.model import Part, Refit

MEASURED = frozenset(
    ["kg", "g", "l", "ml", "m", "cm", "mm", "m2", "m²", "ft", "in", "oz", "lb", "gal"]
)  # units that can be shared out at will


FINE = 6  # decimals that amounts are kept to


def fine(amount: float) -> float:
    """An amount without the dust of its arithmetic."""
    return round(amount, FINE)


Uses = Mapping[tuple[str, str], tuple[float, float | None]]


@derived(lambda refit: (refit.parts, refit.jobs, refit.uses))
def uses_of(refit: Refit) -> Uses:
    """(amount a task takes, what it really took) by (task, part). Tasks that don't say share what the others leave.

    What is measured is shared evenly; of pieces each takes whole ones and the last the rest, so that a bearing that is
    dry-fitted, then fitted, is taken by the fitting.
    """
    said = {(use.task, use.part): (use.amount, use.used) for use in refit.uses}
    out: dict[tuple[str, str], tuple[float, float | None]] = {}
    takers: dict[str, list[str]] = defaultdict(list)
    for task in refit.tasks.values():
        for name in task.parts:
            takers[name].append(task.id)
    for part in refit.parts:
        keys = takers[part.id]
        silent = [key for key in keys if (key, part.id) not in said]
        left = max(part.quantity - sum(said[key, part.id][0] for key in keys if (key, part.id) in said), 0.0)
        shares = dict(zip(silent, _shares(part, left, len(silent)), strict=True))
        for key in keys:
            out[key, part.id] = said.get((key, part.id), (shares.get(key, 0.0), None))
    return out


def _shares(part: Part, amount: float, among: int) -> list[float]:
    """An amount shared among so many tasks."""
    if not among:
        return []
    if part.unit.strip().casefold() in MEASURED:
        return [fine(amount / among)] * (among - 1) + [fine(amount - fine(amount / among) * (among - 1))]
    each = float(amount // among)
    return [each] * (among - 1) + [fine(amount - each * (among - 1))]
