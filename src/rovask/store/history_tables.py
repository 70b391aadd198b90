"""The table of changes: what was done, by whom, and the records before and after."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import BigInteger, ForeignKey, Identity, UniqueConstraint, false
from sqlalchemy.orm import Mapped, mapped_column

from rovask.store.base import Base, Json


class ChangeRow(Base):
    """One change of one refit: who, when, what, and the records before and after.

    undoes: the change it takes back. same_as: the earlier revision whose refit this one is again; None for a new one.
    effect: what it did to launch and money, in figures. needs: the right that whoever did it had to have, and whoever takes
    it back; None in what was written before 0.8. back: it takes a change back, rather than making one (again). final: it
    went out of the house, to a supplier say, and can't be taken back. erased: whoever did it erased their account since.
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
    needs: Mapped[str | None]
    back: Mapped[bool]
    final: Mapped[bool]
    erased: Mapped[bool] = mapped_column(server_default=false())

    __table_args__ = (UniqueConstraint("refit_id", "revision"),)
