"""The tables of people: accounts, sessions, links, and who may do what in which refit."""

from __future__ import annotations

from datetime import datetime
from enum import StrEnum

from sqlalchemy import BigInteger, CheckConstraint, Enum, ForeignKey, Identity, Index, false
from sqlalchemy.orm import Mapped, mapped_column

from rovask.store.base import Base, choice_type
from rovask.store.record_tables import RefitRow


class Membership(StrEnum):
    """What somebody is in a refit.

    skipper: may do all, and alone invites, removes people or the refit. crew: work, findings, stores, log.
    reader: looks. trade: its own jobs.
    """

    SKIPPER = "skipper"
    CREW = "crew"
    READER = "reader"
    TRADE = "trade"


def _membership() -> Enum:
    return choice_type(Membership)


class AccountRow(Base):
    """Somebody who may sign in; without a password only by a link, a passkey or a recovery code.

    operator: whether they run this Rovask: they see how it fares, and no refit's content.
    """

    __tablename__ = "account"

    pk: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    name: Mapped[str] = mapped_column(unique=True)
    password_hash: Mapped[str | None]
    created_at: Mapped[datetime]
    operator: Mapped[bool] = mapped_column(server_default=false())


class MemberRow(Base):
    """Somebody in a refit. ``person``: whom of its people an account stands for; a trade sees that one's work."""

    __tablename__ = "member"

    refit_id: Mapped[int] = mapped_column(ForeignKey(RefitRow.pk, ondelete="CASCADE"), primary_key=True)
    account_pk: Mapped[int] = mapped_column(ForeignKey("account.pk", ondelete="CASCADE"), primary_key=True)
    role: Mapped[Membership] = mapped_column(_membership())
    person: Mapped[str | None]
    since: Mapped[datetime]

    __table_args__ = (Index(None, "account_pk"),)


class LinkRow(Base):
    """A link that works once: into an account on another device, or into a refit. Only its token's hash is kept.

    account_pk: whose device; None for an invitation. refit_id, role, person: what an invitation makes somebody.
    name: whom it is meant for, as whoever made it called them.
    """

    __tablename__ = "sign_in_link"

    token_hash: Mapped[bytes] = mapped_column(primary_key=True)
    account_pk: Mapped[int | None] = mapped_column(ForeignKey("account.pk", ondelete="CASCADE"))
    refit_id: Mapped[int | None] = mapped_column(ForeignKey(RefitRow.pk, ondelete="CASCADE"))
    role: Mapped[Membership | None] = mapped_column(_membership())
    person: Mapped[str | None]
    name: Mapped[str] = mapped_column(server_default="")
    made_by: Mapped[int | None] = mapped_column(ForeignKey("account.pk", ondelete="CASCADE"))
    expires_at: Mapped[datetime]
    used_at: Mapped[datetime | None]

    __table_args__ = (
        CheckConstraint("(account_pk is null) = (refit_id is not null)", name="device_or_invitation"),
        CheckConstraint("(refit_id is null) = (role is null)", name="invitation_has_a_role"),
    )


class SessionRow(Base):
    """A browser that is signed in. Only the hash of its cookie is kept. ``agent``: what the browser calls itself; ``address``: where
    it signed in from.

    visit_before: when it was last here before the visit it is on.
    """

    __tablename__ = "session"

    token_hash: Mapped[bytes] = mapped_column(primary_key=True)
    pk: Mapped[int] = mapped_column(BigInteger, Identity(), unique=True)
    account_pk: Mapped[int] = mapped_column(ForeignKey("account.pk", ondelete="CASCADE"), index=True)
    csrf: Mapped[str]
    created_at: Mapped[datetime]
    expires_at: Mapped[datetime]
    seen_at: Mapped[datetime]
    agent: Mapped[str] = mapped_column(server_default="")
    address: Mapped[str] = mapped_column(server_default="")
    seen_change: Mapped[int] = mapped_column(BigInteger, default=0)
    visit_before: Mapped[datetime | None]


class SecretUse(StrEnum):
    """What a secret address is for: a trade's own page, or a calendar that is fetched again and again."""

    TRADE = "trade"
    CALENDAR = "calendar"


class SecretRow(Base):
    """An address that opens without an account, until it expires or is withdrawn. Only its token's hash is kept.

    person: whose work; None for what everybody and the deliveries have in a calendar. agreement: whether a trade sees
    what was agreed with it. hint: the last signs of the token, to tell one from another.
    """

    __tablename__ = "secret"

    token_hash: Mapped[bytes] = mapped_column(primary_key=True)
    pk: Mapped[int] = mapped_column(BigInteger, Identity(), unique=True)
    refit_id: Mapped[int] = mapped_column(ForeignKey(RefitRow.pk, ondelete="CASCADE"), index=True)
    purpose: Mapped[SecretUse] = mapped_column(choice_type(SecretUse))
    person: Mapped[str | None]
    agreement: Mapped[bool] = mapped_column(server_default=false())
    hint: Mapped[str]
    made_by: Mapped[int | None] = mapped_column(ForeignKey("account.pk", ondelete="SET NULL"))
    made_at: Mapped[datetime]
    expires_at: Mapped[datetime | None]
    withdrawn_at: Mapped[datetime | None]
    seen_at: Mapped[datetime | None]
    sent_bytes: Mapped[int] = mapped_column(BigInteger, server_default="0")

    __table_args__ = (CheckConstraint("purpose <> 'trade' or person is not null", name="a_trade_is_somebody"),)


class DeviceRow(Base):
    """A browser somebody has signed in with before: strangers' wrong tries don't keep it out."""

    __tablename__ = "known_device"

    token_hash: Mapped[bytes] = mapped_column(primary_key=True)
    account_pk: Mapped[int] = mapped_column(ForeignKey("account.pk", ondelete="CASCADE"), index=True)
    since: Mapped[datetime]
