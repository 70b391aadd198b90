"""A photo that came with a form: read, kept beside the database, and named for the refit."""

from __future__ import annotations

import secrets
from datetime import datetime

from fastapi import Request
from starlette.datastructures import UploadFile

from rovask.core.refit.edits import put
from rovask.core.refit.faults import Fault, RefitFaults
from rovask.core.refit.model import Photo, Refit
from rovask.core.refit.records import Kind
from rovask.formats.photo import Picture, read_photo
from rovask.store import photos
from rovask.web.security import Posted, settings_of


def photo_in(request: Request, posted: Posted, field: str = "photo") -> Picture | None:
    """The photo of a form, kept as a file; None when none was chosen. Raises RefitFaults."""
    upload = posted.form.get(field)
    if not isinstance(upload, UploadFile) or not upload.filename:
        return None
    picture = read_photo(upload.file.read())
    try:
        photos.keep(settings_of(request).state, picture)
    except OSError as error:
        raise RefitFaults(
            [Fault("photo", f"the photo could not be kept ({error.strerror}); the rest can be saved without it.")]
        ) from None
    return picture


def with_photo(refit: Refit, picture: Picture | None, title: str, at: datetime) -> tuple[Refit, str]:
    """The refit that knows the photo, and the photo's id ("" for none)."""
    if picture is None:
        return refit, ""
    photo = Photo(
        id=f"p-{secrets.token_hex(4)}",
        title=title[:120],
        sha256=picture.sha256,
        width=picture.width,
        height=picture.height,
        size=len(picture.large),
        at=at,
    )
    return put(refit, Kind.PHOTO, photo), photo.id
