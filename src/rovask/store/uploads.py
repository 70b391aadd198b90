"""Files that were sent to be brought in: kept for a day, so that what is wrong in them can be seen before anything is."""

from __future__ import annotations

import secrets
from datetime import datetime, timedelta

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from rovask.store.errors import NotFound
from rovask.store.upload_tables import UploadRow

KEPT_FOR = timedelta(days=1)


def keep(session: Session, pk: int, name: str, content: bytes, at: datetime) -> str:
    """Keep a file of a refit; returns by what it is asked for. Those older than a day go."""
    session.execute(delete(UploadRow).where(UploadRow.at < at - KEPT_FOR))
    token = secrets.token_urlsafe(12)
    session.add(UploadRow(token=token, refit_id=pk, name=name, content=content, at=at))
    return token


def content(session: Session, pk: int, token: str) -> tuple[str, bytes]:
    """(name, content) of a file of this refit. Raises NotFound."""
    row = session.execute(
        select(UploadRow.name, UploadRow.content).where(UploadRow.refit_id == pk, UploadRow.token == token)
    ).first()
    if row is None:
        raise NotFound("This file is no longer here; bring it in again.")
    return row[0], row[1]
