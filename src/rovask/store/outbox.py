"""What goes out to services: written with the change that sends it, under a mark that is never used again."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import func, select, text, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from rovask.store.errors import StoreError
from rovask.store.post_tables import OutboxRow, OutState

FROM_ELSEWHERE = "This order was sent from another copy of this refit. Cancel it here and place a new one."
OTHERWISE = (
    "It was handed over with other lines, and whether those were taken isn't known. Ask the supplier; "
    "then cancel this order and place a new one."
)


@dataclass(frozen=True, slots=True)
class Outgoing:
    """One thing that goes out; ``OutboxRow`` says what each means."""

    mark: str
    refit: int | None
    about: str
    recipient: str
    body: Mapping[str, Any]
    at: datetime
    state: OutState
    tries: int
    tried_at: datetime | None
    told: str


def _outgoing(row: OutboxRow) -> Outgoing:
    return Outgoing(
        row.mark, row.refit_id, row.about, row.recipient, row.body, row.at, row.state, row.tries, row.tried_at, row.told
    )


def put(
    session: Session, mark: str, pk: int, about: str, recipient: str, body: Mapping[str, Any], at: datetime
) -> None:
    """Have something go out; the same again waits again.

    Raises StoreError for a mark that another refit, or a copy of this one, has used, and for one whose first sending said something else.
    """
    values = {"mark": mark, "refit_id": pk, "about": about, "recipient": recipient, "body": dict(body), "at": at}
    new = (
        insert(OutboxRow).values(values | {"state": OutState.WAITS}).on_conflict_do_nothing().returning(OutboxRow.mark)
    )
    if session.scalar(new) is not None:
        return
    row = session.get_one(OutboxRow, mark, with_for_update=True)
    if row.refit_id != pk:
        raise StoreError(FROM_ELSEWHERE)
    if row.tries and row.body and row.body != dict(body):
        raise StoreError(OTHERWISE)
    if row.state is not OutState.TAKEN:
        row.body, row.state, row.told = dict(body), OutState.WAITS, ""


def by_mark(session: Session, mark: str) -> Outgoing | None:
    """What went out under a mark; None for a mark that was never used."""
    row = session.get(OutboxRow, mark) if mark else None
    return _outgoing(row) if row is not None else None


def waiting(session: Session, pk: int, about: str) -> Outgoing | None:
    """What waits to go out of an order; None when nothing does."""
    query = select(OutboxRow).where(
        OutboxRow.refit_id == pk, OutboxRow.about == about, OutboxRow.state == OutState.WAITS
    )
    row = session.scalars(query.order_by(OutboxRow.at.desc())).first()
    return _outgoing(row) if row is not None else None


def of_refit(session: Session, pk: int) -> list[Outgoing]:
    """All that went out of a refit, the newest first."""
    query = select(OutboxRow).where(OutboxRow.refit_id == pk).order_by(OutboxRow.at.desc(), OutboxRow.mark)
    return [_outgoing(row) for row in session.scalars(query)]


def note_try(session: Session, mark: str, at: datetime) -> None:
    """It is about to be sent once more."""
    values = {"tries": OutboxRow.tries + 1, "tried_at": at}
    session.execute(update(OutboxRow).where(OutboxRow.mark == mark).values(**values))


def settle(session: Session, mark: str, state: OutState, told: str) -> None:
    """What came of it."""
    session.execute(update(OutboxRow).where(OutboxRow.mark == mark).values(state=state, told=told[:300]))


_FORGOTTEN = text(
    "select refit_id, about, mark, tries from outbox where state = 'waits' and refit_id is not null and at < :before and not exists "
    "(select from procrastinate_jobs where queueing_lock = 'order-' || refit_id || '-' || about and status in ('todo', 'doing'))"
)


def forgotten(session: Session, before: datetime) -> list[tuple[int, str, str, int]]:
    """(refit, order, mark, tries) of what waits since before a moment and nobody is about to send: its job was lost, or given up."""
    return [(row.refit_id, row.about, row.mark, row.tries) for row in session.execute(_FORGOTTEN, {"before": before})]


def numbers(session: Session) -> dict[OutState, int]:
    """How much is in which state, of all refits."""
    rows = session.execute(select(OutboxRow.state, func.count()).group_by(OutboxRow.state))
    return {row[0]: row[1] for row in rows}
