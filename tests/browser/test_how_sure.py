"""How sure the launch is, in a real browser: a spread is typed, a look is taken early, and both are taken back."""

from __future__ import annotations

import re
from datetime import datetime, timedelta

from playwright.sync_api import Page, expect

from rovask.settings import Settings
from rovask.work.odds import play
from tests.builders import link, person, refit, task
from tests.conftest import kept_for_both


def hundredths(page: Page, address: str, settings: Settings, pk: int) -> int:
    """The odds as the page has them, once the worker has played what stands."""
    assert play(settings, pk)
    page.goto(f"{address}/r/{pk}/odds")
    expect(page.locator("svg.dots circle")).to_have_count(20)
    found = re.search(r": (\d+) in 100, the simulation", page.locator("main").inner_text())
    assert found is not None
    return int(found.group(1))


def test_a_spread_and_an_early_look_move_the_odds_and_undo_brings_them_back(
    mira: Page, address: str, settings: Settings, day_9: datetime
) -> None:
    """A shaft that may be worn, its bearing a fortnight away: looked at on the eighth day it is too late for the launch."""
    haul = day_9 - timedelta(days=1)
    late = (day_9 + timedelta(days=8)).replace(hour=9, minute=0)
    worn = {"id": "worn", "title": "The shaft is worn", "chance": 0.6, "hours": 8, "lead_days": 14, "task": "look"}
    made = refit(
        task("look", 1, people=["ann"]) | {"pin": late.isoformat()},
        task("close", 2, people=["ann"]),
        task("paint", 100, people=["bo"]),
        links=[link("look", "close")],
        unknowns=[worn],
        people=[person("ann"), person("bo")],
        haul_at=haul.isoformat(),
        launch_at=(haul + timedelta(days=21)).replace(hour=10, minute=0).isoformat(),
    )
    pk = kept_for_both(settings, made)
    at_first = hundredths(mira, address, settings, pk)
    assert at_first < 60, "the bearing comes too late in most of the runs in which it is needed"
    expect(mira.locator("main")).to_contain_text("The shaft is worn")

    mira.goto(f"{address}/r/{pk}/task/paint/edit")
    mira.locator("[name=work_most]").fill("400")
    mira.get_by_role("button", name="Save").first.click()
    expect(mira.locator("#note")).to_contain_text("You")
    wider = hundredths(mira, address, settings, pk)
    assert wider < at_first

    mira.goto(f"{address}/r/{pk}/slip?task=look")
    mira.get_by_role("button", name="Take the pin out").first.click()
    expect(mira.get_by_role("button", name="Take the pin out")).to_have_count(0)
    sooner = hundredths(mira, address, settings, pk)
    assert sooner > wider + 10

    mira.locator("#note").get_by_role("button", name="Undo").click()
    expect(mira.locator("#note")).to_contain_text("took back")
    assert hundredths(mira, address, settings, pk) == wider


def test_a_touch_on_the_standing_line_opens_a_few_lines_and_a_key_shuts_them(
    mira: Page, address: str, settings: Settings, day_9: datetime
) -> None:
    made = refit(
        task("paint", 60) | {"work": {"least": 40, "likely": 60, "most": 160}},
        haul_at=day_9.replace(hour=8).isoformat(),
        launch_at=(day_9 + timedelta(days=9)).replace(hour=10, minute=0).isoformat(),
    )
    pk = kept_for_both(settings, made)
    assert play(settings, pk)
    for width, height in ((1280, 800), (390, 844)):
        mira.set_viewport_size({"width": width, "height": height})
        mira.goto(f"{address}/r/{pk}/jobs")
        mira.locator("[hx-target='#brief']").click()
        brief = mira.locator("#brief")
        expect(brief).to_be_visible()
        expect(brief).to_contain_text("8 in 10 by")
        box = brief.bounding_box()
        assert box is not None
        assert box["x"] >= 0
        assert box["x"] + box["width"] <= width
        mira.keyboard.press("Escape")
        expect(brief).to_be_hidden()
    mira.locator("[hx-target='#brief']").click()
    mira.locator("#brief").get_by_role("link", name="All of it").click()
    expect(mira).to_have_url(f"{address}/r/{pk}/odds")
    expect(mira.locator("#brief")).to_be_hidden()
