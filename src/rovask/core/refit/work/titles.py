"""What a record is called where only its refit knows: a tie by its tasks, never by its id."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from rovask.core.refit.model import Link, Refit
from rovask.core.refit.register import Kind
from rovask.core.refit.work.kinds import HAUL, LAUNCH


def end_title(refit: Refit, key: str) -> str:
    """One end of a tie."""
    if key in refit.tasks:
        return refit.tasks[key].title
    fixed = next((one.title for one in refit.appointments if one.id == key), "a task that is gone")
    return {HAUL: "the haul-out", LAUNCH: "the launch"}.get(key, fixed)


def tie_title(refit: Refit, first: str, then: str) -> str:
    """A tie between two ends."""
    return f"{end_title(refit, first)} → {end_title(refit, then)}"


def title_in(refit: Refit, kind: Kind, item: Any) -> str:
    """What a record of ``refit`` is called. ``item``: the record, or its fields."""
    if kind.name == "link":
        if isinstance(item, Link):
            return tie_title(refit, item.first, item.then)
        if isinstance(item, Mapping):
            return tie_title(refit, str(item.get("first")), str(item.get("then")))
    return kind.title_of(item)
