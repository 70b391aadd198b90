"""One private PostgreSQL for the whole run, without fsync; every test makes its own refits in it."""

from __future__ import annotations

import os
import re
import secrets
import shutil
import tempfile
from collections.abc import Iterator
from datetime import datetime, timedelta
from pathlib import Path
from urllib.parse import urlsplit

import hypothesis
import psycopg
import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text
from sqlalchemy.orm import Session

from rovask.core.refit.model import Refit
from rovask.core.refit.whole import Whole
from rovask.desk.command import Actor
from rovask.desk.door import Desk
from rovask.formats.refit_file import read_refit
from rovask.settings import Settings
from rovask.start import postgres
from rovask.store import accounts
from rovask.store.account_tables import Membership
from rovask.store.base import Base
from rovask.store.database import sessions_for, transaction
from rovask.store.migrate import migrate
from rovask.store.queue import stop_search
from rovask.store.record_tables import RefitRow
from rovask.web.app import create_app


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--long", action="store_true", help="walk many pages and forms of each sort, for hours if need be")


hypothesis.settings.register_profile("rovask", deadline=None)  # how long something takes is for the benches
hypothesis.settings.load_profile("rovask")

DEMO = Path(__file__).parents[1] / "src/rovask/start/demo.refit.json"


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
    return read_refit(DEMO.read_bytes()).refit


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
    return Settings(database_url=database, now=day_9, state=state, helpers=0, settling_seconds=1, surer_seconds=0)


class Browser(TestClient):
    """A browser without scripts. The words of a page are as they are read: where its template goes on in the next line is no
    matter of a test.
    """

    def request(self, *arguments, **more):  # type: ignore[no-untyped-def, override]
        """An answer, one line for what reads as one."""
        answer = super().request(*arguments, **more)
        if answer.headers.get("content-type", "").startswith("text/html"):
            answer._text = re.sub(r"\n +", " ", answer.text)
        return answer


@pytest.fixture
def client(settings: Settings) -> Iterator[TestClient]:
    """A browser nobody has signed in with, and whose address has tried nothing yet."""
    with transaction(settings.database_url) as session:
        session.execute(text("delete from attempt"))
    with Browser(create_app(settings), follow_redirects=False) as client:
        yield client


def account_of(settings: Settings, name: str) -> int:
    """The account of that name, made if there is none."""
    with transaction(settings.database_url) as session:
        return account_of_name(session, settings, name)


class Sailor:
    """Somebody signed in, with the token their forms carry."""

    def __init__(self, client: TestClient, settings: Settings, name: str) -> None:
        self.account = account_of(settings, name)
        with transaction(settings.database_url) as session:
            cookie = accounts.begin_session(session, self.account, "a browser", settings.clock())
            who = accounts.who_is(session, cookie, settings.clock())
        assert who is not None
        self.client, self.csrf, self.cookie, self.settings = client, who.csrf, cookie, settings
        self.who = who

    def joins(self, pk: int, role: Membership = Membership.SKIPPER, person: str | None = None) -> Sailor:
        """A member of a refit."""
        with transaction(self.settings.database_url) as session:
            accounts.join(session, pk, self.account, role, self.settings.clock(), person)
        return self

    def get(self, path: str):  # type: ignore[no-untyped-def]
        return self.client.get(path, headers={"cookie": f"rovask_session={self.cookie}"})

    def post(self, path: str, form: dict[str, object] | None = None, **more: object):  # type: ignore[no-untyped-def]
        data = {"csrf": self.csrf} | (form or {})
        return self.client.post(path, data=data, headers={"cookie": f"rovask_session={self.cookie}"}, **more)  # type: ignore[arg-type]


@pytest.fixture
def sailor(client: TestClient, settings: Settings) -> Sailor:
    """The skipper of the refits that tests make."""
    return Sailor(client, settings, SKIPPER)


@pytest.fixture
def mate(client: TestClient, settings: Settings) -> Sailor:
    """Another skipper of the same refits."""
    return Sailor(client, settings, MATE)


SKIPPER, MATE = "Mira", "Joss"


@pytest.fixture
def desk(settings: Settings) -> Desk:
    return Desk(settings)


# Of a refit, held so that its id() stays its own: one that was kept at a moment and that nobody is handed.
_MASTERS: dict[tuple[str, datetime | None, int], tuple[Refit, int]] = {}
LARGE = 40  # tasks: what takes a second to keep is kept once


def kept_for_both(settings: Settings, refit: Refit, told: str = "loaded") -> int:
    """A refit with both skippers in it. A large one that was kept before at this moment is copied row by row."""
    same = (settings.database_url, settings.now, id(refit))
    if told == "loaded" and len(refit.tasks) > LARGE:
        if same not in _MASTERS:
            _MASTERS[same] = refit, _kept(settings, refit, told)
        return _copied(settings, _MASTERS[same][1])
    return _kept(settings, refit, told)


def _kept(settings: Settings, refit: Refit, told: str) -> int:
    pk = Desk(settings).add(Actor(account_of(settings, SKIPPER)), Whole(refit), told).pk
    with transaction(settings.database_url) as session:
        accounts.join(session, pk, account_of_name(session, settings, MATE), Membership.SKIPPER, settings.clock())
        stop_search(session, pk)  # each test asks for its own
    return pk


def _copied(settings: Settings, pk: int) -> int:
    """A copy of a refit as it was just kept, with all that belongs to it."""
    with transaction(settings.database_url) as session:
        columns = ", ".join(column.name for column in RefitRow.__table__.columns if column.name != "pk")
        new = session.scalar(
            text(f"insert into refit ({columns}) select {columns} from refit where pk = :pk returning pk"), {"pk": pk}
        )
        for table in Base.metadata.sorted_tables:
            if "refit_id" in table.columns:
                rest = ", ".join(
                    f'"{column.name}"' for column in table.columns if column.name not in ("pk", "refit_id")
                )
                session.execute(
                    text(
                        f"insert into {table.name} (refit_id, {rest}) select :new, {rest} from {table.name} where refit_id = :pk"
                    ),
                    {"new": new, "pk": pk},
                )
    assert new is not None
    return int(new)


def account_of_name(session: Session, settings: Settings, name: str) -> int:
    row = accounts.account_named(session, name) or accounts.new_account(session, name, settings.clock())
    return row.pk


@pytest.fixture
def demo_pk(settings: Settings, demo: Refit) -> int:
    """A demo refit of this test's own."""
    return kept_for_both(settings, demo)


@pytest.fixture
def empty_pk(settings: Settings, day_9: datetime) -> int:
    """A refit with nothing in it but its givens."""
    from tests.builders import refit

    made = refit(jobs=[], haul_at=day_9.replace(hour=8), launch_at=day_9 + timedelta(days=20))
    return kept_for_both(settings, made)


@pytest.fixture(scope="session")
def shown_pk(database: str, day_9: datetime, state: Path, demo: Refit) -> int:
    """One demo for all tests that only read."""
    return kept_for_both(
        Settings(database_url=database, now=day_9, state=state, helpers=0, settling_seconds=1, surer_seconds=0), demo
    )
