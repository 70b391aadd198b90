"""What must agree between the parts of a refit: unique ids, references that lead somewhere, dates in order.

Works on plain data, however broken, so that a half-true file gets all its faults in one answer.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from datetime import UTC, datetime
from typing import Any
from zoneinfo import ZoneInfo

HAUL = "haul"
LAUNCH = "launch"
LIFT = "lift"
LONGEST_HAUL_OUT_DAYS = 200

Where = tuple[str | int, ...]


def _items(data: Any, name: str) -> Iterator[tuple[int, Mapping[str, Any]]]:
    """The mappings in list ``name`` of ``data``, with their positions; anything else is passed over."""
    rows = data.get(name) if isinstance(data, Mapping) else None
    if isinstance(rows, list | tuple):
        yield from ((at, row) for at, row in enumerate(rows) if isinstance(row, Mapping))


def _moment(value: Any) -> datetime | None:
    if isinstance(value, str):
        try:
            value = datetime.fromisoformat(value)
        except ValueError:
            return None
    if isinstance(value, datetime) and value.tzinfo is not None:
        return value.astimezone(UTC)
    return None


def _twice(data: Any, name: str, what: str, seen: set[str]) -> Iterator[tuple[Where, str]]:
    for at, row in _items(data, name):
        key = row.get("id")
        if isinstance(key, str):
            if key in seen:
                yield (name, at, "id"), f"{key!r} names a second {what}; give it an id of its own"
            seen.add(key)


def _names(row: Mapping[str, Any], field: str) -> Iterator[tuple[int, str]]:
    values = row.get(field)
    if isinstance(values, list | tuple):
        yield from ((at, value) for at, value in enumerate(values) if isinstance(value, str))


def _off_the_half_hour(data: Mapping[str, Any]) -> Iterator[tuple[Where, str]]:
    """The plan counts in half-hours of the yard's clock, so what it must meet to the minute lies on one."""
    yard = data.get("yard")
    name = yard.get("time_zone") if isinstance(yard, Mapping) else None
    try:
        zone = ZoneInfo(name) if isinstance(name, str) else None
    except (KeyError, ValueError, OSError):
        zone = None
    if zone is None:
        return
    places: list[tuple[Where, Any]] = [(("haul_at",), data.get("haul_at")), (("launch_at",), data.get("launch_at"))]
    for j, job in _items(data, "jobs"):
        places += [(("jobs", j, "tasks", t, "pin"), task.get("pin")) for t, task in _items(job, "tasks")]
    for where, value in places:
        moment = _moment(value)
        if moment and (moment.astimezone(zone).minute % 30 or moment.second or moment.microsecond):
            yield where, "must lie on a full or half hour by the yard's clock"


def _other_tasks(
    task: Mapping[str, Any], here: Where, tasks: set[str], same_job: set[Any]
) -> Iterator[tuple[Where, str]]:
    """The tasks that contain this one or give back what it takes out."""
    for field in ("contained_by", "until"):
        key = task.get(field)
        if isinstance(key, str):
            if key not in tasks:
                yield (*here, field), f"there is no task {key!r}"
            elif key == task.get("id"):
                yield (*here, field), "names the task itself"
            elif field == "until" and key not in same_job:
                yield (*here, field), "what gives the service back must be a task of the same job"


# What each kind of thing that is seen, not known, off or parked names: (field, list it is in, what that is).
_NAMED: dict[str, tuple[tuple[str, str, str], ...]] = {
    "inspections": (("place", "places", "place"), ("task", "tasks", "task"), ("photos", "photos", "photo")),
    "findings": (("place", "places", "place"), ("jobs", "jobs", "job"), ("photos", "photos", "photo")),
    "unknowns": (("task", "tasks", "task"),),
    "off_boat": (("off_task", "tasks", "task"), ("back_task", "tasks", "task"), ("photos", "photos", "photo")),
    "parked": (("place", "places", "place"),),
    "decisions": (("job", "jobs", "job"),),
}


def _seen_names(data: Any, ids: Mapping[str, set[str]]) -> Iterator[tuple[Where, str]]:
    for name, fields in _NAMED.items():
        for at, row in _items(data, name):
            for field, kind, what in fields:
                value = row.get(field)
                if isinstance(value, str) and value not in ids[kind]:
                    yield (name, at, field), f"there is no {what} {value!r}"
                for pos, key in _names(row, field):
                    if key not in ids[kind]:
                        yield (name, at, field, pos), f"there is no {what} {key!r}"


