"""Secret addresses: a trade's own page, a calendar that is fetched. Tokens are kept only as hashes."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from rovask.store.account_tables import SecretRow, SecretUse
from rovask.store.accounts import token_hash
from rovask.store.errors import NotFound

GONE = "This address leads nowhere: it was withdrawn, has run out, or was never given. Ask whoever sent it."
TRADE_LIFE = timedelta(days=60)
CALENDAR_LIFE = timedelta(days=180)
HINT = 5  # last signs of a token that are kept to tell it by


@dataclass(frozen=True, slots=True)
class Secret:
    """What an address is for, without its token."""

    pk: int
    refit: int
    purpose: SecretUse
    person: str | None
    agreement: bool
    hint: str
    made_at: datetime
    expires_at: datetime | None
    seen_at: datetime | None


def _secret(row: SecretRow) -> Secret:
    return Secret(
        row.pk, row.refit_id, row.purpose, row.person, row.agreement, row.hint, row.made_at, row.expires_at, row.seen_at
    )


def make_secret(
    session: Session,
    refit: int,
    purpose: SecretUse,
    person: str | None,
    clock: datetime,
    *,
    made_by: int | None,
    agreement: bool = False,
    life: timedelta | None = None,
) -> str:
    """A new address's token; it is told once and kept nowhere. life: None for one that ends only when withdrawn."""
    token = secrets.token_urlsafe(24)
    session.add(
        SecretRow(
            token_hash=token_hash(token),
            refit_id=refit,
            purpose=purpose,
            person=person,
            agreement=agreement,
            hint=token[-HINT:],
            made_by=made_by,
            made_at=clock,
            expires_at=clock + life if life is not None else None,
        )
    )
    session.flush()
    return token


def find_secret(session: Session, token: str, purpose: SecretUse, clock: datetime) -> Secret:
    """What an address is for. Raises NotFound for one that is withdrawn, has run out, is for something else or never was."""
    row = session.get(SecretRow, token_hash(token))
    if (
        row is None
        or row.purpose is not purpose
        or row.withdrawn_at is not None
        or (row.expires_at is not None and row.expires_at <= clock)
    ):
        raise NotFound(GONE)
    return _secret(row)


def secrets_of(session: Session, refit: int, clock: datetime) -> list[Secret]:
    """The addresses of a refit that still open, the newest first."""
    rows = session.scalars(
        select(SecretRow)
        .where(SecretRow.refit_id == refit, SecretRow.withdrawn_at.is_(None))
        .where((SecretRow.expires_at.is_(None)) | (SecretRow.expires_at > clock))
        .order_by(SecretRow.pk.desc())
    )
    return [_secret(row) for row in rows]


def withdraw(session: Session, refit: int, pk: int, clock: datetime) -> None:
    """It opens no more. Raises NotFound for one that is not this refit's."""
    row = session.scalars(select(SecretRow).where(SecretRow.refit_id == refit, SecretRow.pk == pk)).first()
    if row is None:
        raise NotFound(GONE)
    row.withdrawn_at = row.withdrawn_at or clock


def note_used(session: Session, pk: int, clock: datetime) -> None:
    """Note that an address was opened."""
    session.execute(update(SecretRow).where(SecretRow.pk == pk).values(seen_at=clock))
