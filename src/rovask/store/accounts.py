"""Who may come aboard: accounts with argon2, one-time links, sessions. Tokens are kept only as hashes."""

from __future__ import annotations

import hashlib
import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import lru_cache

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerifyMismatchError
from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from rovask.store.errors import SignInRefused
from rovask.store.tables import AccountRow, SessionRow, SignInLinkRow

LINK_LIFE = timedelta(hours=24)
SESSION_LIFE = timedelta(days=30)
SHORTEST_PASSWORD = 10
LONGEST_PASSWORD = 200
FREE_TRIES = 5
_HASHER = PasswordHasher()


@dataclass(frozen=True, slots=True)
class SignedIn:
    """Somebody signed in, in one browser."""

    account: int
    name: str
    csrf: str
    token_hash: bytes
    has_password: bool
    seen_change: int


@lru_cache(maxsize=1)
def _nobody() -> str:
    """A hash to verify when there is no such account, so that an answer takes as long either way."""
    return _HASHER.hash(secrets.token_urlsafe(16))


def _hash(token: str) -> bytes:
    return hashlib.sha256(token.encode()).digest()


def account_names(session: Session) -> list[str]:
    """Everybody who may sign in."""
    return list(session.scalars(select(AccountRow.name).order_by(AccountRow.pk)))


def account_named(session: Session, name: str, clock: datetime) -> AccountRow:
    """The account of that name (case and outer blanks aside), made if there is none. Raises ValueError on a bad name."""
    name = " ".join(name.split())
    if not 1 <= len(name) <= 60 or not name.isprintable():
        raise ValueError("A name has 1 to 60 letters.")
    row = session.scalars(select(AccountRow).where(func.lower(AccountRow.name) == name.lower())).first()
    if row is None:
        row = AccountRow(name=name, created_at=clock, failures=0)
        session.add(row)
        session.flush()
    return row


def make_link(session: Session, account: AccountRow, clock: datetime) -> str:
    """A token that signs ``account`` in once within a day."""
    token = secrets.token_urlsafe(24)
    session.add(SignInLinkRow(token_hash=_hash(token), account_pk=account.pk, expires_at=clock + LINK_LIFE))
    return token


def link_owner(session: Session, token: str, clock: datetime) -> str:
    """The name a link is for. Raises SignInRefused for one that is used, too old or unknown."""
    return _link(session, token, clock)[1].name


def _link(session: Session, token: str, clock: datetime) -> tuple[SignInLinkRow, AccountRow]:
    row = session.get(SignInLinkRow, _hash(token), with_for_update=True)
    if row is None or row.used_at is not None or row.expires_at <= clock:
        raise SignInRefused(
            "This link has been used or is too old. Start Rovask again for a new one, or ask who sent it."
        )
    return row, session.get_one(AccountRow, row.account_pk)


def use_link(session: Session, token: str, clock: datetime) -> str:
    """Use a link up; returns the cookie of a new session. Raises SignInRefused."""
    row, account = _link(session, token, clock)
    row.used_at = clock
    return _begin(session, account, clock)


def sign_in(session: Session, name: str, password: str, clock: datetime) -> str:
    """The cookie of a new session. Raises SignInRefused; after FREE_TRIES failures each try waits longer."""
    row = session.scalars(
        select(AccountRow).where(func.lower(AccountRow.name) == " ".join(name.split()).lower()).with_for_update()
    ).first()
    if row is not None and row.locked_until is not None and row.locked_until > clock:
        raise SignInRefused("Too many wrong passwords. Wait a minute and try again.")
    try:
        _HASHER.verify(row.password_hash if row and row.password_hash else _nobody(), password[:LONGEST_PASSWORD])
        right = row is not None and row.password_hash is not None
    except (VerifyMismatchError, InvalidHashError):
        right = False
    if row is None or not right:
        if row is not None:
            row.failures += 1
            if row.failures >= FREE_TRIES:
                row.locked_until = clock + timedelta(seconds=min(30 * 2 ** (row.failures - FREE_TRIES), 3600))
            session.commit()
        raise SignInRefused("That name and password don't belong together.")
    row.failures, row.locked_until = 0, None
    return _begin(session, row, clock)


def set_password(session: Session, account: int, password: str) -> None:
    """Set a password. Raises ValueError, saying what is asked of one."""
    if not SHORTEST_PASSWORD <= len(password) <= LONGEST_PASSWORD:
        raise ValueError(f"A password has {SHORTEST_PASSWORD} to {LONGEST_PASSWORD} signs; a short sentence is good.")
    session.get_one(AccountRow, account).password_hash = _HASHER.hash(password)


def _begin(session: Session, account: AccountRow, clock: datetime) -> str:
    token = secrets.token_urlsafe(32)
    session.execute(delete(SessionRow).where(SessionRow.expires_at <= clock))
    session.add(
        SessionRow(
            token_hash=_hash(token),
            account_pk=account.pk,
            csrf=secrets.token_urlsafe(24),
            created_at=clock,
            expires_at=clock + SESSION_LIFE,
        )
    )
    return token


def who_is(session: Session, token: str, clock: datetime) -> SignedIn | None:
    """Whose session a cookie is; None if it has ended or never was."""
    row = session.get(SessionRow, _hash(token))
    if row is None or row.expires_at <= clock:
        return None
    account = session.get_one(AccountRow, row.account_pk)
    return SignedIn(
        account.pk, account.name, row.csrf, row.token_hash, account.password_hash is not None, row.seen_change
    )


def dismiss(session: Session, who: SignedIn, change: int) -> None:
    """Remember that this browser has seen what a change did."""
    session.get_one(SessionRow, who.token_hash).seen_change = change


def sign_out(session: Session, who: SignedIn) -> None:
    """End a session."""
    session.execute(delete(SessionRow).where(SessionRow.token_hash == who.token_hash))