def reference_faults(data: Any) -> Iterator[tuple[Where, str]]:
    """Every fault between the parts of a refit, as (location, sentence). O(size of the refit)."""
    ids: dict[str, set[str]] = {
        name: set() for name in ("places", "people", "parts", "gear", "jobs", "tasks", "photos")
    }
    for name, what in (
        ("places", "place"),
        ("people", "person"),
        ("parts", "part"),
        ("gear", "piece of equipment"),
        ("jobs", "job"),
        ("photos", "photo"),
    ):
        yield from _twice(data, name, what, ids[name])
    for name, what in (
        ("links", "tie"),
        ("appointments", "appointment"),
        ("hours_log", "entry"),
        ("inspections", "inspection"),
        ("findings", "finding"),
        ("unknowns", "unknown"),
        ("off_boat", "thing off the boat"),
        ("parked", "parked job"),
        ("decisions", "decision"),
    ):
        yield from _twice(data, name, what, set())

    for j, job in _items(data, "jobs"):
        for t, task in _items(job, "tasks"):
            key = task.get("id")
            if isinstance(key, str):
                if key in ids["tasks"]:
                    yield ("jobs", j, "tasks", t, "id"), f"{key!r} names a second task; give it an id of its own"
                if key in (HAUL, LAUNCH, LIFT):
                    yield ("jobs", j, "tasks", t, "id"), f"{key!r} is kept for the {key} itself; choose another id"
                ids["tasks"].add(key)

    for j, job in _items(data, "jobs"):
        owner = job.get("owner")
        if isinstance(owner, str) and owner not in ids["people"]:
            yield ("jobs", j, "owner"), f"there is no person {owner!r}"
        for t, task in _items(job, "tasks"):
            here: Where = ("jobs", j, "tasks", t)
            place = task.get("place")
            if isinstance(place, str) and place not in ids["places"]:
                yield (*here, "place"), f"there is no place {place!r}"
            for field, kind, what in (
                ("people", "people", "person"),
                ("crew", "people", "person"),
                ("parts", "parts", "part"),
                ("gear", "gear", "piece of equipment"),
            ):
                for at, key in _names(task, field):
                    if key not in ids[kind]:
                        yield (*here, field, at), f"there is no {what} {key!r}"
            yield from _other_tasks(task, here, ids["tasks"], {row.get("id") for _, row in _items(job, "tasks")})
    for at, row in _items(data, "places"):
        for pos, key in _names(row, "opens_onto"):
            if key not in ids["places"]:
                yield ("places", at, "opens_onto", pos), f"there is no place {key!r}"

    ties: set[tuple[Any, Any, Any]] = set()
    for at, link in _items(data, "links"):
        for end in ("first", "then"):
            key = link.get(end)
            if isinstance(key, str) and key not in ids["tasks"] and key not in (HAUL, LAUNCH):
                yield ("links", at, end), f"there is no task {key!r}"
        tie = (link.get("first"), link.get("then"), link.get("kind", "FS"))
        if all(isinstance(end, str) for end in tie):
            if tie in ties:
                yield ("links", at), "ties the same two tasks in the same way a second time"
            ties.add(tie)
    for name in ("appointments",):
        for at, row in _items(data, name):
            for pos, key in _names(row, "people"):
                if key not in ids["people"]:
                    yield (name, at, "people", pos), f"there is no person {key!r}"
    for at, row in _items(data, "hours_log"):
        for field, kind, what in (("task", "tasks", "task"), ("person", "people", "person")):
            key = row.get(field)
            if isinstance(key, str) and key not in ids[kind]:
                yield ("hours_log", at, field), f"there is no {what} {key!r}"

    yield from _seen_names(data, ids)
    if isinstance(data, Mapping):
        yield from _off_the_half_hour(data)
        haul, launch = _moment(data.get("haul_at")), _moment(data.get("launch_at"))
        if haul and launch:
            if launch <= haul:
                yield ("launch_at",), "the launch must come after the haul-out"
            elif (launch - haul).days > LONGEST_HAUL_OUT_DAYS:
                yield ("launch_at",), f"more than {LONGEST_HAUL_OUT_DAYS} days ashore are beyond what can be planned"
