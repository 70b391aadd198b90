"""People: accounts with argon2, sessions, links that work once. Tokens are kept only as hashes."""

from __future__ import annotations

import hashlib
import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import bindparam, delete, func, select, update
from sqlalchemy.orm import Session

from rovask.store import passwords
from rovask.store.account_tables import AccountRow, DeviceRow, LinkRow, MemberRow, Membership, SecretRow, SessionRow
from rovask.store.errors import NotFound, SignInRefused

LINK_LIFE = timedelta(hours=24)
INVITATION_LIFE = timedelta(days=7)
SESSION_LIFE = timedelta(days=60)  # at the longest, however much it is used
IDLE = timedelta(days=14)  # without a page, after which a session has ended, unless the settings say otherwise
SEEN_AGAIN_AFTER = timedelta(minutes=10)
PAUSE = timedelta(hours=6)  # without a page, after which a new visit begins
DEVICES_KEPT = 20
LINK_REFUSED = "This link has been used or is too old. Ask whoever sent it for a new one, or start Rovask again."
WRONG = "That name and password don't belong together."


@dataclass(frozen=True, slots=True)
class SignedIn:
    """Somebody signed in, in one browser. ``session``: the number of this sign-in."""

    account: int
    name: str
    csrf: str
    token_hash: bytes
    has_password: bool
    seen_change: int
    session: int
    seen_at: datetime
    visit_before: datetime | None = None
    operator: bool = False
    since: datetime | None = None


@dataclass(frozen=True, slots=True)
class SessionLine:
    """A browser somebody is signed in with."""

    pk: int
    agent: str
    since: datetime
    seen_at: datetime
    here: bool
    address: str


@dataclass(frozen=True, slots=True)
class LinkView:
    """What a link is for. ``account``: the name of whose other device; refit: what it invites to, as which role."""

    account: str
    refit: int | None
    role: Membership | None
    name: str


def token_hash(token: str) -> bytes:
    """What is kept of a token."""
    return hashlib.sha256(token.encode("utf-8", "replace")).digest()


def one_name(name: str) -> str:
    """A name as it is kept. Raises ValueError."""
    name = " ".join(name.split())
    if not 1 <= len(name) <= 60 or not name.isprintable():
        raise ValueError("A name has 1 to 60 letters.")
    return name


def account_named(session: Session, name: str) -> AccountRow | None:
    """The account of that name, case and outer blanks aside."""
    plain = " ".join(name.split()).lower()
    if not plain.isprintable():
        return None
    return session.scalars(select(AccountRow).where(func.lower(AccountRow.name) == plain)).first()


def first_account(session: Session) -> AccountRow | None:
    """Whoever was here first: whom the start of Rovask signs in."""
    return session.scalars(select(AccountRow).order_by(AccountRow.pk)).first()


def new_account(session: Session, name: str, clock: datetime) -> AccountRow:
    """A new account. Raises ValueError for a name that is taken or none."""
    name = one_name(name)
    if account_named(session, name) is not None:
        raise ValueError(f"“{name}” can't be had; take another name.")
    row = AccountRow(name=name, created_at=clock)
    session.add(row)
    session.flush()
    return row


def device_link(session: Session, account: int, made_by: int | None, clock: datetime) -> str:
    """A token that signs ``account`` in on another device, once within a day."""
    token = secrets.token_urlsafe(24)
    session.add(
        LinkRow(token_hash=token_hash(token), account_pk=account, made_by=made_by, expires_at=clock + LINK_LIFE)
    )
    return token


def invitation(
    session: Session, refit: int, role: Membership, name: str, person: str | None, made_by: int, clock: datetime
) -> str:
    """A token that makes whoever uses it a member of a refit, once within a week."""
    token = secrets.token_urlsafe(24)
    session.add(
        LinkRow(
            token_hash=token_hash(token),
            refit_id=refit,
            role=role,
            name=name,
            person=person,
            made_by=made_by,
            expires_at=clock + INVITATION_LIFE,
        )
    )
    return token


def _link(session: Session, token: str, clock: datetime, *, lock: bool = False) -> LinkRow:
    row = session.get(LinkRow, token_hash(token), with_for_update=lock)
    if row is None or row.used_at is not None or row.expires_at <= clock:
        raise SignInRefused(LINK_REFUSED)
    return row


