"""A disk that fills up, connections that are cut, a clock that is set back: told, survived, and nothing acknowledged is lost."""

from __future__ import annotations

import os
import shutil
import subprocess
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import suppress
from datetime import timedelta
from pathlib import Path

import httpx2 as httpx
import psycopg
import pytest
from sqlalchemy import text

from rovask.core.plan.verify.check import verify
from rovask.desk.door import Desk
from rovask.settings import Settings
from rovask.start.postgres import running_url
from rovask.store import refits
from rovask.store.database import sessions_for, transaction
from rovask.web.app import create_app
from tests.acts import kept_of
from tests.conftest import Browser, Sailor
from tests.desk.test_one_door import SCREENS
from tests.room.installation import Room, room

DISK_MB = 900


@pytest.fixture
def small_disk() -> Iterator[Path]:
    """A disk of its own; only who administers a machine may make one."""
    folder = Path(tempfile.mkdtemp(prefix="rovask-disk-", dir="/var/tmp"))
    made = subprocess.run(["mount", "-t", "tmpfs", "-o", f"size={DISK_MB}m", "none", str(folder)], capture_output=True)
    if made.returncode:
        folder.rmdir()
        pytest.skip("nobody but root can make a small disk here")
    folder.chmod(0o755)
    try:
        yield folder
    finally:
        for _ in range(50):
            if subprocess.run(["umount", str(folder)], capture_output=True).returncode == 0:
                break
            time.sleep(0.2)
        shutil.rmtree(folder, ignore_errors=True)


def fill(disk: Path) -> Path:
    """Take every byte that is left."""
    path = disk / "filler"
    with path.open("ab", buffering=0) as file, suppress(OSError):
        while True:
            file.write(bytes(1 << 20))
    with path.open("ab", buffering=0) as file, suppress(OSError):
        while True:
            file.write(bytes(4096))
    return path


def titles(here: Room, pk: int) -> set[str]:
    url = running_url(here.state)
    assert url is not None
    with transaction(url) as session:
        found = {one.title for one in refits.load(session, pk).refit.findings}
    sessions_for(url).kw["bind"].dispose()
    return found


def found(browser: httpx.Client, root: str, csrf: str, title: str, photo: bytes | None = None) -> int:
    """Its status; 0 for no answer at all."""
    files = {"photo": ("a.jpg", photo, "image/jpeg")} if photo else None
    form = {"csrf": csrf, "title": title, "severity": "watch", "mark": title.replace(" ", "")}
    with suppress(httpx.HTTPError):
        answer = browser.post(f"{root}/found", data=form, files=files)
        if answer.status_code != 303:  # what was typed stands on whatever page it is answered with
            assert "<!doctype html>" in answer.text
            assert title in answer.text
        return answer.status_code
    return 0


def test_a_disk_that_fills_up_is_told_and_once_there_is_room_it_goes_on_by_itself(small_disk: Path) -> None:
    with room(small_disk) as here, here.signed_in() as browser:
        root, csrf = here.begin_refit(browser)
        pk = int(root.rpartition("/")[2])
        assert found(browser, root, csrf, "before 0") == 303
        filler = fill(small_disk)
        kept, statuses = {"before 0"}, []
        for number in range(12):
            title = f"full {number}"
            statuses.append(found(browser, root, csrf, title, os.urandom(64)))
            if statuses[-1] == 303:
                kept.add(title)
            time.sleep(0.3)
        filler.unlink()
        assert here.until_up(120) < 120
        deadline = time.monotonic() + 120
        while found(browser, root, csrf, "after 0") != 303:
            assert time.monotonic() < deadline
            time.sleep(0.5)
        assert kept | {"after 0"} <= titles(here, pk) <= kept | {"after 0"} | {f"full {n}" for n in range(12)}
        assert set(statuses) <= {0, 303, 422, 500, 503}


def test_connections_that_are_cut_again_and_again_lose_nothing(tmp_path: Path) -> None:
    state = Path(tempfile.mkdtemp(prefix="rovask-room-", dir="/var/tmp"))
    state.chmod(0o755)
    try:
        with room(state) as here, here.signed_in() as browser:
            root, csrf = here.begin_refit(browser)
            url = running_url(state)
            assert url is not None
            over = threading.Event()

            def cut() -> None:
                query = "select pg_terminate_backend(pid) from pg_stat_activity where pid <> pg_backend_pid() and usename = user"
                while not over.wait(0.15):
                    with suppress(psycopg.Error), psycopg.connect(url) as connection:
                        connection.execute(query)

            cutter = threading.Thread(target=cut)
            cutter.start()
            wanted = {f"cut {number}" for number in range(15)}
            for title in sorted(wanted):
                deadline = time.monotonic() + 120
                while found(browser, root, csrf, title) != 303:
                    assert time.monotonic() < deadline, title
            over.set()
            cutter.join()
            assert here.until_up(60) < 60
            assert titles(here, int(root.rpartition("/")[2])) == wanted
            with transaction(url) as session:
                assert session.scalar(text("select count(*) from finding")) == len(wanted)
            sessions_for(url).kw["bind"].dispose()
    finally:
        shutil.rmtree(state, ignore_errors=True)


def test_a_clock_that_is_set_back_stops_nobody(settings: Settings, demo_pk: int) -> None:
    """Acted on at noon, then the clock says ten: pages open, what is done is kept in its order, and can be taken back."""
    told: list[str] = []
    for hours in (3.0, 1.0, -30.0, 3.5):
        at = settings.model_copy(update={"now": settings.clock() + timedelta(hours=hours)})
        with Browser(create_app(at), follow_redirects=False) as client:
            sailor = Sailor(client, at, "Mira").joins(demo_pk)
            title = f"seen at {hours:g}"
            done = sailor.post(f"/r/{demo_pk}/found", {"title": title, "severity": "watch"})
            assert done.status_code == 303, done.text[:2000]
            told.append(title)
            task = next(one.id for one in kept_of(at, demo_pk).refit.tasks.values() if one.begun_at is None)
            logged = sailor.post(f"/r/{demo_pk}/task/{task}/hours", {"hours": "0.5", "person": "mira"})
            assert logged.status_code in (303, 409, 422), logged.text[:2000]
            for screen in ("morning", "slip", "log", "progress", "purse", "since", "odds", "launch"):
                assert screen in SCREENS or screen == "since"
                assert sailor.get(f"/r/{demo_pk}/{screen}").status_code in (200, 303), (hours, screen)
            kept = kept_of(at, demo_pk)
            planned = Desk(at).planning.current(kept, at.clock())
            assert verify(kept.refit, planned.plan) == []
    assert set(told) <= {one.title for one in kept_of(settings, demo_pk).refit.findings}
    with transaction(settings.database_url) as session:
        order = session.scalars(
            text("select revision from change where refit_id = :pk order by pk"), {"pk": demo_pk}
        ).all()
    assert list(order) == sorted(order)
    with Browser(create_app(settings), follow_redirects=False) as client:
        sailor = Sailor(client, settings, "Mira")
        assert sailor.post(f"/r/{demo_pk}/undo").status_code == 303
