"""The parts of an installation as commands of their own, run for real: exit codes, health, figures, log lines, hosts and proxies."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import time
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path

import httpx2 as httpx
import psycopg
import pytest
from prometheus_client.parser import text_string_to_metric_families
from sqlalchemy import text

from rovask.settings import Settings
from rovask.start import postgres
from rovask.start.errors import StartError
from rovask.start.sockets import free_port
from rovask.store import accounts
from rovask.store.backup.restore import beside
from rovask.store.database import sessions_for, transaction
from rovask.web.app import create_app
from tests.conftest import Browser, Sailor

COMMAND = [sys.executable, "-u", "-m", "rovask.start.cli"]


class Machine:
    """Commands of Rovask on one database, each with its own folder of state."""

    def __init__(self, url: str, state: Path) -> None:
        self.url, self.state = url, state
        self.environment = {name: value for name, value in os.environ.items() if not name.startswith("ROVASK_")} | {
            "ROVASK_DATABASE_URL": url,
            "ROVASK_STATE": str(state),
            "ROVASK_LOG": "json",
            "ROVASK_HELPERS": "0",
        }

    def run(self, *words: str, **more: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [*COMMAND, *words], env=self.environment | more, capture_output=True, text=True, timeout=120, check=False
        )

    def begin(self, *words: str, **more: str) -> subprocess.Popen[str]:
        return subprocess.Popen(
            [*COMMAND, *words],
            env=self.environment | more,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.PIPE,
            text=True,
        )


@pytest.fixture
def empty(database: str) -> Iterator[str]:
    with beside(database) as url:
        yield url
        sessions_for(url).kw["bind"].dispose()


def answers(url: str, seconds: float = 40) -> httpx.Response:
    deadline = time.monotonic() + seconds
    while True:
        try:
            return httpx.get(url, timeout=5)
        except httpx.HTTPError:
            if time.monotonic() > deadline:
                raise
            time.sleep(0.1)


def test_from_an_empty_database_to_pages_a_worker_and_a_backup(empty: str, tmp_path: Path, demo_json: bytes) -> None:
    here = Machine(empty, tmp_path / "state")
    early = here.run("web", "--port", str(free_port()))
    assert (early.returncode, "run rovask migrate" in early.stderr) == (3, True)
    ill = here.run("doctor")
    assert ill.returncode == 1
    assert "BAD  schema" in ill.stdout
    assert here.run("migrate").stdout.strip() == "schema 0017"
    port, other = free_port(), free_port()
    pages = [here.begin("web", "--port", str(one), ROVASK_METRICS_TOKEN="let me see") for one in (port, other)]
    worker = here.begin("worker")
    try:
        assert [answers(f"http://127.0.0.1:{one}/healthz").text for one in (port, other)] == ["ok\n"] * 2
        ready = answers(f"http://127.0.0.1:{port}/readyz")
        assert (ready.status_code, ready.json()) == (
            200,
            {"ready": True, "database": "ok", "schema": "ok", "photos": "ok"},
        )
        link = here.run("link", "--base", f"http://127.0.0.1:{port}").stdout.strip()
        with httpx.Client(follow_redirects=False) as browser:
            entered = browser.post(link, headers={"x-request-id": "request-of-this-test"})
            assert entered.status_code == 303
            csrf = browser.get(f"http://127.0.0.1:{port}/").text.partition('name="csrf" value="')[2].partition('"')[0]
            made = browser.post(
                f"http://127.0.0.1:{other}/import",
                data={"csrf": csrf},
                files={"file": ("demo.refit.json", demo_json)},
                headers={"x-request-id": "the-import"},
                timeout=60,
            )
            assert made.status_code == 303, made.text
            assert browser.get(f"http://127.0.0.1:{port}{made.headers['location']}", timeout=60).status_code == 200
        assert httpx.get(f"http://127.0.0.1:{port}/metrics").status_code == 404
        figures = httpx.get(f"http://127.0.0.1:{port}/metrics", headers={"authorization": "Bearer let me see"}).text
        found = {family.name: family for family in text_string_to_metric_families(figures)}
        routes = {sample.labels["route"] for sample in found["rovask_answers"].samples}
        assert "/come-aboard/{token}" in routes
        assert found["rovask_workers"].samples[0].value == 1
        deadline = time.monotonic() + 60
        while time.monotonic() < deadline:
            with psycopg.connect(empty) as connection:
                row = connection.execute(
                    "select count(*) from procrastinate_jobs where task_name = 'search' and status <> 'todo'"
                ).fetchone()
            if row and row[0]:
                break
            time.sleep(0.2)
        well = here.run("doctor")
        assert well.returncode == 0, well.stdout
        copied = here.run("backup", "--to", str(tmp_path / "copies"))
        assert copied.returncode == 0, copied.stderr
        assert here.run("restore", "--check", copied.stdout.strip()).returncode == 0
    finally:
        told = []
        for one in (*pages, worker):
            one.terminate()
            told.append(one.communicate(timeout=30)[1])
    assert [one.returncode for one in (*pages, worker)] == [0, 0, 0]
    lines = [json.loads(line) for line in told[1].splitlines() if line.startswith("{")]
    imported = next(line for line in lines if line.get("request") == "the-import")
    assert (imported["method"], imported["route"], imported["status"]) == ("POST", "/import", 303)
    worked = [json.loads(line) for line in told[2].splitlines() if line.startswith("{")]
    assert any(line["request"] == "the-import" for line in worked), told[2]  # what the worker did is found by it too
    whole = "".join(told)
    token = link.rpartition("/")[2]
    assert token not in whole
    assert "Skipper" not in whole  # no name of anybody
    assert "rovask_session" not in whole


@pytest.fixture
def demo_json() -> bytes:
    return (Path(__file__).parents[2] / "src/rovask/start/demo.refit.json").read_bytes()


def test_without_a_database_each_says_so_in_one_line(tmp_path: Path) -> None:
    away = Machine(f"postgresql://nobody@127.0.0.1:{free_port()}/none", tmp_path)
    none = Machine("", tmp_path)
    begun = [(away.begin(word), word) for word in ("web", "migrate", "backup", "doctor")]
    begun += [(none.begin(word), word) for word in ("worker", "link")]
    for process, word in begun:
        told = process.communicate(timeout=120)[1]
        assert process.returncode == (1 if word == "doctor" else 2), (word, told)
        assert len(told.strip().splitlines()) == (0 if word == "doctor" else 1), told


def test_a_database_that_goes_is_not_ready_and_its_process_lives(settings: Settings) -> None:
    gone = settings.model_copy(update={"database_url": f"postgresql://nobody@127.0.0.1:{free_port()}/none"})
    client = Browser(create_app(gone), follow_redirects=False)
    assert client.get("/healthz").status_code == 200
    ready = client.get("/readyz")
    assert ready.status_code == 503
    assert "does not answer" in ready.json()["database"]


def test_only_our_names_are_served_and_only_trusted_proxies_believed(settings: Settings) -> None:
    ours = settings.model_copy(update={"hosts": "boats.example", "trusted_proxies": "10.0.0.1"})
    app = create_app(ours)
    client = Browser(app, base_url="http://boats.example", follow_redirects=False, client=("10.0.0.1", 5))
    assert client.get("/sign-in").status_code == 200
    other = client.get("/sign-in", headers={"host": "evil.example"})
    assert other.status_code == 400
    assert other.headers["content-security-policy"]
    assert client.get("/healthz", headers={"host": "172.16.0.9"}).status_code == 200
    said = {"x-forwarded-for": "203.0.113.9", "x-forwarded-proto": "https"}
    assert "strict-transport-security" in client.get("/sign-in", headers=said).headers
    stranger = Browser(app, base_url="http://boats.example", follow_redirects=False, client=("203.0.113.5", 5))
    assert "strict-transport-security" not in stranger.get("/sign-in", headers=said).headers


def test_a_number_is_given_to_each_request_and_none_with_words_in_it_is_taken(client: Browser) -> None:
    given = client.get("/healthz", headers={"x-request-id": "abc-123-def"}).headers["x-request-id"]
    own = client.get("/healthz", headers={"x-request-id": "mira@boat.example, hello"}).headers["x-request-id"]
    assert (given, len(own)) == ("abc-123-def", 12)


def test_a_statement_that_takes_too_long_and_a_lock_that_is_never_given_end(
    settings: Settings, sailor: Sailor, demo_pk: int
) -> None:
    from rovask.store.database import allow_seconds, engine_for

    allow_seconds(0.3, 0.2)
    engine = engine_for(settings.database_url)
    allow_seconds(settings.statement_seconds, settings.lock_seconds)
    with engine.connect() as connection, pytest.raises(Exception, match="statement timeout"):
        connection.execute(text("select pg_sleep(5)"))
    with transaction(settings.database_url) as holder, engine.connect() as waiting:
        holder.execute(text("select pk from refit where pk = :pk for update"), {"pk": demo_pk})
        with pytest.raises(Exception, match="lock timeout"):
            waiting.execute(text("select pk from refit where pk = :pk for update"), {"pk": demo_pk})
    engine.dispose()


def test_no_connection_is_held_while_it_is_planned(
    settings: Settings, sailor: Sailor, demo_pk: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Planning took seconds of an open transaction: fifteen boats that planned at once were all the connections there are."""
    from rovask.desk import keeping, planning

    engine = sessions_for(settings.database_url).kw["bind"]
    held = []
    for module, name in ((keeping, "verified"), (planning, "later")):
        real = getattr(module, name)

        def looked(*given, _real=real, **more):  # type: ignore[no-untyped-def]
            held.append(engine.pool.checkedout())
            return _real(*given, **more)

        monkeypatch.setattr(module, name, looked)
    sailor.get(f"/r/{demo_pk}/morning")
    answer = sailor.post(f"/r/{demo_pk}/task/tops-1/hours", {"hours": "1", "person": "mira"})
    assert answer.status_code == 303
    assert held
    assert max(held) == 0


