"""A refit that comes in as a file, with its photos or without: whole, or nothing of it; files of photos that then belong to no refit are swept up later."""

from __future__ import annotations

from typing import IO

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.refit.model import Photo
from rovask.core.refit.register import kind_of
from rovask.core.refit.whole import Whole
from rovask.desk.command import Actor
from rovask.desk.door import Desk
from rovask.formats.bundle import Bundle, is_bundle, opened
from rovask.formats.photo import Picture
from rovask.formats.refit_file import MOST_BYTES, read_refit
from rovask.store import quotas
from rovask.store.quotas import MEGABYTE, Room
from rovask.store.refits import Kept


def imported(desk: Desk, actor: Actor, file: IO[bytes], name: str) -> Kept:
    """The refit in a file, kept with whoever brings it as its skipper. Raises RefitFaults; then nothing of it is left."""
    start = file.read(4)
    file.seek(0)
    told = f"imported {name}"
    if not is_bundle(start):
        return desk.add(actor, read_refit(file.read(MOST_BYTES + 1)), told)
    with opened(file) as bundle:
        _has_room(desk, actor, bundle)
        whole = _with_photos(desk, bundle)
    return desk.add(actor, whole, told)


def _has_room(desk: Desk, actor: Actor, bundle: Bundle) -> None:
    """Raises RefitFaults for more photos than a refit, or all of its skipper, may hold, as the file says of itself."""
    more = sum(photo.size for photo in bundle.whole.of(Photo))
    quotas.check(Room(0, desk.settings.refit_mb * MEGABYTE), more, "a refit's pages")
    if actor.account is not None:
        with desk.looking() as session:
            quotas.check(
                quotas.of_account(session, actor.account, desk.settings.account_mb), more, "your refits together"
            )


def _with_photos(desk: Desk, bundle: Bundle) -> Whole:
    """The refit with each photo under the checksum it has here; the files are kept one by one."""
    known: dict[str, Picture] = {}
    full: OSError | None = None
    for sha256, picture in bundle.photos():
        try:
            desk.photos.keep(picture)
        except OSError as error:
            full = error
            break
        known[sha256] = picture
    if full is not None:
        why = f"its photos could not be kept ({full.strerror}); make room on the server and try again"
        raise RefitFaults([Fault("", why)])
    rows = tuple(_as_kept(photo, known.get(photo.sha256)) for photo in bundle.whole.of(Photo))
    aside = dict(bundle.whole.aside)
    if rows:
        aside[kind_of(Photo).name] = rows
    return Whole(bundle.whole.refit, aside)


def _as_kept(photo: Photo, picture: Picture | None) -> Photo:
    if picture is None:
        return photo
    return photo.model_copy(
        update={"sha256": picture.sha256, "width": picture.width, "height": picture.height, "size": len(picture.large)}
    )
