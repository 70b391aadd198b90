"""The security journal: who signed in or was refused, who may do what since when, what was opened, withdrawn and taken out."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from rovask.store.safety_tables import Happened, JournalRow


@dataclass(frozen=True, slots=True)
class JournalLine:
    """One thing that happened; ``JournalRow`` says what each means."""

    at: datetime
    what: Happened
    account: int | None
    refit: int | None
    who: str
    about: str
    address: str


def note(
    session: Session,
    clock: datetime,
    what: Happened,
    *,
    account: int | None = None,
    refit: int | None = None,
    who: str = "",
    about: str = "",
    address: str = "",
) -> None:
    """Note that something happened, in the transaction in which it does."""
    session.add(
        JournalRow(
            at=clock,
            what=what,
            account_pk=account,
            refit_id=refit,
            who=who[:80],
            about=about[:200],
            address=address[:60],
        )
    )


def lines(
    session: Session, *, refit: int | None = None, account: int | None = None, most: int = 200
) -> list[JournalLine]:
    """The newest lines first: of a refit, of an account, or all."""
    query = select(JournalRow).order_by(JournalRow.pk.desc()).limit(most)
    if refit is not None:
        query = query.where(JournalRow.refit_id == refit)
    if account is not None:
        query = query.where(JournalRow.account_pk == account)
    return [
        JournalLine(row.at, row.what, row.account_pk, row.refit_id, row.who, row.about, row.address)
        for row in session.scalars(query)
    ]


def forget(session: Session, account: int) -> None:
    """Take the name and the addresses of an account out of the journal; that something happened stays."""
    mine = JournalRow.account_pk == account
    session.execute(update(JournalRow).where(mine).values(who="an erased account", about="", address=""))
