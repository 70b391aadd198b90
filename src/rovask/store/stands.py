"""How an installation stands: whether it can serve, and what its queue, its refits and its photos come to. Nothing of any refit's content."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import func, select, text
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from rovask.core.refit.register import KINDS
from rovask.store import inbox, outbox
from rovask.store.account_tables import AccountRow, SessionRow
from rovask.store.database import reading
from rovask.store.migrate import config_for
from rovask.store.photos import PhotoStore
from rovask.store.post_tables import OutState
from rovask.store.record_tables import RefitRow, table_of
from rovask.store.safety_tables import CopyRow

QUEUES = 6  # of a worker (work/queue.py)


def newest_schema(url: str) -> str:
    """The schema this version of Rovask needs."""
    return str(ScriptDirectory.from_config(config_for(url)).get_current_head())


def schema_of(session: Session) -> str | None:
    """The schema the database has; None for an empty one."""
    return MigrationContext.configure(session.connection()).get_current_revision()


def ready(url: str, photos: PhotoStore) -> dict[str, str]:
    """What serving needs, each with what is wrong with it; "" for nothing."""
    found = {"database": "", "schema": "", "photos": ""}
    try:
        with reading(url) as session:
            has, needs = schema_of(session), newest_schema(url)
        if has != needs:
            found["schema"] = f"it has {has or 'none'} and this version needs {needs}: run rovask migrate"
    except SQLAlchemyError as error:
        found["database"] = f"it does not answer ({type(error).__name__})"
    try:
        photos.look()
    except OSError as error:
        found["photos"] = f"they can't be kept: {error.strerror or type(error).__name__}"
    return found


def figures(session: Session) -> list[tuple[str, str, Mapping[str, float]]]:
    """(name, in words, values) of what is counted for whoever watches."""
    jobs = text("select queue_name, count(*) from procrastinate_jobs where status = 'todo' group by 1")
    waits = {row[0]: float(row[1]) for row in session.execute(jobs)}
    out = outbox.numbers(session)
    return [
        ("rovask_queue_waiting", "Jobs that wait for a worker, by queue", waits),
        ("rovask_queue_oldest_seconds", "Seconds the oldest job has waited", {"any": oldest_waits(session)}),
        ("rovask_workers", "Workers seen in the last minute", {"alive": float(workers_alive(session))}),
        (
            "rovask_outbox",
            "What goes out, by how far it came",
            {state.value: float(out.get(state, 0)) for state in OutState},
        ),
        ("rovask_inbox_given_up", "Told by services and tried no more", {"any": float(inbox.given_up(session))}),
    ]


def oldest_waits(session: Session) -> float:
    """Seconds the oldest job that could run has waited; 0 when none does."""
    query = (
        "select extract(epoch from now() - min(event.at)) from procrastinate_jobs job join procrastinate_events event "
        "on event.job_id = job.id and event.type = 'deferred' where job.status = 'todo'"
    )
    return float(session.scalar(text(query)) or 0)


def workers_alive(session: Session) -> int:
    """How many workers have shown themselves in the last minute; each has a heart for each of its queues."""
    query = "select count(*) from procrastinate_workers where last_heartbeat > now() - interval '60 seconds'"
    return -(-int(session.scalar(text(query)) or 0) // QUEUES)


@dataclass(frozen=True, slots=True)
class LastCopy:
    """When the last backup was made, how large it is, and what went wrong with the newest try; "" for nothing."""

    at: datetime
    file: str
    size: int
    photos: int
    why: str
    checked_at: datetime | None


def last_copies(session: Session, most: int = 10) -> list[LastCopy]:
    """The newest backups, the last first."""
    rows = session.scalars(select(CopyRow).order_by(CopyRow.pk.desc()).limit(most))
    return [LastCopy(row.at, row.file, row.size, row.photos, row.why, row.checked_at) for row in rows]


@dataclass(frozen=True, slots=True)
class RefitSize:
    """A refit as an operator sees it: a number, its size and its age, and nothing of what it says."""

    pk: int
    tasks: int
    changes: int
    photos: int
    photo_bytes: int
    members: int
    acted_at: datetime | None


def refit_sizes(session: Session) -> list[RefitSize]:
    """Every refit by its size, the largest first."""
    task, photo = table_of(KINDS["task"]), table_of(KINDS["photo"])

    def many(table: str) -> str:
        return f"(select count(*) from {table} where {table}.refit_id = refit.pk)"

    query = (
        f"select pk, {many(task.name)} tasks, {many('change')} changes, {many(photo.name)} photos, "
        f"(select coalesce(sum(size), 0) from {photo.name} where refit_id = refit.pk) bytes, {many('member')} members, "
        "(select max(at) from change where refit_id = refit.pk) acted from refit order by tasks desc, pk"
    )
    return [RefitSize(*row) for row in session.execute(text(query))]


def numbers(session: Session, clock: datetime) -> dict[str, int]:
    """How many accounts, sessions and refits there are."""
    return {
        "accounts": session.scalars(select(func.count()).select_from(AccountRow)).one(),
        "sessions": session.scalars(select(func.count()).where(SessionRow.expires_at > clock)).one(),
        "refits": session.scalars(select(func.count()).select_from(RefitRow)).one(),
    }


@dataclass(frozen=True, slots=True)
class AccountSeen:
    """An account as an operator sees it."""

    name: str
    since: datetime
    seen_at: datetime | None
    refits: int
    operator: bool


def accounts_seen(session: Session) -> list[AccountSeen]:
    """Every account, the one seen last first."""
    query = (
        "select name, created_at, (select max(seen_at) from session where account_pk = account.pk) seen, "
        "(select count(*) from member where account_pk = account.pk), operator from account order by seen desc nulls last, pk"
    )
    return [AccountSeen(*row) for row in session.execute(text(query))]


def failed_jobs(session: Session, most: int = 20) -> list[tuple[str, int, datetime | None]]:
    """(task, tries, when) of what the queue has given up, the newest first."""
    query = (
        "select task_name, attempts, (select max(at) from procrastinate_events where job_id = job.id) from procrastinate_jobs job "
        "where status = 'failed' order by id desc limit :most"
    )
    return [(row[0], row[1], row[2]) for row in session.execute(text(query), {"most": most})]


def database_bytes(session: Session) -> int:
    """How large the database is."""
    return int(session.scalar(text("select pg_database_size(current_database())")) or 0)
