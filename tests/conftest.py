"""One private PostgreSQL for the whole run, without fsync; every test makes its own refits in it."""

from __future__ import annotations

import os
import secrets
import shutil
import tempfile
from collections.abc import Iterator
from datetime import datetime, timedelta
from pathlib import Path
from urllib.parse import urlsplit

import psycopg
import pytest
from fastapi.testclient import TestClient

from rovask.core.refit.model import Refit
from rovask.formats.refit_file import read_refit
from rovask.settings import Settings
from rovask.start import postgres
from rovask.store import accounts, refits
from rovask.store.database import sessions_for, transaction
from rovask.store.migrate import migrate
from rovask.web.app import create_app

DEMO = Path(__file__).parents[1] / "demo/demo.refit.json"


@pytest.fixture(scope="session")
def database() -> Iterator[str]:
    """Address of an empty, migrated database: on a private server, or a new one on ROVASK_DATABASE_URL's."""
    given = os.environ.pop("ROVASK_DATABASE_URL", "")
    if given:
        yield from _on_given_server(given)
        return
    state = Path(tempfile.mkdtemp(prefix="rovask-test-", dir="/var/tmp"))
    state.chmod(0o755)
    server = postgres.start(postgres.data_folder(state, "pg"), durable=False, say=lambda *_: None)
    try:
        migrate(server.url)
        yield server.url
        sessions_for(server.url).kw["bind"].dispose()
    finally:
        server.stop()
        shutil.rmtree(state, ignore_errors=True)


def _on_given_server(given: str) -> Iterator[str]:
    """A database of this run's own beside the one that was named, dropped at the end; that one is not touched."""
    name = f"rovask_test_{secrets.token_hex(4)}"
    with psycopg.connect(given, autocommit=True) as connection:
        connection.execute(f'create database "{name}"')
    parts = urlsplit(given)
    url = parts._replace(path=f"/{name}").geturl()
    try:
        migrate(url)
        yield url
        sessions_for(url).kw["bind"].dispose()
    finally:
        with psycopg.connect(given, autocommit=True) as connection:
            connection.execute(f'drop database "{name}" with (force)')


@pytest.fixture(scope="session")
def demo() -> Refit:
    return read_refit(DEMO.read_bytes())


@pytest.fixture(scope="session")
def day_9(demo: Refit) -> datetime:
    """The moment the demo is loaded as of."""
    return max(entry.at for entry in demo.hours_log) + timedelta(minutes=30)


@pytest.fixture(scope="session")
def state(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Where photos of this run lie."""
    return tmp_path_factory.mktemp("state")


@pytest.fixture
def settings(database: str, day_9: datetime, state: Path) -> Settings:
    return Settings(database_url=database, now=day_9, state=state)


@pytest.fixture
def client(settings: Settings) -> Iterator[TestClient]:
    """A browser nobody has signed in with."""
    with TestClient(create_app(settings), follow_redirects=False) as client:
        yield client


class Sailor:
    """Somebody signed in, with the token their forms carry."""

    def __init__(self, client: TestClient, settings: Settings, name: str) -> None:
        with transaction(settings.database_url) as session:
            account = accounts.account_named(session, name, settings.clock())
            cookie = accounts.use_link(
                session, accounts.make_link(session, account, settings.clock()), settings.clock()
            )
            who = accounts.who_is(session, cookie, settings.clock())
        assert who is not None
        self.client, self.csrf, self.cookie, self.account = client, who.csrf, cookie, who.account

    def get(self, path: str):  # type: ignore[no-untyped-def]
        return self.client.get(path, headers={"cookie": f"rovask_session={self.cookie}"})

    def post(self, path: str, form: dict[str, object] | None = None, **more: object):  # type: ignore[no-untyped-def]
        data = {"csrf": self.csrf} | (form or {})
        return self.client.post(path, data=data, headers={"cookie": f"rovask_session={self.cookie}"}, **more)  # type: ignore[arg-type]


@pytest.fixture
def sailor(client: TestClient, settings: Settings) -> Sailor:
    return Sailor(client, settings, "Mira")


@pytest.fixture
def mate(client: TestClient, settings: Settings) -> Sailor:
    return Sailor(client, settings, "Joss")


@pytest.fixture
def demo_pk(settings: Settings, demo: Refit) -> int:
    """A demo refit of this test's own."""
    with transaction(settings.database_url) as session:
        return refits.add(session, demo, who=None, what="loaded", clock=settings.clock()).pk


@pytest.fixture
def empty_pk(settings: Settings, day_9: datetime) -> int:
    """A refit with nothing in it but its givens."""
    from tests.builders import refit

    made = refit(jobs=[], haul_at=day_9.replace(hour=8), launch_at=day_9 + timedelta(days=20))
    with transaction(settings.database_url) as session:
        return refits.add(session, made, who=None, what="loaded", clock=settings.clock()).pk
