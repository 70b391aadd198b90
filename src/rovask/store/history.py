"""The change history: every change with the records before and after, what took it back, and what rests on it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import bindparam, select
from sqlalchemy.dialects.postgresql import array
from sqlalchemy.orm import Session, aliased

from rovask.core.plan.result import Verdict
from rovask.core.refit.records import Changes, RecordKey
from rovask.store.account_tables import AccountRow
from rovask.store.history_tables import ChangeRow


@dataclass(frozen=True, slots=True)
class ChangeEntry:
    """A line of the change history.

    undoes: the change it took back. taken_back: whether a later one took this back. money: what it did to the
    forecast, in minor units of the currency then; None where nobody worked it out. jobs: what went out of the plan and
    came back into it, by title.
    """

    pk: int
    revision: int
    who: str
    at: datetime
    what: str
    undoes: int | None
    taken_back: bool
    verdicts: tuple[dict[str, Any] | None, dict[str, Any] | None]
    effect: dict[str, Any] | None

    @property
    def before(self) -> Verdict | None:
        """What the plan said before it; None where nobody asked."""
        return Verdict.model_validate(self.verdicts[0]) if self.verdicts[0] else None

    @property
    def after(self) -> Verdict | None:
        """What the plan said after it."""
        return Verdict.model_validate(self.verdicts[1]) if self.verdicts[1] else None

    @property
    def can_be_taken_back(self) -> bool:
        """Whether it is still in force; what began the refit stays."""
        return not self.taken_back and self.revision > 1


def write_change(
    session: Session,
    pk: int,
    revision: int,
    changes: Changes,
    *,
    who: int | None,
    what: str,
    at: datetime,
    before: Verdict | None,
    after: Verdict | None,
    undoes: int | None,
    same_as: int | None,
    effect: dict[str, Any] | None,
) -> int:
    """Write a line; returns its number."""
    row = ChangeRow(
        refit_id=pk,
        revision=revision,
        account_pk=who,
        at=at,
        what=what[:300],
        before={str(key): was for key, (was, _) in changes.items() if was is not None},
        after={str(key): is_ for key, (_, is_) in changes.items() if is_ is not None},
        undoes=undoes,
        same_as=same_as,
        verdict_before=_brief(before),
        verdict_after=_brief(after),
        effect=effect,
    )
    session.add(row)
    session.flush()
    return row.pk


def settle(session: Session, pk: int, change: int, effect: dict[str, Any]) -> None:
    """Keep what a change did once it is worked out, over the first answer; what that doesn't say stays."""
    row = session.scalars(select(ChangeRow).where(ChangeRow.refit_id == pk, ChangeRow.pk == change)).one()
    row.effect = (row.effect or {}) | effect


def _brief(verdict: Verdict | None) -> dict[str, Any] | None:
    """What the history keeps of a verdict."""
    if verdict is None:
        return None
    data = verdict.model_dump(mode="json")
    return {field: data[field] for field in ("outcome", "launch", "spare_minutes", "left_out")}


_LINE = (
    ChangeRow.pk,
    ChangeRow.revision,
    ChangeRow.at,
    ChangeRow.what,
    ChangeRow.undoes,
    ChangeRow.verdict_before,
    ChangeRow.verdict_after,
    ChangeRow.effect,
)


_TAKER = aliased(ChangeRow)
_LINES = (
    select(*_LINE, AccountRow.name, _TAKER.pk)
    .select_from(ChangeRow)
    .outerjoin(AccountRow, AccountRow.pk == ChangeRow.account_pk)
    .outerjoin(_TAKER, _TAKER.undoes == ChangeRow.pk)
)
_NEWEST = (  # every page asks it: made once
    _LINES.where(ChangeRow.refit_id == bindparam("refit")).order_by(ChangeRow.revision.desc()).limit(bindparam("most"))
)


