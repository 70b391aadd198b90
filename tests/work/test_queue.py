"""What the queue does with the work of workers that died, and who starts the next one."""

from __future__ import annotations

import asyncio
import os
import signal
import time
from concurrent.futures import ThreadPoolExecutor

import pytest
from sqlalchemy import text

from rovask.settings import Settings
from rovask.start.serve import _Minded
from rovask.store.database import transaction
from rovask.work import queue


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


def test_a_worker_that_dies_is_started_again_and_one_that_is_stopped_is_not(settings: Settings) -> None:
    minded = _Minded(settings)
    try:
        first = minded.process
        os.kill(first.pid, signal.SIGKILL)
        deadline = time.monotonic() + 15
        while minded.process is first and time.monotonic() < deadline:
            time.sleep(0.05)
        assert minded.process is not first
        assert minded.process.poll() is None
    finally:
        minded.stop()
    second = minded.process
    assert second.poll() is not None
    time.sleep(1.5)
    assert minded.process is second
