"""A line of 900 ms: the last change wins, what is being worked out is grey, and nothing is made of an older answer."""

from __future__ import annotations

import re

from playwright.sync_api import Browser, Page, expect

from rovask.settings import Settings
from tests.acts import kept_of
from tests.browser.conftest import aboard

LATE = 900  # ms


def slow(page: Page) -> None:
    line = page.context.new_cdp_session(page)
    line.send("Network.enable")
    line.send(
        "Network.emulateNetworkConditions",
        {"offline": False, "latency": LATE, "downloadThroughput": -1, "uploadThroughput": -1},
    )


def test_bench_makes_a_part_of_the_fields_that_stand_there(
    browser: Browser, address: str, settings: Settings, demo_pk: int
) -> None:
    page = aboard(browser, address, settings, "Mira", [])
    page.goto(f"{address}/r/{demo_pk}/bench/coats")
    make = page.get_by_role("button", name=re.compile("^a part: "))
    before = make.inner_text()
    area = page.locator("#b-area")
    slow(page)
    area.fill("30")
    area.press("Tab")  # the first question goes out
    page.wait_for_timeout(150)
    expect(page.locator("#result")).to_have_class(re.compile("stale"))
    expect(make).to_be_disabled()
    area.fill("60")
    area.press("Tab")  # the second, while the first is on its way
    page.wait_for_timeout(LATE + 400)
    expect(page.locator("#result")).not_to_have_class(re.compile("stale"))
    assert page.evaluate("new URLSearchParams(location.search).get('area')") == "60"
    page.wait_for_timeout(LATE)  # whatever else was on its way would be here by now
    twice = page.get_by_role("button", name=re.compile("^a part: ")).inner_text()
    assert twice != before
    assert area.input_value() == "60"
    expect(page.locator("#connection")).to_be_hidden()  # the question that was given up is no fault
    page.get_by_role("button", name=re.compile("^a part: ")).click()
    page.wait_for_url(re.compile("/stores|/part"))
    part = kept_of(settings, demo_pk).refit.parts[-1]
    assert f"{part.quantity:g}" == re.findall(r"a part: ([0-9.]+)", twice)[0]
    page.context.close()


def test_a_recipe_is_added_as_it_was_asked_for_last(
    browser: Browser, address: str, settings: Settings, demo_pk: int
) -> None:
    page = aboard(browser, address, settings, "Mira", [])
    page.goto(f"{address}/r/{demo_pk}/recipes/bilge-pumps")
    many = page.locator("#asked input:not([type=hidden]):not([type=radio])").first
    name = str(many.get_attribute("name"))
    add = page.get_by_role("button", name="Add the job")
    expect(add).to_be_enabled(timeout=60_000)  # once it is seen what it does
    slow(page)
    for value in ("3", "4"):
        many.fill(value)
        many.press("Tab")
        page.wait_for_timeout(200)
        expect(add).to_be_disabled()
    expect(add).to_be_enabled(timeout=60_000)
    assert many.input_value() == "4"
    assert page.locator(f"#take input[name={name}]").input_value() == "4"
    assert page.evaluate(f"new URLSearchParams(location.search).get('{name}')") == "4"
    page.context.close()


def test_a_double_click_and_a_lost_answer_make_one_finding(
    browser: Browser, address: str, settings: Settings, demo_pk: int
) -> None:
    """Pressed twice on a slow line; then sent over a line that is cut before the answer: asked about, told, done once."""
    page = aboard(browser, address, settings, "Mira", [])
    count = len(kept_of(settings, demo_pk).refit.findings)
    page.goto(f"{address}/r/{demo_pk}/found")
    slow(page)
    page.locator("input[name=title]").fill("Loose clamp")
    keep = page.get_by_role("button", name="Save", exact=True)
    keep.dblclick()
    page.wait_for_url(re.compile("/finding/"))
    assert len(kept_of(settings, demo_pk).refit.findings) == count + 1
    page.goto(f"{address}/r/{demo_pk}/found")
    page.locator("input[name=title]").fill("Cracked hose")
    sent = []

    def cut(route) -> None:  # type: ignore[no-untyped-def]
        sent.append(route.fetch(max_redirects=0).status)  # it arrives and is done; the answer is lost
        route.abort("connectionreset")

    page.route("**/found", lambda route: cut(route) if route.request.method == "POST" else route.continue_())
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.locator("#connection")).to_contain_text("Not known yet whether this arrived")
    page.wait_for_url(re.compile("/finding/"), timeout=20_000)
    assert sent == [303]
    titles = [one.title for one in kept_of(settings, demo_pk).refit.findings]
    assert (titles.count("Cracked hose"), len(titles)) == (1, count + 2)
    page.context.close()


def test_what_never_arrived_is_said_and_may_be_sent_again(
    browser: Browser, address: str, settings: Settings, demo_pk: int
) -> None:
    page = aboard(browser, address, settings, "Mira", [])
    page.goto(f"{address}/r/{demo_pk}/found")
    page.locator("input[name=title]").fill("Never came")
    page.route("**/found", lambda route: route.abort() if route.request.method == "POST" else route.continue_())
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.locator("#connection")).to_contain_text("It did not arrive: nothing was changed", timeout=30_000)
    assert page.locator("input[name=title]").input_value() == "Never came"
    page.unroute("**/found")
    page.get_by_role("button", name="Save", exact=True).click()
    page.wait_for_url(re.compile("/finding/"))
    assert [one.title for one in kept_of(settings, demo_pk).refit.findings][-1] == "Never came"
    page.context.close()
