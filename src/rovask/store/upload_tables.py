"""The table of files that are being looked over before anything of them is brought in."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from rovask.store.base import Base


class UploadRow(Base):
    """A file between being sent and being brought in: any web process may be asked about it next."""

    __tablename__ = "upload"

    token: Mapped[str] = mapped_column(primary_key=True)
    refit_id: Mapped[int] = mapped_column(ForeignKey("refit.pk", ondelete="CASCADE"))
    name: Mapped[str]
    content: Mapped[bytes]
    at: Mapped[datetime]
