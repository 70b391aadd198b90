"""How much of photos and papers is kept, by refit and by skipper, and sent by a link; and how much may be."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import func, select, text, update
from sqlalchemy.orm import Session

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.store.account_tables import SecretRow
from rovask.store.upload_tables import UploadRow

MEGABYTE = 1 << 20
NEAR = 0.8  # of what may be held, from which on it is told
MOST_WAITING_MB = 60  # of files of a refit that are being looked over


@dataclass(frozen=True, slots=True)
class Room:
    """So many bytes of so many that may be held."""

    used: int
    most: int

    @property
    def near(self) -> bool:
        """Whether it is as good as full."""
        return self.used > self.most * NEAR

    @property
    def words(self) -> str:
        """How much of how much.

        >>> Room(1_700 << 20, 2_000 << 20).words, Room(1, 1 << 20).words
        ('1700 of 2000 MB', '1 of 1 MB')
        """
        return f"{-(-self.used // MEGABYTE)} of {self.most // MEGABYTE} MB"


def of_refit(session: Session, pk: int, most_mb: int) -> Room:
    """What a refit holds."""
    used = session.scalar(text("select coalesce(sum(size), 0) from photo where refit_id = :pk"), {"pk": pk})
    return Room(int(used or 0), most_mb * MEGABYTE)


def of_account(session: Session, account: int, most_mb: int) -> Room:
    """What all refits hold that somebody is a skipper of."""
    query = (
        "select coalesce(sum(size), 0) from photo join member on member.refit_id = photo.refit_id "
        "where member.account_pk = :account and member.role = 'skipper'"
    )
    return Room(int(session.scalar(text(query), {"account": account}) or 0), most_mb * MEGABYTE)


def check(room: Room, more: int, whose: str) -> None:
    """Raises RefitFaults for more than there is room for."""
    if room.used + more > room.most:
        told = f"there is no room for it: {whose} hold {room.words} of photos and papers. Take some away, or save the rest without it"
        raise RefitFaults([Fault("photo", told)])


def sent_by(session: Session, secret: int, more: int, most_mb: int) -> None:
    """Count what a link sends. Raises RefitFaults for more than it may; that is not counted."""
    used = session.scalars(select(SecretRow.sent_bytes).where(SecretRow.pk == secret).with_for_update()).one()
    if used + more > most_mb * MEGABYTE:
        told = f"this address has sent {Room(used, most_mb * MEGABYTE).words}; send the rest without a photo, and ask the boat for a new address"
        raise RefitFaults([Fault("photo", told)])
    session.execute(update(SecretRow).where(SecretRow.pk == secret).values(sent_bytes=used + more))


def link_room(session: Session, secret: int, most_mb: int) -> Room:
    """What a link has sent."""
    used = session.scalars(select(SecretRow.sent_bytes).where(SecretRow.pk == secret)).first()
    return Room(used or 0, most_mb * MEGABYTE)


def waiting(session: Session, pk: int, more: int) -> None:
    """Raises RefitFaults when more files of a refit wait to be looked over than there is room for."""
    used = session.scalar(
        select(func.coalesce(func.sum(func.length(UploadRow.content)), 0)).where(UploadRow.refit_id == pk)
    )
    if (used or 0) + more > MOST_WAITING_MB * MEGABYTE:
        raise RefitFaults(
            [
                Fault(
                    "file", "so many files wait to be brought in that there is no room for another; they go after a day"
                )
            ]
        )
