"""The wish for a search, handed to the worker's queue in the transaction of the change that gives rise to it."""

from __future__ import annotations

import json

from sqlalchemy import text
from sqlalchemy.orm import Session

from rovask.store.searches import ask_to_stop

TASK, QUEUE = "search", "plans"
SEND_TASK, SEND_QUEUE = "send-order", "orders"
PLAY_TASK, PLAY_QUEUE = "play", "odds"
LAY_TASK, DATE_TASK, CHOICE_QUEUE = "lay-out", "make-date", "choices"
WAITING = (
    "exists (select from procrastinate_jobs where lock = :lock and status in ('todo', 'doing'))"  # lock: ``lock_of``
)
_DEFER = """
insert into procrastinate_jobs (queue_name, task_name, priority, lock, queueing_lock, args, scheduled_at)
values (:queue, :task, 0, :lock, :queueing_lock, cast(:args as jsonb), null)
on conflict do nothing
"""


def wish_for_search(session: Session, pk: int, seconds: float | None = None) -> None:
    """Have a better plan of a refit looked for once this transaction is committed, unless that already waits.

    seconds: how long; None: as the worker's settings say. Written as procrastinate's own ``defer`` writes it, but in
    this transaction: a change that is kept is searched for, and one that isn't leaves no wish behind.
    """
    values = {"queue": QUEUE, "task": TASK, "lock": lock_of(pk), "queueing_lock": f"search-{pk}"}
    session.execute(text(_DEFER), values | {"args": json.dumps({"pk": pk, "seconds": seconds})})


def wish_to_send(session: Session, pk: int, order: str) -> None:
    """Have an order sent to its supplier's service once this transaction is committed."""
    name = f"order-{pk}-{order}"
    values = {"queue": SEND_QUEUE, "task": SEND_TASK, "lock": name, "queueing_lock": name}
    session.execute(text(_DEFER), values | {"args": json.dumps({"pk": pk, "order": order})})


def wish_to_play(session: Session, pk: int) -> None:
    """Have the odds of a refit worked out once this transaction is committed, unless that already waits."""
    name = f"odds-{pk}"
    values = {"queue": PLAY_QUEUE, "task": PLAY_TASK, "lock": name, "queueing_lock": name}
    session.execute(text(_DEFER), values | {"args": json.dumps({"pk": pk})})


def wish_to_lay(session: Session, pk: int, ways: str) -> None:
    """Have ways laid side by side once this transaction is committed, unless that already waits. One choice of a refit at a time."""
    values = {"queue": CHOICE_QUEUE, "task": LAY_TASK, "lock": f"lay-{pk}", "queueing_lock": f"lay-{pk}-{ways}"}
    session.execute(text(_DEFER), values | {"args": json.dumps({"pk": pk, "ways": ways})})


def is_laid(session: Session, pk: int, ways: str) -> bool:
    """Whether ways wait to be laid out, or are being."""
    waits = "select exists (select from procrastinate_jobs where queueing_lock = :name and status in ('todo', 'doing'))"
    return bool(session.scalar(text(waits), {"name": f"lay-{pk}-{ways}"}))


def wish_to_make_date(session: Session, pk: int) -> None:
    """Have it looked for what makes the date once this transaction is committed, unless that already waits."""
    name = f"date-{pk}"
    values = {"queue": CHOICE_QUEUE, "task": DATE_TASK, "lock": name, "queueing_lock": name}
    session.execute(text(_DEFER), values | {"args": json.dumps({"pk": pk})})


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
