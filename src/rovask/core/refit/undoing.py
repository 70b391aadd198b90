"""Taking a change back, however old: the records as they were, unless later changes rest on the same ones."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from rovask.core.refit.model import Refit
from rovask.core.refit.records import (
    HEADER,
    ORDER,
    Changes,
    Record,
    RecordKey,
    completed,
    find,
    header_of,
    keys_of,
    record_of,
)
from rovask.core.refit.register import KINDS, Gone
from rovask.core.refit.removal import records


@dataclass(frozen=True, slots=True)
class TakenBack:
    """What taking a change back comes to: the changes to make now, or the records on which something later rests."""

    changes: Changes
    stuck: tuple[RecordKey, ...]


def taken_back(refit: Refit, aside: Mapping[RecordKey, Record], recorded: Changes) -> TakenBack:
    """Take ``recorded`` (before and after, as they were written then) back on ``refit`` as it stands.

    aside: what is kept aside now, of the records concerned. A record is put back when it is still what the change left
    behind; an order of a list is put back as far as its ids are still there; a record that only names what goes does
    without it, as the register says.
    """
    changes: Changes = {}
    stuck: list[RecordKey] = []
    for key, (before, after) in recorded.items():
        if key.kind == ORDER:
            continue
        if key.kind not in KINDS:
            stuck.append(key)
            continue
        was, left = completed(key, before), completed(key, after)
        now = _now(refit, aside, key)
        if now != left:  # even when it is what it was before: the later change that made it so rests on this one
            stuck.append(key)
        elif now != was:
            changes[key] = (now, was)
    gone = {key for key, (_, after) in changes.items() if after is None}
    rests, loosened = _rest_on(refit, gone, changes)
    stuck += [*rests, *_lost(refit, gone, changes)]
    changes |= loosened
    for key, (before, after) in recorded.items():
        if key.kind == ORDER:
            order = _order_now(refit, key)
            put_back = order_back(_ids(before), _ids(after), order)
            if put_back != order:
                changes[key] = (_spelled(order), _spelled(put_back))
    for key in gone:  # what was put at the end of a list and goes out of the middle of it has a place to come back to
        order_key = RecordKey(ORDER, KINDS[key.kind].list)
        order = _order_now(refit, order_key) if not KINDS[key.kind].inside else None
        if order and order_key not in recorded and order[-1] != key.id:
            changes[order_key] = (
                _spelled(order),
                _spelled([one for one in order if RecordKey(key.kind, one) not in gone]),
            )
    return TakenBack(changes, tuple(stuck))


def _now(refit: Refit, aside: Mapping[RecordKey, Record], key: RecordKey) -> Record | None:
    """A record as it stands."""
    if KINDS[key.kind].aside:
        return aside.get(key)
    if key.kind == HEADER:
        return header_of(refit)
    item = find(refit, key)
    if item is None:
        return None
    return record_of(item) | ({"job": refit.job_of[key.id].id} if key.kind == "task" else {})


def _rest_on(refit: Refit, gone: set[RecordKey], changes: Changes) -> tuple[list[RecordKey], Changes]:
    """Records that need what goes, and those that merely name it, as they are without."""
    stuck: list[RecordKey] = []
    loosened: Changes = {}
    if not gone:
        return stuck, loosened
    for kind, row in records(refit):
        key = RecordKey(kind.name, row.id)
        if key in gone or key in changes:
            continue
        lost: dict[str, Any] = {}
        for point in kind.points:
            value = getattr(row, point.field)
            ids = value if point.many else (value,)
            if not value or not any(RecordKey(point.to.kind, one) in gone for one in ids):
                continue
            if point.to.gone is Gone.FORGET:
                left = tuple(one for one in ids if RecordKey(point.to.kind, one) not in gone)
                lost[point.field] = left if point.many else None
            else:
                stuck.append(key)
        if kind.inside and RecordKey(kind.inside, refit.job_of[row.id].id) in gone:
            stuck.append(key)
        if lost:
            was = _now(refit, {}, key)
            loosened[key] = (was, record_of(row.model_copy(update=lost)) | _inside(was))
    return stuck, loosened


def _lost(refit: Refit, gone: set[RecordKey], changes: Changes) -> list[RecordKey]:
    """Records that went since, which those to be put back point at."""
    there = ({*keys_of(refit)} - gone) | {key for key, (_, after) in changes.items() if after is not None}
    wanted: dict[RecordKey, None] = {}
    for key, (_, after) in changes.items():
        if after is None:
            continue
        kind = KINDS[key.kind]
        for point in kind.points:
            value = after[point.field]
            ids = value if point.many else [value] if value else []
            if not KINDS[point.to.kind].aside:
                wanted |= {RecordKey(point.to.kind, one): None for one in ids if one not in point.to.words}
        if kind.inside:
            wanted[RecordKey(kind.inside, after[kind.inside])] = None
    return [key for key in wanted if key not in there]


def _inside(record: Record | None) -> dict[str, Any]:
    return {"job": record["job"]} if record is not None and "job" in record and "work" in record else {}


def _order_now(refit: Refit, key: RecordKey) -> list[str] | None:
    name = key.id
    if name.startswith("job:"):
        job = next((job for job in refit.jobs if job.id == name.removeprefix("job:")), None)
        return [task.id for task in job.tasks] if job is not None else None
    return [row.id for row in getattr(refit, name, ())]


def _ids(record: Record | None) -> list[str] | None:
    return list(record["ids"]) if record is not None else None


def _spelled(ids: list[str] | None) -> Record | None:
    return {"ids": ids} if ids is not None else None


def order_back(before: list[str] | None, after: list[str] | None, now: list[str] | None) -> list[str] | None:
    """The order of a list with one change of it taken back, whatever came or went since.

    What the change put in goes, what it took out stands behind what it stood behind; what it moved goes back likewise.

    >>> order_back(["a", "b"], ["a", "b", "c"], ["x", "a", "b", "c", "d"])
    ['x', 'a', 'b', 'd']
    >>> order_back(["a", "b", "c"], ["a", "c"], ["a", "c", "d"])
    ['a', 'b', 'c', 'd']
    >>> order_back(["a", "b", "c"], ["b", "a", "c"], ["b", "a", "c", "d"])
    ['a', 'b', 'c', 'd']
    """
    if before is None:
        return None
    if now is None or now == after:
        return before
    after = after or []
    out = [key for key in now if key in before or key not in after]
    kept_in_order = [key for key in after if key in before]
    moved = [key for key in before if key in after] != kept_in_order
    if moved:
        there = [key for key in before if key in out]
        spots = [at for at, key in enumerate(out) if key in there]
        for at, key in zip(spots, there, strict=True):
            out[at] = key
    for at, key in enumerate(before):
        if key not in out:
            ahead = next((one for one in reversed(before[:at]) if one in out), None)
            out.insert(out.index(ahead) + 1 if ahead is not None else 0, key)
    return out
