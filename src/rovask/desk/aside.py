"""The records an edit changes, with those that are kept aside and no plan reads."""

from __future__ import annotations

from typing import Any

from sqlalchemy.orm import Session

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.refit.records import Changes, RecordKey, changes_between, key_of, record_of
from rovask.core.refit.register import KINDS, Gone, kind_of
from rovask.core.refit.whole import Edited
from rovask.store.records import aside_ids, aside_that_point, load_aside
from rovask.store.refits import Kept


def changes_of(session: Session, kept: Kept, edited: Edited) -> Changes:
    """The records an edit changes, with what is kept aside. Raises RefitFaults for ids there that lead nowhere."""
    changes = changes_between(kept.refit, edited.refit)
    for item in edited.put:
        key = key_of(item)
        old = load_aside(session, kept.pk, KINDS[key.kind], [key.id])
        was, is_ = record_of(old[0]) if old else None, record_of(item)
        if was != is_:
            changes[key] = (was, is_)
    for key in edited.gone:
        old = load_aside(session, kept.pk, KINDS[key.kind], [key.id])
        if old:
            changes[key] = (record_of(old[0]), None)
    gone = [key for key, (_, after) in changes.items() if after is None and key.kind in KINDS]
    for kind, item in aside_that_point(session, kept.pk, gone) if gone else ():
        key = RecordKey(kind.name, item.id)
        if key not in changes:
            changes[key] = (record_of(item), _without(item, set(gone)))
    _check_aside(session, kept.pk, changes)
    return changes


def _check_aside(session: Session, pk: int, changes: Changes) -> None:
    """What changed records say of things kept aside must be there, or come with this change."""
    asked: dict[str, set[str]] = {}
    for key, (_, after) in changes.items():
        if after is None or key.kind not in KINDS:
            continue
        for point in KINDS[key.kind].points:
            if KINDS[point.to.kind].aside and after.get(point.field):
                value = after[point.field]
                asked.setdefault(point.to.kind, set()).update(value if point.many else [value])
    for name, ids in asked.items():
        new = {key.id for key, (_, after) in changes.items() if key.kind == name and after is not None}
        gone = {key.id for key, (_, after) in changes.items() if key.kind == name and after is None}
        missing = ids - new
        lost = (missing - aside_ids(session, pk, KINDS[name], missing) if missing else set()) | (ids & gone)
        if lost:
            raise RefitFaults([Fault("", f"there is no {KINDS[name].word} {min(lost)!r}")])


def _without(item: Any, gone: set[RecordKey]) -> dict[str, Any] | None:
    """A thing kept aside that does without what is gone, or goes along with it."""
    lost: dict[str, Any] = {}
    for point in kind_of(type(item)).points:
        value = getattr(item, point.field)
        ids = value if point.many else (value,)
        if not value or not any(RecordKey(point.to.kind, one) in gone for one in ids):
            continue
        if point.to.gone is Gone.GO:
            return None
        lost[point.field] = (
            tuple(one for one in ids if RecordKey(point.to.kind, one) not in gone) if point.many else None
        )
    return record_of(item.model_copy(update=lost))
