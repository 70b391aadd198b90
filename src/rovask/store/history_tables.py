"""The table of changes: what was done, by whom, and the records before and after."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import BigInteger, ForeignKey, Identity, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from rovask.store.base import Base, Json


class ChangeRow(Base):
    """One change of one refit: who, when, what, and the records before and after.

    undoes: the change it takes back. same_as: the earlier revision whose refit this one is again; None for a new one.
    effect: what it did to launch and money, in figures.
    """

    __tablename__ = "change"

    pk: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    refit_id: Mapped[int] = mapped_column(ForeignKey("refit.pk", ondelete="CASCADE"))
    revision: Mapped[int]
    account_pk: Mapped[int | None] = mapped_column(ForeignKey("account.pk", ondelete="SET NULL"))
    at: Mapped[datetime]
    what: Mapped[str]
    before: Mapped[Json]
    after: Mapped[Json]
    undoes: Mapped[int | None] = mapped_column(ForeignKey("change.pk", ondelete="CASCADE"), unique=True)
    same_as: Mapped[int | None]
    verdict_before: Mapped[Json | None]
    verdict_after: Mapped[Json | None]
    effect: Mapped[Json | None]

    __table_args__ = (UniqueConstraint("refit_id", "revision"),)
