"""Photos: any picture in, a plain JPEG of bounded size out, without the place where it was taken or anything else hidden."""

from __future__ import annotations

import hashlib
import io
import warnings
from dataclasses import dataclass

from PIL import Image, ImageOps, UnidentifiedImageError

from rovask.core.refit.faults import Fault, RefitFaults

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
    """Re-encode a photo. Raises RefitFaults, saying what to do, when it is too large, broken or no picture."""
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
    plain.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
    large = _jpeg(plain)
    size = plain.size
    plain.thumbnail((SMALL_SIDE, SMALL_SIDE))
    return Picture(large, _jpeg(plain), hashlib.sha256(large).hexdigest(), *size)


def from_kept(large: bytes) -> Picture:
    """A photo that was kept before, as it is, with a small one made anew. Raises RefitFaults if it is no picture."""
    seen = read_photo(large)
    return Picture(large, seen.small, hashlib.sha256(large).hexdigest(), seen.width, seen.height)


def _refused(why: str) -> RefitFaults:
    return RefitFaults([Fault("photo", f"{why}. Nothing else you typed is lost.")])


def _jpeg(image: Image.Image) -> bytes:
    out = io.BytesIO()
    Image.frombytes("RGB", image.size, image.tobytes()).save(out, "JPEG", quality=85, optimize=True)
    return out.getvalue()
