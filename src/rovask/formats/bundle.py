"""A refit with its photos in one zip: ``refit.json`` and ``photos/<checksum>.jpg``; nothing else is taken out of it."""

from __future__ import annotations

import hashlib
import io
import zipfile
from collections.abc import Mapping

from rovask.core.refit.faults import Fault, RefitFaults
from rovask.core.refit.model import Refit
from rovask.formats.photo import MOST_BYTES as MOST_PHOTO_BYTES
from rovask.formats.refit_file import MOST_BYTES, read_refit, write_refit

REFIT, FOLDER = "refit.json", "photos/"
_EPOCH = (1980, 1, 1, 0, 0, 0)  # the same refit gives the same bytes


def is_bundle(content: bytes) -> bool:
    """Whether a file is a zip."""
    return content[:4] == b"PK\x03\x04"


def write_bundle(refit: Refit, photos: Mapping[str, bytes]) -> bytes:
    """The refit and its photos by checksum; a photo whose file is missing is left out and still named in the refit."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as bundle:
        bundle.writestr(zipfile.ZipInfo(REFIT, _EPOCH), write_refit(refit), zipfile.ZIP_DEFLATED)
        for sha256 in sorted({photo.sha256 for photo in refit.photos} & photos.keys()):
            bundle.writestr(zipfile.ZipInfo(f"{FOLDER}{sha256}.jpg", _EPOCH), photos[sha256])
    return out.getvalue()


def read_bundle(content: bytes) -> tuple[Refit, dict[str, bytes]]:
    """The refit in a zip and its photos by checksum. Raises RefitFaults when either is unsound."""
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as bundle:
            names = {item.filename: item for item in bundle.infolist()}
            if REFIT not in names:
                raise RefitFaults([Fault("", f"holds no {REFIT}, so it is not a refit with its photos")])
            refit = read_refit(_member(bundle, names[REFIT], MOST_BYTES))
            photos, faults = {}, []
            for sha256 in {photo.sha256 for photo in refit.photos}:
                item = names.get(f"{FOLDER}{sha256}.jpg")
                if item is None:
                    continue
                data = _member(bundle, item, MOST_PHOTO_BYTES)
                if hashlib.sha256(data).hexdigest() == sha256:
                    photos[sha256] = data
                else:
                    faults.append(Fault(item.filename, "is not the photo its name says; it was changed on the way"))
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, OSError) as error:
        raise RefitFaults([Fault("", f"is a broken zip ({error}); fetch it again")]) from None
    if faults:
        raise RefitFaults(faults)
    return refit, photos


def _member(bundle: zipfile.ZipFile, item: zipfile.ZipInfo, most: int) -> bytes:
    """One file of a zip, never more than ``most`` bytes of it, whatever its header says."""
    with bundle.open(item) as file:
        data = file.read(most + 1)
    if len(data) > most:
        raise RefitFaults([Fault(item.filename, f"is larger than {most >> 20} MB")])
    return data
