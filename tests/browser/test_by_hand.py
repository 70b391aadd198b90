"""What hands meet, in a real browser: a template as it is printed, and a nut that doesn't come, on a phone in few taps."""

from __future__ import annotations

import re

from playwright.sync_api import Browser, Page, expect

from rovask.settings import Settings
from tests.browser.conftest import aboard

MM = 96 / 25.4  # CSS pixels a millimetre: a CSS inch is 96 of them (CSS Values 4, 6.2)


def test_a_printed_template_measures_what_was_typed(mira: Page, address: str, demo_pk: int) -> None:
    """Laid out for print and measured: ruler 150 mm, plate 176 x 236 mm, hole 44 mm, to a tenth; the PDF's pages are A4, rounded to whole pixels by the browser."""
    mira.goto(f"{address}/r/{demo_pk}/hands/shape/sh1/template")
    mira.emulate_media(media="print")
    size = "one => { const box = one.getBoundingClientRect(); return [box.width, box.height]; }"
    ruler = mira.locator("path.ruler").first.evaluate(size)
    assert abs(ruler[0] / MM - 150) < 0.1
    wide, high = sorted(mira.locator("path.cut").first.evaluate(size))
    assert abs(wide / MM - 176) < 0.1
    assert abs(high / MM - 236) < 0.1
    hole = max(one[0] for one in mira.locator("circle.cut").evaluate_all(f"all => all.map({size})"))
    assert abs(hole / MM - 44) < 0.1
    pdf = mira.pdf(prefer_css_page_size=True)
    boxes = re.findall(rb"MediaBox ?\[([\d. ]+)\]", pdf)
    assert boxes
    for box in boxes:  # A4 in points: 210 and 297 mm at 72 to the inch
        left, top, right, bottom = map(float, box.split())
        assert abs((right - left) / 72 * 25.4 - 210) < 0.2
        assert abs((bottom - top) / 72 * 25.4 - 297) < 0.2


def test_it_does_not_come_on_a_phone(
    browser: Browser, address: str, settings: Settings, demo_pk: int, troubles: list[str]
) -> None:
    page = aboard(browser, address, settings, "Mira", troubles, 390, 844)
    page.goto(f"{address}/r/{demo_pk}/jobs/shaft?task=shaft-2#shaft-2")
    page.get_by_role("link", name="It doesn’t come").first.click()
    page.get_by_label("What is it?").fill("Coupling bolt")
    page.get_by_role("button", name="It doesn’t come: into the plan").click()
    expect(page.get_by_role("heading", name="Coupling bolt")).to_be_visible()
    expect(page.get_by_text("No new one is named")).to_be_visible()
    page.get_by_role("button", name="It held").click()
    expect(page.get_by_role("heading", name=re.compile("^Now: Struck"))).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    page.get_by_role("button", name="It came").click()
    expect(page.get_by_text("off", exact=True).first).to_be_visible()
    page.context.close()
    assert troubles == []
