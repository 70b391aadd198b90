"""The queue and its tasks. So far one: look longer for a better first plan than a request may.

Every change defers one search for its refit; only one waits or runs for a refit at a time. A search keeps a
plan only if the refit is still at the revision it was made for, the verifier passed it, and it is better.
"""

from __future__ import annotations

import logging
from datetime import datetime, timedelta
from functools import lru_cache

import psycopg
from procrastinate import App, PsycopgConnector, SyncPsycopgConnector
from procrastinate.exceptions import AlreadyEnqueued, ConnectorException
from sqlalchemy import text
from sqlalchemy.orm import Session

from rovask.core.plan.planner import Planned
from rovask.settings import Settings
from rovask.store import refits
from rovask.store.database import transaction
from rovask.store.errors import StoreError

log = logging.getLogger("rovask.work")

SEARCH_STARTS = 60
SEARCH_ROUNDS = 6
STALLED_AFTER = timedelta(seconds=60)


def search(settings: Settings, pk: int) -> int:
    """Look for a better plan of a refit in rounds; returns how many better ones were kept."""
    kept_ones = 0
    for round_ in range(SEARCH_ROUNDS):
        with transaction(settings.database_url) as session:
            try:
                kept = refits.load(session, pk)
            except StoreError:
                return kept_ones  # removed meanwhile
            clock = settings.clock()
            best = refits.current_plan(session, kept, clock)
        if not kept.refit.tasks:
            return kept_ones
        found = refits.verified(kept.refit, best.plan.now, SEARCH_STARTS, seed=1000 * kept.revision + round_)
        with transaction(settings.database_url) as session:
            kept_ones += _keep_if_better(session, pk, kept.revision, found, clock)
    return kept_ones


def _keep_if_better(session: Session, pk: int, revision: int, found: Planned, clock: datetime) -> bool:
    session.execute(text("select 1 from refit where pk = :pk for update"), {"pk": pk})
    try:
        now = refits.load(session, pk)
    except StoreError:
        return False
    if now.revision != revision:
        return False
    best = refits.current_plan(session, now, clock)
    if best.plan.now != found.plan.now or not refits.better(found, best, now.refit):
        return False
    refits.keep_plan(session, now, found, clock)
    return True


def queue_app(settings: Settings, *, sync: bool) -> App:
    """The queue on the application's database. ``sync``: for handing work in from the web, which doesn't run it."""
    connector = (
        SyncPsycopgConnector(conninfo=settings.database_url)
        if sync
        else PsycopgConnector(conninfo=settings.database_url, min_size=1, max_size=4)
    )
    app = App(connector=connector)

    @app.task(name="search", queue="plans")
    def search_task(pk: int) -> None:
        log.info("refit %s: %s better plans kept", pk, search(settings, pk))

    return app


@lru_cache(maxsize=8)
def door(url: str) -> App:
    """The queue as the web hands work in, opened once for each database."""
    app = queue_app(Settings(database_url=url), sync=True)
    app.open()
    return app


def ask_for_search(url: str, pk: int) -> None:
    """Have a better plan looked for, unless that already waits. A queue that can't be reached costs nobody their change."""
    try:
        job = door(url).configure_task("search", queueing_lock=f"search-{pk}", lock=f"refit-{pk}", queue="plans")
        job.defer(pk=pk)
    except AlreadyEnqueued:
        pass
    except (ConnectorException, psycopg.Error) as error:
        log.warning("no search for a better plan: %s", error)


def is_searching(session: Session, pk: int) -> bool:
    """Whether a better plan of a refit is being looked for, or waits to be."""
    query = text("select 1 from procrastinate_jobs where lock = :lock and status in ('todo', 'doing') limit 1")
    return session.execute(query, {"lock": f"refit-{pk}"}).first() is not None


async def run_worker(settings: Settings) -> None:
    """Work the queue until told to stop; jobs of a worker that was killed are taken up again first."""
    app = queue_app(settings, sync=False)
    async with app.open_async():
        for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_AFTER.total_seconds()):
            await app.job_manager.retry_job(job)
        await app.run_worker_async(queues=["plans"], concurrency=1, install_signal_handlers=True)
