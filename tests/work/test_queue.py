"""What dies comes back: work of workers that were killed, the workers, the database; and nothing stays behind."""

from __future__ import annotations

import asyncio
import json
import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from sqlalchemy import text

from rovask.desk.command import Actor
from rovask.desk.commands.house import LiftStarving
from rovask.desk.door import Desk
from rovask.settings import Settings
from rovask.start import postgres
from rovask.start.children import Book, Command, Mind
from rovask.start.sockets import free_port
from rovask.store import queue as wishes
from rovask.store import stands
from rovask.store.database import sessions_for, transaction
from rovask.store.migrate import migrate
from rovask.web.app import create_app
from rovask.work import queue
from tests.conftest import Browser, Sailor


def orphan(settings: Settings, attempts: int) -> int:
    """A job whose worker was killed an hour ago, the last of so many."""
    with transaction(settings.database_url) as session:
        session.execute(text("delete from procrastinate_jobs"))
        worker = session.scalar(
            text("insert into procrastinate_workers (last_heartbeat) values (now() - interval '1 hour') returning id")
        )
        job = session.scalar(
            text(
                "insert into procrastinate_jobs (queue_name, task_name, lock, args, status, attempts, worker_id) "
                "values ('plans', 'search', 'refit-1', '{\"pk\": 1}', 'doing', :attempts, :worker) returning id"
            ),
            {"attempts": attempts, "worker": worker},
        )
    assert isinstance(job, int)
    return job


def status(settings: Settings, job: int) -> str:
    with transaction(settings.database_url) as session:
        return str(session.scalar(text("select status from procrastinate_jobs where id = :job"), {"job": job}))


def test_work_that_was_wished_for_again_meanwhile_waits_once(settings: Settings) -> None:
    """A worker is killed while it plays, and a change wishes for the same: the dead one's gives way, and its lock with it."""
    with transaction(settings.database_url) as session:
        session.execute(text("delete from procrastinate_jobs"))
        worker = session.scalar(
            text("insert into procrastinate_workers (last_heartbeat) values (now() - interval '1 hour') returning id")
        )
        add = (
            "insert into procrastinate_jobs (queue_name, task_name, lock, queueing_lock, args, status, worker_id) "
            "values ('odds', 'play', 'odds-1', 'odds-1', '{\"pk\": 1}', :status, :worker) returning id"
        )
        dead = session.scalar(text(add), {"status": "doing", "worker": worker})
        waits = session.scalar(text(add), {"status": "todo", "worker": None})
    assert isinstance(dead, int)
    assert isinstance(waits, int)

    async def look() -> None:
        app = queue.queue_app(settings)
        async with app.open_async():
            await queue.take_up_again(app)

    with ThreadPoolExecutor(1) as pool:  # the browser tests' event loop runs in this thread
        pool.submit(lambda: asyncio.run(look())).result()
    assert (status(settings, dead), status(settings, waits)) == ("failed", "todo")


@pytest.mark.parametrize(("attempts", "then"), [(0, "todo"), (1, "todo"), (queue.MOST_ATTEMPTS, "failed")])
def test_work_of_a_dead_worker_is_taken_up_again_but_not_for_ever(settings: Settings, attempts: int, then: str) -> None:
    job = orphan(settings, attempts)

    async def look() -> None:
        app = queue.queue_app(settings)
        async with app.open_async():
            await queue.take_up_again(app)

    with ThreadPoolExecutor(1) as pool:  # the browser tests' event loop runs in this thread
        pool.submit(lambda: asyncio.run(look())).result()
    assert status(settings, job) == then


def test_who_acted_last_is_searched_first_nobody_for_ever_and_shorter_the_more_wait(settings: Settings) -> None:
    def next_ones(count: int) -> list[int]:
        """Which refits a worker takes up, by procrastinate's own function."""
        fetch = text("select (procrastinate_fetch_job_v2(array['plans']::varchar[], :worker)).args ->> 'pk'")
        with transaction(settings.database_url) as session:
            worker = session.scalar(
                text("insert into procrastinate_workers (last_heartbeat) values (now()) returning id")
            )
            return [int(session.scalar(fetch, {"worker": worker})) for _ in range(count)]

    with transaction(settings.database_url) as session:
        session.execute(text("delete from procrastinate_jobs"))
        session.execute(text("delete from procrastinate_workers"))
    for pk in (901, 902, 903, 904):
        with transaction(settings.database_url) as session:
            wishes.wish_for_search(session, pk)
            wishes.wish_for_search(session, pk)  # tapped twice: once in the queue
        time.sleep(1.05)
    with transaction(settings.database_url) as session:
        assert wishes.waiting(session) == 4
        session.execute(
            text(
                "update procrastinate_events set at = now() - interval '5 minutes' where job_id = "
                "(select id from procrastinate_jobs where args ->> 'pk' = '902')"
            )
        )
    Desk(settings).run(Actor(None), LiftStarving())
    assert next_ones(4) == [902, 904, 903, 901]
    with transaction(settings.database_url) as session:
        session.execute(text("delete from procrastinate_jobs"))
        session.execute(text("delete from procrastinate_workers"))
    shares = [wishes.fair_seconds(60, many, 2) for many in range(300)]
    assert shares == sorted(shares, reverse=True)
    assert (shares[0], min(shares)) == (60, wishes.LEAST_SECONDS)
    # forty that wait are all searched within what two workers have in usual times of one, or at the least each may take
    assert sum(shares[many] for many in range(41)) / 2 < 60 * 5


