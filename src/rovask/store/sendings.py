"""Forms that were sent: each is done once, in the transaction that does it, and sent again it is answered as it first was."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import datetime

from sqlalchemy import select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from rovask.store.errors import StoreError
from rovask.store.sending_tables import SendingRow


@dataclass(slots=True)
class Sending:
    """One form as it was sent; ``SendingRow`` says what each means. done: whether an act of this very sending was kept."""

    sender: str
    mark: str
    digest: str
    done: bool = field(default=False, compare=False)


class SentBefore(StoreError):
    """This form was sent and done before; it is answered as it was then."""

    def __init__(self, sending: Sending) -> None:
        self.sending = sending
        super().__init__("This was sent before and is done once.")


def keep(session: Session, sending: Sending, at: datetime) -> None:
    """Take note of it within the transaction that does it; one under way elsewhere is waited for. Raises SentBefore."""
    values = {"sender": sending.sender, "mark": sending.mark, "digest": sending.digest, "at": at, "answer": ""}
    new = insert(SendingRow).values(values).on_conflict_do_nothing().returning(SendingRow.mark)
    if session.scalar(new) is None:
        raise SentBefore(sending)


def answer_to(session: Session, sending: Sending) -> str | None:
    """Where it led, "" while that isn't known; None for what was never done."""
    query = select(SendingRow.answer).where(
        SendingRow.sender == sending.sender, SendingRow.mark == sending.mark, SendingRow.digest == sending.digest
    )
    return session.scalar(query)


def answer_to_mark(session: Session, sender: str, mark: str) -> str | None:
    """The same by its mark alone, of the last form that was sent with it."""
    query = select(SendingRow.answer).where(SendingRow.sender == sender, SendingRow.mark == mark)
    return session.scalars(query.order_by(SendingRow.at.desc())).first()


def answered(session: Session, sending: Sending, answer: str) -> None:
    """Note where it led."""
    here = (SendingRow.sender == sending.sender, SendingRow.mark == sending.mark, SendingRow.digest == sending.digest)
    session.execute(update(SendingRow).where(*here).values(answer=answer))
