"""The queue and its tasks. So far one: look for a better plan of a refit, longer than a request may (search.py).

Every change defers one search for its refit; only one waits or runs for a refit at a time.
"""

from __future__ import annotations

import asyncio
import logging
from datetime import timedelta
from functools import lru_cache

import psycopg
from procrastinate import App, PsycopgConnector, SyncPsycopgConnector
from procrastinate.exceptions import AlreadyEnqueued, ConnectorException
from procrastinate.jobs import Status as JobStatus
from sqlalchemy import text
from sqlalchemy.orm import Session

from rovask.settings import Settings
from rovask.store.searches import ask_to_stop
from rovask.work.search import search

log = logging.getLogger("rovask.work")

STALLED_AFTER = timedelta(seconds=60)
LOOK_FOR_STALLED = 30.0  # seconds
MOST_ATTEMPTS = 3


def queue_app(settings: Settings, *, sync: bool) -> App:
    """The queue on the application's database. ``sync``: for handing work in from the web, which doesn't run it."""
    connector = (
        SyncPsycopgConnector(conninfo=settings.database_url)
        if sync
        else PsycopgConnector(conninfo=settings.database_url, min_size=1, max_size=4)
    )
    app = App(connector=connector)

    @app.task(name="search", queue="plans")
    def search_task(pk: int, seconds: float | None = None) -> None:
        found = search(settings, pk, settings.search_seconds if seconds is None else seconds)
        log.info("refit %s: %s better plans kept", pk, found)

    return app


@lru_cache(maxsize=8)
def door(url: str) -> App:
    """The queue as the web hands work in, opened once for each database."""
    app = queue_app(Settings(database_url=url), sync=True)
    app.open()
    return app


def ask_for_search(url: str, pk: int, seconds: float | None = None) -> None:
    """Have a better plan looked for, unless that already waits. A queue that can't be reached costs nobody their change.

    seconds: how long; None: as the worker's settings say.
    """
    try:
        job = door(url).configure_task("search", queueing_lock=f"search-{pk}", lock=f"refit-{pk}", queue="plans")
        job.defer(pk=pk, seconds=seconds)
    except AlreadyEnqueued:
        pass
    except (ConnectorException, psycopg.Error) as error:
        log.warning("no search for a better plan: %s", error)


def is_waiting(session: Session, pk: int) -> bool:
    """Whether a search of a refit waits for a worker, or has been taken up by one."""
    query = text("select 1 from procrastinate_jobs where lock = :lock and status in ('todo', 'doing') limit 1")
    return session.execute(query, {"lock": f"refit-{pk}"}).first() is not None


def stop_search(session: Session, pk: int) -> None:
    """Stop the search of a refit: one that runs keeps the best it has, one that waits is taken out of the queue."""
    ask_to_stop(session, pk)
    query = "select id from procrastinate_jobs where lock = :lock and status = 'todo'"
    for job in session.scalars(text(query), {"lock": f"refit-{pk}"}).all():
        session.execute(text("select procrastinate_cancel_job_v1(:job, false, false)"), {"job": job})


async def take_up_again(app: App) -> None:
    """Take up what killed workers left behind; what has killed several is given up, for it would kill the next."""
    for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_AFTER.total_seconds()):
        if job.attempts >= MOST_ATTEMPTS:
            log.error("job %s has cost %s workers and is given up", job.id, job.attempts)
            await app.job_manager.finish_job(job, JobStatus.FAILED, delete_job=False)
            continue
        log.warning("job %s of a worker that went silent is taken up again", job.id)
        await app.job_manager.retry_job(job)


async def _recover(app: App) -> None:
    while True:
        await take_up_again(app)
        await asyncio.sleep(LOOK_FOR_STALLED)


async def run_worker(settings: Settings) -> None:
    """Work the queue until told to stop; jobs of a worker that was killed are taken up again first."""
    app = queue_app(settings, sync=False)
    async with app.open_async():
        recovery = asyncio.create_task(_recover(app))
        try:
            await app.run_worker_async(queues=["plans"], concurrency=1, install_signal_handlers=True)
        finally:
            recovery.cancel()