def test_what_dies_is_started_again_and_what_is_stopped_is_not(settings: Settings, tmp_path: Path) -> None:
    environment = {"ROVASK_DATABASE_URL": settings.database_url}
    worker = Command("worker", ["worker"], lambda: environment, Book(tmp_path))
    worker.start()
    first = worker.process
    assert first is not None
    said: list[str] = []
    mind = Mind([worker], said.append)
    try:
        os.kill(first.pid, signal.SIGKILL)
        wait_until(lambda: worker.process is not first and worker.alive())
    finally:
        mind.stop()
    assert said == ["The worker ended by itself and is started again."]
    assert not worker.alive()
    time.sleep(1.5)
    assert not worker.alive()


def test_children_end_with_a_parent_that_is_killed(settings: Settings, tmp_path: Path) -> None:
    """A worker and a stand-in whose parent was killed with -9 are gone within a few seconds, by themselves."""
    code = (
        "import os, sys, time; from pathlib import Path; from rovask.start.children import Book, begin_child\n"
        "book = Book(Path(sys.argv[1]))\n"
        "for words in (['worker'], ['weather-standin', '--port', sys.argv[2]]):\n"
        "    book.note(begin_child(words, {}).pid)\n"
        "print('ready', flush=True); time.sleep(60)"
    )
    environment = os.environ | {"ROVASK_DATABASE_URL": settings.database_url}
    command = [sys.executable, "-c", code, str(tmp_path), str(free_port())]
    with subprocess.Popen(command, stdout=subprocess.PIPE, env=environment) as parent:
        assert parent.stdout is not None
        assert parent.stdout.readline() == b"ready\n"
        pids = [int(pid) for pid in json.loads((tmp_path / "children.json").read_text())]
        assert len(pids) == 2
        time.sleep(3)  # long enough for both to have begun their watch
        assert all(alive(pid) for pid in pids)
        parent.kill()
    wait_until(lambda: not any(alive(pid) for pid in pids))


def test_a_start_tidies_away_what_an_earlier_one_left_and_nothing_else(tmp_path: Path) -> None:
    left, foreign = (subprocess.Popen(["sleep", "60"]) for _ in range(2))
    book = Book(tmp_path)
    book.note(left.pid)
    rows = json.loads(book.path.read_text())
    book.path.write_text(json.dumps(rows | {str(foreign.pid): "1"}))  # its number belongs to another process by now
    threading.Thread(target=left.wait).start()
    try:
        assert Book(tmp_path).tidy() == 1
        assert left.wait(timeout=5) != 0
        assert foreign.poll() is None
        assert Book(tmp_path).tidy() == 0
    finally:
        foreign.kill()
        foreign.wait()


def test_a_private_database_that_is_killed_comes_back_and_pages_with_it(
    tmp_path_factory: pytest.TempPathFactory,
) -> None:
    state = tmp_path_factory.mktemp("pg")
    server = postgres.start(postgres.data_folder(state, "pg", say=lambda *_: None), say=lambda *_: None)
    mind = Mind([server], print)
    try:
        migrate(server.url)
        own = Settings(database_url=server.url)
        client = Browser(create_app(own), follow_redirects=False)
        sailor = Sailor(client, own, "Mira")
        assert sailor.get("/").status_code == 200
        assert server.process is not None
        os.kill(server.process.pid, signal.SIGKILL)
        server.process.wait()
        assert sailor.get("/").status_code == 503
        wait_until(lambda: sailor.get("/").status_code != 503, 60)
        assert sailor.get("/").status_code == 200  # still signed in: what was committed just before is there
    finally:
        sessions_for(server.url).kw["bind"].dispose()
        mind.stop()


def alive(pid: int) -> bool:
    try:
        return "Z" not in Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0]
    except OSError:
        return False


def wait_until(true: Callable[[], bool], seconds: float = 20) -> None:
    deadline = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < deadline
        time.sleep(0.1)


def test_a_worker_is_counted_once_however_many_hearts_it_has() -> None:
    assert len(queue.QUEUES) == stands.QUEUES
