"""The queue and its tasks: look for a better plan of a refit, longer than a request may (search.py); send an order to its
supplier's service (orders.py); play it thousands of times for its odds (odds.py), which wait for no search; and lay ways side by
side (choices.py), two at a time.

Every change wishes for one search of its refit (store/queue.py); only one waits or runs for a refit at a time.
"""

from __future__ import annotations

import asyncio
import logging
import signal
from contextlib import suppress
from datetime import timedelta

from procrastinate import App, PsycopgConnector, RetryStrategy
from procrastinate.exceptions import ConnectorException
from procrastinate.jobs import Status as JobStatus

from rovask.desk.callbacks import do_what_was_told
from rovask.desk.command import Actor
from rovask.desk.commands.house import LiftStarving
from rovask.desk.commands.post import SendForgotten
from rovask.desk.door import Desk
from rovask.settings import Settings
from rovask.store.database import reading
from rovask.store.queue import (
    CHOICE_QUEUE,
    DATE_TASK,
    HOUSE_QUEUE,
    HOUSE_TASK,
    KEEP_UP_QUEUE,
    KEEP_UP_TASK,
    LAY_TASK,
    PLAY_QUEUE,
    PLAY_TASK,
    QUEUE,
    SEND_QUEUE,
    SEND_TASK,
    TASK,
    fair_seconds,
    waiting,
)
from rovask.store.request_number import NUMBER
from rovask.store.stands import workers_alive
from rovask.work import tryers
from rovask.work.choices import lay, look_for_date
from rovask.work.house import keep_house
from rovask.work.keeping_up import keep_up
from rovask.work.odds import play
from rovask.work.orders import send_order
from rovask.work.search import search

log = logging.getLogger("rovask.work")

QUEUES = (
    (QUEUE, 1),
    (SEND_QUEUE, 2),
    (PLAY_QUEUE, 1),
    (CHOICE_QUEUE, 2),
    (HOUSE_QUEUE, 1),
    (KEEP_UP_QUEUE, 1),
)  # and how many at once of each
ENDS_WITHIN = 4.0  # seconds what is under way has, once the worker is told to stop
KEEP_UP_CRON = "* * * * *"
HOUSE_CRON = "*/10 * * * *"  # looked at so often; what is done then is due or not
STALLED_AFTER = timedelta(seconds=60)
LOOK_FOR_STALLED = 30.0  # seconds
LOOKS_TO_AN_HOUR = 120
DONE_KEPT_HOURS = 24
MOST_ATTEMPTS = 3
FORGOTTEN_AFTER = timedelta(seconds=90)
ROVASK = Actor(None)
SEND_ATTEMPTS = 6  # of an order whose supplier gives no answer; each later than the one before


def queue_app(settings: Settings) -> App:
    """The queue on the application's database."""
    app = App(connector=PsycopgConnector(conninfo=settings.database_url, min_size=1, max_size=4))

    @app.task(name=TASK, queue=QUEUE)
    def search_task(pk: int, seconds: float | None = None, request: str = "") -> None:
        NUMBER.set(request)
        found = search(settings, pk, _fair(settings) if seconds is None else seconds)
        log.info("refit %s: %s better plans kept", pk, found)

    @app.task(name=SEND_TASK, queue=SEND_QUEUE, retry=RetryStrategy(max_attempts=SEND_ATTEMPTS, exponential_wait=5))
    def send_task(pk: int, order: str, request: str = "") -> None:
        NUMBER.set(request)
        log.info("refit %s: order %s: %s", pk, order, send_order(settings, pk, order))

    @app.task(name=PLAY_TASK, queue=PLAY_QUEUE)
    def play_task(pk: int, request: str = "") -> None:
        NUMBER.set(request)
        log.info("refit %s: odds %s", pk, "kept" if play(settings, pk) else "not kept")

    @app.task(name=LAY_TASK, queue=CHOICE_QUEUE)
    def lay_task(pk: int, ways: str, request: str = "") -> None:
        NUMBER.set(request)
        log.info("refit %s: ways %s %s", pk, ways, "laid out" if lay(settings, pk, ways) else "not laid out")

    @app.task(name=DATE_TASK, queue=CHOICE_QUEUE)
    def date_task(pk: int, request: str = "") -> None:
        NUMBER.set(request)
        log.info("refit %s: what makes the date: %s", pk, look_for_date(settings, pk))

    @app.periodic(cron=HOUSE_CRON)
    @app.task(name=HOUSE_TASK, queue=HOUSE_QUEUE, queueing_lock=HOUSE_TASK, lock=HOUSE_TASK)
    def house_task(timestamp: int) -> None:
        log.info("the house at %s", timestamp)
        keep_house(settings)

    @app.periodic(cron=KEEP_UP_CRON)
    @app.task(name=KEEP_UP_TASK, queue=KEEP_UP_QUEUE, queueing_lock=KEEP_UP_TASK, lock=KEEP_UP_TASK)
    def keep_up_task(timestamp: int) -> None:
        made = keep_up(settings)
        if made:
            log.info("at %s %s plans were brought up to their half-hour", timestamp, made)

    return app


