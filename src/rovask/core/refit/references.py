"""What must agree between the parts of a refit: unique ids, references that lead somewhere, dates in order.

Works on models and, however broken, on plain data, so that a half-true file gets all its faults in one answer. What
points where is read off the register; only rules that are more than that are written out here.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from datetime import UTC, datetime
from typing import Any
from zoneinfo import ZoneInfo

from rovask.core.plain.half_hours import floored
from rovask.core.refit.register import KINDS, Kind
from rovask.core.refit.sound import Beside
from rovask.core.refit.work.kinds import HAUL, LAUNCH, LIFT

LONGEST_HAUL_OUT_DAYS = 200

Where = tuple[str | int, ...]
_NO_RECORD = (str, int, float, list, type(None))


def _value(row: Any, field: str) -> Any:
    """A field of a model or of plain data; None where there is none."""
    own = getattr(row, "__dict__", None)  # quicker than asking whether it is a model
    if own is not None:
        return own.get(field)
    return row.get(field) if isinstance(row, Mapping) else None


def _rows(data: Any, name: str) -> Iterator[tuple[int, Any]]:
    """What stands in list ``name`` of ``data``, with its position; anything but records is passed over."""
    rows = _value(data, name)
    if isinstance(rows, list | tuple):
        yield from ((at, row) for at, row in enumerate(rows) if not isinstance(row, _NO_RECORD))


def _records(data: Any, kind: Kind) -> Iterator[tuple[Where, Any]]:
    """Every record of a kind with where it stands, those inside others too."""
    if not kind.inside:
        yield from (((kind.list, at), row) for at, row in _rows(data, kind.list))
        return
    outer = KINDS[kind.inside]
    for at, holder in _rows(data, outer.list):
        yield from (((outer.list, at, kind.list, n), row) for n, row in _rows(holder, kind.list))


def reference_faults(data: Any, before: Any = None) -> Iterator[tuple[Where, str]]:
    """Every fault between the parts of a refit or its file, as (location, sentence). O(size).

    Kinds whose list ``data`` doesn't have (what is kept aside, when only the rest was loaded) are not looked for. before: a
    sound refit that ``data`` grew out of; then only what is new or stands beside something new is looked at again.
    """
    there = [kind for kind in KINDS.values() if kind.list and _has(data, kind)]
    beside = Beside() if isinstance(data, Mapping) else Beside(before)
    records = {kind.name: list(_records(data, kind)) for kind in there if not beside.as_it_was(data, kind)}
    ids: dict[str, set[str]] = {}
    for kind in there:
        if kind.name not in records:
            ids[kind.name] = beside.ids(kind)
            continue
        seen = ids.setdefault(kind.name, set())
        for where, row in records[kind.name]:
            key = _value(row, "id")
            if isinstance(key, str):
                if key in seen:
                    yield (*where, "id"), f"{key!r} names a second {kind.word}; give it an id of its own"
                seen.add(key)
    yield from _all_rules(data, there, records, ids, beside)


def _all_rules(
    data: Any,
    there: list[Kind],
    records: dict[str, list[tuple[Where, Any]]],
    ids: Mapping[str, set[str]],
    beside: Beside,
) -> Iterator[tuple[Where, str]]:
    for key in (HAUL, LAUNCH, LIFT):
        if key in ids.get("task", ()):
            where = next(where for where, row in _records(data, KINDS["task"]) if _value(row, "id") == key)
            yield (*where, "id"), f"{key!r} is kept for the {key} itself; choose another id"
    for kind in there:
        if beside.all_there(kind, ids):
            rows = beside.new(kind, records.get(kind.name, []))
        else:
            rows = records[kind.name] if kind.name in records else list(_records(data, kind))
        yield from _aims(kind, rows, ids)
    if "job" in records:
        yield from _tasks_of_one_job(data)
        yield from _under_one_only(records["job"])
    yield from _same_tie_twice(records.get("link", []))
    yield from _in_one_currency(data, beside)
    if "task" in records or not beside.says_the_same(data, "haul_at", "launch_at", "yard"):
        yield from _off_the_half_hour(data, list(_records(data, KINDS["task"])))
    haul, launch = _moment(_value(data, "haul_at")), _moment(_value(data, "launch_at"))
    if haul and launch:
        if launch <= haul:
            yield ("launch_at",), "the launch must come after the haul-out"
        elif (launch - haul).days > LONGEST_HAUL_OUT_DAYS:
            yield ("launch_at",), f"more than {LONGEST_HAUL_OUT_DAYS} days ashore are beyond what can be planned"


def _has(data: Any, kind: Kind) -> bool:
    if isinstance(data, Mapping):
        return True  # a file: what it leaves out is empty
    return kind.inside != "" or hasattr(data, kind.list)


def _aims(kind: Kind, records: list[tuple[Where, Any]], ids: Mapping[str, set[str]]) -> Iterator[tuple[Where, str]]:
    """References that lead nowhere."""
    for point in kind.points:
        known, word = ids.get(point.to.kind), KINDS[point.to.kind].word
        if known is None:
            continue
        if point.to.also:
            known = known.union(*(ids.get(name, set()) for name in point.to.also))
        name, words = point.field, point.to.words
        for where, row in records:
            value = _value(row, name)
            if not value:
                continue
            if isinstance(value, str):
                if not point.many and value not in known and value not in words:
                    yield (*where, name), f"there is no {word} {value!r}"
            elif isinstance(value, list | tuple):
                for pos, key in enumerate(value):
                    if isinstance(key, str) and key not in known and key not in words:
                        yield (*where, name, pos), f"there is no {word} {key!r}"


def _tasks_of_one_job(data: Any) -> Iterator[tuple[Where, str]]:
    """What contains a task or gives back what it takes out: another task; the latter of the same job."""
    for j, job in _rows(data, "jobs"):
        mine: set[Any] | None = None
        for t, task in _rows(job, "tasks"):
            for field in ("contained_by", "until"):
                key = _value(task, field)
                if not isinstance(key, str):
                    continue
                if mine is None:
                    mine = {_value(row, "id") for _, row in _rows(job, "tasks")}
                if key == _value(task, "id"):
                    yield ("jobs", j, "tasks", t, field), "names the task itself"
                elif field == "until" and key not in mine:
                    yield ("jobs", j, "tasks", t, field), "what gives the service back must be a task of the same job"


def _under_one_only(jobs: list[tuple[Where, Any]]) -> Iterator[tuple[Where, str]]:
    """A job is part of one that is not itself part of another, nor of itself."""
    above = {_value(job, "id"): _value(job, "under") for _, job in jobs if isinstance(_value(job, "id"), str)}
    for where, job in jobs:
        head = _value(job, "under")
        if isinstance(head, str) and head == _value(job, "id"):
            yield (*where, "under"), "is made a part of itself"
        elif isinstance(head, str) and above.get(head):
            yield (*where, "under"), "is made a part of a job that is itself part of another; choose that one"


def _same_tie_twice(links: list[tuple[Where, Any]]) -> Iterator[tuple[Where, str]]:
    ties: set[tuple[Any, Any, str]] = set()
    for where, link in links:
        tie = (_value(link, "first"), _value(link, "then"), str(_value(link, "kind") or "FS"))
        if isinstance(tie[0], str) and isinstance(tie[1], str):
            if tie in ties:
                yield where, "ties the same two tasks in the same way a second time"
            ties.add(tie)


def _in_one_currency(data: Any, beside: Beside) -> Iterator[tuple[Where, str]]:
    """What is part of an order, an agreement or another entry is in its currency, and part of the same thing."""
    same = beside.says_the_same(data, "orders", "agreements", "currency")
    if same and beside.says_the_same(data, "entries", "offers"):
        return
    entries = list(_rows(data, "entries"))
    known = same and not beside.gone_or_new(KINDS["entry"], (row for _, row in entries))  # it may be what another pays
    fresh = beside.new(KINDS["entry"], entries) if known else entries
    homes = {
        "order": {_text(row, "id"): row for _, row in _rows(data, "orders")},
        "agreement": {_text(row, "id"): row for _, row in _rows(data, "agreements")},
        "against": {_text(row, "id"): row for _, row in entries}
        if any(_text(row, "against") for _, row in fresh)
        else {},
    }
    own = _text(data, "currency")
    for at, row in fresh:
        where: Where = ("entries", at)
        mine = _text(row, "currency")
        for field, rows in homes.items():
            home = rows.get(_text(row, field)) if _text(row, field) else None
            theirs = _text(home, "currency")
            if theirs and mine and theirs != mine:
                yield (
                    (*where, "currency"),
                    f"is {mine}, and what it belongs to is in {theirs}; type the amount in {theirs}",
                )
            if field == "against" and home is not None and _home_of(row) != _home_of(home):
                yield (*where, "against"), "belongs to another order or agreement than what it is against"
    priced = [("entries", at, row) for at, row in fresh]
    others = ("offers",) if same else ("orders", "agreements", "offers")
    priced += [(name, at, row) for name in others for at, row in _rows(data, name)]
    for name, at, row in priced:
        if own and _text(row, "currency") == own and str(_value(row, "rate")) not in ("1", "None"):
            yield (name, at, "rate"), f"must be 1: it is in {own}, which the refit is counted in"


def _home_of(row: Any) -> tuple[Any, Any]:
    return _value(row, "order"), _value(row, "agreement")


def _text(row: Any, field: str) -> str | None:
    """A field that is words; None for anything else."""
    value = _value(row, field)
    return value if isinstance(value, str) else None


def _moment(value: Any) -> datetime | None:
    if isinstance(value, str):
        try:
            value = datetime.fromisoformat(value)
        except ValueError:
            return None
    if isinstance(value, datetime) and value.tzinfo is not None:
        try:
            return value.astimezone(UTC)
        except OverflowError:
            return None
    return None


def _off_the_half_hour(data: Any, tasks: list[tuple[Where, Any]]) -> Iterator[tuple[Where, str]]:
    """The plan counts in half-hours of the yard's clock, so what it must meet to the minute lies on one."""
    name = _value(_value(data, "yard"), "time_zone")
    try:
        zone = ZoneInfo(name) if isinstance(name, str) else None
    except (KeyError, ValueError, OSError):
        zone = None
    if zone is None:
        return
    places: list[tuple[Where, Any]] = [((name,), _value(data, name)) for name in ("haul_at", "launch_at")]
    places += [((*where, "pin"), pin) for where, task in tasks if (pin := _value(task, "pin"))]
    for where, value in places:
        moment = _moment(value)
        if moment and floored(moment, zone) != moment:
            yield where, "must lie on a full or half hour by the yard's clock"
