"""What a worker does by the clock: backups, photos nobody names, whatever has had its time."""

from __future__ import annotations

import logging

from rovask.desk.command import Actor
from rovask.desk.commands.house import ExpireOld, NoteOrphans, NoteSwept
from rovask.desk.copies import back_up_when_due
from rovask.desk.door import Desk
from rovask.settings import Settings
from rovask.store import house
from rovask.store.backup.archive import BackupRefused

log = logging.getLogger("rovask.work")
ROVASK = Actor(None)


def keep_house(settings: Settings) -> None:
    """Make a backup when one is due; take away what has had its time. What fails is logged, and tried at the next turn."""
    desk = Desk(settings)
    desk.run(ROVASK, ExpireOld())
    try:
        made = back_up_when_due(desk)
        if made is not None:
            log.info("backup %s, %s bytes", made.path.name, made.size)
    except BackupRefused as error:
        log.error("no backup: %s", error)
    try:
        sweep_photos(desk)
    except OSError as error:
        log.error("photos could not be looked through: %s", error.strerror)


def sweep_photos(desk: Desk) -> int:
    """Take away photos that no refit has named for thirty days; returns how many went."""
    gone = 0
    for sha256 in desk.run(ROVASK, NoteOrphans(frozenset(desk.photos.checksums()))):
        with desk.looking() as session:
            if house.is_named(session, sha256):
                continue
        desk.photos.drop(sha256)
        desk.run(ROVASK, NoteSwept(sha256))
        gone += 1
    return gone
