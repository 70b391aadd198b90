"""The demo played from day 9 to the next refit, in a browser, with the clock moved on; no dead end, and at each station the
money and the dates are what they should be.
"""

from __future__ import annotations

import io
import re
import socket
import threading
import time
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from urllib.parse import urlencode

import pypdfium2
import pytest
import uvicorn
from playwright.sync_api import Browser, Page, expect

from rovask.core.gate.gate import gate_of
from rovask.core.refit.launch.choices import Stage
from rovask.core.refit.model import Refit
from rovask.core.refit.work.choices import State
from rovask.settings import Settings
from rovask.web.app import create_app
from tests.acts import kept_of, planned
from tests.browser.conftest import aboard, come_aboard
from tests.conftest import kept_for_both

HOUR, DAY = timedelta(hours=1), timedelta(days=1)


class Clock:
    """A clock that is moved by hand; the application asks its settings for the time."""

    def __init__(self, settings: Settings) -> None:
        self.settings = settings

    def to(self, moment: datetime) -> None:
        assert self.settings.now is not None
        assert moment >= self.settings.now, "time runs one way"
        self.settings.now = moment


@pytest.fixture
def played(database: str, day_9: datetime, state, demo: Refit) -> Iterator[tuple[str, Settings, int]]:  # type: ignore[no-untyped-def]
    """A demo on a server of its own, whose clock this test moves."""
    settings = Settings(database_url=database, now=day_9, state=state, idle_days=60)  # weeks pass between two clicks
    pk = kept_for_both(settings, demo)
    sock = socket.create_server(("127.0.0.1", 0))
    server = uvicorn.Server(uvicorn.Config(create_app(settings), log_level="warning", lifespan="off"))
    thread = threading.Thread(target=server.run, kwargs={"sockets": [sock]})
    thread.start()
    while not server.started:
        time.sleep(0.02)
    yield f"http://127.0.0.1:{sock.getsockname()[1]}", settings, pk
    server.should_exit = True
    thread.join(timeout=10)
    sock.close()


