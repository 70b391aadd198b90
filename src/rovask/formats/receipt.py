"""Papers that come with a bill: a photo of it, or a PDF, of which each page becomes a picture.

A PDF is kept as what one sees on it: the file itself may hold scripts, hidden text and whatever else nobody asked for.
"""

from __future__ import annotations

import io

import pypdfium2 as pdfium

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.formats.photo import LONGEST_SIDE, MOST_BYTES, Picture, read_photo

MOST_PAGES = 8


def read_receipt(content: bytes) -> tuple[Picture, ...]:
    """The pictures of a paper: one of a photo, one a page of a PDF. Raises RefitFaults, saying what to do."""
    if not content.lstrip()[:5].startswith(b"%PDF-"):
        return (read_photo(content),)
    if len(content) > MOST_BYTES:
        raise _refused(f"the PDF has {len(content) >> 20} MB; at most {MOST_BYTES >> 20} MB are taken")
    try:
        document = pdfium.PdfDocument(content)
    except pdfium.PdfiumError:
        raise _refused("the PDF is broken or locked with a password; print it to a new one, or take a photo") from None
    try:
        if len(document) > MOST_PAGES:
            raise _refused(f"the PDF has {len(document)} pages; at most {MOST_PAGES} are kept. Cut it down to the bill")
        if not len(document):
            raise _refused("the PDF has no page")
        return tuple(read_photo(_drawn(page)) for page in document)
    except pdfium.PdfiumError:
        raise _refused("a page of the PDF is broken; print it to a new one, or take a photo") from None
    finally:
        document.close()


def _drawn(page: pdfium.PdfPage) -> bytes:
    """A page as PNG, its longer side as long as photos are kept."""
    scale = min(LONGEST_SIDE / max(*page.get_size(), 1.0), 6.0)
    out = io.BytesIO()
    page.render(scale=scale).to_pil().convert("RGB").save(out, "PNG")
    return out.getvalue()


def _refused(why: str) -> RefitFaults:
    return RefitFaults([Fault("photo", f"{why}. Nothing else you typed is lost.")])
