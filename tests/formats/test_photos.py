"""Photos: any picture in, a bounded JPEG without its place out; what is no picture is refused; bundles come back whole."""

from __future__ import annotations

import hashlib
import io
import struct
import zipfile
import zlib
from pathlib import Path
from random import Random

import pytest
from PIL import Image

from rovask.core.plain.faults import RefitFaults
from rovask.core.refit.model import Photo
from rovask.core.refit.whole import Whole
from rovask.formats import photo as photo_format
from rovask.formats.bundle import MOST_FILES, is_bundle, opened, write_bundle
from rovask.formats.photo import LONGEST_SIDE, MOST_BYTES, is_bare, read_photo
from rovask.store.errors import NotFound
from rovask.store.photos import photo_store
from tests.builders import HAUL, refit, task


def picture(kind: str = "JPEG", size: tuple[int, int] = (600, 400), **more: object) -> bytes:
    out = io.BytesIO()
    Image.effect_noise(size, 60).convert("RGB").save(out, kind, **more)
    return out.getvalue()


def with_place() -> bytes:
    """A photo turned on its side, with the place where it was taken."""
    exif = Image.Exif()
    exif[0x0112] = 6
    exif[0x010F] = "Somebody's phone"
    gps = exif.get_ifd(0x8825)
    gps[1], gps[2], gps[3], gps[4] = "N", (38.0, 40.0, 0.0), "W", (9.0, 12.0, 0.0)
    return picture(exif=exif)


def test_a_photo_loses_its_place_and_keeps_its_way_up() -> None:
    found = read_photo(with_place())
    kept = Image.open(io.BytesIO(found.large))
    assert dict(kept.getexif()) == {}
    assert b"Somebody" not in found.large
    assert (found.width, found.height) == (400, 600)


@pytest.mark.parametrize("kind", ["PNG", "WEBP", "GIF", "BMP", "TIFF"])
def test_other_pictures_become_jpeg_of_bounded_size(kind: str) -> None:
    found = read_photo(picture(kind, (2600, 1300)))
    assert Image.open(io.BytesIO(found.large)).format == "JPEG"
    assert (found.width, found.height) == (LONGEST_SIDE, LONGEST_SIDE // 2)
    assert max(Image.open(io.BytesIO(found.small)).size) == 480


def bomb() -> bytes:
    """A PNG of a few kilobytes that says it has 30 000 by 30 000 points."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", 30000, 30000, 8, 0, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 3000)) + chunk(b"IEND", b"")
    )


@pytest.mark.parametrize(
    ("content", "told"),
    [
        (b"", "not a picture"),
        (b"MZ this is a program", "not a picture"),
        (b"<svg xmlns='http://www.w3.org/2000/svg' onload='x'/>", "not a picture"),
        (picture()[:4000], "broken"),
        (bomb(), "million points|not a picture"),
        (b"\xff\xd8\xff" + b"0" * (MOST_BYTES + 1), "at most 25 MB"),
    ],
)
def test_what_is_no_photo_is_refused_with_what_to_do(content: bytes, told: str) -> None:
    with pytest.raises(RefitFaults, match=told) as caught:
        read_photo(content)
    assert [fault.path for fault in caught.value.faults] == ["photo"]


def test_a_photo_kept_comes_back_and_a_damaged_one_is_told(tmp_path: Path) -> None:
    found = read_photo(picture())
    photos = photo_store(tmp_path)
    photos.keep(found)
    photos.keep(found)
    assert photos.content(found.sha256) == found.large
    assert photos.content(found.sha256, small=True) == found.small
    file = next(path for path in tmp_path.rglob("*.jpg") if "small" not in path.name)
    file.write_bytes(b"rot")
    with pytest.raises(NotFound, match="damaged"):
        photos.content(found.sha256)
    with pytest.raises(NotFound, match="missing"):
        photos.content("0" * 64)


def bundled(content: bytes | None = None) -> tuple[Whole, dict[str, bytes]]:
    data = content or read_photo(picture()).large
    sha256 = hashlib.sha256(data).hexdigest()
    photo = Photo(id="p", sha256=sha256, width=600, height=400, size=len(data), at=HAUL)
    return Whole(refit(task("a")), {"photo": (photo,)}), {sha256: data}


def read(content: bytes) -> tuple[Whole, dict[str, bytes]]:
    with opened(io.BytesIO(content)) as bundle:
        return bundle.whole, {sha256: found.large for sha256, found in bundle.photos()}


def test_a_refit_with_its_photos_comes_back_the_same() -> None:
    one, files = bundled()
    content = write_bundle(one, files)
    assert is_bundle(content)
    assert read(content) == (one, files)
    assert write_bundle(*read(content)) == content


@pytest.mark.parametrize("sent", [with_place(), picture("PNG"), picture() + b"more behind the end"])
def test_a_photo_in_a_bundle_is_re_encoded_like_any_other(sent: bytes) -> None:
    one, files = bundled(sent)
    _, found = read(write_bundle(one, files))
    assert list(found) == list(files)  # told by the checksum it came under
    kept = next(iter(found.values()))
    assert kept != sent
    assert is_bare(kept)
    assert dict(Image.open(io.BytesIO(kept)).getexif()) == {}


def test_what_is_bare_is_only_what_holds_nothing_but_its_picture() -> None:
    plain = read_photo(picture()).large
    assert is_bare(plain)
    assert read_photo(plain).large == plain  # so going out and coming in again costs no quality
    assert not is_bare(plain + b"x")
    assert not is_bare(with_place())
    assert not is_bare(picture("PNG"))
    assert not is_bare(plain[:2] + b"\xff\xfe\x00\x06note" + plain[2:])  # a comment
    assert not is_bare(b"")


def test_a_bundle_that_was_tampered_with_or_is_none_is_refused() -> None:
    one, files = bundled()
    wrong = write_bundle(one, dict.fromkeys(files, b"no picture"))
    with pytest.raises(RefitFaults, match="not a picture"):
        read(wrong)
    empty = io.BytesIO()
    with zipfile.ZipFile(empty, "w") as bundle:
        bundle.writestr("holiday.txt", "x")
    with pytest.raises(RefitFaults, match=r"no refit\.json"):
        read(empty.getvalue())
    assert photo_format.MOST_PIXELS < 30000 * 30000


def test_a_zip_that_is_damaged_anywhere_is_one_sentence() -> None:
    one, files = bundled()
    content = write_bundle(one, files)
    random = Random(7)
    refused = 0
    for _ in range(300):
        damaged = bytearray(content)
        for _ in range(random.randint(1, 12)):
            damaged[random.randrange(len(damaged))] = random.randrange(256)
        if random.random() < 0.2:
            damaged = damaged[: random.randrange(4, len(damaged))]
        try:
            read(bytes(damaged))
        except RefitFaults as error:
            refused += 1
            assert all("\n" not in str(fault) for fault in error.faults)
    assert refused > 150  # a flipped bit in a picture's middle may still be a picture


def test_what_unpacks_to_more_than_a_refit_has_is_refused(monkeypatch: pytest.MonkeyPatch) -> None:
    one, files = bundled()
    monkeypatch.setattr("rovask.formats.bundle.MOST_UNPACKED", 1000)
    with pytest.raises(RefitFaults, match="unpacks to more"):
        read(write_bundle(one, files))
    many = io.BytesIO()
    with zipfile.ZipFile(many, "w") as bundle:
        for at in range(MOST_FILES + 1):
            bundle.writestr(f"{at}", "")
    with pytest.raises(RefitFaults, match="at most 6000"):
        read(many.getvalue())
