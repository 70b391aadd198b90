"""Tables that keep accounts safe: the security journal, tries that are slowed, passkeys, recovery codes; and what copies were made."""

from __future__ import annotations

from datetime import datetime
from enum import StrEnum

from sqlalchemy import BigInteger, ForeignKey, Identity, Index
from sqlalchemy.orm import Mapped, mapped_column

from rovask.store.base import Base, choice_type


class Happened(StrEnum):
    """What the security journal tells of."""

    SIGNED_IN = "signed in"
    REFUSED = "refused"
    SIGNED_OUT = "signed out"
    PASSWORD = "password set"
    PASSKEY = "passkey"
    CODES = "recovery codes"
    RECOVERED = "recovered"
    LINK_MADE = "link made"
    LINK_USED = "link opened"
    LINK_WITHDRAWN = "link withdrawn"
    INVITED = "invited"
    JOINED = "joined"
    ROLE = "role changed"
    TAKEN_OUT = "taken out"
    LEFT = "left"
    EXPORTED = "exported"
    REMOVED = "refit removed"
    ERASED = "account erased"
    OPERATOR = "operator"


class JournalRow(Base):
    """One thing that concerns who may do what. who, about: names as they were then; address: where it came from."""

    __tablename__ = "journal"

    pk: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    at: Mapped[datetime]
    what: Mapped[Happened] = mapped_column(choice_type(Happened))
    account_pk: Mapped[int | None] = mapped_column(ForeignKey("account.pk", ondelete="SET NULL"), index=True)
    refit_id: Mapped[int | None] = mapped_column(ForeignKey("refit.pk", ondelete="SET NULL"))
    who: Mapped[str]
    about: Mapped[str]
    address: Mapped[str]

    __table_args__ = (Index(None, "refit_id", "pk"), Index(None, "at"))


class AttemptRow(Base):
    """Somebody tried something that is slowed: by whom is a digest, so that no name and no address is kept."""

    __tablename__ = "attempt"

    pk: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    who: Mapped[bytes]
    at: Mapped[datetime]

    __table_args__ = (Index(None, "who", "at"), Index(None, "at"))


class PasskeyRow(Base):
    """A passkey of an account: what a device proves itself by. name: what its owner calls it; count: of signatures, as it says."""

    __tablename__ = "passkey"

    credential: Mapped[bytes] = mapped_column(primary_key=True)
    pk: Mapped[int] = mapped_column(BigInteger, Identity(), unique=True)
    account_pk: Mapped[int] = mapped_column(ForeignKey("account.pk", ondelete="CASCADE"), index=True)
    public_key: Mapped[bytes]
    count: Mapped[int] = mapped_column(BigInteger)
    name: Mapped[str]
    made_at: Mapped[datetime]
    used_at: Mapped[datetime | None]


class ChallengeRow(Base):
    """A challenge for a passkey, good once and for minutes. account_pk: whose new passkey it is for; None for signing in."""

    __tablename__ = "challenge"

    challenge: Mapped[bytes] = mapped_column(primary_key=True)
    account_pk: Mapped[int | None] = mapped_column(ForeignKey("account.pk", ondelete="CASCADE"))
    expires_at: Mapped[datetime]


class RecoveryCodeRow(Base):
    """A code that signs its account in once when all else is lost. Only its hash is kept."""

    __tablename__ = "recovery_code"

    code_hash: Mapped[bytes] = mapped_column(primary_key=True)
    account_pk: Mapped[int] = mapped_column(ForeignKey("account.pk", ondelete="CASCADE"), index=True)
    made_at: Mapped[datetime]


class OrphanRow(Base):
    """A photo's file that no refit names any more; since: when that was first seen. After a while it goes."""

    __tablename__ = "orphan"

    sha256: Mapped[str] = mapped_column(primary_key=True)
    since: Mapped[datetime]


class CopyRow(Base):
    """A backup that was made. file: its name; why: what went wrong, "" for nothing; checked_at: when it was restored beside and compared."""

    __tablename__ = "copy"

    pk: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    at: Mapped[datetime]
    file: Mapped[str]
    size: Mapped[int] = mapped_column(BigInteger)
    photos: Mapped[int]
    version: Mapped[str]
    why: Mapped[str]
    checked_at: Mapped[datetime | None]
