"""Tables of what comes from outside: files that are being looked over, and what services call back with."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from rovask.store.base import Base, Json


class UploadRow(Base):
    """A file between being sent and being brought in: any web process may be asked about it next."""

    __tablename__ = "upload"

    token: Mapped[str] = mapped_column(primary_key=True)
    refit_id: Mapped[int] = mapped_column(ForeignKey("refit.pk", ondelete="CASCADE"))
    name: Mapped[str]
    content: Mapped[bytes]
    at: Mapped[datetime]


class InboxRow(Base):
    """What a service told of an order, kept before anything is done with it. done: whether the order knows it."""

    __tablename__ = "inbox"

    mark: Mapped[str] = mapped_column(primary_key=True)
    event: Mapped[str] = mapped_column(primary_key=True)
    body: Mapped[Json]
    at: Mapped[datetime]
    done: Mapped[bool]
