"""Every reader of files against damaged ones made from good ones, seeded: what it makes of them, or one sentence; never a fault.

Cut short, bits flipped, other encodings, other ends of lines, pieces out of order, and those that once brought a page down.
"""

from __future__ import annotations

import io
import os
import random
import signal
import time
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from zoneinfo import ZoneInfo

import pytest
from PIL import Image

from rovask.core.plain.faults import RefitFaults
from rovask.core.refit.givens.weather import Weather
from rovask.core.refit.model import Refit
from rovask.core.refit.whole import Whole
from rovask.formats.apart import BROKEN, apart
from rovask.formats.bundle import opened, write_bundle
from rovask.formats.photo import read_photo
from rovask.formats.receipt import read_receipt
from rovask.formats.recipe_file import library, read_recipe
from rovask.formats.refit_file import read_refit, write_refit
from rovask.formats.tables import read_table, write_csv, write_xlsx
from rovask.formats.weather_csv import read_weather
from rovask.store.recipes import shipped_text

CASES = sorted((Path(__file__).parent / "damaged").glob("*.bin"))
ZONE, NOW = ZoneInfo("Europe/Lisbon"), datetime(2026, 5, 12, 9, tzinfo=UTC)
HEAD = ["supplier", "number", "ordered", "expected", "part", "quantity"]
ROWS: list[list[str | int | float]] = [
    ["Oxna, Ltd.", f"N{n}", "2026-05-01", "2026-05-09", f"Tin “{n}”", n / 2] for n in range(40)
]


def picture(form: str) -> bytes:
    out = io.BytesIO()
    Image.effect_noise((160, 120), 60).convert("RGB").save(out, form)
    return out.getvalue()


def weather(content: bytes) -> object:
    return read_weather(content, ZONE, NOW, "a file", Weather())


def zipped(content: bytes) -> object:
    with opened(io.BytesIO(content)) as bundle:
        return list(bundle.photos())


def by_itself(read: Callable[[bytes], object]) -> Callable[[bytes], object]:
    return lambda content: apart(read, content)


READERS: dict[str, Callable[[bytes], object]] = {
    "csv": by_itself(read_table),
    "xlsx": by_itself(read_table),
    "weather": weather,
    "jpeg": by_itself(read_photo),
    "png": by_itself(read_photo),
    "webp": by_itself(read_photo),
    "pdf": by_itself(read_receipt),
    "refit": read_refit,
    "zip": zipped,
    "recipe": lambda content: read_recipe(content, library().common),
}


def good_ones(demo: Refit) -> dict[str, bytes]:
    pdf = io.BytesIO()
    Image.effect_noise((80, 60), 60).convert("RGB").save(pdf, "PDF")
    hours = [f"2026-05-{10 + n // 24}T{n % 24:02d}:00,12.5,60,0.0,3" for n in range(48)]
    return {
        "csv": write_csv(HEAD, ROWS),
        "xlsx": write_xlsx("Orders", HEAD, ROWS),
        "weather": "\n".join(["time,temperature_c,humidity_pct,rain_mm,wind_ms", *hours]).encode(),
        "jpeg": picture("JPEG"),
        "png": picture("PNG"),
        "webp": picture("WEBP"),
        "pdf": pdf.getvalue(),
        "refit": write_refit(Whole(demo)),
        "zip": write_bundle(Whole(demo), {}),
        "recipe": shipped_text("winches").encode(),
    }


def damaged(content: bytes, dice: random.Random) -> bytes:
    """A file with something wrong in it."""
    data = bytearray(content)
    match dice.randrange(8):
        case 0:
            return bytes(data[: dice.randrange(len(data))])
        case 1:
            for _ in range(dice.choice((1, 3, 20))):
                data[dice.randrange(len(data))] ^= 1 << dice.randrange(8)
        case 2:
            at = dice.randrange(len(data))
            data[at : at + dice.randrange(1, 60)] = b""
        case 3:
            at = dice.randrange(len(data))
            data[at:at] = dice.randbytes(dice.randrange(1, 40))
        case 4:
            return content.decode("utf-8", errors="replace").encode(
                dice.choice(("utf-16", "utf-16-be", "utf-32", "latin-1")), errors="replace"
            )[: dice.choice((None, 273))]
        case 5:
            return content.replace(b"\r\n", b"\n").replace(b"\n", dice.choice((b"\r", b"\r\r\n", b"\x0b", b"\x00")))
        case 6:
            at = dice.randrange(len(data))
            return bytes(data[at:] + data[:at])
        case _:
            for _ in range(3):
                data[dice.randrange(len(data))] = dice.choice((0, 255, 34, 45, 57))
    return bytes(data)


@pytest.mark.parametrize("form", READERS)
def test_a_damaged_file_is_a_sentence(form: str, demo: Refit, request: pytest.FixtureRequest) -> None:
    many = 1000 if request.config.getoption("--long") else 60 if form in ("refit", "zip") else 200
    content, dice, refused = good_ones(demo)[form], random.Random(f"damaged {form}"), 0
    READERS[form](content)  # the good one is read
    for number in range(many):
        hurt = damaged(content, dice)
        try:
            READERS[form](hurt)
        except RefitFaults as error:
            refused += 1
            assert all(fault.message for fault in error.faults), number
    assert refused > many / 10


@pytest.mark.parametrize("case", CASES, ids=lambda path: path.stem)
def test_files_that_once_brought_a_page_down(case: Path) -> None:
    """XLSX with a broken deflate, style or zip version; UTF-16 cut short; a forecast of bare CR."""
    read = weather if case.stem.startswith("wcsv") else READERS[case.stem.partition("-")[0]]
    try:
        read(case.read_bytes())
    except RefitFaults as error:
        assert error.faults[0].message


def ends(_: bytes) -> None:
    """A library that takes its process with it."""
    import os

    os.abort()


def takes_all(_: bytes) -> int:
    return len(bytearray(4 << 30))


def raises(_: bytes) -> None:
    raise ZeroDivisionError("of all things")


@pytest.mark.parametrize("read", [ends, takes_all, raises])
def test_what_ends_the_reader_is_told_and_the_next_file_is_read(read: Callable[[bytes], object]) -> None:
    with pytest.raises(RefitFaults) as told:
        apart(read, b"", path="photo")
    assert (told.value.faults[0].path, told.value.faults[0].message) == ("photo", BROKEN)
    assert apart(read_photo, picture("PNG")).width == 160


def test_a_fault_of_the_reader_comes_back_as_it_said_it() -> None:
    with pytest.raises(RefitFaults, match="at most 25 MB"):
        apart(read_photo, bytes(26 << 20))
    with pytest.raises(RefitFaults, match="nothing in it"):
        apart(read_table, b"\n\n")


def test_a_reader_that_was_killed_between_two_files_is_not_missed() -> None:
    for _ in range(2):
        os.kill(apart(os.getpid), signal.SIGKILL)
        time.sleep(0.3)  # until the pool has noticed
        assert apart(read_photo, picture("PNG")).width == 160
