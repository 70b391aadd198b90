"""The change history: every change with the records before and after, what took it back, and what rests on it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import bindparam, func, select
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
    came back into it, by title. needs, back, final: as ``ChangeRow``; needs is "" where nobody wrote it down.
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
    needs: str = ""
    back: bool = False
    final: bool = False

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
        """Whether it is still in force; what began the refit stays, and what went out to others."""
        return not self.taken_back and self.revision > 1 and not self.final


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
    needs: str,
    back: bool,
    final: bool,
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
        needs=needs,
        back=back,
        final=final,
    )
    session.add(row)
    session.flush()
    return row.pk


def settle(session: Session, pk: int, change: int, effect: dict[str, Any]) -> None:
    """Keep what a change did once it is worked out, over the first answer; what that doesn't say stays.

    Nothing is kept of one that went meanwhile, with its refit.
    """
    row = session.scalars(select(ChangeRow).where(ChangeRow.refit_id == pk, ChangeRow.pk == change)).first()
    if row is not None:
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
    ChangeRow.needs,
    ChangeRow.back,
    ChangeRow.final,
    ChangeRow.erased,
)


_TAKER = aliased(ChangeRow)
_LINES = (
    select(*_LINE, AccountRow.name, _TAKER.pk.label("taken"))
    .select_from(ChangeRow)
    .outerjoin(AccountRow, AccountRow.pk == ChangeRow.account_pk)
    .outerjoin(_TAKER, _TAKER.undoes == ChangeRow.pk)
)
_NEWEST = (  # every page asks it: made once
    _LINES.where(ChangeRow.refit_id == bindparam("refit")).order_by(ChangeRow.revision.desc()).limit(bindparam("most"))
)


def _entries(rows: Iterable[Any]) -> list[ChangeEntry]:
    return [
        ChangeEntry(
            row.pk,
            row.revision,
            row.name or ("somebody who left" if row.erased else "Rovask"),
            row.at,
            row.what,
            row.undoes,
            row.taken is not None,
            (row.verdict_before, row.verdict_after),
            row.effect,
            row.needs or "",
            row.back,
            row.final,
        )
        for row in rows
    ]


def history(session: Session, pk: int, limit: int = 200) -> list[ChangeEntry]:
    """The change history, newest first."""
    return _entries(session.execute(_NEWEST, {"refit": pk, "most": limit}))


def changes_around(
    session: Session, pk: int, moment: datetime, limit: int = 1000
) -> tuple[list[ChangeEntry], list[ChangeEntry]]:
    """The changes made since a moment, and the last ones before it, both newest first."""
    rows = history(session, pk, limit)
    since = [row for row in rows if row.at >= moment and row.revision > 1]  # not what began the refit
    return since, [row for row in rows if row.at < moment]


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


_IN_FORCE = (ChangeRow.refit_id == bindparam("refit"), ChangeRow.revision > 1, ~ChangeRow.final, _TAKER.pk.is_(None))


def _newest(*what: Any) -> Any:
    """The number of the newest change in force that is so."""
    query = select(ChangeRow.pk).outerjoin(_TAKER, _TAKER.undoes == ChangeRow.pk).where(*_IN_FORCE, *what)
    return query.order_by(ChangeRow.revision.desc()).limit(1).scalar_subquery()


_NEW = aliased(ChangeRow)
_NEWEST_NEW = select(func.max(_NEW.revision)).where(_NEW.refit_id == bindparam("refit"), _NEW.undoes.is_(None))
_STEPS = _LINES.where(
    ChangeRow.pk.in_(
        [
            _newest(~ChangeRow.back),
            _newest(ChangeRow.back, ChangeRow.revision > _NEWEST_NEW.scalar_subquery()),
            select(_NEW.pk)
            .where(_NEW.refit_id == bindparam("refit"))
            .order_by(_NEW.revision.desc())
            .limit(1)
            .scalar_subquery(),
        ]
    )
).order_by(ChangeRow.revision.desc())


def steps(session: Session, pk: int) -> tuple[ChangeEntry | None, Steps]:
    """The newest change, and the next step back and forth, however long ago that was.

    Back: the newest in force that isn't itself a taking back. Forth: the newest taking back in force, unless something
    new was done since.
    """
    rows = _entries(session.execute(_STEPS, {"refit": pk}))
    in_force = [row for row in rows if row.can_be_taken_back]
    new_since = next((row.revision for row in rows if row.undoes is None), 0)
    undo = next((row for row in in_force if not row.back), None)
    redo = next((row for row in in_force if row.back and row.revision > new_since), None)
    return (rows[0] if rows else None), Steps(undo, redo)


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
