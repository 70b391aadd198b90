"""Papers of bills: photos and PDFs."""

from __future__ import annotations

import io

import pypdfium2 as pdfium
import pytest
from PIL import Image

from rovask.core.plain.faults import RefitFaults
from rovask.formats.receipt import MOST_PAGES, read_receipt


def pdf(pages: int, width: float = 595, height: float = 842) -> bytes:
    """A PDF of empty pages, as pdfium writes it."""
    document = pdfium.PdfDocument.new()
    for _ in range(pages):
        document.new_page(width, height)
    out = io.BytesIO()
    document.save(out)
    return out.getvalue()


def test_each_page_of_a_pdf_becomes_a_picture_as_large_as_photos_are_kept() -> None:
    pictures = read_receipt(pdf(2))
    assert [(one.width, one.height) for one in pictures] == [(1414, 2000)] * 2  # A4 keeps its shape
    with Image.open(io.BytesIO(pictures[0].large)) as seen:
        assert (seen.format, seen.getpixel((700, 1000))) == ("JPEG", (255, 255, 255))


def test_a_photo_is_a_photo() -> None:
    out = io.BytesIO()
    Image.new("RGB", (40, 30), "red").save(out, "PNG")
    (one,) = read_receipt(out.getvalue())
    assert (one.width, one.height) == (40, 30)


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"%PDF-1.7 and then nothing", "broken or locked"),
        (pdf(MOST_PAGES + 1), f"at most {MOST_PAGES} are kept"),
        (b"what,amount\n", "not a picture"),
    ],
)
def test_what_is_no_paper_is_refused_with_what_to_do(content: bytes, words: str) -> None:
    with pytest.raises(RefitFaults, match=words):
        read_receipt(content)