def test_from_day_9_to_the_next_refit(browser: Browser, played: tuple[str, Settings, int], troubles: list[str]) -> None:
    address, settings, pk = played
    clock = Clock(settings)
    page = aboard(browser, address, settings, "Mira", troubles)
    root = f"{address}/r/{pk}"

    def of() -> Refit:
        return kept_of(settings, pk).refit

    def go(path: str, title: str) -> None:
        page.goto(f"{root}/{path}")
        expect(page.get_by_role("heading", level=1)).to_contain_text(title)

    # a trade slips: one act, the calls are named, what can come forward does
    go("visits", "Stays")
    row = page.get_by_text("Ruy Sabran, laminator").locator("xpath=ancestor::div[contains(@class, 'rule')]")
    row.get_by_label("Comes back on").fill("22.5.2026")
    row.get_by_label("Why").fill("other boat")
    row.get_by_role("button", name="comes later").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Ruy Sabran, laminator comes later")
    assert (of().persons["ruy"].absences[-1].first, of().persons["ruy"].absences[-1].last) == (
        datetime(2026, 5, 12, tzinfo=UTC).date(),
        datetime(2026, 5, 21, tzinfo=UTC).date(),
    )
    lay = planned(settings, pk)[1].plan.by_task()["keel-5"]
    assert lay.start >= datetime(2026, 5, 22, 6, tzinfo=UTC)
    expect(page.locator("main")).to_contain_text("Laminate, largest ply first")
    go("morning", "Tuesday 12 May")
    page.locator("#note").get_by_role("button", name="Undo").click()
    expect(page.locator("#note")).to_contain_text("ook back")  # he comes after all: it is taken back as one act

    # the day is closed
    go(f"day/{settings.clock():%Y-%m-%d}", "Tuesday 12 May")
    today = [one for one in planned(settings, pk)[1].plan.assignments if one.start.date() == settings.clock().date()]
    key = next(one.task for one in sorted(today, key=lambda one: one.start) if not of().tasks[one.task].begun_at)
    first = page.locator("fieldset", has_text=of().tasks[key].title)
    first.get_by_label("done").check()
    page.get_by_label("The day in your words").fill("Two coats at last.")
    page.get_by_role("button", name="Close the day").click()
    expect(page.locator("main")).to_contain_text("Two coats at last.")
    assert of().tasks[key].done_at is not None

    # the helper's visit
    clock.to(datetime(2026, 5, 25, 8, tzinfo=UTC))
    go("visits/v1", "Lene's six days")
    expect(page.locator("main")).to_contain_text("Hour by hour")
    go("morning", "Monday 25 May")
    expect(page.locator("main")).to_contain_text("Lene Varga")

    # hand-over: two pages on paper
    go("since?since=12.5.2026", "Since Tue 12 May")
    expect(page.locator("main")).to_contain_text("Do first")
    paper = pypdfium2.PdfDocument(io.BytesIO(page.pdf(format="A4")))
    assert len(paper) <= 2

    # all the work, by its owners and the trades: what stands before the launch is done, the trade's is looked at
    play_the_work(page, root, settings, pk)
    rejected = next(key for key, one in of().tasks.items() if one.title == "Laminate, largest ply first")
    reject(page, root, rejected)
    snag = next(one for one in of().tasks.values() if one.title.startswith("Put right"))
    go("purse/agreement/keel", "Keel joint laminated")
    page.get_by_role("button", name="I looked: it is as agreed").click()
    expect(page.locator("main")).to_contain_text("did not pass")  # what is held back stays
    assert of().agreements[0].accepted_at is None
    tick(page, root, of(), snag.id, "ruy")
    accept_all(page, root, settings, pk)

    # the gate
    go("launch", "Not ready")
    close_what_is_open(page, root, settings, pk)
    clock.to(of().launch_at - 2 * HOUR)
    look_at(page, root, settings, pk, Stage.BEFORE)
    go("launch", "Ready for the slings")
    clock.to(of().launch_at - HOUR)
    for task in [one for one in of().tasks.values() if one.state is State.SLINGS and one.done_at is None]:
        tick(page, root, of(), task.id, "mira")
    accept_all(page, root, settings, pk)
    look_at(page, root, settings, pk, Stage.SLINGS)

    # a leak in the slings, and a night more
    leak = next(
        item
        for item in gate_of(of(), settings.clock()).stages[Stage.SLINGS].items
        if item.title.startswith("Valve: Three")
    )
    page.goto(f"{root}/launch/slings")
    page.get_by_role("button", name=f"It isn’t: {leak.title}").first.click()
    expect(page.locator("main")).to_contain_text("not right")
    page.get_by_role("link", name="Something is wrong").click()
    page.get_by_role("link", name="A fitting weeps").click()
    expect(page.locator("ol")).to_contain_text("Shut its valve")
    before = planned(settings, pk)[1]
    owed = money_of(page)
    page.get_by_role("link", name="Hang another night").click()
    page.get_by_label("Why").fill("valve weeps")
    page.get_by_label("Who stays aboard").select_option("joss")
    page.get_by_role("button", name="Hang her another night").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("She hangs until Fri 12 Jun 11:30")
    expect(page.locator("main")).to_contain_text("140 EUR")
    assert of().launch_at == before.plan.launch + DAY + HOUR
    page.goto(f"{root}/purse")
    assert money_of(page) - owed >= 140  # the night, and what another day costs
    clock.to(of().launch_at - HOUR)
    again = next(one for one in of().tasks.values() if one.title.startswith("Put right in the slings"))
    tick(page, root, of(), again.id, "joss")
    accept_all(page, root, settings, pk)

    # the launch, an hour, a day, a week
    clock.to(settings.clock() + timedelta(minutes=30))
    come_aboard(page, address, settings, "Mira")  # thirty days after she signed in
    for stage in (Stage.BEFORE, Stage.SLINGS):
        look_at(page, root, settings, pk, stage)
    page.goto(f"{root}/launch/slings")
    page.get_by_role("button", name="She floats: let her go").click()
    # as a slow tick this is given up after 8 s and sent again after 15
    expect(page.get_by_role("heading", level=1)).to_have_text("First minutes", timeout=40_000)
    floated = settings.clock()
    for stage, wait in ((Stage.MINUTES, HOUR / 4), (Stage.HOUR, HOUR), (Stage.DAY, DAY), (Stage.WEEK, 7 * DAY)):
        clock.to(floated + wait + timedelta(minutes=5))
        come_aboard(page, address, settings, "Mira")  # after a month she has to
        page.goto(f"{root}/morning")
        expect(page.get_by_role("heading", name="Look at, afloat")).to_be_visible()
        look_at(page, root, settings, pk, stage)
    for task in [one for one in of().tasks.values() if one.state is State.AFLOAT_AFTER and one.done_at is None]:
        tick(page, root, of(), task.id, "joss")

    # the account, and the next refit
    go("account", "What it was")
    expect(page.locator("main")).to_contain_text("later")
    page.get_by_label("In your words").fill("A valve that was new wept.")
    page.get_by_role("button", name="Close the refit").click()
    expect(page.get_by_role("button", name="Open it again")).to_be_visible()
    assert of().closed_at is not None
    page.get_by_role("button", name="Make it").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("Parked")
    fresh = kept_of(settings, int(re.findall(r"/r/(\d+)/", page.url)[0])).refit
    assert fresh.boat == of().boat
    assert "Varnish the coamings" in {one.title for one in fresh.parked}
    assert fresh.haul_at == of().haul_at + timedelta(days=364)
    assert any(person.paces for person in fresh.people)
    page.context.close()
    assert troubles == []


