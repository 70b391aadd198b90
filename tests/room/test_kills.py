"""Killed at random while people act: nothing that was acknowledged is lost, nothing is done twice, and it is up again by itself.

A short form runs with the tests; two hundred kills, some twenty minutes, with ``./rovask test tests/room --long``.
"""

from __future__ import annotations

import json
import random
import shutil
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

import pytest
from sqlalchemy import text

from rovask.core.plan.verify.check import verify
from rovask.core.refit.stores.choices import OrderState
from rovask.desk.door import Desk
from rovask.settings import Settings
from rovask.start.postgres import running_url
from rovask.store import refits
from rovask.store.database import sessions_for, transaction
from tests.room.installation import Room, Said, quantity_of, room

WHAT = ("web", "worker", "database", "reader")
KEEPER = "keeper"  # of pages and worker: it reads all of the code again before it begets them
SAILORS, SHORT, LONG = 3, 4, 200
UP_WITHIN, KEEPER_WITHIN = (
    10.0,
    20.0,
)  # seconds, with nothing beside it; the tests of this file may share the machine with others
SLOWER = 5.0  # times, beside other tests


@pytest.fixture
def state() -> Iterator[Path]:
    folder = Path(tempfile.mkdtemp(prefix="rovask-room-", dir="/var/tmp"))
    folder.chmod(0o755)
    yield folder
    shutil.rmtree(folder, ignore_errors=True)


def test_nothing_acknowledged_is_lost_and_nothing_done_twice(
    state: Path, request: pytest.FixtureRequest, capsys: pytest.CaptureFixture[str]
) -> None:
    long = bool(request.config.getoption("--long"))
    kills, chosen = LONG if long else SHORT, random.Random(26)
    order = [WHAT[number % len(WHAT)] for number in range(kills)] + [KEEPER] * max(1, kills // 40)
    chosen.shuffle(order)
    up: dict[str, list[float]] = {what: [] for what in (*WHAT, KEEPER)}
    with room(state) as here:
        browsers = [here.signed_in() for _ in range(SAILORS)]
        root, csrf = here.begin_refit(browsers[0])
        for one in browsers[1:]:
            one.cookies = browsers[0].cookies
        crowd = [
            threading.Thread(target=here.act_on, args=(browser, root, csrf, seed))
            for seed, browser in enumerate(browsers)
        ]
        for one in crowd:
            one.start()
        for number, what in enumerate(order):
            time.sleep(chosen.uniform(0.2, 2.5))
            while not here.kill(what, chosen):
                time.sleep(0.1)
            up[what].append(here.until_up())
            if long:
                with capsys.disabled():
                    print(f"{number + 1} {what}: up again after {up[what][-1]:.1f} s", flush=True)
        time.sleep(2)
        here.over.set()
        for one in crowd:
            one.join(timeout=120)
        for browser in browsers:
            browser.close()
        assert not any(one.is_alive() for one in crowd)
        pk = int(root.rpartition("/")[2])
        url = running_url(state)
        assert url is not None
        settle(url, here)
        judge(url, state, pk, here)
        sessions_for(url).kw["bind"].dispose()
    figures = {
        "kills": len(order),
        "acts": len(here.said),
        "acknowledged": sum(one.acknowledged for one in here.said),
        "sent_again": sum(max(one.sent - 1, 0) for one in here.said),
        "up_s": {
            what: {"median": sorted(took)[len(took) // 2], "worst": max(took)} for what, took in up.items() if took
        },
    }
    with capsys.disabled():
        print(json.dumps(figures))
    slower = 1 if long else SLOWER
    bounds = {what: (KEEPER_WITHIN if what == KEEPER else UP_WITHIN) * slower for what in up}
    assert all(took <= bounds[what] for what, all_of in up.items() for took in all_of), figures
    assert sum(one.acknowledged for one in here.said) > kills


def settle(url: str, here: Room, seconds: float = 180.0) -> None:
    """Wait until nothing is left to be sent; the pauses between two tries, up to an hour, are not waited for."""
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        with transaction(url) as session:
            session.execute(text("update procrastinate_jobs set scheduled_at = now() where status = 'todo'"))
            left = session.scalar(text("select count(*) from outbox where state = 'waits'"))
        if not left:
            return
        time.sleep(0.5)
    raise AssertionError(f"{left} orders were never sent")


def judge(url: str, state: Path, pk: int, here: Room) -> None:
    """What is there against what was said."""
    with transaction(url) as session:
        kept = refits.load(session, pk)
        changes = session.scalar(text("select count(*) from change where refit_id = :pk"), {"pk": pk})
        photos = dict(session.execute(text("select id, sha256 from photo where refit_id = :pk"), {"pk": pk}).all())
    refit = kept.refit
    assert changes == kept.revision  # no change without its place in the history, none twice
    there = Counter(one.title for one in refit.findings)
    there += Counter(one.title for one in refit.entries)
    there += Counter(f"order {one.quantity:g}" for one in refit.order_lines)
    acts = [one for one in here.said if one.kind != "send"]
    lost = [one.title for one in acts if one.acknowledged and not there[found_as(one)]]
    twice = [one.title for one in acts if there[found_as(one)] > 1]
    assert (lost, twice) == ([], [])
    assert len(refit.orders) <= sum(one.kind == "order" for one in acts)
    store = Desk(Settings(database_url=url, state=state)).photos
    shown = [one for one in refit.findings if one.title.startswith("photo")]
    assert all(one.photos for one in shown)
    assert {photo for one in shown for photo in one.photos} == photos.keys()
    assert all(store.content(sha256) for sha256 in photos.values())
    sends = [one for one in here.said if one.kind == "send" and one.acknowledged]
    taken = [one for one in refit.orders if one.state is not OrderState.PLACED]
    assert len(taken) >= len(sends)
    marks = {one.mark for one in taken}
    assert set(here.shop.by_key) == marks  # each once, under its own mark, and none that was not handed over
    assert all(one.state is OrderState.ACKNOWLEDGED for one in taken), Counter(one.state for one in taken)
    desk = Desk(Settings(database_url=url, state=state))
    planned = desk.planning.current(kept, desk.settings.clock())
    assert verify(refit, planned.plan) == []


def found_as(one: Said) -> str:
    """By which words an act is found again."""
    return f"order {quantity_of(one.title)}" if one.kind == "order" else one.title
