"""Looks an installation over: each line says what was looked at, whether it is well, and what to do where it isn't."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import timedelta
from enum import StrEnum

from sqlalchemy import text
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from rovask.settings import Settings
from rovask.store import stands
from rovask.store.database import reading
from rovask.store.photos import photo_store

LEAST_POSTGRES = 150000  # server_version_num
LEAST_FREE_MB = 500
OLD_COPY = timedelta(hours=36)
WAITS_LONG = 600.0  # seconds
CLOCKS_APART = 30.0  # seconds


class Health(StrEnum):
    """How something is."""

    WELL = "ok"
    SO_SO = "look"
    ILL = "BAD"


@dataclass(frozen=True, slots=True)
class Found:
    """One thing that was looked at."""

    what: str
    health: Health
    words: str


def look_over(settings: Settings) -> Iterator[Found]:
    """Everything there is to look at, the most needed first; what needs a database that is away is left out."""
    photos = photo_store(settings.state, settings.photos_url, settings.photos_endpoint, settings.photos_region)
    try:
        with reading(settings.database_url) as session:
            session.execute(text("select 1"))
    except SQLAlchemyError as error:
        yield Found("database", Health.ILL, f"does not answer ({type(error).__name__}); is ROVASK_DATABASE_URL right?")
    else:
        yield from _database(settings)
    try:
        photos.look()
        yield Found("photos", Health.WELL, settings.photos_url or f"{settings.state / 'photos'}")
    except OSError as error:
        yield Found("photos", Health.ILL, f"can't be kept: {error.strerror}")
    free = shutil.disk_usage(settings.state if settings.state.exists() else ".").free >> 20
    yield Found("disk", Health.WELL if free > LEAST_FREE_MB else Health.ILL, f"{free} MB free in {settings.state}")
    if settings.beyond_loopback and not settings.hosts:
        yield Found("names", Health.SO_SO, "others can reach the pages under any name: set ROVASK_HOSTS")


def _database(settings: Settings) -> Iterator[Found]:
    with reading(settings.database_url) as session:
        number = int(session.scalar(text("show server_version_num")) or 0)
        yield Found(
            "database",
            Health.WELL if number >= LEAST_POSTGRES else Health.ILL,
            f"PostgreSQL {number // 10000}.{number % 10000}"
            + ("" if number >= LEAST_POSTGRES else "; 15 or newer is needed"),
        )
        has, needs = stands.schema_of(session), stands.newest_schema(settings.database_url)
        if has != needs:
            yield Found("schema", Health.ILL, f"{has or 'none'}, this version needs {needs}: run rovask migrate")
            return
        yield Found("schema", Health.WELL, str(has))
        apart = abs(
            (session.execute(text("select clock_timestamp()")).scalar_one() - Settings().clock()).total_seconds()
        )
        if settings.now is None:
            words = f"{apart:.0f} s between this machine and the database"
            yield Found("clock", Health.WELL if apart < CLOCKS_APART else Health.SO_SO, words)
        yield from _running(session, settings)


def _running(session: Session, settings: Settings) -> Iterator[Found]:
    alive, oldest = stands.workers_alive(session), stands.oldest_waits(session)
    yield Found(
        "workers", Health.WELL if alive else Health.SO_SO, f"{alive} alive" + ("" if alive else ": run rovask worker")
    )
    waits = "" if oldest < WAITS_LONG else f"the oldest job has waited {oldest / 60:.0f} min: run another rovask worker"
    yield Found("queue", Health.SO_SO if waits else Health.WELL, waits or "nothing has waited long")
    copies = stands.last_copies(session, 1)
    if not copies:
        yield Found("backup", Health.SO_SO, "none was ever made: run rovask backup")
    elif copies[0].why:
        yield Found("backup", Health.ILL, f"the last one failed: {copies[0].why}")
    else:
        old = settings.clock() - copies[0].at > OLD_COPY
        yield Found(
            "backup", Health.SO_SO if old else Health.WELL, f"{copies[0].file}, {copies[0].at:%d %b %Y %H:%M} UTC"
        )
