"""Small refits for tests: one boat, one yard, as many people, places and tasks as a test needs."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from rovask.core.refit.model import Refit

HAUL = datetime(2026, 5, 4, 7, tzinfo=UTC)  # Monday 08:00 by the yard's clock
LAUNCH = datetime(2026, 5, 18, 9, tzinfo=UTC)  # Monday 10:00, a fortnight later
WEEK = ["mon", "tue", "wed", "thu", "fri", "sat"]
DAY_SHIFT = [{"days": WEEK, "start": "08:00", "end": "18:00"}]
BOAT = {
    "name": "Hull",
    "length_m": 11,
    "waterline_m": 9,
    "beam_m": 3.5,
    "draft_m": 1.8,
    "displacement_kg": 7000,
    "fitted": ["holding tank"],
}


def person(key: str, **more: Any) -> dict[str, Any]:
    return {"id": key, "name": key.title(), "hours": DAY_SHIFT} | more


def task(key: str, hours: float = 4, **more: Any) -> dict[str, Any]:
    work = {"least": hours, "likely": hours, "most": hours}
    return {"id": key, "title": f"Task {key}", "place": "hull", "work": work} | more


def link(first: str, then: str, low: float = 0, high: float | None = None, kind: str = "FS") -> dict[str, Any]:
    return {
        "id": f"{first}-{then}-{kind.lower()}",
        "first": first,
        "then": then,
        "min_lag": low,
        "max_lag": high,
        "kind": kind,
    }


def data(*tasks: dict[str, Any], links: list[dict[str, Any]] | None = None, **more: Any) -> dict[str, Any]:
    """A refit's plain data: all tasks in one must-job, two owners, one place with room for two."""
    yard = {"name": "Yard", "time_zone": "Europe/Lisbon", "lift_hours": 0, "block_hours": 0} | more.pop("yard", {})
    return {
        "format": "rovask-refit",
        "version": 1,
        "name": "Test refit",
        "haul_at": HAUL.isoformat(),
        "launch_at": LAUNCH.isoformat(),
        "boat": BOAT,
        "yard": yard,
        "places": [{"id": "hull", "name": "Hull", "capacity": 2}],
        "people": [person("ann"), person("bo")],
        "jobs": [{"id": "job", "title": "Job", "tasks": list(tasks)}],
        "links": links or [],
    } | more


def refit(*tasks: dict[str, Any], links: list[dict[str, Any]] | None = None, **more: Any) -> Refit:
    return Refit.model_validate(data(*tasks, links=links, **more))
