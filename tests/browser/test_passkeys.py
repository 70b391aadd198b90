"""A passkey in a real browser, with an authenticator of its own (WebDriver's virtual one): made, used, refused, taken away."""

from __future__ import annotations

import re

from playwright.sync_api import Browser, expect

from rovask.settings import Settings
from tests.browser.conftest import aboard

DEVICE = {
    "protocol": "ctap2",
    "transport": "internal",
    "hasResidentKey": True,
    "hasUserVerification": True,
    "isUserVerified": True,
    "automaticPresenceSimulation": True,
}


def test_a_device_signs_its_owner_in_and_after_it_was_taken_away_nobody(
    browser: Browser, address: str, settings: Settings
) -> None:
    named = address.replace("127.0.0.1", "localhost")  # a passkey belongs to a name
    page = aboard(browser, named, settings, "Keyholder", [], 390, 844)
    line = page.context.new_cdp_session(page)
    line.send("WebAuthn.enable")
    device = line.send("WebAuthn.addVirtualAuthenticator", {"options": DEVICE})["authenticatorId"]
    page.goto(f"{named}/access")
    page.get_by_label("What you call this device").fill("the chart table")
    page.get_by_role("button", name="Let this device sign me in").click()
    expect(page.get_by_role("status").filter(has_text="This device signs you in")).to_be_visible()
    key = line.send("WebAuthn.getCredentials", {"authenticatorId": device})["credentials"]
    assert [(one["rpId"], one["isResidentCredential"]) for one in key] == [("localhost", True)]
    page.get_by_role("button", name="Let this device sign me in").click()
    expect(page.get_by_role("alert").filter(has_text="has a passkey for you already")).to_be_visible()

    page.get_by_role("button", name="Sign out here").click()
    expect(page).to_have_url(re.compile("/sign-in"))
    page.goto(f"{named}/sign-in?next=/new")
    page.get_by_role("button", name="This device signs me in").click()
    expect(page).to_have_url(f"{named}/new")

    page.goto(f"{named}/access")
    expect(page.locator("main")).to_contain_text("the chart table")
    page.get_by_text("What happened with your account").click()
    expect(page.locator("main")).to_contain_text("by the passkey “the chart table”")
    page.get_by_role("button", name="Take away: the chart table").click()
    expect(page.locator("main")).not_to_contain_text("since the chart table")
    page.get_by_role("button", name="Sign out here").click()
    expect(page).to_have_url(re.compile("/sign-in"))
    page.get_by_role("button", name="This device signs me in").click()
    expect(page.get_by_role("alert").filter(has_text="not known here, or was taken away")).to_be_visible()

    page.goto(f"{address}/sign-in")  # by numbers: not offered
    expect(page.get_by_role("button", name="Sign in", exact=True)).to_be_visible()
    expect(page.get_by_role("button", name="This device signs me in")).to_be_hidden()
    page.context.close()
