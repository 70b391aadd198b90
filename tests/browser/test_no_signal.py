"""Without a signal: the launch and today's Morning stay readable; ticks are kept on the device and sent once, in order."""

from __future__ import annotations

import re

from playwright.sync_api import Browser, BrowserContext, Page, expect
from sqlalchemy import text

from rovask.core.gate.gate import gate_of
from rovask.core.refit.edits import put
from rovask.core.refit.launch.choices import Stage
from rovask.core.refit.model import Refit
from rovask.core.refit.work.edits import update_task
from rovask.settings import Settings
from rovask.store import accounts
from rovask.store.account_tables import Membership
from rovask.store.database import transaction
from tests.acts import changed, kept_of, log_of
from tests.browser.conftest import aboard, come_aboard
from tests.conftest import account_of

KEEL, SEAL = "keel joint:keel:before the slings", "shaft seal:shaft:before the slings"


def row(page: Page, key: str):  # type: ignore[no-untyped-def]
    return page.locator(f"li[id='{key.replace(' ', '-')}']")


KEPT = "caches.open('rovask-pages').then(box => box.keys()).then(keys => navigator.serviceWorker.controller ? keys.length : 0)"


def ready(page: Page, address: str) -> None:
    """A page of the gate, once everything that is wanted without a signal is kept: two screens, six stages, six for trouble, three forms."""
    page.goto(address)
    for _ in range(300):
        if page.evaluate(KEPT) >= 18:
            return
        page.wait_for_timeout(100)
    raise AssertionError("nothing was kept")


def sent(context: BrowserContext, settings: Settings, pk: int, count: int, address: str) -> Page:
    """A new page with a signal, once all that was kept is sent."""
    page = context.new_page()
    context.set_offline(False)
    page.goto(address)
    until_kept(page, settings, pk, count)
    return page


def until_kept(page: Page, settings: Settings, pk: int, count: int) -> None:
    """Waits until so many ticks have arrived, and the page no longer says that some are kept here."""
    for _ in range(300):
        if len(kept_of(settings, pk).refit.gate_ticks) == count:
            break
        page.wait_for_timeout(100)
    assert len(kept_of(settings, pk).refit.gate_ticks) == count
    expect(page.locator("#kept")).to_be_hidden()


def test_what_is_ticked_without_a_signal_is_kept_and_sent_once_in_order_also_after_the_page_was_closed(
    browser: Browser, address: str, settings: Settings, demo_pk: int
) -> None:
    page = aboard(browser, address, settings, "Mira", [], 390, 844)
    before = f"{address}/r/{demo_pk}/launch/before"
    ready(page, before)
    context = page.context
    context.set_offline(True)
    row(page, KEEL).get_by_role("button", name="It isn’t").click()
    expect(page.locator("#kept")).to_have_text("1 tick is kept on this device; sent when there is a signal.")
    page.goto(f"{address}/r/{demo_pk}/morning")  # still readable, and it says what waits
    expect(page.get_by_role("heading", level=1)).to_contain_text("Tuesday 12 May")
    expect(page.locator("#kept")).to_contain_text("1 tick is kept")
    old = page.locator("#connection")
    expect(old).to_contain_text("No answer came: this is the page as it was kept at ")  # not as if it were of now
    page.get_by_role("link", name="Launch", exact=True).click()  # put in place by a script: it says so too
    expect(page.get_by_role("heading", level=1)).to_contain_text("Not ready")
    expect(old).to_contain_text("What was done since is not on it.")
    page.goto(f"{address}/r/{demo_pk}/trouble/weeps")
    expect(page.locator("ol")).to_contain_text("Shut its valve")
    page.goto(f"{address}/r/{demo_pk}/purse")
    expect(page.get_by_role("heading", level=1)).to_have_text("No signal")
    page.goto(before)
    expect(row(page, KEEL)).to_contain_text("It isn’t: kept here, not sent yet")
    row(page, KEEL).get_by_role("button", name="It is so").click()
    row(page, SEAL).get_by_role("button", name="It is so").click()
    expect(page.locator("#kept")).to_contain_text("3 ticks are kept")
    assert kept_of(settings, demo_pk).refit.gate_ticks == ()
    page.close()
    page = sent(context, settings, demo_pk, 3, before)
    expect(page.locator("#connection")).to_be_hidden()
    ticks = kept_of(settings, demo_pk).refit.gate_ticks
    assert [(tick.item, tick.passed) for tick in ticks] == [(KEEL, False), (KEEL, True), (SEAL, True)]
    page.reload()
    page.wait_for_timeout(500)
    assert len(kept_of(settings, demo_pk).refit.gate_ticks) == 3  # and not a second time
    context.close()


