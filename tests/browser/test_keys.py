"""By keys alone, and by thumb: from block to block of the Slip, pinned an hour on, the focus where it was."""

from __future__ import annotations

import re

from playwright.sync_api import Browser, Page, expect

from rovask.settings import Settings
from tests.acts import kept_of
from tests.browser.conftest import aboard

WHERE = "document.activeElement.closest('[data-nudge]')?.dataset.nudge ?? ''"
BOX = "(() => { const box = document.activeElement.getBoundingClientRect(); return [box.x + box.width / 2, box.y + box.height / 2]; })()"


def test_arrows_go_from_block_to_block_and_focus_stays_where_it_was(
    browser: Browser, address: str, settings: Settings, demo_pk: int
) -> None:
    page = aboard(browser, address, settings, "Mira", [])
    page.goto(f"{address}/r/{demo_pk}/slip?span=fortnight")
    page.locator("svg.slip:visible [data-drop]").first.focus()
    seen = [page.evaluate(WHERE)]
    for key, axis, sign in (("ArrowRight", 0, 1), ("ArrowDown", 1, 1), ("ArrowLeft", 0, -1), ("ArrowUp", 1, -1)):
        before = page.evaluate(BOX)
        page.keyboard.press(key)
        after = page.evaluate(BOX)
        seen.append(page.evaluate(WHERE))
        if seen[-1] != seen[-2]:
            assert (after[axis] - before[axis]) * sign > 0, key
    assert len(set(seen)) >= 3
    block = page.evaluate(WHERE)
    key = block.split("/")[4]
    page.keyboard.press("Shift+ArrowRight")
    expect(page.locator("#note")).to_contain_text("moved")
    assert kept_of(settings, demo_pk).refit.tasks[key].pin is not None
    page.wait_for_timeout(300)
    assert page.evaluate(WHERE) == block
    page.keyboard.press("g")
    page.wait_for_url(re.compile("/launch"))
    page.keyboard.press("f")
    page.wait_for_url(re.compile("/found"))
    page.context.close()


def pins(settings: Settings, pk: int) -> int:
    return sum(task.pin is not None for task in kept_of(settings, pk).refit.tasks.values())


def test_a_thumb_pins_a_block_an_hour_on(browser: Browser, address: str, settings: Settings, demo_pk: int) -> None:
    page: Page = aboard(browser, address, settings, "Mira", [], 390, 844)
    page.goto(f"{address}/r/{demo_pk}/slip")
    before = pins(settings, demo_pk)
    page.locator("svg.slip:visible [data-drop]").first.click()
    later = page.get_by_role("button", name=re.compile("an hour later"))
    box = later.bounding_box()
    assert box is not None
    assert box["height"] >= 43
    later.click()
    expect(page.locator("#note")).to_contain_text("moved")
    assert pins(settings, demo_pk) == before + 1
    page.context.close()
