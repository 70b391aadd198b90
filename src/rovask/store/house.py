"""What goes by the clock: files nobody finished bringing in, photos nobody names, old tries, challenges, links, and journal lines; what copies were made."""

from __future__ import annotations

from datetime import datetime, timedelta

from sqlalchemy import delete, select, text
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from rovask.store.account_tables import LinkRow, SessionRow
from rovask.store.safety_tables import AttemptRow, ChallengeRow, CopyRow, JournalRow, OrphanRow
from rovask.store.upload_tables import UploadRow
from rovask.store.uploads import KEPT_FOR

ORPHANS_KEPT = timedelta(days=30)  # so long an undo brings a photo back
ATTEMPTS_KEPT = timedelta(hours=2)
JOURNAL_KEPT = timedelta(days=400)
LINKS_KEPT = timedelta(days=1)  # after they have run out


def expire(session: Session, clock: datetime) -> dict[str, int]:
    """Take away what has had its time; returns how much of each."""
    over = {
        "uploads": delete(UploadRow).where(UploadRow.at < clock - KEPT_FOR),
        "tries": delete(AttemptRow).where(AttemptRow.at < clock - ATTEMPTS_KEPT),
        "challenges": delete(ChallengeRow).where(ChallengeRow.expires_at < clock),
        "journal": delete(JournalRow).where(JournalRow.at < clock - JOURNAL_KEPT),
        "links": delete(LinkRow).where(LinkRow.expires_at < clock - LINKS_KEPT),
        "sessions": delete(SessionRow).where(SessionRow.expires_at < clock),
    }
    return {name: session.execute(what).rowcount for name, what in over.items()}  # type: ignore[attr-defined]


def orphans(session: Session, there: set[str], clock: datetime) -> list[str]:
    """Of the photos that are there: note those no refit names any more, forget those one names again; which have had their time.

    there: checksums. Returned ones are still noted, until ``swept``.
    """
    named = set(session.scalars(text("select sha256 from photo")))
    lost = there - named
    if lost:
        rows = [{"sha256": one, "since": clock} for one in lost]
        session.execute(insert(OrphanRow).on_conflict_do_nothing(), rows)
    known = {row.sha256: row.since for row in session.scalars(select(OrphanRow))}
    back = [one for one in known if one not in lost]
    if back:
        session.execute(delete(OrphanRow).where(OrphanRow.sha256.in_(back)))
    return sorted(one for one, since in known.items() if one in lost and since <= clock - ORPHANS_KEPT)


def is_named(session: Session, sha256: str) -> bool:
    """Whether any refit names a photo."""
    return bool(session.scalar(text("select exists (select from photo where sha256 = :it)"), {"it": sha256}))


def swept(session: Session, sha256: str) -> None:
    """A photo's files are gone."""
    session.execute(delete(OrphanRow).where(OrphanRow.sha256 == sha256))


def note_copy(
    session: Session, clock: datetime, *, file: str, size: int = 0, photos: int = 0, version: str = "", why: str = ""
) -> None:
    """A backup was made, or could not be (``why``)."""
    session.add(CopyRow(at=clock, file=file, size=size, photos=photos, version=version, why=why[:300], checked_at=None))


def note_checked(session: Session, file: str, clock: datetime) -> None:
    """A backup was restored beside and is what it says."""
    for row in session.scalars(select(CopyRow).where(CopyRow.file == file)):
        row.checked_at = clock


def last_copy(session: Session) -> CopyRow | None:
    """The newest backup that was made, or tried."""
    return session.scalars(select(CopyRow).order_by(CopyRow.pk.desc()).limit(1)).first()