def test_two_phones_ticks_merge_and_what_cannot_is_shown_as_two_versions(
    browser: Browser, address: str, settings: Settings, demo_pk: int
) -> None:
    before = f"{address}/r/{demo_pk}/launch/before"
    phones = []
    for name, person in (("Mira", "mira"), ("Joss", "joss")):
        page = aboard(browser, address, settings, name, [], 390, 844)
        page.goto(f"{address}/r/{demo_pk}/people")
        select = page.get_by_label(f"Which of the people {name} is")
        select.select_option(person)
        select.locator("xpath=ancestor::form").get_by_role("button", name="Change").click()
        expect(page.locator("main")).to_contain_text("you as ")
        ready(page, before)
        page.context.set_offline(True)
        phones.append(page)
    mira, joss = phones
    row(mira, KEEL).get_by_role("button", name="It is so").click()
    row(mira, SEAL).get_by_role("button", name="It is so").click()
    row(joss, SEAL).get_by_role("button", name="It isn’t").click()
    expect(joss.locator("#kept")).to_contain_text("1 tick is kept")
    contexts = [page.context for page in phones]
    for page in phones:
        page.close()
    sent(contexts[0], settings, demo_pk, 2, before).close()
    last = sent(contexts[1], settings, demo_pk, 3, before)
    stage = gate_of(kept_of(settings, demo_pk).refit, settings.clock()).stages[Stage.BEFORE]
    items = {item.key: item for item in stage.items}
    assert items[KEEL].passed
    assert [tick.person for tick in items[SEAL].versions] == ["mira", "joss"]
    expect(row(last, SEAL)).to_contain_text("Two versions")
    for context in contexts:
        context.close()


def test_one_tap_says_it_of_one_thing_and_the_last_word_stands(
    browser: Browser, address: str, settings: Settings, demo_pk: int
) -> None:
    """Of a page of forty things only the one that was tapped says that it is kept."""
    page = aboard(browser, address, settings, "Mira", [], 390, 844)
    ready(page, f"{address}/r/{demo_pk}/launch/before")
    page.goto(f"{address}/r/{demo_pk}/launch/before")
    things = page.locator("#stage > li")
    assert things.count() >= 40
    page.context.set_offline(True)
    third = things.nth(2)
    third.get_by_role("button", name="It is so").click()
    told = page.locator("[data-told-kept]")
    expect(told).to_have_count(1)
    expect(third.locator("[data-told-kept]")).to_have_text("It is so: kept here, not sent yet")
    third.get_by_role("button", name="It isn’t").click()
    expect(told).to_have_text("It isn’t: kept here, not sent yet")
    third.get_by_role("button", name="It isn’t").click()  # a second tap at once is the same tap
    things.nth(30).get_by_role("button", name="It is so").click()
    expect(told).to_have_count(2)
    expect(page.locator("#kept")).to_contain_text("3 ticks are kept")
    page.context.set_offline(False)
    page.reload()
    until_kept(page, settings, demo_pk, 3)
    kept = kept_of(settings, demo_pk).refit.gate_ticks
    assert [one.passed for one in kept] == [True, False, True]
    assert kept[0].item == kept[1].item != kept[2].item
    page.context.close()


