"""The table of forms that were sent and done."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import Index
from sqlalchemy.orm import Mapped, mapped_column

from rovask.store.base import Base


class SendingRow(Base):
    """A form that was sent and done: kept for good, for a device may send it again after weeks.

    sender: the account, or the secret address, it came by. mark: what the page, or the device, called it; digest: of what
    it said, for one page may be sent twice with other words. answer: where it led; "" while that isn't known.
    """

    __tablename__ = "sending"

    sender: Mapped[str] = mapped_column(primary_key=True)
    mark: Mapped[str] = mapped_column(primary_key=True)
    digest: Mapped[str] = mapped_column(primary_key=True)
    at: Mapped[datetime]
    answer: Mapped[str]

    __table_args__ = (Index(None, "at"),)