def look_at_link(session: Session, token: str, clock: datetime) -> LinkView:
    """What a link is for. Raises SignInRefused for one that is used, too old or unknown."""
    row = _link(session, token, clock)
    account = session.get_one(AccountRow, row.account_pk).name if row.account_pk is not None else ""
    return LinkView(account, row.refit_id, row.role, row.name)


def take_link(session: Session, token: str, clock: datetime) -> LinkRow:
    """Use a link up. Raises SignInRefused."""
    row = _link(session, token, clock, lock=True)
    row.used_at = clock
    session.execute(delete(LinkRow).where(LinkRow.expires_at <= clock - LINK_LIFE))
    return row


def right_password(session: Session, name: str, password: str) -> AccountRow:
    """The account, if name and password belong together; as slow for a name that isn't there. Raises SignInRefused."""
    row = account_named(session, name)
    if not passwords.matches(row.password_hash if row is not None else None, password) or row is None:
        raise SignInRefused(WRONG)
    return row


def set_password(session: Session, who: SignedIn, old: str, new: str, *, known: bool = True) -> None:
    """Set one's own password and end one's other sessions. known: whether the old one is asked for.

    Raises ValueError, saying what is asked of one.
    """
    row = session.get_one(AccountRow, who.account)
    if known and row.password_hash is not None and not passwords.matches(row.password_hash, old):
        raise ValueError("That is not your present password.")
    row.password_hash = passwords.hashed(new, row.name)
    session.execute(
        delete(SessionRow).where(SessionRow.account_pk == who.account, SessionRow.token_hash != who.token_hash)
    )
    session.execute(delete(DeviceRow).where(DeviceRow.account_pk == who.account))


def begin_session(session: Session, account: int, agent: str, clock: datetime, address: str = "") -> str:
    """The cookie of a new session. address: where it is signed in from."""
    token = secrets.token_urlsafe(32)
    session.execute(delete(SessionRow).where(SessionRow.expires_at <= clock))
    session.add(
        SessionRow(
            token_hash=token_hash(token),
            account_pk=account,
            csrf=secrets.token_urlsafe(24),
            created_at=clock,
            expires_at=clock + SESSION_LIFE,
            seen_at=clock,
            agent="".join(sign for sign in agent if sign.isprintable())[:200],
            address=address[:60],
        )
    )
    session.flush()
    return token


_WHO = (  # every page asks it: made once
    select(
        AccountRow.pk,
        AccountRow.name,
        SessionRow.csrf,
        SessionRow.token_hash,
        AccountRow.password_hash.is_not(None),
        SessionRow.seen_change,
        SessionRow.pk,
        SessionRow.seen_at,
        SessionRow.visit_before,
        AccountRow.operator,
        SessionRow.created_at,
    )
    .join_from(SessionRow, AccountRow, AccountRow.pk == SessionRow.account_pk)
    .where(
        SessionRow.token_hash == bindparam("token"),
        SessionRow.expires_at > bindparam("clock"),
        SessionRow.seen_at > bindparam("idle_since"),
    )
)


def who_is(session: Session, token: str, clock: datetime, idle: timedelta = IDLE) -> SignedIn | None:
    """Whose session a cookie is; None if it has ended, was not used for ``idle``, or never was."""
    values = {"token": token_hash(token), "clock": clock, "idle_since": clock - idle}
    found = session.execute(_WHO, values).first()
    return SignedIn(*found) if found is not None else None


def note_seen(session: Session, who: SignedIn, clock: datetime) -> None:
    """Note that a session is still in use; after hours without a page a new visit begins, and the last one is kept."""
    values = {"seen_at": clock}
    if clock - who.seen_at > PAUSE:
        values["visit_before"] = who.seen_at
    session.execute(update(SessionRow).where(SessionRow.token_hash == who.token_hash).values(**values))


def sessions_of(session: Session, who: SignedIn, clock: datetime, idle: timedelta = IDLE) -> list[SessionLine]:
    """The browsers somebody is signed in with, the one last used first."""
    rows = session.scalars(
        select(SessionRow)
        .where(SessionRow.account_pk == who.account, SessionRow.expires_at > clock, SessionRow.seen_at > clock - idle)
        .order_by(SessionRow.seen_at.desc())
    )
    return [
        SessionLine(row.pk, row.agent, row.created_at, row.seen_at, row.pk == who.session, row.address) for row in rows
    ]


