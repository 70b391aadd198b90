"""The real application in a real browser: sign in, import, plan, tick, pin, undo, two people at once, the phone.

axe-core 4.14 (MPL-2.0) checks accessibility on every screen in every light; it must find nothing.
"""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect
from sqlalchemy import text

from rovask.settings import Settings
from rovask.store.database import transaction
from tests.browser.conftest import aboard, standing

ROOT = Path(__file__).parents[2]
AXE = ROOT / "assets/node_modules/axe-core/axe.min.js"


def test_import_plan_tick_replan_and_undo(mira: Page, address: str, demo, tmp_path: Path) -> None:  # type: ignore[no-untyped-def]
    mira.goto(f"{address}/")
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
    "/", "/new", "/access", "/access/erase", "/recover", "/operator", "post", "journal", "boat?place=engine", "recipes", "recipes/bottom-coating", "recipes/several?pick=gas&pick=chain",
    "look", "found", "findings", "finding/f4", "finding/f1/decide", "off", "parked", "bench", "bench/taper",
    "bench/galvanic", "morning", "aboard", "before/launch", "slip?task=bottom-9", "jobs", "jobs/bottom?task=bottom-9", "stores", "yard", "log",
    "task/bottom-9/edit", "link/new", "people", "mine", "currency?currency=JPY&rate=160", "stores/part/anti",
    "stores/order/o17", "stores/receive",
    "purse", "purse/bill", "purse/agreement/keel", "purse/entry?kind=payment&agreement=keel",
    "purse/save", "tables", "launch", "launch/slings", "accept", "accept/rudder-7", "day/2026-05-12", "day/2026-05-07", "visits", "visits/v1",
    "progress", "odds", "choices", "choices/w1", "choices/w2/ways/hand?do=one%20more%20hand", "date", "seasons", "since?since=8.5.2026", "log?person=joss", "jobs/shaft/apart", "links", "sheet/ruy", "trouble/weeps", "night", "account",
    "hands", "hands/seized/new?task=shaft-2", "hands/seized/se1", "hands/cover/new?place=saloon", "hands/cover/cv1", "hands/fit/fi1", "hands/shape/sh1",
    "hands/trace/new", "hands/trace/tr1", "hands/contacts", "hands/coats", "hands/coats?under=soft",
]  # fmt: skip
# What the others lay out on a phone, one of these lays out too.
ON_A_PHONE = (
    "boat?place=engine", "recipes/bottom-coating", "look", "bench/taper", "morning", "aboard", "slip?task=bottom-9", "jobs/bottom?task=bottom-9",
    "task/bottom-9/edit", "purse", "stores/part/anti", "launch/slings", "accept/rudder-7", "day/2026-05-12", "progress", "odds", "trouble/weeps", "hands", "hands/seized/new?task=shaft-2", "hands/seized/se1", "hands/trace/tr1", "hands/fit/fi1", "hands/contacts",
)  # fmt: skip
WIDE, PHONE, TALL = 1280, 390, 844
RULES = "{type: 'tag', values: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice']}"
LAID_OUT = "{type: 'rule', values: ['target-size', 'scrollable-region-focusable', 'label', 'link-name', 'button-name', 'select-name']}"
BY_ITSELF = "rules: {'color-contrast': {enabled: false}}"  # CONTRAST asks for it, in every light
# Every text of the page against what it stands on, in each light: contrast as WCAG 2.2 (1.4.3) has it, relative luminance and all.
CONTRAST = """() => {
  const parts = (colour) => {
    const found = colour.match(/[\\d.]+/g).map(Number);
    return colour.startsWith("color(") ? found.map((part, at) => (at < 3 ? part * 255 : part)) : found; // of color-mix
  };
  const linear = (part) => (part /= 255) <= 0.04045 ? part / 12.92 : ((part + 0.055) / 1.055) ** 2.4;
  const light = ([r, g, b]) => 0.2126 * linear(r) + 0.7152 * linear(g) + 0.0722 * linear(b);
  const over = ([r, g, b, a = 1], under) => [r, g, b].map((part, at) => part * a + under[at] * (1 - a));
  const ground = (one) => {
    if (!one) return [255, 255, 255];
    const own = parts(getComputedStyle(one).backgroundColor);
    return own.length < 4 ? own : own[3] === 0 ? ground(one.parentElement) : over(own, ground(one.parentElement));
  };
  const texts = new Set();
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  while (walker.nextNode()) if (walker.currentNode.data.trim()) texts.add(walker.currentNode.parentElement);
  for (const field of document.querySelectorAll("input, select, textarea")) texts.add(field);
  const shown = [...texts].filter((one) => one.checkVisibility() && !one.closest("svg, script, style, template, :disabled, .stale"));
  const known = new Map(), wrong = [];
  for (const name of ["day", "glare", "red"]) {
    document.documentElement.dataset.light = name;
    known.clear();
    for (const one of shown) {
      const style = getComputedStyle(one), size = parseFloat(style.fontSize), under = ground(one);
      const need = size >= 24 || (size >= 18.66 && Number(style.fontWeight) >= 700) ? 3 : 4.5;
      const key = `${style.color} ${under} ${need}`;
      if (known.has(key)) continue;
      const [high, low] = [light(over(parts(style.color), under)), light(under)].sort((a, b) => b - a);
      known.set(key, (high + 0.05) / (low + 0.05));
      if (known.get(key) < need) wrong.push([name, key, known.get(key).toFixed(2), one.outerHTML.slice(0, 120)]);
    }
  }
  document.documentElement.dataset.light = "day";
  return {texts: shown.length, wrong};
}"""


