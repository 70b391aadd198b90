"""The real application in a real browser: sign in, import, plan, tick, pin, undo, two people at once, the phone.

axe-core 4.14 (MPL-2.0) checks accessibility on every screen in every light; it must find nothing.
"""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from rovask.settings import Settings
from tests.browser.conftest import aboard, standing

ROOT = Path(__file__).parents[2]
AXE = ROOT / "assets/node_modules/axe-core/axe.min.js"


def test_import_plan_tick_replan_and_undo(mira: Page, address: str, demo, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    mira.set_input_files("input[type=file]", ROOT / "src/rovask/start/demo.refit.json")
    mira.get_by_role("button", name="Bring it in").click()
    expect(mira.get_by_role("heading", name="Tuesday 12 May")).to_be_visible()
    before = standing(mira)
    assert "spare" in before
    # what is under way is ticked without a question
    done = mira.locator("button.act-main[aria-label^='Done: ']").first
    label = done.get_attribute("aria-label") or ""
    done.click()
    note = mira.locator("#note")
    expect(note).to_contain_text(f"You ticked “{label.removeprefix('Done: ')}”")
    expect(mira.get_by_role("button", name=label, exact=True)).to_have_count(0)
    mira.locator("body").press("u")
    expect(note).to_contain_text("took back")
    expect(mira.get_by_role("button", name=label, exact=True).first).to_be_visible()
    note.get_by_role("button", name="Dismiss").click()
    expect(note).to_have_count(0)
    assert standing(mira) == before
    mira.locator("body").press("y")
    with mira.expect_download() as download:
        mira.get_by_role("link", name="Save the refit file").click()
    saved = tmp_path / "out.json"
    download.value.save_as(saved)
    assert saved.read_bytes() == (ROOT / "src/rovask/start/demo.refit.json").read_bytes()


def test_a_later_parcel_moves_the_launch_and_the_line_says_so(mira: Page, address: str, demo_pk: int) -> None:
    mira.goto(f"{address}/r/{demo_pk}/purchase/o10/edit")
    mira.get_by_label("Expected").fill("2026-06-09T11:00")
    mira.get_by_role("button", name="Save").click()
    expect(mira.locator("#note")).to_contain_text("→ short")
    assert "short" in standing(mira)
    mira.goto(f"{address}/r/{demo_pk}/slip")
    expect(mira.locator("svg.slip:visible .slot")).to_have_count(1)  # where the slot was, before the water
    expect(mira.locator("#verdict")).to_contain_text("after the slot")


def test_an_absence_is_felt_on_the_slip_at_once(mira: Page, address: str, demo_pk: int) -> None:
    mira.goto(f"{address}/r/{demo_pk}/person/joss/edit")
    mira.get_by_label("Away").fill("2026-05-13 to 2026-05-17 flu")
    mira.get_by_role("button", name="Save").click()
    expect(mira.locator("#note")).to_contain_text("You edited person “Joss Penrow”")
    mira.locator("body").press("s")
    expect(mira.locator("svg.slip:visible .ghost").first).to_be_attached()  # what moved leaves a ghost


def test_choose_a_block_see_why_and_pin_it(mira: Page, address: str, demo_pk: int) -> None:
    mira.goto(f"{address}/r/{demo_pk}/slip?span=week")
    block = mira.locator("svg.slip:visible a[href*='task=steer-3']")
    block.focus()
    mira.keyboard.press("Enter")
    chosen = mira.locator("#chosen")
    expect(chosen).to_contain_text("Repaint bracket")
    expect(chosen).to_contain_text("Why here:")
    chosen.get_by_label("Pin its start to").fill("2026-05-15T14:00")
    chosen.get_by_role("button", name="Pin", exact=True).click()
    expect(mira.locator("#chosen")).to_contain_text("pinned to Fri 15 May 14:00")
    expect(mira.locator("svg.slip:visible .pin")).to_have_count(1)
    mira.locator("svg.slip:visible a[href*='task=steer-3']").focus()
    mira.keyboard.press("Shift+ArrowRight")
    expect(mira.locator("#chosen")).to_contain_text("pinned to Fri 15 May 15:00")
    mira.get_by_role("button", name="Take the pin out").click()
    expect(mira.locator("svg.slip:visible .pin")).to_have_count(0)


def test_from_an_empty_refit_to_a_plan(mira: Page, address: str) -> None:
    mira.goto(f"{address}/new")
    for fold in ("Her figures", "Money, and work before", "The yard: hours"):
        mira.locator("summary").filter(has_text=fold).click()
    for label, value in {
        "Name of the refit": "Own refit",
        "Haul-out": "2026-05-12T09:00",
        "Launch slot": "2026-05-26T10:30",
        "Budget": "5000",
        "Length overall": "10",
        "Waterline": "8.4",
        "Beam": "3.2",
        "Draft": "1.7",
        "Displacement": "6500",
        "First owner": "Ada",
        "Lift, block and launch": "500",
    }.items():
        mira.get_by_label(label).fill(value)
    mira.locator("[name=boat-name]").fill("Tern")
    mira.get_by_role("button", name="Begin").click()
    expect(mira.locator("[name=yard-name]")).to_have_attribute(
        "aria-invalid", "true"
    )  # forgotten; the rest is still there
    expect(mira.get_by_label("Budget")).to_have_value("5000")
    mira.locator("[name=yard-name]").fill("The hard")
    mira.get_by_role("button", name="Begin").click()
    expect(mira.get_by_role("heading", name="Jobs")).to_be_visible()
    mira.get_by_role("link", name="A job of your own").click()
    mira.get_by_label("Job").fill("Antifouling")
    mira.get_by_role("button", name="Save").click()
    expect(mira.get_by_role("heading", level=1)).to_contain_text("Antifouling")  # one is in what one just made
    for title, hours in (("Sand", "6"), ("Coat", "4")):
        mira.get_by_role("link", name="Add a task").click()
        mira.get_by_label("Task", exact=True).fill(title)
        mira.get_by_label("Place", exact=True).select_option(label="Bottom")
        mira.get_by_label("likely").fill(hours)
        mira.get_by_role("button", name="Save").click()
        expect(mira.locator("#note")).to_contain_text(title)
    mira.locator("main ol > li").last.locator("summary").click()
    expect(mira.locator("main ol > li").last).to_contain_text("after “Sand” ends")
    mira.locator("body").press("m")
    expect(mira.get_by_role("link", name="Sand")).to_be_visible()


def test_two_people_edit_one_task(
    mira: Page, browser: Browser, address: str, settings: Settings, demo_pk: int, troubles: list[str]
) -> None:
    joss = aboard(browser, address, settings, "Joss", troubles)
    for page in (mira, joss):
        page.goto(f"{address}/r/{demo_pk}/task/bottom-9/edit")
    mira.get_by_label("Task", exact=True).fill("Barrier coat 1, grey")
    mira.get_by_role("button", name="Save").click()
    expect(mira.locator("#note")).to_contain_text("grey")
    joss.get_by_label("Task", exact=True).fill("Barrier coat 1, red")
    joss.get_by_role("button", name="Save").click()
    expect(joss.get_by_role("heading", name="Two versions of this task")).to_be_visible()
    row = joss.locator("tr").filter(has_text="differs")
    expect(row).to_contain_text("grey")
    expect(row).to_contain_text("red")
    joss.get_by_role("button", name="Keep mine").click()
    expect(joss.locator("li").filter(has_text="Barrier coat 1, red").first).to_be_visible()
    mira.reload()
    expect(mira.locator("#note")).to_contain_text("Joss edited task")
    joss.context.close()


def test_a_failed_send_says_so_and_keeps_what_was_typed(
    mira: Page, address: str, demo_pk: int, troubles: list[str]
) -> None:
    mira.goto(f"{address}/r/{demo_pk}/part/new")
    mira.get_by_label("Part").fill("Grommet")
    mira.route("**/part/save", lambda route: route.abort())
    mira.get_by_role("button", name="Save").click()
    expect(mira.locator("#connection")).to_be_visible()
    expect(mira.get_by_label("Part")).to_have_value("Grommet")
    mira.unroute("**/part/save")
    mira.get_by_role("button", name="Save").click()
    expect(mira.locator("#note")).to_contain_text("Grommet")
    troubles[:] = [trouble for trouble in troubles if "ERR_FAILED" not in trouble and "fetch" not in trouble.lower()]


def test_sign_in_with_a_password_after_the_link(mira: Page, address: str) -> None:
    mira.goto(f"{address}/access")
    mira.get_by_label("New password").fill("hemp tar and copper")
    mira.get_by_role("button", name="Set password").click()
    expect(mira.get_by_role("status")).to_contain_text("is set")
    mira.get_by_role("button", name="Sign out").click()
    mira.get_by_label("Name").fill("Mira")
    mira.get_by_label("Password").fill("not it at all")
    mira.get_by_role("button", name="Sign in").click()
    expect(mira.get_by_role("alert").filter(has_text="belong together")).to_be_visible()
    mira.get_by_label("Password").fill("hemp tar and copper")
    mira.get_by_role("button", name="Sign in").click()
    expect(mira.get_by_role("button", name="Sign in")).to_have_count(0)
    expect(mira.get_by_role("heading", level=1).first).to_be_visible()


SCREENS = [
    "/", "/new", "/access", "boat?place=engine", "recipes", "recipes/bottom-coating", "recipes/several?pick=gas&pick=chain",
    "look", "found", "findings", "finding/f4", "finding/f1/decide", "off", "parked", "bench", "bench/taper",
    "bench/galvanic", "morning", "aboard", "before/launch", "slip?task=bottom-9", "jobs", "jobs/bottom?task=bottom-9", "stores", "yard", "log",
    "task/bottom-9/edit", "link/new", "people", "mine", "currency?currency=JPY&rate=160", "stores/part/anti",
    "stores/order/o17", "stores/receive",
    "purse", "purse/bill", "purse/agreement/keel", "purse/entry?kind=payment&agreement=keel",
    "purse/save", "tables", "launch", "launch/slings", "accept", "accept/rudder-7", "day/2026-05-12", "day/2026-05-07", "visits", "visits/v1",
    "progress", "since?since=8.5.2026", "log?person=joss", "jobs/shaft/apart", "links", "sheet/ruy", "trouble/weeps", "night", "account",
]  # fmt: skip
# What the others show in colour, one of these shows too.
IN_EVERY_LIGHT = (
    "boat?place=engine", "recipes/bottom-coating", "look", "bench/taper", "morning", "aboard", "slip?task=bottom-9", "jobs/bottom?task=bottom-9",
    "task/bottom-9/edit", "purse", "stores/part/anti", "launch/slings", "accept/rudder-7", "day/2026-05-12", "progress", "trouble/weeps",
)  # fmt: skip
WIDE, PHONE, TALL = 1280, 390, 844
RULES = "['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice']"
LAID_OUT = "['target-size', 'scrollable-region-focusable', 'label', 'link-name', 'button-name', 'select-name']"
FAULTS = "resultTypes: ['violations']"  # to write down what is sound takes most of the time
CONTRAST = f"{{{FAULTS}, runOnly: {{type: 'rule', values: ['color-contrast']}}}}"


@pytest.mark.parametrize("half", [0, 1])
def test_axe_finds_nothing_on_any_screen(
    browser: Browser, address: str, settings: Settings, demo_pk: int, troubles: list[str], half: int
) -> None:
    """Each screen is opened once; light and width are changed in place. Of another light only the contrast differs, of another width what is laid out."""
    page = aboard(browser, address, settings, "Mira", troubles, WIDE, TALL)
    found = []
    for screen in SCREENS[half::2]:
        page.set_viewport_size({"width": WIDE, "height": TALL})
        page.goto(address + (screen if screen.startswith("/") else f"/r/{demo_pk}/{screen}"))
        page.evaluate(AXE.read_text())
        for light, width, asked in (
            ("day", WIDE, f"{{{FAULTS}, runOnly: {RULES}}}"),
            ("glare", WIDE, CONTRAST),
            ("red", WIDE, CONTRAST),
            ("day", PHONE, f"{{{FAULTS}, runOnly: {{type: 'rule', values: {LAID_OUT}}}}}"),
        ):
            if light != "day" and screen not in IN_EVERY_LIGHT:
                continue
            page.set_viewport_size({"width": width, "height": TALL})
            assert page.evaluate("document.documentElement.scrollWidth") <= width, f"{screen} scrolls sideways"
            if width == PHONE and screen not in IN_EVERY_LIGHT:
                continue  # its parts are laid out on one of those too
            page.evaluate("light => { document.documentElement.dataset.light = light }", light)
            result = page.evaluate(f"axe.run(document, {asked})")
            found += [
                (screen, light, width, item["id"], [node["html"][:120] for node in item["nodes"][:2]])
                for item in result["violations"]
            ]
    page.context.close()
    assert found == [], json.dumps(found, indent=1)


def test_three_taps_on_a_phone(
    browser: Browser, address: str, settings: Settings, demo_pk: int, troubles: list[str]
) -> None:
    page = aboard(browser, address, settings, "Mira", troubles, 390, 844)
    page.goto(f"{address}/r/{demo_pk}/morning")
    page.get_by_role("button", name="It came: Shaft bearing 35 x 48 mm").click()
    expect(page.locator("#note")).to_contain_text("received")
    page.get_by_role("link", name=re.compile("^Hours on ")).first.click()
    page.locator("li.bg-wash").get_by_label("Hours", exact=True).fill("1")
    page.locator("li.bg-wash").get_by_role("button", name="Log hours").click()
    expect(page.locator("#note")).to_contain_text("logged 1 h")
    for target in page.locator("button:visible, nav a:visible").all():
        box = target.bounding_box()
        assert box is None or box["height"] >= 43.5, target.inner_text()
    page.context.close()
    assert troubles == []


def test_the_keys_are_listed_and_work(mira: Page, address: str, demo_pk: int) -> None:
    mira.goto(f"{address}/r/{demo_pk}/morning")
    for key, heading in (("j", "Jobs"), ("o", "Stores"), ("l", "Log"), ("s", "Slip: where everything falls")):
        mira.locator("body").press(key)
        expect(mira.get_by_role("heading", name=heading, level=1)).to_be_attached()
    mira.locator("body").press("?")
    expect(mira.get_by_role("dialog")).to_contain_text("undo the last change")
