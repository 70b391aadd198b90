"""Backups, made and noted: by a command, or by the clock."""

from __future__ import annotations

from contextlib import suppress
from datetime import timedelta
from pathlib import Path

from sqlalchemy.exc import SQLAlchemyError

from rovask import __version__
from rovask.desk.command import Actor
from rovask.desk.commands.house import NoteChecked, NoteCopy
from rovask.desk.door import Desk
from rovask.store import house
from rovask.store.backup.archive import BackupRefused, Made, make_backup, thinned
from rovask.store.backup.restore import checked

ROVASK = Actor(None)
TRY_AGAIN = timedelta(hours=1)  # after one that failed


def back_up(desk: Desk, folder: Path | None = None, keep: int | None = None) -> Made:
    """Make a backup, keep the newest ones, and note it; one that fails is noted too. Raises BackupRefused."""
    settings = desk.settings
    where = folder or settings.copies_folder
    try:
        made = make_backup(desk.url, desk.photos, where, __version__, settings.clock())
    except BackupRefused as error:
        with suppress(SQLAlchemyError):  # it may be the database that is away
            desk.run(ROVASK, NoteCopy("", version=__version__, why=str(error)))
        raise
    many = len(made.manifest.photos) // 2
    desk.run(ROVASK, NoteCopy(made.path.name, made.size, many, __version__))
    thinned(where, keep if keep is not None else settings.copies_kept)
    return made


def back_up_when_due(desk: Desk) -> Made | None:
    """Make a backup if the last one is as old as the settings say; None when it is not. Raises BackupRefused."""
    every = timedelta(hours=desk.settings.copy_hours)
    if not every:
        return None
    with desk.looking() as session:
        last = house.last_copy(session)
        wait = TRY_AGAIN if last is not None and last.why else every
        due = last is None or desk.settings.clock() - last.at >= min(wait, every)
    return back_up(desk) if due else None


def check_backup(desk: Desk, path: Path) -> list[str]:
    """Restore a backup beside and compare it; what differs, in words. Noted when nothing does. Raises BackupRefused."""
    wrong = checked(path, desk.url)
    if not wrong:
        desk.run(ROVASK, NoteChecked(path.name))
    return wrong
