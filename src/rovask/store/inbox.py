"""What services call back with, kept before it is done, so that nothing told is ever lost; told twice it is kept once."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from rovask.core.refit.register import KINDS
from rovask.store.record_tables import table_of
from rovask.store.upload_tables import InboxRow


@dataclass(frozen=True, slots=True)
class Told:
    """One thing that was told of the order with a mark, and not done yet."""

    mark: str
    event: str
    body: Mapping[str, Any]


def keep(session: Session, mark: str, event: str, body: Mapping[str, Any], at: datetime) -> None:
    """Keep it; again is nothing new."""
    values = {"mark": mark, "event": event, "body": dict(body), "at": at, "done": False}
    session.execute(insert(InboxRow).values(values).on_conflict_do_nothing())


def undone(session: Session, mark: str | None = None) -> list[Told]:
    """What is still to be done, the oldest first; of one order only, where its mark is given."""
    query = select(InboxRow).where(InboxRow.done.is_(False)).order_by(InboxRow.at, InboxRow.event)
    rows = session.scalars(query if mark is None else query.where(InboxRow.mark == mark))
    return [Told(row.mark, row.event, row.body) for row in rows]


def done(session: Session, mark: str, event: str) -> None:
    """It is done."""
    session.execute(update(InboxRow).where(InboxRow.mark == mark, InboxRow.event == event).values(done=True))


def order_marked(session: Session, mark: str) -> tuple[int, str] | None:
    """(refit, order) with a mark; None where there is none, or no mark."""
    table = table_of(KINDS["purchase"])
    row = session.execute(select(table.c.refit_id, table.c.id).where(table.c.mark == mark)).first() if mark else None
    return (row[0], row[1]) if row is not None else None
