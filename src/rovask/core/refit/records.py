"""A refit as records, so that a change is a set of records before and after.

A record is one thing with an id (a task, a person, the boat …) as plain JSON data. The order of each list is a record
of its own, so that moving a task up does not touch its neighbours; one row more at the end of a list says so by itself,
for a ledger of thousands would be written out with every entry. What kinds there are is read off the register.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from typing import Any, NamedTuple

from pydantic import BaseModel

from rovask.core.refit.model import Header, Refit
from rovask.core.refit.register import KINDS, Kind, kind_of, kinds

HEADER, ORDER = "header", "order"
SINGLE = ("boat", "yard", "weather")
_INSIDE = "job:"  # an order's id is its list's name, or this and a job's id


class RecordKey(NamedTuple):
    """Which record: its kind's name and its id ("" for the one boat, yard, weather and header).

    The kind ``order`` holds the ids of one list.
    """

    kind: str
    id: str

    def __str__(self) -> str:
        return f"{self.kind}:{self.id}"

    @classmethod
    def read(cls, text: str) -> RecordKey:
        """The key that str() spelled."""
        kind, _, rest = text.partition(":")
        return cls(kind, rest)


Record = Mapping[str, Any]
Changes = dict[RecordKey, tuple[Record | None, Record | None]]


def record_of(item: BaseModel) -> dict[str, Any]:
    """One thing as plain data, without the records it holds."""
    return item.model_dump(mode="json", include=set(kind_of(type(item)).fields))


def header_of(refit: Refit) -> dict[str, Any]:
    """What is said of the refit itself, as plain data."""
    return refit.model_dump(mode="json", include=set(Header.model_fields))


def key_of(item: BaseModel) -> RecordKey:
    """The key of a thing that stands in a list."""
    return RecordKey(kind_of(type(item)).name, item.id)  # type: ignore[attr-defined]


def listed(refit: Refit) -> Iterator[tuple[Kind, tuple[Any, ...]]]:
    """Every list of the refit with its kind."""
    for kind in kinds(aside=False):
        if kind.list and not kind.inside:
            yield kind, getattr(refit, kind.list)


def keys_of(refit: Refit) -> Iterator[RecordKey]:
    """The key of every record that has a revision of its own: all but the orders. O(size)."""
    yield from (RecordKey(name, "") for name in (HEADER, *SINGLE))
    for kind, rows in listed(refit):
        yield from (RecordKey(kind.name, row.id) for row in rows)
    yield from (RecordKey("task", key) for key in refit.tasks)


def find(refit: Refit, key: RecordKey) -> Any:
    """The thing itself; None if it is gone or kept aside."""
    if key.kind == HEADER:
        return refit
    if key.kind in SINGLE:
        return getattr(refit, key.kind)
    if key.kind == "task":
        return refit.tasks.get(key.id)
    rows = getattr(refit, KINDS[key.kind].list, ())
    return next((row for row in rows if row.id == key.id), None)


def changes_between(before: Refit | None, after: Refit) -> Changes:
    """Every record that differs, with what it was (None: new) and what it is (None: gone).

    Only what differs is spelled out.
    """
    out: Changes = {}
    if before is None or any(getattr(before, name) != getattr(after, name) for name in Header.model_fields):
        out[RecordKey(HEADER, "")] = (header_of(before) if before is not None else None, header_of(after))
    for name in SINGLE:
        was, is_ = getattr(before, name, None), getattr(after, name)
        if was != is_:
            out[RecordKey(name, "")] = (record_of(was) if was is not None else None, record_of(is_))
    for kind, rows in listed(after):
        old = getattr(before, kind.list) if before is not None else ()
        if old != rows:
            _compare(out, kind, kind.list, old, rows)
    if before is None or before.jobs != after.jobs:
        _compare_tasks(out, before, after)
    return out


def _compare(out: Changes, kind: Kind, order: str, old: Iterable[Any], new: Iterable[Any]) -> None:
    was, is_ = {row.id: row for row in old}, {row.id: row for row in new}
    for key, row in is_.items():
        before = was.get(key)
        if before is row:
            continue
        spelled = record_of(before) if before is not None else None, record_of(row)
        if spelled[0] != spelled[1]:
            out[RecordKey(kind.name, key)] = spelled
    for key in was.keys() - is_.keys():
        out[RecordKey(kind.name, key)] = (record_of(was[key]), None)
    if list(was) != list(is_) and not (was and list(was) == list(is_)[:-1]):
        out[RecordKey(ORDER, order)] = ({"ids": list(was)}, {"ids": list(is_)})


def _compare_tasks(out: Changes, before: Refit | None, after: Refit) -> None:
    """Tasks are records of their own, with the job they belong to; the order of each job is one too."""
    was = before.tasks if before is not None else {}
    home = before.job_of if before is not None else {}
    for job in after.jobs:
        for task in job.tasks:
            old = was.get(task.id)
            if old is task and home[task.id].id == job.id:
                continue
            spelled = record_of(old) | {"job": home[task.id].id} if old is not None else None
            now = record_of(task) | {"job": job.id}
            if spelled != now:
                out[RecordKey("task", task.id)] = (spelled, now)
    for key in was.keys() - after.tasks.keys():
        out[RecordKey("task", key)] = (record_of(was[key]) | {"job": home[key].id}, None)
    orders = {job.id: [task.id for task in job.tasks] for job in before.jobs} if before is not None else {}
    for job in after.jobs:
        ids, old_ids = [task.id for task in job.tasks], orders.pop(job.id, None)
        if ids != old_ids:
            out[RecordKey(ORDER, _INSIDE + job.id)] = ({"ids": old_ids} if old_ids is not None else None, {"ids": ids})
    for key, ids in orders.items():
        out[RecordKey(ORDER, _INSIDE + key)] = ({"ids": ids}, None)


def completed(key: RecordKey, record: Record | None) -> Record | None:
    """A record as another Rovask wrote it into the history: fields added since at their defaults, others dropped."""
    if record is None or key.kind == ORDER or key.kind not in KINDS:
        return record
    kind = KINDS[key.kind]
    own = {name: value for name, value in record.items() if name in kind.fields}
    missing = [name for name in kind.fields if name not in own]
    if not missing and len(own) + (key.kind == "task") == len(record):
        return record
    for name in missing:
        info = kind.model.model_fields[name]
        if not info.is_required():
            own[name] = info.get_default(call_default_factory=True)
    whole = kind.model.model_validate(own).model_dump(mode="json", include=set(kind.fields))
    return whole | ({"job": record["job"]} if key.kind == "task" else {})


def with_changes(refit: Refit, changes: Changes) -> Refit:
    """``refit`` with the records of ``changes`` as they are after it. Raises ValidationError if that is no sound refit.

    Only what changes is built anew. What is kept aside is passed over; that is not the refit's.
    """
    data: dict[str, Any] = {name: getattr(refit, name) for name in Refit.model_fields}
    after = {key: record for key, (_, record) in changes.items()}
    if (header := after.get(RecordKey(HEADER, ""))) is not None:
        data |= header
    for name in SINGLE:
        if (record := after.get(RecordKey(name, ""))) is not None:
            data[name] = record
    tasks = {key: (task, refit.job_of[key].id) for key, task in refit.tasks.items()}
    orders = {job.id: [task.id for task in job.tasks] for job in refit.jobs}
    for key, record in after.items():
        if key.kind == "task":
            tasks.pop(key.id, None)
            if record is not None:
                own = {name: value for name, value in record.items() if name != "job"}
                tasks[key.id] = (KINDS["task"].model.model_validate(own), record["job"])  # type: ignore[assignment]
        elif key.kind == ORDER and key.id.startswith(_INSIDE):
            orders[key.id.removeprefix(_INSIDE)] = record["ids"] if record is not None else []
    touched = {key.kind for key in after} | {key.id for key in after if key.kind == ORDER}
    for kind, rows in listed(refit):
        if not touched & ({kind.name, kind.list} | ({"task"} if kind.name == "job" else set())) and not (
            kind.name == "job" and any(name.startswith(_INSIDE) for name in touched)
        ):
            continue
        items = {row.id: row for row in rows}
        for key, record in after.items():
            if key.kind == kind.name:
                if record is None:
                    items.pop(key.id, None)
                else:
                    items[key.id] = record
        order = after.get(RecordKey(ORDER, kind.list))
        ids = order["ids"] if order is not None else list(items)
        built = [items[key] for key in ids if key in items]
        if kind.name == "job":
            built = [_job_with(item, tasks, orders) for item in built]
        data[kind.list] = built
    return refit.grown(**data)


def _job_with(item: Any, tasks: Mapping[str, tuple[Any, str]], orders: Mapping[str, list[str]]) -> Any:
    """A job with its tasks in their order; the very same job when nothing of it changed."""
    key = item["id"] if isinstance(item, Mapping) else item.id
    mine = tuple(tasks[name][0] for name in orders.get(key, []) if name in tasks and tasks[name][1] == key)
    if isinstance(item, Mapping):
        return {**item, "tasks": mine}
    same = len(mine) == len(item.tasks) and all(one is other for one, other in zip(mine, item.tasks, strict=True))
    return item if same else item.model_copy(update={"tasks": mine})
