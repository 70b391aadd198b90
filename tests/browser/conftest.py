"""The application served in earnest, and browsers of people who are signed in."""

from __future__ import annotations

import re
import socket
import threading
import time
from collections.abc import Iterator

import pytest
import uvicorn
from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright
from sqlalchemy import text

from rovask.settings import Settings
from rovask.store import accounts
from rovask.store.database import transaction
from rovask.web.app import create_app
from tests.conftest import account_of

expect.set_options(
    timeout=45_000
)  # what is waited for comes at once, but on a machine that does three things at a time
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


@pytest.fixture(scope="session")
def address(database: str, day_9, state) -> Iterator[str]:  # type: ignore[no-untyped-def]
    """The application, served as it is in earnest."""
    sock = socket.create_server(("127.0.0.1", 0))
    settings = Settings(database_url=database, now=day_9, state=state, settling_seconds=2, surer_seconds=0)
    app = create_app(settings)
    server = uvicorn.Server(uvicorn.Config(app, log_level="warning", lifespan="off"))
    thread = threading.Thread(target=server.run, kwargs={"sockets": [sock]})
    thread.start()
    while not server.started:
        time.sleep(0.02)
    yield f"http://127.0.0.1:{sock.getsockname()[1]}"
    server.should_exit = True
    app.state.helpers.close()
    thread.join(timeout=10)
    sock.close()


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield browser
        browser.close()


@pytest.fixture
def troubles() -> list[str]:
    return []


def come_aboard(page: Page, address: str, settings: Settings, name: str) -> None:
    """By a one-time link; it leads to the one refit's Morning, or to the list of several."""
    account = account_of(settings, name)
    with transaction(settings.database_url) as session:
        session.execute(
            text("delete from attempt")
        )  # the clock of these tests stands still, and with it the minute of the limits
        token = accounts.device_link(session, account, None, settings.clock())
    page.goto(f"{address}/come-aboard/{token}")
    page.get_by_role("button", name="Come aboard").click()
    expect(page).not_to_have_url(re.compile("come-aboard"))
    expect(page.get_by_role("heading", level=1).first).to_be_visible()


def aboard(
    browser: Browser,
    address: str,
    settings: Settings,
    name: str,
    troubles: list[str],
    width: int = 1280,
    height: int = 800,
) -> Page:
    """A browser of somebody's own, signed in by a one-time link."""
    context: BrowserContext = browser.new_context(viewport={"width": width, "height": height}, accept_downloads=True)
    page = context.new_page()
    page.on(
        "console",
        lambda message: (
            troubles.append(message.text) if message.type == "error" and "status of" not in message.text else None
        ),
    )
    page.on("pageerror", lambda error: troubles.append(str(error)))
    page.on(
        "request",
        lambda request: None if request.url.startswith((address, "data:", "blob:")) else troubles.append(request.url),
    )
    come_aboard(page, address, settings, name)
    return page


@pytest.fixture
def mira(browser: Browser, address: str, settings: Settings, troubles: list[str]) -> Iterator[Page]:
    page = aboard(browser, address, settings, "Mira", troubles)
    yield page
    page.context.close()
    assert troubles == []  # no script error, no breach of the policy, no request to another host


def standing(page: Page) -> str:
    return page.get_by_label("Standing line").inner_text().partition("a better plan")[0].strip()
