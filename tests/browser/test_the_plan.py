"""Improving, stopping, dragging and explaining in a real browser, with a worker of its own beside the pages."""

from __future__ import annotations

import os
import re
import subprocess
import sys
from collections.abc import Iterator
from datetime import timedelta

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy import text

from rovask.core.refit import edits
from rovask.settings import Settings
from rovask.store.database import transaction
from rovask.store.plan_tables import SearchRow
from rovask.store.searches import view_of
from tests.acts import changed, kept_of, planned

SOON = 60_000  # milliseconds


@pytest.fixture
def worker(settings: Settings) -> Iterator[None]:
    """A worker that looks for a long time, with nothing else in the queue."""
    with transaction(settings.database_url) as session:
        session.execute(text("delete from procrastinate_jobs where status = 'todo'"))
    environment = os.environ | {
        "ROVASK_DATABASE_URL": settings.database_url,
        "ROVASK_NOW": str(settings.now),
        "ROVASK_SURER_SECONDS": "0",
        "ROVASK_SEARCH_SECONDS": "120",
    }
    process = subprocess.Popen([sys.executable, "-m", "rovask.start.cli", "worker"], env=environment)
    yield
    process.terminate()
    process.wait(timeout=20)


def test_a_search_is_watched_stopped_and_its_plan_put_back(
    mira: Page, address: str, demo_pk: int, settings: Settings, worker: None
) -> None:
    # a week sooner, where the first plan leaves room for better ones
    changed(settings, demo_pk, lambda made: edits.rebuilt(made, launch_at=made.launch_at - timedelta(days=7)))
    with transaction(settings.database_url) as session:
        session.execute(text("delete from procrastinate_jobs where status = 'todo'"))
    mira.goto(f"{address}/r/{demo_pk}/slip")
    mira.get_by_role("button", name="Look for two minutes").click()
    lines = mira.locator("#search")
    expect(lines).to_contain_text("Looking for a better plan", timeout=SOON)
    expect(lines).to_contain_text("better in all", timeout=SOON)  # news, without a reload
    with transaction(settings.database_url) as session:
        assert view_of(session.get(SearchRow, demo_pk), settings.clock()).running  # type: ignore[union-attr]
    lines.get_by_role("button", name="Stop, keep the best").click()
    expect(lines).to_contain_text("Stopped after", timeout=SOON)
    mira.reload()
    expect(mira.locator("#moved summary").first).to_contain_text("What moved since the plan before")
    mira.get_by_role("button", name="Put the old plan back").click()
    expect(mira.locator("#proposal")).to_contain_text("A better plan waits for you")
    mira.get_by_role("button", name="Adopt it").click()
    expect(mira.locator("#proposal")).to_have_count(0)


def test_a_block_is_dragged_and_the_rest_is_planned_round_it(
    mira: Page, address: str, demo_pk: int, settings: Settings
) -> None:
    mira.goto(f"{address}/r/{demo_pk}/slip?span=fortnight")
    # one of own hands that nothing fixed stands behind
    block = mira.locator(
        "svg.slip:visible [data-drop*='/task/tops-'], svg.slip:visible [data-drop*='/task/boot-']"
    ).first
    expect(block).to_be_visible()
    key = (block.get_attribute("data-drop") or "").split("/")[-2]
    before = planned(settings, demo_pk)[1].plan.by_task()[key].start
    box = block.locator("rect").first.bounding_box()
    assert box is not None
    mira.mouse.move(box["x"] + 3, box["y"] + 3)
    mira.mouse.down()
    mira.mouse.move(box["x"] + 60, box["y"] + 3, steps=6)
    mira.mouse.up()
    expect(mira.locator("#note")).to_contain_text("You moved")
    pin = kept_of(settings, demo_pk).refit.tasks[key].pin
    assert pin is not None
    assert pin - before > timedelta(hours=2)


def test_a_block_says_why_it_lies_there_by_keyboard_and_to_a_screen_reader(
    mira: Page, address: str, demo_pk: int
) -> None:
    mira.goto(f"{address}/r/{demo_pk}/slip")
    block = mira.locator("svg.slip:visible a[href*='task=bottom-7']")
    expect(block).to_have_attribute("aria-label", re.compile(r"Sand fair.*planned"))
    block.focus()
    mira.keyboard.press("Enter")
    chosen = mira.locator("#chosen")
    expect(chosen).to_contain_text("Why here:")
    expect(chosen).to_contain_text(re.compile(r"Why here:\s+\S.*“.+”"))  # it names what holds it there


def test_rain_is_said_and_felt(mira: Page, address: str, demo_pk: int) -> None:
    mira.goto(f"{address}/r/{demo_pk}/yard#weather")
    mira.get_by_label("for the next").fill("12")
    mira.get_by_role("button", name="It rains now").click()
    expect(mira.locator("#note")).to_contain_text("You said that it rains for 12 h")
    expect(mira.get_by_label("Standing line")).to_contain_text("rain now")
