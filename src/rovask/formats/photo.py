"""Photos: any picture in, a plain JPEG of bounded size out, without the place where it was taken or anything else hidden."""

from __future__ import annotations

import hashlib
import io
import warnings
from dataclasses import dataclass

from PIL import Image, ImageOps, UnidentifiedImageError

from rovask.core.plain.faults import Fault, RefitFaults

MOST_BYTES = 25 * 1024 * 1024
MOST_PIXELS = 80_000_000
LONGEST_SIDE, SMALL_SIDE = 2000, 480


@dataclass(frozen=True, slots=True)
class Picture:
    """A photo re-encoded: the JPEG to keep, a small one for lists, and the checksum of the first."""

    large: bytes
    small: bytes
    sha256: str
    width: int
    height: int


def read_photo(content: bytes) -> Picture:
    """Re-encode a photo, but for one that was written here and holds nothing besides its picture.

    Raises RefitFaults, saying what to do, when it is too large, broken or no picture.
    """
    if len(content) > MOST_BYTES:
        raise _refused(
            f"the photo has {len(content) >> 20} MB; at most {MOST_BYTES >> 20} MB are taken. Send a smaller copy"
        )
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(content)) as opened:
                if opened.width * opened.height > MOST_PIXELS:
                    raise _refused(
                        f"the photo has more than {MOST_PIXELS // 10**6} million points; send a smaller copy"
                    )
                plain = ImageOps.exif_transpose(opened).convert("RGB")
    except (UnidentifiedImageError, Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise _refused("the file is not a picture that can be read; choose a JPEG, PNG or WebP") from None
    except (OSError, ValueError, SyntaxError, TypeError):
        raise _refused("the picture is broken; take it again or choose another") from None
    fits = max(plain.size) <= LONGEST_SIDE
    plain.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
    large = content if fits and is_bare(content) else _jpeg(plain)
    size = plain.size
    plain.thumbnail((SMALL_SIDE, SMALL_SIDE))
    return Picture(large, _jpeg(plain), hashlib.sha256(large).hexdigest(), *size)


def _refused(why: str) -> RefitFaults:
    return RefitFaults([Fault("photo", f"{why}. Nothing else you typed is lost.")])


def _jpeg(image: Image.Image) -> bytes:
    out = io.BytesIO()
    Image.frombytes("RGB", image.size, image.tobytes()).save(out, "JPEG", quality=85, optimize=True)
    return out.getvalue()


def is_bare(content: bytes) -> bool:
    """Whether this is a JPEG with nothing in it but the picture: no place, no maker's notes, nothing behind its end.

    Walks the segments (ITU-T T.81, annex B): only the JFIF header, tables, one frame and its scans may occur.
    """
    if content[:2] != b"\xff\xd8" or content[-2:] != b"\xff\xd9":
        return False
    at = 2
    while at + 4 <= len(content):
        if content[at] != 0xFF:
            return False
        mark, size = content[at + 1], int.from_bytes(content[at + 2 : at + 4], "big")
        if mark not in _BARE_MARKS or (mark == 0xE0 and content[at + 4 : at + 9] != b"JFIF\x00") or size < 2:
            return False
        at += 2 + size
        if mark == _SCAN:
            at = _end_of_scan(content, at)
            if content[at : at + 2] == b"\xff\xd9":
                return at + 2 == len(content)
    return False


_SCAN = 0xDA
# APP0 (JFIF), quantisation and Huffman tables, baseline and progressive frames, restart interval, start of scan
_BARE_MARKS = frozenset({0xE0, 0xDB, 0xC4, 0xC0, 0xC2, 0xDD, _SCAN})


def _end_of_scan(content: bytes, at: int) -> int:
    """Where the next marker stands after a scan's coded data; in it FF is followed by 00 or is a restart."""
    while (at := content.find(b"\xff", at)) >= 0 and at + 1 < len(content):
        if content[at + 1] == 0 or 0xD0 <= content[at + 1] <= 0xD7:
            at += 2
            continue
        return at
    return len(content)
