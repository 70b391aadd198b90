"""Answers that took many plans to work out, kept until their refit or its plan changes."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass

from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from rovask import __version__
from rovask.store.history_tables import ChangeRow
from rovask.store.plan_tables import AnswerRow


@dataclass(frozen=True, slots=True)
class Question:
    """What was asked of a refit as it stood after one change, and of the plan it had. mark: a digest of that plan."""

    pk: int
    change: int
    mark: str
    what: str

    @property
    def digest(self) -> str:
        """By which it is found again; another version of Rovask may answer otherwise."""
        return hashlib.sha256(f"{__version__}\n{self.mark}\n{self.what}".encode()).hexdigest()


def kept(session: Session, pk: int, change: int) -> dict[str, bytes]:
    """Every answer that is kept of a refit as it stood after one change, by the digest of its question."""
    query = select(AnswerRow.digest, AnswerRow.body).where(AnswerRow.refit_id == pk, AnswerRow.change == change)
    return {row.digest: row.body for row in session.execute(query)}


def put(session: Session, question: Question, body: bytes) -> None:
    """Keep it, unless the refit has changed since or is gone; what was kept of it before it changed goes."""
    newest = session.scalar(select(func.max(ChangeRow.pk)).where(ChangeRow.refit_id == question.pk))
    if newest != question.change:
        return
    session.execute(delete(AnswerRow).where(AnswerRow.refit_id == question.pk, AnswerRow.change != question.change))
    row = {"refit_id": question.pk, "digest": question.digest, "change": question.change, "body": body}
    session.execute(insert(AnswerRow).values(row).on_conflict_do_nothing())