def end_session(session: Session, who: SignedIn, pk: int) -> None:
    """End one of one's own sessions. Raises NotFound for anybody else's."""
    ended = session.execute(delete(SessionRow).where(SessionRow.pk == pk, SessionRow.account_pk == who.account))
    if not ended.rowcount:  # type: ignore[attr-defined]
        raise NotFound("That session has ended already.")


def dismiss(session: Session, who: SignedIn, change: int) -> None:
    """Remember that this browser has seen what a change did."""
    session.execute(update(SessionRow).where(SessionRow.token_hash == who.token_hash).values(seen_change=change))


def know_device(session: Session, account: int, clock: datetime) -> str:
    """A token for a browser that has signed in; the oldest of too many are forgotten."""
    token = secrets.token_urlsafe(24)
    session.add(DeviceRow(token_hash=token_hash(token), account_pk=account, since=clock))
    session.flush()
    old = select(DeviceRow.token_hash).where(DeviceRow.account_pk == account).order_by(DeviceRow.since.desc())
    session.execute(delete(DeviceRow).where(DeviceRow.token_hash.in_(old.offset(DEVICES_KEPT))))
    return token


def is_known_device(session: Session, token: str, name: str) -> bool:
    """Whether somebody of that name has signed in with this browser before."""
    row = session.get(DeviceRow, token_hash(token))
    account = account_named(session, name)
    return row is not None and account is not None and row.account_pk == account.pk


# Members of refits


@dataclass(frozen=True, slots=True)
class Member:
    """Somebody in a refit."""

    account: int
    name: str
    role: Membership
    person: str | None
    since: datetime


def member(session: Session, refit: int, account: int) -> MemberRow | None:
    """What somebody is in a refit; None for a stranger."""
    return session.get(MemberRow, (refit, account))


def members(session: Session, refit: int) -> list[Member]:
    """Everybody in a refit, the first first."""
    rows = session.execute(
        select(MemberRow, AccountRow.name)
        .join(AccountRow, AccountRow.pk == MemberRow.account_pk)
        .where(MemberRow.refit_id == refit)
        .order_by(MemberRow.since, AccountRow.pk)
    )
    return [Member(row.account_pk, name, row.role, row.person, row.since) for row, name in rows]


def join(
    session: Session, refit: int, account: int, role: Membership, clock: datetime, person: str | None = None
) -> None:
    """Make somebody a member; who is one already is what they are now made, but a skipper stays one."""
    row = session.get(MemberRow, (refit, account))
    if row is None:
        session.add(MemberRow(refit_id=refit, account_pk=account, role=role, person=person, since=clock))
    elif row.role is not Membership.SKIPPER:
        row.role, row.person = role, person
    session.flush()


def leave(session: Session, refit: int, account: int, clock: datetime) -> None:
    """Take somebody out of a refit, with the invitations they made and the addresses they were given. Raises NotFound."""
    row = session.get(MemberRow, (refit, account))
    if row is None:
        raise NotFound("They are not in this refit any more.")
    session.delete(row)
    mine = SecretRow.made_by == account
    if row.person is not None:
        mine |= SecretRow.person == row.person
    session.execute(
        update(SecretRow)
        .where(SecretRow.refit_id == refit, mine)
        .values(withdrawn_at=func.coalesce(SecretRow.withdrawn_at, clock))
    )
    session.execute(delete(LinkRow).where(LinkRow.refit_id == refit, LinkRow.made_by == account))
    session.flush()


def skippers(session: Session, refit: int) -> int:
    """How many skippers a refit has."""
    return session.scalars(
        select(func.count()).where(MemberRow.refit_id == refit, MemberRow.role == Membership.SKIPPER)
    ).one()


def is_skipper_of_all(session: Session, skipper: int, account: int) -> bool:
    """Whether somebody is a skipper of every refit another account is in, and that one runs no Rovask."""
    mine = select(MemberRow.refit_id).where(MemberRow.account_pk == skipper, MemberRow.role == Membership.SKIPPER)
    others = select(MemberRow.refit_id).where(MemberRow.account_pk == account, MemberRow.refit_id.not_in(mine))
    return not session.scalar(select(others.exists())) and not session.get_one(AccountRow, account).operator
