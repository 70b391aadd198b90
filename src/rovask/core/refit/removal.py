"""Removing a record: what goes along, what does without it, and what stands in the way; all of it read off the register."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.refit.model import Job, Refit
from rovask.core.refit.records import RecordKey, listed
from rovask.core.refit.register import KINDS, Gone, Kind, Point
from rovask.core.refit.work.titles import title_in

MOST_NAMED = 6


@dataclass(frozen=True, slots=True)
class User:
    """A record that uses another: its kind, what it is called, whether it can do without."""

    key: RecordKey
    word: str
    title: str
    can_do_without: bool


class InUse(RefitFaults):
    """Something can't be removed while others use it. ``users``: who; ``can_take_out``: whether all can do without it."""

    def __init__(self, word: str, title: str, users: tuple[User, ...]) -> None:
        self.users = users
        self.can_take_out = all(user.can_do_without for user in users)
        named = ", ".join(f"the {user.word} “{user.title}”" for user in users[:MOST_NAMED])
        more = f" and {len(users) - MOST_NAMED} more" if len(users) > MOST_NAMED else ""
        rest = "Take it out of there as well, or choose another there." if self.can_take_out else "Change that first."
        super().__init__([Fault("", f"The {word} “{title}” is used by {named}{more}. {rest}")])


def records(refit: Refit) -> Iterator[tuple[Kind, Any]]:
    """Every record that stands in a list, tasks too."""
    for kind, rows in listed(refit):
        yield from ((kind, row) for row in rows)
    yield from ((KINDS["task"], task) for task in refit.tasks.values())


def removed(refit: Refit, key: RecordKey, *, take_out: bool = False) -> Refit:
    """``refit`` without a record and without what goes with it; what may, does without.

    take_out: also what would rather be asked does without. Raises InUse, naming who stands in the way; RefitFaults
    when the record is gone already.
    """
    gone = _with_what_goes_along(refit, key)
    users, changed = [], {}
    for kind, row in records(refit):
        mine = RecordKey(kind.name, row.id)
        if mine in gone:
            continue
        lost: dict[str, Any] = {}
        for point in kind.points:
            hit = _hits(point, row, gone)
            if not hit:
                continue
            if point.to.gone is Gone.REFUSE or (point.to.gone is Gone.ASK and not take_out):
                can = point.to.gone is Gone.ASK
                users.append(User(mine, kind.word, title_in(refit, kind, row), can))
            else:
                value = getattr(row, point.field)
                lost[point.field] = tuple(one for one in value if one not in hit) if point.many else None
        if lost:
            changed[mine] = row.model_copy(update=lost)
    if users:
        kind = KINDS[key.kind]
        title = next(title_in(refit, kind, row) for one, row in records(refit) if one is kind and row.id == key.id)
        raise InUse(kind.word, title, tuple(dict.fromkeys(users)))
    data: dict[str, Any] = {name: getattr(refit, name) for name in Refit.model_fields}
    for kind, rows in listed(refit):
        data[kind.list] = tuple(
            _job(row, gone, changed) if isinstance(row, Job) else changed.get(RecordKey(kind.name, row.id), row)
            for row in rows
            if RecordKey(kind.name, row.id) not in gone
        )
    return refit.grown(**data)


def _job(job: Job, gone: set[RecordKey], changed: dict[RecordKey, Any]) -> Job:
    job = changed.get(RecordKey("job", job.id), job)
    tasks = tuple(
        changed.get(RecordKey("task", task.id), task) for task in job.tasks if RecordKey("task", task.id) not in gone
    )
    same = len(tasks) == len(job.tasks) and all(one is other for one, other in zip(tasks, job.tasks, strict=True))
    return job if same else job.model_copy(update={"tasks": tasks})


def _with_what_goes_along(refit: Refit, key: RecordKey) -> set[RecordKey]:
    """The record, what it holds, and whatever points at one of them and goes along."""
    there = {RecordKey(kind.name, row.id) for kind, row in records(refit)}
    if key not in there:
        raise RefitFaults([Fault("", f"This {KINDS[key.kind].word} is gone; somebody removed it meanwhile.")])
    gone, before = {key}, 0
    while before != len(gone):
        before = len(gone)
        gone |= {RecordKey("task", task) for task, job in refit.job_of.items() if RecordKey("job", job.id) in gone}
        for kind, row in records(refit):
            if any(point.to.gone is Gone.GO and _hits(point, row, gone) for point in kind.points):
                gone.add(RecordKey(kind.name, row.id))
    return gone


def _hits(point: Point, row: Any, gone: set[RecordKey]) -> set[str]:
    """The ids among those in a field that are gone."""
    value = getattr(row, point.field)
    if not value:
        return set()
    return {
        one
        for one in (value if point.many else (value,))
        if any(RecordKey(kind, one) in gone for kind in point.to.kinds)
    }
