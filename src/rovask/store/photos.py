"""Photos beside the database: files named by their checksum in ``state/photos``; the refit keeps only what they are."""

from __future__ import annotations

import hashlib
import os
import tempfile
from pathlib import Path

from rovask.formats.photo import Picture
from rovask.store.errors import NotFound


def folder_of(state: Path) -> Path:
    """Where the photos of an installation lie."""
    return state / "photos"


def _path(state: Path, sha256: str, small: bool) -> Path:
    return folder_of(state) / sha256[:2] / f"{sha256}{'.small' if small else ''}.jpg"


def keep(state: Path, picture: Picture) -> list[Path]:
    """Keep a picture; the same one again is the same file. Whole or not at all, also when the disk fills up.

    Returns the files that are new, so that whoever fails later can take them away again (``drop``).
    """
    made: list[Path] = []
    for content, small in ((picture.large, False), (picture.small, True)):
        path = _path(state, picture.sha256, small)
        if path.exists():
            continue
        path.parent.mkdir(parents=True, exist_ok=True)
        handle, name = tempfile.mkstemp(dir=path.parent)
        try:
            with os.fdopen(handle, "wb") as file:
                file.write(content)
                file.flush()
                os.fsync(file.fileno())
            Path(name).replace(path)
        except OSError:
            Path(name).unlink(missing_ok=True)
            drop(made)
            raise
        made.append(path)
    return made


def drop(paths: list[Path]) -> None:
    """Take files away again that ``keep`` made."""
    for path in paths:
        path.unlink(missing_ok=True)


def content(state: Path, sha256: str, small: bool = False) -> bytes:
    """The file of a photo. Raises NotFound when it is gone or no longer what its checksum says."""
    path = _path(state, sha256, small)
    try:
        data = path.read_bytes()
    except OSError:
        raise NotFound("The file of this photo is missing on the server; bring it back from a backup.") from None
    if not small and hashlib.sha256(data).hexdigest() != sha256:
        raise NotFound("The file of this photo is damaged on the server; bring it back from a backup.")
    return data
