"""What every edit of a refit rests on: a validated copy, a thing put in its list, a list put in another order.

All edits are functions from refit to refit. They return a new, validated refit and raise pydantic.ValidationError (from the
model) or RefitFaults when the change can't be made. Ids of new things are handed in.
"""

from __future__ import annotations

from typing import Any, TypeVar

from rovask.core.plain.faults import refused
from rovask.core.refit.model import Frozen, Refit
from rovask.core.refit.register import kind_of

Row = TypeVar("Row", bound=Frozen)


def rebuilt(refit: Refit, **changes: Any) -> Refit:
    """A validated copy with some fields replaced."""
    return refit.grown(**changes)


def put(refit: Refit, item: Frozen) -> Refit:
    """Replace the thing of the same kind and id in its list, or add it at the end. Not for tasks."""
    field = kind_of(type(item)).list
    rows = getattr(refit, field)
    key = item.id  # type: ignore[attr-defined]
    if any(row.id == key for row in rows):
        return rebuilt(refit, **{field: tuple(item if row.id == key else row for row in rows)})
    return rebuilt(refit, **{field: (*rows, item)})


def moved_in(rows: tuple[Row, ...], key: str, steps: int) -> tuple[Row, ...]:
    """The rows with one of them so many steps up (negative) or down. Raises RefitFaults for one that is gone."""
    out = list(rows)
    at = next((at for at, row in enumerate(rows) if row.id == key), None)  # type: ignore[attr-defined]
    if at is None:
        raise refused("It is gone; somebody removed it meanwhile.")
    row = out.pop(at)
    out.insert(min(max(at + steps, 0), len(out)), row)
    return tuple(out)
