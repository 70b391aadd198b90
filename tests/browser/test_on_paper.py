"""What is printed: how many sheets, whole, with the boat's name, boxes to tick, and nothing to press."""

from __future__ import annotations

import io

import pypdfium2
import pytest
from playwright.sync_api import Page, expect

# address, the most sheets, words that must stand on them
SHEETS = (
    ("slip", 1, ("Keel", "Mira Oakes", "no gas")),  # with the rows of people, who were cut from their dates
    ("purse/bill", 1, ("Will be", "in all", "Thu 11 Jun")),
    ("morning", 1, ("Mira Oakes", "Deliveries", "Calls to make")),
    ("jobs", 2, ("Rudder off, lower bearing", "Make ready and launch")),
    ("jobs/keel", 1, ("Taper the skin 12:1", "Ruy Sabran")),
    ("launch?all=yes", 4, ("What holds her", "In the slings", "A week")),
    ("day/2026-05-12", 1, ("Planned, and done",)),
)
PRESSED = ("Print", "Close the day", "Undo", "Begin", "It is so", "edit", "SVG", "Enter the yard")


@pytest.mark.parametrize(("address_", "most", "words"), SHEETS, ids=[row[0] for row in SHEETS])
def test_a_sheet_of_paper(
    mira: Page, address: str, demo_pk: int, address_: str, most: int, words: tuple[str, ...]
) -> None:
    mira.goto(f"{address}/r/{demo_pk}/{address_}")
    expect(mira.get_by_role("heading", level=1).first).to_be_attached()
    with pypdfium2.PdfDocument(io.BytesIO(mira.pdf(prefer_css_page_size=True))) as paper:
        sheets = [page.get_textpage().get_text_range() for page in paper]
        wide = [page.get_width() > page.get_height() for page in paper]
    assert len(sheets) <= most
    assert set(wide) == {address_ == "slip"}
    assert "Sandling" in sheets[0]
    assert "launch Thu 11 Jun" in sheets[0]
    whole = " ".join(" ".join(sheets).split())  # long names go on in the next line
    assert [word for word in words if word not in whole] == []
    assert [word for word in PRESSED if word in whole.split()] == []
    assert min(len(sheet) for sheet in sheets) > 200  # none is all but empty
    if address_ in ("morning", "jobs", "launch?all=yes"):
        assert mira.locator("main .pen").count() > 3