def _fair(settings: Settings) -> float:
    """How long this search may take, with those that wait for one."""
    with reading(settings.database_url) as session:
        return fair_seconds(settings.search_seconds, waiting(session), workers_alive(session))


async def take_up_again(app: App) -> None:
    """Take up what killed workers left behind; what has killed several is given up, for it would kill the next."""
    for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_AFTER.total_seconds()):
        if job.attempts >= MOST_ATTEMPTS:
            log.error("job %s has cost %s workers and is given up", job.id, job.attempts)
            await app.job_manager.finish_job(job, JobStatus.FAILED, delete_job=False)
            continue
        log.warning("job %s of a worker that went silent is taken up again", job.id)
        try:
            await app.job_manager.retry_job(job)
        except ConnectorException:  # the same was wished for again meanwhile and waits, so this one need not come back
            await app.job_manager.finish_job(job, JobStatus.FAILED, delete_job=False)


async def forget_done(app: App) -> None:
    """Take jobs away that were done a day ago; those that failed stay for whoever asks why."""
    await app.job_manager.delete_old_jobs(nb_hours=DONE_KEPT_HOURS, include_cancelled=True, include_aborted=True)


async def _recover(app: App, settings: Settings) -> None:
    while True:
        await forget_done(app)
        for _ in range(LOOKS_TO_AN_HOUR):
            await take_up_again(app)
            await asyncio.to_thread(_post, settings)
            await asyncio.sleep(LOOK_FOR_STALLED)


def _post(settings: Settings) -> None:
    """Do what was told and is due; have sent what waits and nobody is about to send."""
    desk = Desk(settings)
    do_what_was_told(desk)
    desk.run(ROVASK, LiftStarving())
    desk.run(ROVASK, SendForgotten(FORGOTTEN_AFTER.total_seconds(), SEND_ATTEMPTS))


def _told_to_stop() -> asyncio.Event:
    """Set once somebody tells this process to stop, where it may listen for that."""
    told, loop = asyncio.Event(), asyncio.get_running_loop()
    for sign in (signal.SIGTERM, signal.SIGINT):
        with suppress(NotImplementedError, RuntimeError, ValueError):  # not in a thread of something larger
            loop.add_signal_handler(sign, told.set)
    return told


async def run_worker(settings: Settings, told: asyncio.Event | None = None) -> bool:
    """Work the queue until told to stop; jobs of a worker that was killed are taken up again first.

    What is under way then has some seconds to end. Returns whether all of it did; what did not, a search say, is taken up by the next worker,
    once the process is gone and its heart has stopped beating.
    """
    app, told = queue_app(settings), told or _told_to_stop()
    async with app.open_async():
        recovery = asyncio.create_task(_recover(app, settings))
        working = [
            asyncio.create_task(app.run_worker_async(queues=[name], concurrency=many, install_signal_handlers=False))
            for name, many in QUEUES
        ]
        stops = asyncio.create_task(told.wait())
        try:
            await asyncio.wait([stops, *working], return_when=asyncio.FIRST_COMPLETED)
        finally:
            stops.cancel()
            recovery.cancel()
            for one in working:
                one.cancel()
            _, under_way = await asyncio.wait(working, timeout=ENDS_WITHIN)
            tryers.close()
        for one in working:
            if one.done() and not one.cancelled() and (error := one.exception()) is not None:
                raise error
        return not under_way