def test_ticks_are_sent_by_the_account_that_made_them_after_it_signs_in_again(
    browser: Browser, address: str, settings: Settings, demo_pk: int
) -> None:
    page = aboard(browser, address, settings, "Mira", [], 390, 844)
    before = f"{address}/r/{demo_pk}/launch/before"
    ready(page, before)
    page.context.set_offline(True)
    row(page, KEEL).get_by_role("button", name="It is so").click()
    row(page, SEAL).get_by_role("button", name="It isn’t").click()
    expect(page.locator("#kept")).to_contain_text("2 ticks are kept")
    page.context.clear_cookies()  # her session ends meanwhile; Joss takes the phone
    page.context.set_offline(False)
    come_aboard(page, address, settings, "Joss")
    page.goto(before)
    expect(page.locator("#kept")).to_contain_text("2 ticks of somebody else are kept here, and sent when they sign in.")
    row(page, KEEL).get_by_role("button", name="It isn’t").click()
    expect(row(page, KEEL)).to_contain_text("not right")
    assert [one.who for one in log_of(settings, demo_pk, 1)] == ["Joss"]
    assert len(kept_of(settings, demo_pk).refit.gate_ticks) == 1
    page.context.clear_cookies()
    come_aboard(page, address, settings, "Mira")
    page.goto(before)
    until_kept(page, settings, demo_pk, 3)
    assert [one.who for one in log_of(settings, demo_pk, 3)] == ["Mira", "Mira", "Joss"]
    ticks = kept_of(settings, demo_pk).refit.gate_ticks
    assert sorted((tick.item, tick.passed) for tick in ticks) == [(KEEL, False), (KEEL, True), (SEAL, False)]
    page.context.close()


def test_what_speaks_against_a_kept_tick_is_asked_and_never_overruled_by_itself(
    browser: Browser, address: str, settings: Settings, demo_pk: int
) -> None:
    page = aboard(browser, address, settings, "Mira", [], 390, 844)
    ready(page, f"{address}/r/{demo_pk}/launch/before")
    page.goto(f"{address}/r/{demo_pk}/morning")
    form = page.locator("form[data-kept][action*='/begin']").first
    key = str(form.get_attribute("action")).split("/")[4]
    part = next(iter(kept_of(settings, demo_pk).refit.parts))
    changed(settings, demo_pk, lambda refit: needs_missing(refit, key, part.id))
    page.context.set_offline(True)
    form.get_by_role("button").click()
    expect(page.locator("#kept")).to_contain_text("1 tick is kept")
    page.context.set_offline(False)
    page.reload()
    expect(page.locator("#kept")).to_contain_text("something speaks against it")
    assert kept_of(settings, demo_pk).refit.tasks[key].begun_at is None
    page.goto(f"{address}/r/{demo_pk}/stores")  # it waits wherever one goes
    page.get_by_role("button", name="Look at it").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("is it so?")
    page.get_by_label("Why all the same?").fill("it lay in the locker")
    page.get_by_role("button", name="Yes, it has happened").click()
    expect(page.locator("#kept")).to_be_hidden()
    assert kept_of(settings, demo_pk).refit.tasks[key].begun_at is not None
    assert "it lay in the locker" in log_of(settings, demo_pk, 1)[0].what
    page.context.close()


def needs_missing(refit: Refit, task: str, part: str) -> Refit:
    """The refit in which a task takes a part that can't be found."""
    lost = next(one for one in refit.parts if one.id == part).model_copy(update={"missing_since": refit.haul_at})
    return put(update_task(refit, task, parts=(part,)), lost)


def picture() -> dict[str, object]:
    from tests.faults.test_photos_and_recipes_that_break import jpeg

    return {"name": "tang.jpg", "mimeType": "image/jpeg", "buffer": jpeg()}


def waits(page: Page, words: str) -> None:
    expect(page.locator("#kept")).to_contain_text(words)


