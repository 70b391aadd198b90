"""A refit as flat records, so that a change is a set of records before and after.

A record is one thing with an id (a task, a person, the boat …) as plain JSON data. The order of each list is
a record of its own, so that moving a task up does not touch its neighbours.
"""

from __future__ import annotations

from collections.abc import Mapping
from enum import StrEnum
from typing import Any, NamedTuple

from rovask.core.refit.model import (
    Appointment,
    Boat,
    Decision,
    Finding,
    Frozen,
    Gear,
    HoursEntry,
    Inspection,
    Job,
    Link,
    OffBoat,
    Parked,
    Part,
    Person,
    Photo,
    Place,
    Refit,
    Task,
    Unknown,
    Weather,
    Yard,
)


class Kind(StrEnum):
    """Kinds of records. ORDER holds the ids of one list; its id is the list's name or ``job:`` and a job's id."""

    HEADER = "header"
    BOAT = "boat"
    YARD = "yard"
    WEATHER = "weather"
    PLACE = "place"
    PERSON = "person"
    PART = "part"
    GEAR = "gear"
    JOB = "job"
    TASK = "task"
    LINK = "link"
    APPOINTMENT = "appointment"
    HOURS = "hours"
    INSPECTION = "inspection"
    FINDING = "finding"
    UNKNOWN = "unknown"
    OFF_BOAT = "off-boat"
    PARKED = "parked"
    DECISION = "decision"
    PHOTO = "photo"
    ORDER = "order"


class Key(NamedTuple):
    """Which record: its kind and id ("" for the one boat, yard, weather and header)."""

    kind: Kind
    id: str

    def __str__(self) -> str:
        return f"{self.kind}:{self.id}"

    @classmethod
    def read(cls, text: str) -> Key:
        """The key that str() spelled."""
        kind, _, rest = text.partition(":")
        return cls(Kind(kind), rest)


Record = Mapping[str, Any]
Records = dict[Key, Record]
Changes = dict[Key, tuple[Record | None, Record | None]]

LISTS: dict[Kind, str] = {
    Kind.PLACE: "places",
    Kind.PERSON: "people",
    Kind.PART: "parts",
    Kind.GEAR: "gear",
    Kind.JOB: "jobs",
    Kind.LINK: "links",
    Kind.APPOINTMENT: "appointments",
    Kind.HOURS: "hours_log",
    Kind.INSPECTION: "inspections",
    Kind.FINDING: "findings",
    Kind.UNKNOWN: "unknowns",
    Kind.OFF_BOAT: "off_boat",
    Kind.PARKED: "parked",
    Kind.DECISION: "decisions",
    Kind.PHOTO: "photos",
}
MODELS: dict[Kind, type[Frozen]] = {
    Kind.BOAT: Boat,
    Kind.YARD: Yard,
    Kind.WEATHER: Weather,
    Kind.PLACE: Place,
    Kind.PERSON: Person,
    Kind.PART: Part,
    Kind.GEAR: Gear,
    Kind.JOB: Job,
    Kind.TASK: Task,
    Kind.LINK: Link,
    Kind.APPOINTMENT: Appointment,
    Kind.HOURS: HoursEntry,
    Kind.INSPECTION: Inspection,
    Kind.FINDING: Finding,
    Kind.UNKNOWN: Unknown,
    Kind.OFF_BOAT: OffBoat,
    Kind.PARKED: Parked,
    Kind.DECISION: Decision,
    Kind.PHOTO: Photo,
}
HEADER_FIELDS = ("name", "currency", "budget", "haul_at", "launch_at", "prepare_from", "outage_limits", "ask_first")
ONE_OF = (Kind.BOAT, Kind.YARD, Kind.WEATHER)


def records_of(refit: Refit) -> Records:
    """Every record of a refit. O(size)."""
    data = refit.model_dump(mode="json")
    out: Records = {Key(Kind.HEADER, ""): {field: data[field] for field in HEADER_FIELDS}}
    out |= {Key(kind, ""): data[kind.value] for kind in ONE_OF}
    for kind, field in LISTS.items():
        out[Key(Kind.ORDER, field)] = {"ids": [row["id"] for row in data[field]]}
        for row in data[field]:
            if kind is Kind.JOB:
                tasks = row.pop("tasks")
                out[Key(Kind.ORDER, f"job:{row['id']}")] = {"ids": [task["id"] for task in tasks]}
                for task in tasks:
                    out[Key(Kind.TASK, task["id"])] = task | {"job": row["id"]}
            out[Key(kind, row["id"])] = row
    return out


def refit_of(records: Records) -> Refit:
    """The refit that the records make up. Raises pydantic.ValidationError if they don't make one."""
    data: dict[str, Any] = dict(records[Key(Kind.HEADER, "")])
    data |= {kind.value: records[Key(kind, "")] for kind in ONE_OF}
    for kind, field in LISTS.items():
        ids = records[Key(Kind.ORDER, field)]["ids"]
        data[field] = [dict(records[Key(kind, key)]) for key in ids]
    for job in data["jobs"]:
        ids = records[Key(Kind.ORDER, f"job:{job['id']}")]["ids"]
        job["tasks"] = [
            {field: value for field, value in records[Key(Kind.TASK, key)].items() if field != "job"} for key in ids
        ]
    return Refit.model_validate(data)


def completed(key: Key, record: Record | None) -> Record | None:
    """A record as an older Rovask wrote it into the history, with the fields added since at their defaults."""
    if record is None or key.kind in (Kind.ORDER, Kind.HEADER):
        return record
    own = {name: value for name, value in record.items() if key.kind is not Kind.TASK or name != "job"}
    model = MODELS[key.kind]
    names = (name for name in model.model_fields if not (key.kind is Kind.JOB and name == "tasks"))
    if own.keys() >= set(names):
        return record
    whole = model.model_validate(own).model_dump(mode="json")
    if key.kind is Kind.JOB:
        del whole["tasks"]
    return whole | ({"job": record["job"]} if key.kind is Kind.TASK else {})


def changes_between(before: Records, after: Records) -> Changes:
    """Every record that differs, with what it was (None: new) and what it is (None: gone)."""
    return {
        key: (before.get(key), after.get(key))
        for key in [*before, *(key for key in after if key not in before)]
        if before.get(key) != after.get(key)
    }


def undone(changes: Changes) -> Changes:
    """The changes that take ``changes`` back."""
    return {key: (after, before) for key, (before, after) in changes.items()}


def applied(records: Records, changes: Changes) -> Records:
    """``records`` with ``changes`` made. Raises KeyError when a record isn't what the change started from."""
    out = dict(records)
    for key, (before, after) in changes.items():
        if out.get(key) != before:
            raise KeyError(str(key))
        if after is None:
            del out[key]
        else:
            out[key] = after
    return out
