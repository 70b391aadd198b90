"""The connection to PostgreSQL: reading sees one moment, writing is one transaction."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache

from sqlalchemy import Engine, create_engine
from sqlalchemy.orm import Session, sessionmaker


def sqlalchemy_url(url: str) -> str:
    """The same address for SQLAlchemy with psycopg 3; accepts postgresql:// and postgres:// addresses."""
    scheme, _, rest = url.partition("://")
    if scheme.partition("+")[0] not in ("postgresql", "postgres"):
        raise ValueError("ROVASK_DATABASE_URL must begin with postgresql://")
    return f"postgresql+psycopg://{rest}"


_SECONDS: dict[str, float] = {"statement_timeout": 0, "lock_timeout": 0}  # 0: none
IDLE_SECONDS = (
    300  # with a transaction open and nothing asked: whoever holds it is stuck, and others may wait for its locks
)


def allow_seconds(statement: float, lock: float) -> None:
    """After how long the database gives up a statement, or waiting for a lock, for all connections that are opened from now on."""
    _SECONDS.update(statement_timeout=statement, lock_timeout=lock)


def engine_for(url: str, *, patient: bool = False) -> Engine:
    """A pooled engine that notices a server that went away and came back. What is said to the database never stands in a fault.

    patient: with no limits of time, for migrations and copies.
    """
    times = {} if patient else _SECONDS | {"idle_in_transaction_session_timeout": IDLE_SECONDS}
    return create_engine(
        sqlalchemy_url(url),
        pool_size=5,
        max_overflow=10,
        pool_pre_ping=True,
        hide_parameters=True,
        connect_args={
            "connect_timeout": 5,
            "application_name": "rovask",
            "options": " ".join(f"-c {name}={round(seconds * 1000)}" for name, seconds in times.items()),
        },
    )


@cache
def sessions_for(url: str) -> sessionmaker[Session]:
    """Sessions on one engine for each address, for good: one that fell out of here would leave its connections open."""
    return sessionmaker(engine_for(url), expire_on_commit=False)


@contextmanager
def transaction(url: str) -> Iterator[Session]:
    """One transaction: committed at the end, rolled back on any error."""
    with sessions_for(url).begin() as session:
        yield session


@contextmanager
def reading(url: str) -> Iterator[Session]:
    """One moment of the database: every statement sees what the first saw, and none can write."""
    with sessions_for(url).begin() as session:
        options = {"isolation_level": "REPEATABLE READ", "postgresql_readonly": True}
        session.connection(execution_options=options)
        yield session


def home(session: Session) -> str:
    """Which database a session is on: part of the key of everything remembered of it."""
    return str(session.get_bind().engine.url)


def home_of(url: str) -> str:
    """``home`` of the sessions on an address."""
    return str(sessions_for(url).kw["bind"].url)