def test_what_is_found_received_and_worked_beyond_the_signal_is_kept_with_its_photo_and_sent_once(
    browser: Browser, address: str, settings: Settings, demo_pk: int
) -> None:
    page = aboard(browser, address, settings, "Mira", [], 390, 844)
    context, root = page.context, f"{address}/r/{demo_pk}"
    ready(page, f"{root}/morning")
    page.goto(f"{root}/jobs/tops")  # as last seen
    page.goto(f"{root}/slip")
    page.wait_for_timeout(500)
    before = kept_of(settings, demo_pk).refit
    context.set_offline(True)
    page.goto(f"{root}/slip")
    expect(page.locator("#connection")).to_contain_text("this is the page as it was kept")
    page.goto(f"{root}/found")
    page.get_by_label("Bad: it must be mended").check()
    page.get_by_label("What", exact=True).fill("Cracked tang")
    page.get_by_label("Photo").set_input_files(picture())
    page.get_by_role("button", name="Save").click()
    waits(page, "1 thing is kept on this device; sent when there is a signal.")
    waits(page, "Found: Cracked tang with 1 photo")
    expect(page.get_by_label("What", exact=True)).to_have_value("")  # ready for the next
    page.get_by_label("What", exact=True).fill("A mistake")
    page.get_by_role("button", name="Save").click()
    waits(page, "2 things are kept")
    page.locator("#kept span", has_text="A mistake").get_by_role("button", name="Take it back").click()
    waits(page, "1 thing is kept")
    page.goto(f"{root}/jobs/tops?task=tops-1")
    page.goto(f"{root}/jobs/tops")
    form = page.locator("form[data-kept-away^='Hours']").first
    page.evaluate("document.querySelectorAll('details').forEach((one) => { one.open = true; })")
    form.locator("input[name=hours]").fill("1.5")
    form.get_by_role("button", name="Log hours").click()
    waits(page, "2 things are kept")
    assert kept_of(settings, demo_pk).refit == before
    page.close()
    page = context.new_page()
    context.set_offline(False)
    page.goto(f"{root}/findings")
    expect(page.locator("#kept")).to_be_hidden()
    after = kept_of(settings, demo_pk).refit
    made = [one for one in after.findings if one.title == "Cracked tang"]
    assert [len(one.photos) for one in made] == [1]
    assert len(after.hours_log) == len(before.hours_log) + 1
    assert after.hours_log[-1].hours == 1.5
    assert all(one.title != "A mistake" for one in after.findings)
    page.reload()
    page.wait_for_timeout(500)
    assert kept_of(settings, demo_pk).refit == after  # and not a second time
    context.close()


def test_what_is_refused_when_it_is_sent_waits_for_an_answer_and_is_not_lost(
    browser: Browser, address: str, settings: Settings, demo_pk: int
) -> None:
    page = aboard(browser, address, settings, "Mira", [], 390, 844)
    context, root = page.context, f"{address}/r/{demo_pk}"
    ready(page, f"{root}/morning")
    context.set_offline(True)
    page.goto(f"{root}/found")
    page.get_by_label("What", exact=True).fill("Not a picture")
    page.get_by_label("Photo").set_input_files(
        {"name": "a.jpg", "mimeType": "image/jpeg", "buffer": b"no picture at all"}
    )
    page.get_by_role("button", name="Save").click()
    waits(page, "1 thing is kept")
    context.set_offline(False)
    page.goto(f"{root}/jobs")
    waits(page, "it can’t be done as things stand now")
    page.get_by_role("button", name="Look at it").click()
    expect(page.get_by_label("What", exact=True)).to_have_value("Not a picture")  # in its form, with what was typed
    expect(page.locator("main")).to_contain_text("is not a picture")
    context.close()


def test_pages_that_were_kept_go_when_the_session_was_ended_elsewhere(
    browser: Browser, address: str, settings: Settings, demo_pk: int
) -> None:
    page = aboard(browser, address, settings, "Gone", [], 390, 844)
    account = account_of(settings, "Gone")
    with transaction(settings.database_url) as session:
        accounts.join(session, demo_pk, account, Membership.SKIPPER, settings.clock())
    ready(page, f"{address}/r/{demo_pk}/launch/before")
    page.context.set_offline(True)
    page.goto(f"{address}/r/{demo_pk}/found")
    page.get_by_label("What", exact=True).fill("Typed before")
    page.get_by_role("button", name="Save").click()
    waits(page, "1 thing is kept")
    with transaction(settings.database_url) as session:
        session.execute(text("delete from session where account_pk = :pk"), {"pk": account})
    page.context.set_offline(False)
    page.goto(f"{address}/r/{demo_pk}/morning")
    expect(page).to_have_url(re.compile("/sign-in"))
    page.wait_for_timeout(500)
    page.context.set_offline(True)
    page.goto(f"{address}/r/{demo_pk}/morning")
    expect(page.locator("main")).not_to_contain_text(
        "Tuesday 12 May"
    )  # nobody reads it on a phone that was left behind
    page.context.set_offline(False)
    come_aboard(page, address, settings, "Gone")
    page.goto(f"{address}/r/{demo_pk}/findings")
    expect(page.locator("#kept")).to_be_hidden()
    assert any(one.title == "Typed before" for one in kept_of(settings, demo_pk).refit.findings)  # that was not lost
    page.context.close()