@pytest.mark.parametrize("half", [0, 1])
def test_axe_finds_nothing_on_any_screen(
    browser: Browser, address: str, settings: Settings, demo_pk: int, troubles: list[str], half: int
) -> None:
    """Each screen is put in place once, as a link does it; of another width only what is laid out differs, of another light only
    the contrast.
    """
    page = aboard(browser, address, settings, "Mira", troubles, WIDE, TALL)
    with transaction(settings.database_url) as session:
        session.execute(text("update account set operator = true where name = 'Mira'"))  # she sees /operator too
    page.goto(f"{address}/r/{demo_pk}/log")
    page.evaluate(AXE.read_text())
    found: list[object] = []
    for screen in SCREENS[half::2]:
        path = screen if screen.startswith("/") else f"/r/{demo_pk}/{screen}"
        page.evaluate("path => htmx.ajax('GET', path, {target: 'body', swap: 'outerMorph'})", path)
        page.wait_for_function("() => !document.querySelector('[data-waits]')", timeout=60_000)  # it is worked out
        for width in (WIDE, PHONE):
            page.set_viewport_size({"width": width, "height": TALL})
            assert page.evaluate("document.documentElement.scrollWidth") <= width, f"{screen} scrolls sideways"
            if width == PHONE and screen not in ON_A_PHONE:
                continue  # its parts are laid out on one of those too
            asked = f"{{resultTypes: ['violations'], runOnly: {RULES if width == WIDE else LAID_OUT}, {BY_ITSELF}}}"
            found += [
                (screen, width, item["id"], [node["html"][:120] for node in item["nodes"][:2]])
                for item in page.evaluate(f"axe.run(document, {asked})")["violations"]
            ]
        page.set_viewport_size({"width": WIDE, "height": TALL})
        contrast = page.evaluate(CONTRAST)
        assert contrast["texts"] >= 8, f"{screen} has hardly a text"
        found += [(screen, *one) for one in contrast["wrong"]]
    page.context.close()
    assert found == [], json.dumps(found, indent=1)


def test_a_text_too_pale_is_found_where_axe_finds_it(mira: Page, address: str, demo_pk: int) -> None:
    """So that the test above could fail: the same text is too pale for both in one light, and good for both as it is."""
    mira.goto(f"{address}/r/{demo_pk}/log")
    mira.evaluate(AXE.read_text())
    by_axe = "axe.run(document, {resultTypes: ['violations'], runOnly: {type: 'rule', values: ['color-contrast']}})"
    assert (mira.evaluate(CONTRAST)["wrong"], mira.evaluate(by_axe)["violations"]) == ([], [])
    mira.evaluate("document.querySelector('h1').style.color = 'color-mix(in srgb, var(--ink) 40%, var(--ground))'")
    wrong = mira.evaluate(CONTRAST)["wrong"]
    assert {light for light, *_ in wrong} >= {"day"}
    (said,) = mira.evaluate(by_axe)["violations"]
    told = re.search(r"contrast of ([\d.]+)", said["nodes"][0]["failureSummary"])
    assert told is not None
    ours = next(float(ratio) for light, _, ratio, _ in wrong if light == "day")
    assert abs(float(told.group(1)) - ours) < 0.1


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