def _entries(rows: Iterable[Any]) -> list[ChangeEntry]:
    return [
        ChangeEntry(pk, revision, name or "Rovask", at, what, undoes, taken is not None, (before, after), effect)
        for pk, revision, at, what, undoes, before, after, effect, name, taken in rows
    ]


def history(session: Session, pk: int, limit: int = 200) -> list[ChangeEntry]:
    """The change history, newest first."""
    return _entries(session.execute(_NEWEST, {"refit": pk, "most": limit}))


def changes_since(session: Session, pk: int, since: datetime, limit: int = 1000) -> list[ChangeEntry]:
    """The changes made since a moment, newest first."""
    query = _LINES.where(ChangeRow.refit_id == pk, ChangeRow.at >= since, ChangeRow.revision > 1)
    return _entries(session.execute(query.order_by(ChangeRow.revision.desc()).limit(limit)))


def change_of(session: Session, pk: int, change: int) -> tuple[ChangeRow, bool] | None:
    """One change of a refit with its records, and whether it was taken back; None if there is none."""
    row = session.scalars(select(ChangeRow).where(ChangeRow.refit_id == pk, ChangeRow.pk == change)).first()
    if row is None:
        return None
    taken = session.scalars(select(ChangeRow.pk).where(ChangeRow.undoes == change)).first()
    return row, taken is not None


def canonical(session: Session, pk: int, revision: int) -> int:
    """The earliest revision with the same content as ``revision``."""
    same = session.scalars(
        select(ChangeRow.same_as).where(ChangeRow.refit_id == pk, ChangeRow.revision == revision)
    ).first()
    return same or revision


@dataclass(frozen=True, slots=True)
class Steps:
    """What undo and redo would do next: a change in force, and one that was taken back; None for nothing."""

    undo: ChangeEntry | None
    redo: ChangeEntry | None


def steps(entries: Iterable[ChangeEntry]) -> Steps:
    """The next step back and forth, of the newest entries first.

    Back: the newest in force that isn't itself a taking back. Forth: the newest taking back in force, unless something
    new was done since.
    """
    rows = list(entries)
    by_pk = {entry.pk: entry for entry in rows}
    undo = redo = None
    new_since = False
    for entry in rows:
        took_back = _is_taking_back(entry, by_pk)
        if entry.can_be_taken_back:
            if not took_back and undo is None:
                undo = entry
            if took_back and redo is None and not new_since:
                redo = entry
        if entry.undoes is None:
            new_since = True
        if undo is not None and (redo is not None or new_since):
            break
    return Steps(undo, redo)


def _is_taking_back(entry: ChangeEntry, by_pk: dict[int, ChangeEntry]) -> bool:
    """Whether an entry takes a change back, or (taking back a taking back) makes it again."""
    back = False
    while entry.undoes is not None:
        back = not back
        below = by_pk.get(entry.undoes)
        if below is None:
            return back
        entry = below
    return back


def later_on(session: Session, pk: int, revision: int, keys: Iterable[RecordKey]) -> list[ChangeEntry]:
    """Changes in force since ``revision`` that touched one of these records, the oldest first."""
    names = array([str(key) for key in keys])
    query = _LINES.where(
        ChangeRow.refit_id == pk,
        ChangeRow.revision > revision,
        ChangeRow.before.has_any(names) | ChangeRow.after.has_any(names),
        _TAKER.pk.is_(None),
    ).order_by(ChangeRow.revision)
    return _entries(session.execute(query))


def changed_records(row: ChangeRow) -> Changes:
    """The records of a change, before and after, as they were written."""
    names = [*row.before, *(name for name in row.after if name not in row.before)]
    return {RecordKey.read(name): (row.before.get(name), row.after.get(name)) for name in names}


def root_of(session: Session, row: ChangeRow) -> tuple[str, bool]:
    """What a change first was, through all its taking back; and whether taking ``row`` back makes that again."""
    again = False
    while row.undoes is not None:
        again = not again
        row = session.get_one(ChangeRow, row.undoes)
    return row.what, again
