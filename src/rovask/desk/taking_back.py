"""Undo and redo: any change in force can be taken back, as long as nothing later rests on the same records."""

from __future__ import annotations

from dataclasses import dataclass

from pydantic import ValidationError
from sqlalchemy.orm import Session

from rovask.core.plain.faults import faults_of
from rovask.core.plain.words import count, day_and_time
from rovask.core.plan.result import Plan
from rovask.core.refit.model import Refit
from rovask.core.refit.records import Changes, Record, RecordKey, changes_between, record_of, with_changes
from rovask.core.refit.register import KINDS
from rovask.core.refit.undoing import taken_back
from rovask.desk.rights import Right
from rovask.store import history
from rovask.store.errors import NothingToUndo
from rovask.store.history import ChangeEntry
from rovask.store.records import load_aside
from rovask.store.refits import Kept

MOST_NAMED = 3


@dataclass(frozen=True, slots=True)
class TakeBack:
    """Take a change back. change: its number; None: the newest in force, or with ``again`` what was last taken back."""

    change: int | None = None
    again: bool = False

    @property
    def right(self) -> Right:
        """Whoever may work may take back; which right the change itself needed is asked once it is known (``Step.needs``)."""
        return Right.WORK


@dataclass(frozen=True, slots=True)
class Step:
    """What is about to be kept: the refit after it, its records, and what history says.

    needs: the right it asks for. undoes: the change it takes back; back: whether that takes away what was done, rather
    than doing it again. same_as: the revision whose content the refit has again; plan_of: the revision
    whose plan may stand again. final: nothing takes it back. send: the order to be sent to its supplier's service once this is kept.
    plan: one that was found for it beforehand; it is verified like any other.
    """

    refit: Refit
    changes: Changes
    told: str
    made: str = ""
    needs: Right = Right.WORK
    undoes: int | None = None
    same_as: int | None = None
    plan_of: int | None = None
    back: bool = False
    final: bool = False
    send: str = ""
    plan: Plan | None = None


def taking_back(session: Session, kept: Kept, command: TakeBack) -> Step:
    """The step that takes a change back. Raises NothingToUndo, naming what rests on it."""
    number = command.change
    if number is None:
        _, steps = history.steps(session, kept.pk)
        entry = steps.redo if command.again else steps.undo
        if entry is None:
            raise NothingToUndo("Nothing is left to do again." if command.again else "Nothing is left to take back.")
        number = entry.pk
    found = history.change_of(session, kept.pk, number)
    if found is None or found[0].revision <= 1:
        raise NothingToUndo("There is no such change to take back.")
    row, was_taken_back = found
    if was_taken_back:
        raise NothingToUndo(f"“{row.what}” was taken back already.")
    recorded = history.changed_records(row)
    if row.final:
        raise NothingToUndo(f"“{row.what}” went out to others, so it can't be undone: cancel it where it stands.")
    back = taken_back(kept.refit, _aside_now(session, kept.pk, recorded), recorded)
    if back.stuck:
        later = history.later_on(session, kept.pk, row.revision, back.stuck)
        raise NothingToUndo(_told(row.what, later, kept))
    same_as = None
    if history.canonical(session, kept.pk, row.revision) == kept.same_as:
        same_as = history.canonical(session, kept.pk, row.revision - 1)
    root, again = history.root_of(session, row)
    try:
        after = with_changes(kept.refit, back.changes)
    except ValidationError as error:  # each record is sound by itself, but no longer beside what came since
        why = "; ".join(fault.message for fault in faults_of(error)[:MOST_NAMED])
        raise NothingToUndo(f"“{row.what}” can't be taken back as things stand now: {why}.") from error
    aside = {key: both for key, both in back.changes.items() if key.kind in KINDS and KINDS[key.kind].aside}
    return Step(
        after,
        changes_between(kept.refit, after) | aside,
        f"{'did again' if again else 'took back'}: {root}",
        needs=right_of(row.needs, recorded),
        undoes=row.pk,
        back=not row.back,
        same_as=same_as,
        plan_of=row.revision - 1 if same_as is not None else None,
    )


def right_of(needs: str | None, recorded: Changes) -> Right:
    """What it takes to take a change back: what it took to make it; of one from before that was written down, what its
    records ask.
    """
    if needs:
        return Right(needs)
    givens = any(key.kind in KINDS and KINDS[key.kind].givens for key in recorded)
    return Right.GIVENS if givens else Right.WORK


def _aside_now(session: Session, pk: int, recorded: Changes) -> dict[RecordKey, Record]:
    """What is kept aside, of the records a change touched, as it is now."""
    wanted: dict[str, list[str]] = {}
    for key in recorded:
        if key.kind in KINDS and KINDS[key.kind].aside:
            wanted.setdefault(key.kind, []).append(key.id)
    return {
        RecordKey(name, item.id): record_of(item)
        for name, ids in wanted.items()
        for item in load_aside(session, pk, KINDS[name], ids)
    }


def _told(what: str, later: list[ChangeEntry], kept: Kept) -> str:
    """Why a change can't be taken back, naming what came later."""
    if not later:
        return f"“{what}” can't be taken back: what it changed is no longer as it left it."
    zone = kept.refit.yard.zone
    named = "; ".join(f"“{one.what}” ({one.who}, {day_and_time(kept.now(one.at), zone)})" for one in later[:MOST_NAMED])
    more = f" and {count(len(later) - MOST_NAMED, 'more change')}" if len(later) > MOST_NAMED else ""
    return (
        f"“{what}” can't be taken back by itself, for later changes rest on it: {named}{more}. Take those back first."
    )
