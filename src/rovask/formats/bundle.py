"""A refit with its photos in one zip: ``refit.json``, ``photos/<checksum>.jpg`` and ``log.csv``; the first two are taken in again.

It is read in a process of its own (apart.py), one file at a time, never more of any, nor of all together, than a refit can
have, whatever the zip says of itself.
"""

from __future__ import annotations

import io
import shutil
import struct
import tempfile
import zipfile
import zlib
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from typing import IO

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.refit.model import Photo
from rovask.core.refit.whole import Whole
from rovask.formats.apart import apart
from rovask.formats.photo import MOST_BYTES as MOST_PHOTO_BYTES
from rovask.formats.photo import Picture, read_photo
from rovask.formats.refit_file import MOST_BYTES, read_refit, write_refit

REFIT, FOLDER, LOG = "refit.json", "photos/", "log.csv"
MOST_UNPACKED = 400 * 1024 * 1024
MOST_FILES = 6000
_EPOCH = (1980, 1, 1, 0, 0, 0)  # the same refit gives the same bytes
_BROKEN = (
    zipfile.BadZipFile, zlib.error, struct.error, NotImplementedError, RuntimeError, EOFError, OSError, ValueError,
    LookupError, TypeError, AttributeError, OverflowError,
)  # fmt: skip


def is_bundle(start: bytes) -> bool:
    """Whether a file that begins so is a zip."""
    return start[:2] == b"PK"


def write_bundle(whole: Whole, photos: Mapping[str, bytes], log: bytes = b"") -> bytes:
    """The refit and its photos by checksum; a photo whose file is missing is left out and still named in the refit.

    log: its Log as a CSV file, to be read; bringing a bundle in passes over it.
    """
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as bundle:
        bundle.writestr(zipfile.ZipInfo(REFIT, _EPOCH), write_refit(whole), zipfile.ZIP_DEFLATED)
        for sha256 in sorted({photo.sha256 for photo in whole.of(Photo)} & photos.keys()):
            bundle.writestr(zipfile.ZipInfo(f"{FOLDER}{sha256}.jpg", _EPOCH), photos[sha256])
        if log:
            bundle.writestr(zipfile.ZipInfo(LOG, _EPOCH), log, zipfile.ZIP_DEFLATED)
    return out.getvalue()


class Bundle:
    """A zip that is open: the refit in it, and its photos one by one."""

    def __init__(self, path: str) -> None:
        self._path = path
        self._left = MOST_UNPACKED
        self._names = apart(names_in, path, path="")
        if len(self._names) > MOST_FILES:
            raise RefitFaults([Fault("", f"holds {len(self._names)} files; a refit has at most {MOST_FILES}")])
        if REFIT not in self._names:
            raise RefitFaults([Fault("", f"holds no {REFIT}, so it is not a refit with its photos")])
        self.whole = read_refit(apart(member, path, REFIT, MOST_BYTES, path=REFIT))

    def photos(self) -> Iterator[tuple[str, Picture]]:
        """Each photo the refit names and the zip holds: the checksum it is named by, and the picture as it is kept.

        Pictures are re-encoded like any other that comes in; one that came from here already stays as it is. Raises
        RefitFaults for what is no picture.
        """
        for sha256 in sorted({photo.sha256 for photo in self.whole.of(Photo)}):
            name = f"{FOLDER}{sha256}.jpg"
            if name in self._names:
                picture, size = apart(picture_in, self._path, name, path=name)
                self._left -= size
                if self._left < 0:
                    raise RefitFaults([Fault("", f"unpacks to more than {MOST_UNPACKED >> 20} MB")])
                yield sha256, picture


@contextmanager
def opened(file: IO[bytes]) -> Iterator[Bundle]:
    """A bundle to read from. Raises RefitFaults in one sentence for a zip that is damaged anywhere."""
    with tempfile.NamedTemporaryFile(prefix="rovask-", suffix=".zip") as copy:
        shutil.copyfileobj(file, copy)
        copy.flush()
        yield Bundle(copy.name)


def names_in(path: str) -> frozenset[str]:
    """What lies in a zip. Raises RefitFaults for one that is damaged."""
    with _told_as_broken(), zipfile.ZipFile(path) as archive:
        return frozenset(item.filename for item in archive.infolist())


def member(path: str, name: str, most: int) -> bytes:
    """One file of a zip, never more than ``most`` bytes of it, whatever its header says. Raises RefitFaults."""
    with _told_as_broken(), zipfile.ZipFile(path) as archive, archive.open(name) as file:
        data = file.read(most + 1)
    if len(data) > most:
        raise RefitFaults([Fault(name, f"is larger than {most >> 20} MB")])
    return data


def picture_in(path: str, name: str) -> tuple[Picture, int]:
    """One picture of a zip as it is kept, and the bytes it had there. Raises RefitFaults, naming it."""
    data = member(path, name, MOST_PHOTO_BYTES)
    try:
        return read_photo(data), len(data)
    except RefitFaults as error:
        raise RefitFaults([Fault(name, fault.message) for fault in error.faults]) from None


@contextmanager
def _told_as_broken() -> Iterator[None]:
    try:
        yield
    except RefitFaults:
        raise
    except _BROKEN as error:
        why = " ".join(str(error).split())[:80]
        raise RefitFaults([Fault("", f"is a broken zip ({why}); fetch it again")]) from None
