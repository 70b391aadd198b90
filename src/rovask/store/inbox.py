"""What services call back with, kept before it is done, so that nothing told is ever lost; told twice it is kept once.

What can't be done is tried again after growing pauses, and given up after some tries; it stays in a list somebody can see.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import func, or_, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from rovask.store.errors import NotFound
from rovask.store.post_tables import InboxRow, OutboxRow

MOST_TRIES = 8
FIRST_PAUSE = timedelta(seconds=30)  # each is twice the one before: the last try is an hour after the first


@dataclass(frozen=True, slots=True)
class Told:
    """One thing that was told of the order with a mark, and not done yet; ``InboxRow`` says what each means."""

    mark: str
    event: str
    body: Mapping[str, Any]
    at: datetime
    tries: int
    given_up_at: datetime | None
    why: str


def _told(row: InboxRow) -> Told:
    return Told(row.mark, row.event, row.body, row.at, row.tries, row.given_up_at, row.why)


def keep(session: Session, mark: str, event: str, body: Mapping[str, Any], at: datetime) -> None:
    """Keep it; again is nothing new."""
    values = {"mark": mark, "event": event, "body": dict(body), "at": at, "done": False}
    session.execute(insert(InboxRow).values(values).on_conflict_do_nothing())


def undone(session: Session, clock: datetime, mark: str | None = None) -> list[Told]:
    """What is to be tried now, the oldest first; of one order only, where its mark is given."""
    due = or_(InboxRow.next_at.is_(None), InboxRow.next_at <= clock)
    query = select(InboxRow).where(InboxRow.done.is_(False), InboxRow.given_up_at.is_(None), due)
    query = query.order_by(InboxRow.at, InboxRow.event)
    return [_told(row) for row in session.scalars(query if mark is None else query.where(InboxRow.mark == mark))]


def done(session: Session, mark: str, event: str) -> None:
    """It is done."""
    session.execute(_of(mark, event).values(done=True, next_at=None, given_up_at=None, why=""))


def failed(session: Session, mark: str, event: str, why: str, clock: datetime, *, for_good: bool) -> None:
    """It could not be done: it is tried later, or no more. for_good: trying again can't help, for its refit is gone."""
    row = session.get(InboxRow, (mark, event), with_for_update=True)
    if row is None or row.done:
        return
    row.tries, row.why = row.tries + 1, why[:300]
    if for_good or row.tries >= MOST_TRIES:
        row.given_up_at, row.next_at = clock, None
    else:
        row.next_at = clock + FIRST_PAUSE * 2 ** (row.tries - 1)


def try_again(session: Session, pk: int, mark: str, event: str) -> None:
    """Somebody wants it tried once more. Raises NotFound for what isn't of this refit."""
    home = session.scalar(select(OutboxRow.refit_id).where(OutboxRow.mark == mark))
    if home != pk:
        raise NotFound("Nothing of this was told here.")
    session.execute(_of(mark, event).values(given_up_at=None, next_at=None, tries=0))


def _of(mark: str, event: str) -> Any:
    return update(InboxRow).where(InboxRow.mark == mark, InboxRow.event == event)


def held_up(session: Session, pk: int) -> list[Told]:
    """What was told of a refit's orders and is not done, the newest first."""
    query = select(InboxRow).join(OutboxRow, OutboxRow.mark == InboxRow.mark)
    rows = session.scalars(query.where(OutboxRow.refit_id == pk, InboxRow.done.is_(False)).order_by(InboxRow.at.desc()))
    return [_told(row) for row in rows]


def given_up(session: Session) -> int:
    """How much is tried no more, of all refits and of those that are gone."""
    return session.scalars(
        select(func.count()).where(InboxRow.given_up_at.is_not(None), InboxRow.done.is_(False))
    ).one()
