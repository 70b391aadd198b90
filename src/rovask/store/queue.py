"""The wish for a search, handed to the worker's queue in the transaction of the change that gives rise to it."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any

from sqlalchemy import text
from sqlalchemy.orm import Session

from rovask.store.request_number import number
from rovask.store.searches import ask_to_stop

TASK, QUEUE = "search", "plans"
SEND_TASK, SEND_QUEUE = "send-order", "orders"
PLAY_TASK, PLAY_QUEUE = "play", "odds"
HOUSE_TASK, HOUSE_QUEUE = "keep-house", "house"
KEEP_UP_TASK, KEEP_UP_QUEUE = "keep-up", "half-hours"
LAY_TASK, DATE_TASK, CHOICE_QUEUE = "lay-out", "make-date", "choices"
WAITING = (
    "exists (select from procrastinate_jobs where lock = :lock and status in ('todo', 'doing'))"  # lock: ``lock_of``
)
_ALONE = text("select pg_advisory_xact_lock(hashtextextended(:queueing_lock, 0))")
_DEFER = text(  # procrastinate's own function, with a row of its type, as its package calls it
    "select procrastinate_defer_jobs_v1(array[row(:queue, :task, coalesce(cast(:priority as integer), "
    "cast(extract(epoch from now()) - 1700000000 as integer)), :lock, :queueing_lock, cast(:args as jsonb), null)]"
    "::procrastinate_job_to_defer_v1[]) where not exists "
    "(select from procrastinate_jobs where queueing_lock = :queueing_lock and status = 'todo')"
)


# Whoever acted last is searched first; what has waited long comes before all, so that nobody waits for ever.
LIFTED = 2_000_000_000
STARVES_AFTER = 240  # seconds
_LIFT = text(
    "update procrastinate_jobs set priority = :lifted where queue_name = :queue and status = 'todo' and priority < :lifted and id in "
    "(select job_id from procrastinate_events where type = 'deferred' and at < now() - make_interval(secs => :long))"
)
LEAST_SECONDS = 4.0


def _defer(
    session: Session,
    queue: str,
    task: str,
    lock: str,
    queueing_lock: str,
    args: Mapping[str, Any],
    priority: int | None = 0,
) -> None:
    """Have a task done once this transaction is committed, unless the same waits already.

    priority: the higher comes first; None: the later it is wished for, the higher.

    In this transaction, so that a change that is kept is followed up and one that isn't leaves no wish behind.
    """
    values = {"queue": queue, "task": task, "lock": lock, "queueing_lock": queueing_lock, "priority": priority}
    session.execute(_ALONE, values)  # whoever wishes for the same in this very moment waits for this transaction
    session.execute(_DEFER, values | {"args": json.dumps(dict(args) | {"request": number()})})


def wish_for_search(session: Session, pk: int, seconds: float | None = None) -> None:
    """Have a better plan of a refit looked for once this transaction is committed, unless that already waits.

    seconds: how long; None: as the worker's settings say.
    """
    _defer(session, QUEUE, TASK, lock_of(pk), f"search-{pk}", {"pk": pk, "seconds": seconds}, None)


def lift_starving(session: Session) -> None:
    """Put searches that have waited long before all others."""
    session.execute(_LIFT, {"lifted": LIFTED, "queue": QUEUE, "long": STARVES_AFTER})


def waiting(session: Session) -> int:
    """How many refits wait to be searched."""
    query = "select count(*) from procrastinate_jobs where queue_name = :queue and status = 'todo'"
    return int(session.scalar(text(query), {"queue": QUEUE}) or 0)


def fair_seconds(usual: float, waiting: int, workers: int) -> float:
    """How long one refit is searched while others wait: the usual time shared among those that wait, and never next to nothing.

    >>> fair_seconds(60, 0, 1), fair_seconds(60, 2, 1), fair_seconds(60, 5, 2), fair_seconds(60, 200, 2), fair_seconds(2, 9, 1)
    (60.0, 20.0, 17.142857142857142, 4.0, 2.0)
    """
    workers = max(workers, 1)
    return float(min(max(usual * workers / (workers + waiting), LEAST_SECONDS), usual))


def wish_to_send(session: Session, pk: int, order: str) -> None:
    """Have an order sent to its supplier's service once this transaction is committed."""
    name = f"order-{pk}-{order}"
    _defer(session, SEND_QUEUE, SEND_TASK, name, name, {"pk": pk, "order": order})


def wish_to_play(session: Session, pk: int) -> None:
    """Have the odds of a refit worked out once this transaction is committed, unless that already waits."""
    name = f"odds-{pk}"
    _defer(session, PLAY_QUEUE, PLAY_TASK, name, name, {"pk": pk})


def wish_to_lay(session: Session, pk: int, ways: str) -> None:
    """Have ways laid side by side once this transaction is committed, unless that already waits. One choice of a refit at a time."""
    _defer(session, CHOICE_QUEUE, LAY_TASK, f"lay-{pk}", f"lay-{pk}-{ways}", {"pk": pk, "ways": ways})


def is_laid(session: Session, pk: int, ways: str) -> bool:
    """Whether ways wait to be laid out, or are being."""
    waits = "select exists (select from procrastinate_jobs where queueing_lock = :name and status in ('todo', 'doing'))"
    return bool(session.scalar(text(waits), {"name": f"lay-{pk}-{ways}"}))


def wish_to_make_date(session: Session, pk: int) -> None:
    """Have it looked for what makes the date once this transaction is committed, unless that already waits."""
    name = f"date-{pk}"
    _defer(session, CHOICE_QUEUE, DATE_TASK, name, name, {"pk": pk})


def lock_of(pk: int) -> str:
    """What one search of a refit at a time holds."""
    return f"refit-{pk}"


def is_waiting(session: Session, pk: int) -> bool:
    """Whether a search of a refit waits for a worker, or has been taken up by one."""
    return bool(session.scalar(text(f"select {WAITING}"), {"lock": lock_of(pk)}))


def stop_search(session: Session, pk: int) -> None:
    """Stop the search of a refit: one that runs keeps the best it has, one that waits is taken out of the queue."""
    ask_to_stop(session, pk)
    query = "select id from procrastinate_jobs where lock = :lock and status = 'todo'"
    for job in session.scalars(text(query), {"lock": lock_of(pk)}).all():
        session.execute(text("select procrastinate_cancel_job_v1(:job, false, false)"), {"job": job})
