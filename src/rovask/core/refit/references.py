"""What must agree between the parts of a refit: unique ids, references that lead somewhere, dates in order.

Works on models and, however broken, on plain data, so that a half-true file gets all its faults in one answer. What
points where is read off the register; only rules that are more than that are written out here.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator, Mapping
from datetime import UTC, datetime
from threading import Lock
from typing import Any
from zoneinfo import ZoneInfo

from rovask.core.refit.jobs import HAUL, LAUNCH, LIFT
from rovask.core.refit.register import KINDS, Kind

LONGEST_HAUL_OUT_DAYS = 200

Where = tuple[str | int, ...]


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
        yield from ((at, row) for at, row in enumerate(rows) if not isinstance(row, str | int | float | list | None))


def _records(data: Any, kind: Kind) -> Iterator[tuple[Where, Any]]:
    """Every record of a kind with where it stands, those inside others too."""
    if not kind.inside:
        yield from (((kind.list, at), row) for at, row in _rows(data, kind.list))
        return
    outer = KINDS[kind.inside]
    for at, holder in _rows(data, outer.list):
        yield from (((outer.list, at, kind.list, n), row) for n, row in _rows(holder, kind.list))


def reference_faults(data: Any) -> Iterator[tuple[Where, str]]:
    """Every fault between the parts of a refit or its file, as (location, sentence). O(size).

    Kinds whose list ``data`` doesn't have (what is kept aside, when only the rest was loaded) are not looked for.
    """
    there = [kind for kind in KINDS.values() if kind.list and _has(data, kind)]
    records = {kind.name: list(_records(data, kind)) for kind in there}
    ids: dict[str, set[str]] = {}
    for kind in there:
        seen = ids.setdefault(kind.name, set())
        for where, row in records[kind.name]:
            key = _value(row, "id")
            if isinstance(key, str):
                if key in seen:
                    yield (*where, "id"), f"{key!r} names a second {kind.word}; give it an id of its own"
                seen.add(key)
    for key in (HAUL, LAUNCH, LIFT):
        if key in ids.get("task", ()):
            where = next(where for where, row in records["task"] if _value(row, "id") == key)
            yield (*where, "id"), f"{key!r} is kept for the {key} itself; choose another id"
    for kind in there:
        yield from _aims(kind, records[kind.name], ids)
    yield from _tasks_of_one_job(data)
    yield from _under_one_only(records.get("job", []))
    yield from _same_tie_twice(records.get("link", []))
    yield from _in_one_currency(data, records)
    yield from _off_the_half_hour(data, records.get("task", []))
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


def _in_one_currency(data: Any, records: Mapping[str, list[tuple[Where, Any]]]) -> Iterator[tuple[Where, str]]:
    """What is part of an order, an agreement or another entry is in its currency, and part of the same thing."""
    currency = {
        kind: {_value(row, "id"): _value(row, "currency") for _, row in records.get(kind, ())}
        for kind in ("purchase", "agreement", "entry")
    }
    entries = {_value(row, "id"): row for _, row in records.get("entry", ())}
    own = _value(data, "currency")
    homes = (("order", "purchase"), ("agreement", "agreement"), ("against", "entry"))
    known = _sound_entries(data)
    faulty = False
    for where, row in records.get("entry", ()):
        if id(row) in known:
            continue
        aims = [(field, kind, key) for field, kind in homes if isinstance(key := _value(row, field), str)]
        if not aims:
            continue
        mine = _value(row, "currency")
        for _, kind, key in aims:
            theirs = currency[kind].get(key)
            if isinstance(theirs, str) and isinstance(mine, str) and theirs != mine:
                yield (
                    (*where, "currency"),
                    f"is {mine}, and what it belongs to is in {theirs}; type the amount in {theirs}",
                )
        other = entries.get(_value(row, "against"))
        if other is not None and any(_value(row, name) != _value(other, name) for name in ("order", "agreement")):
            faulty = True
            yield (*where, "against"), "belongs to another order or agreement than what it is against"
    for kind in ("purchase", "agreement", "entry", "offer"):
        for where, row in records.get(kind, ()):
            if kind == "entry" and id(row) in known:
                continue
            if own and _value(row, "currency") == own and str(_value(row, "rate")) not in ("1", "None"):
                faulty = True
                yield (*where, "rate"), f"must be 1: it is in {own}, which the refit is counted in"

    if not faulty and hasattr(data, "entries") and not isinstance(data, Mapping):
        with _KEEPING:
            _SOUND.append((_context(data), data.entries, frozenset(id(row) for row in data.entries)))


# What was found sound lately: beside which orders, agreements and currency; the entries, kept so that their ids stay theirs.
_SOUND: deque[tuple[tuple[Any, ...], Any, frozenset[int]]] = deque(maxlen=4)
_KEEPING = Lock()


def _context(data: Any) -> tuple[Any, ...]:
    return data.orders, data.agreements, data.currency


def _sound_entries(data: Any) -> frozenset[int]:
    """Ids of the entry objects that were found sound beside the very same orders and agreements; frozen, so they are still.

    Only while all of them are there: one that was changed may be what another pays.
    """
    if isinstance(data, Mapping) or not hasattr(data, "entries"):
        return frozenset()
    context = _context(data)
    with _KEEPING:
        for known, _, rows in _SOUND:
            if known[2] == context[2] and all(one is other for one, other in zip(known[:2], context[:2], strict=True)):
                return rows if rows <= {id(row) for row in data.entries} else frozenset()
    return frozenset()


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
        if moment and (moment.astimezone(zone).minute % 30 or moment.second or moment.microsecond):
            yield where, "must lie on a full or half hour by the yard's clock"
