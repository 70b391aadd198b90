"""Ways in beside the password: passkeys, with the challenges they answer, and recovery codes. Of codes only hashes are kept."""

from __future__ import annotations

import hashlib
import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from rovask.store.errors import NotFound, SignInRefused
from rovask.store.safety_tables import ChallengeRow, PasskeyRow, RecoveryCodeRow

CHALLENGE_LIFE = timedelta(minutes=5)
MOST_PASSKEYS = 10
CODES = 10
_SIGNS = "ABCDEFGHJKMNPQRSTUVWXYZ23456789"  # none that is taken for another
_GROUPS, _LONG = 4, 4  # 31 ** 16 codes: 79 bits


@dataclass(frozen=True, slots=True)
class Passkey:
    """A passkey of an account, as its owner sees it."""

    pk: int
    name: str
    made_at: datetime
    used_at: datetime | None


def new_challenge(session: Session, account: int | None, clock: datetime) -> bytes:
    """A challenge that a device answers, once, within minutes. account: whose new passkey it is for; None for signing in."""
    challenge = secrets.token_bytes(32)
    session.add(ChallengeRow(challenge=challenge, account_pk=account, expires_at=clock + CHALLENGE_LIFE))
    session.flush()
    return challenge


def use_challenge(session: Session, challenge: bytes, account: int | None, clock: datetime) -> None:
    """Use a challenge up. Raises SignInRefused for one that is unknown, used, too old, or was somebody else's."""
    row = session.get(ChallengeRow, challenge, with_for_update=True)
    if row is None or row.expires_at <= clock or row.account_pk != account:
        raise SignInRefused("That took too long, or was asked for elsewhere. Try again.")
    session.delete(row)
    session.flush()


def add_passkey(
    session: Session, account: int, credential: bytes, public_key: bytes, count: int, name: str, clock: datetime
) -> None:
    """Keep a new passkey. Raises ValueError for too many, or one that is known already."""
    many = session.scalars(select(func.count()).where(PasskeyRow.account_pk == account)).one()
    if many >= MOST_PASSKEYS:
        raise ValueError(f"There are {many} passkeys already; take one away first.")
    if session.get(PasskeyRow, credential) is not None:
        raise ValueError("This device's passkey is known already.")
    session.add(
        PasskeyRow(
            credential=credential, account_pk=account, public_key=public_key, count=count, name=name, made_at=clock
        )
    )
    session.flush()


def passkey_of(session: Session, credential: bytes) -> PasskeyRow | None:
    """The passkey a device names; None for one that isn't known, held until the transaction ends otherwise."""
    return session.get(PasskeyRow, credential, with_for_update=True)


def credentials_of(session: Session, account: int) -> list[bytes]:
    """By which the devices of an account are known: none of them makes a second passkey."""
    return list(session.scalars(select(PasskeyRow.credential).where(PasskeyRow.account_pk == account)))


def passkeys_of(session: Session, account: int) -> list[Passkey]:
    """The passkeys of an account, the oldest first."""
    rows = session.scalars(select(PasskeyRow).where(PasskeyRow.account_pk == account).order_by(PasskeyRow.pk))
    return [Passkey(row.pk, row.name, row.made_at, row.used_at) for row in rows]


def drop_passkey(session: Session, account: int, pk: int) -> str:
    """Take one of one's own passkeys away; returns its name. Raises NotFound."""
    row = session.scalars(select(PasskeyRow).where(PasskeyRow.pk == pk, PasskeyRow.account_pk == account)).first()
    if row is None:
        raise NotFound("There is no such passkey any more.")
    session.delete(row)
    session.flush()
    return row.name


def _code_hash(account: int, code: str) -> bytes:
    plain = "".join(sign for sign in code.upper() if sign in _SIGNS)
    return hashlib.sha256(f"{account} {plain}".encode()).digest()


def new_codes(session: Session, account: int, clock: datetime) -> list[str]:
    """New recovery codes, told once; those there were are good no more."""
    session.execute(delete(RecoveryCodeRow).where(RecoveryCodeRow.account_pk == account))
    codes = [
        "-".join("".join(secrets.choice(_SIGNS) for _ in range(_LONG)) for _ in range(_GROUPS)) for _ in range(CODES)
    ]
    for code in codes:
        session.add(RecoveryCodeRow(code_hash=_code_hash(account, code), account_pk=account, made_at=clock))
    session.flush()
    return codes


def codes_left(session: Session, account: int) -> int:
    """How many codes are still good."""
    return session.scalars(select(func.count()).where(RecoveryCodeRow.account_pk == account)).one()


def use_code(session: Session, account: int | None, code: str) -> bool:
    """Use a code up; whether it was good. As slow for an account there isn't."""
    row = session.get(RecoveryCodeRow, _code_hash(account or 0, code), with_for_update=True)
    if row is None or account is None:
        return False
    session.delete(row)
    session.flush()
    return True