def money_of(page: Page) -> float:
    """The forecast on the Purse's page, in whole units."""
    root = re.match(r"(.*/r/\d+)/", page.url)
    assert root is not None
    answer = page.context.request.get(f"{root[1]}/purse")
    found = re.search(r'<strong class="tabular-nums[^"]*">([\d\u202f.]+) EUR', answer.text())
    assert found is not None
    return float(found[1].replace("\u202f", ""))


def post(page: Page, address: str, form: dict[str, object]) -> None:
    """A form of one's own pages sent from the browser, with its token: what a button does, for the many like it."""
    csrf = page.locator("input[name=csrf]").first.get_attribute("value") or ""
    data, kind = urlencode({"csrf": csrf} | form, doseq=True), {"Content-Type": "application/x-www-form-urlencoded"}
    answer = page.context.request.post(address, data=data, headers=kind, max_redirects=0)
    assert answer.status == 303, f"{address}: {answer.status}"


def tick(page: Page, root: str, made: Refit, key: str, who: str) -> None:
    assert key in made.tasks
    post(page, f"{root}/task/{key}/done", {"crew": who, "anyway": "1", "reason": "so it was", "hours": "1"})


def play_the_work(page: Page, root: str, settings: Settings, pk: int) -> None:
    """Everything before the slings, each by whom the plan has for it, written down as the close of one long day."""
    made = kept_of(settings, pk).refit
    at = planned(settings, pk)[1].plan.by_task()
    dry = [
        one
        for one in made.tasks.values()
        if one.state in (State.ASHORE, State.LIFTING, State.EITHER) and not one.done_at
    ]
    form: dict[str, object] = {"words": "All of it."}
    for n, one in enumerate(sorted(dry, key=lambda one: at[one.id].start if one.id in at else settings.clock())):
        crew = at[one.id].people[0] if one.id in at and at[one.id].people else "mira"
        form |= {f"task-{n}": one.id, f"way-{n}": "done", f"h-{n}-{crew}": "1"}
    post(page, f"{root}/day/{settings.clock():%Y-%m-%d}", form)
    assert all(kept_of(settings, pk).refit.tasks[one.id].done_at for one in dry)


def reject(page: Page, root: str, key: str) -> None:
    page.goto(f"{root}/accept/{key}")
    page.get_by_label("Not right").first.check()
    page.get_by_label("What was seen").first.fill("a hollow under the second coat")
    page.get_by_text("If it is not right").first.click()
    page.get_by_label("Who puts it right").first.select_option("ruy")
    page.locator("select[name=person]").select_option("mira")
    page.get_by_role("button", name="Keep what I saw").click()
    expect(page.locator("main")).to_contain_text("It did not pass.")


def accept_all(page: Page, root: str, settings: Settings, pk: int) -> None:
    from rovask.core.readings.acceptance import unaccepted

    for one in unaccepted(kept_of(settings, pk).refit):
        titles = {f"title-{at}": row.title for at, row in enumerate(one.wanted)}
        post(page, f"{root}/accept/{one.task.id}", titles | {"all": "yes", "person": "mira"})


def close_what_is_open(page: Page, root: str, settings: Settings, pk: int) -> None:
    """What is off, open or borrowed goes back; what is dangerous is settled; then nothing speaks against it."""
    made = kept_of(settings, pk).refit
    for thing in made.off_boat:
        if thing.back_at is None:
            post(page, f"{root}/off/{thing.id}/photo", {"way": "back"})
    for finding in made.findings:
        if not finding.settled:
            post(page, f"{root}/finding/{finding.id}/settle", {"way": "settled"})
    later = settings.clock() + timedelta(days=3)
    for block in gate_of(kept_of(settings, pk).refit, later).blocks:
        raise AssertionError(f"still held: {block.words}")


def look_at(page: Page, root: str, settings: Settings, pk: int, stage: Stage) -> None:
    gate = gate_of(kept_of(settings, pk).refit, settings.clock())
    items = [item.key for item in gate.stages[stage].items if not item.passed]
    slug = {
        Stage.BEFORE: "before",
        Stage.SLINGS: "slings",
        Stage.MINUTES: "minutes",
        Stage.HOUR: "hour",
        Stage.DAY: "day",
        Stage.WEEK: "week",
    }[stage]
    page.goto(f"{root}/launch/{slug}")
    for key in items[:2]:  # by hand; the rest as the buttons send it
        page.locator(f"li[id='{key.replace(' ', '-')}']").get_by_role("button", name="It is so").click()
        # a slow answer is given up after 8 s, and the kept tick is sent again after 15
        expect(page.locator(f"li[id='{key.replace(' ', '-')}']")).to_contain_text("seen", timeout=40_000)
    if items[2:]:
        post(page, f"{root}/launch/tick", {"item": items[2:], "person": "mira"})