def test_a_database_of_another_major_version_is_opened_by_its_own_programs_or_told(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def has(*versions: int) -> None:
        monkeypatch.setattr(postgres, "INSTALLED", tmp_path / f"usr{versions}")
        for one in versions:
            programs = tmp_path / f"usr{versions}" / str(one) / "bin"
            programs.mkdir(parents=True, exist_ok=True)
            (programs / "postgres").touch()

    data = tmp_path / "pg"
    data.mkdir()
    has(15, 17)
    assert postgres.binaries_for(data).parent.name == "17"  # a new one is made by the newest
    (data / "PG_VERSION").write_text("15\n")
    assert postgres.binaries_for(data).parent.name == "15"
    has(17)
    with pytest.raises(
        StartError, match=r"made by PostgreSQL 15, and this machine has 17.*apt-get install postgresql-15"
    ):
        postgres.binaries_for(data)
    assert (data / "PG_VERSION").read_text() == "15\n"


def test_a_start_that_nobody_watches_puts_its_link_where_only_its_owner_reads_it(
    settings: Settings, tmp_path: Path
) -> None:
    """The link stood in the logs of a container, which many read and which are kept."""
    from rovask.start.serve import _words

    own = settings.model_copy(update={"state": tmp_path})
    assert "come-aboard/secret" in _words(own, "secret", shown=True)
    told = _words(own, "secret", shown=False)
    assert "secret" not in told
    file = tmp_path / "sign-in-link"
    assert str(file) in told
    assert file.stat().st_mode & 0o077 == 0
    assert file.read_text().endswith("come-aboard/secret\n")


def test_an_operator_is_made_and_unmade_by_whoever_can_run_it(empty: str, tmp_path: Path, day_9: datetime) -> None:
    here = Machine(empty, tmp_path)
    here.run("migrate")
    with transaction(empty) as session:
        accounts.new_account(session, "Mira", day_9)
    assert here.run("operator", "nobody").returncode == 2
    for words, is_one in ((("operator", "mira"), True), (("operator", "Mira", "--no-longer"), False)):
        assert here.run(*words).returncode == 0
        with transaction(empty) as session:
            assert accounts.first_account(session).operator is is_one  # type: ignore[union-attr]
