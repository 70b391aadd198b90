"""Database gone, worker killed, port taken, machine not fit: what is seen, and that nothing is lost."""

from __future__ import annotations

import importlib.machinery
import importlib.util
import os
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path
from types import ModuleType

import pytest
from sqlalchemy import text

from rovask.core.refit.model import Refit
from rovask.desk.commands.plan import AskForSearch
from rovask.desk.door import Desk
from rovask.settings import Settings
from rovask.start import postgres
from rovask.start.beginning import load_demo
from rovask.start.errors import StartError
from rovask.start.sockets import listening_socket
from rovask.store import refits
from rovask.store.database import sessions_for, transaction
from rovask.store.migrate import migrate
from rovask.store.queue import is_waiting
from rovask.web.app import create_app
from tests.acts import ROVASK, changed, kept_of, planned
from tests.conftest import Browser, Sailor, kept_for_both
from tests.web.pages import Elements

ROOT = Path(__file__).parents[2]


def quiet(*_: object) -> None:
    return None


@pytest.fixture
def launcher() -> ModuleType:
    loader = importlib.machinery.SourceFileLoader("rovask_launcher", str(ROOT / "rovask"))
    spec = importlib.util.spec_from_loader("rovask_launcher", loader)
    assert spec is not None
    module = importlib.util.module_from_spec(spec)
    sys.dont_write_bytecode, keep = True, sys.dont_write_bytecode
    loader.exec_module(module)
    sys.dont_write_bytecode = keep
    return module


def test_the_database_goes_away_and_comes_back_and_nothing_typed_is_lost(
    tmp_path_factory: pytest.TempPathFactory, demo: Refit, settings: Settings
) -> None:
    state = tmp_path_factory.mktemp("pg")
    folder = postgres.data_folder(state, "pg", say=quiet)
    server = postgres.start(folder, durable=False, say=quiet)
    migrate(server.url)
    own = Settings(database_url=server.url, now=settings.now)
    pk = kept_for_both(own, demo)
    client = Browser(create_app(own), follow_redirects=False)
    sailor = Sailor(client, own, "Mira")
    port = server.port
    server.stop()
    typed = {
        "name": "Grommet",
        "price": "3.40",
        "quantity": "1",
        "status": "needed",
        "lead_days": "1",
        "unit": "",
        "supplier": "Shop",
        "arrives": "",
        "stowed": "",
    }
    answer = sailor.post(f"/r/{pk}/part/save", typed)
    assert answer.status_code == 503
    page = Elements(answer.text)
    assert page.texts("h1") == ["The database does not answer"]
    assert (page.value("name"), page.value("supplier")) == ("Grommet", "Shop")
    assert sailor.get(f"/r/{pk}/morning").status_code == 503
    again = postgres.start(folder, durable=False, say=quiet)  # on another port: the address the app knows is dead
    try:
        assert again.port != port
        back = Settings(database_url=again.url, now=settings.now)
        assert kept_of(back, pk).refit == demo
        returned = Sailor(Browser(create_app(back), follow_redirects=False), back, "Mira")
        assert returned.post(f"/r/{pk}/part/save", typed).status_code == 303
    finally:
        sessions_for(own.database_url).kw["bind"].dispose()
        sessions_for(again.url).kw["bind"].dispose()
        again.stop()


def test_a_second_start_uses_the_server_that_runs_and_leaves_it_running(
    tmp_path_factory: pytest.TempPathFactory,
) -> None:
    folder = postgres.data_folder(tmp_path_factory.mktemp("pg"), "pg", say=quiet)
    first = postgres.start(folder, durable=False, say=quiet)
    try:
        second = postgres.start(folder, durable=False, say=quiet)
        assert (second.port, second.ours) == (first.port, False)
        second.stop()
        assert (
            subprocess.run(
                [str(postgres.binaries() / "pg_isready"), "-q", "-h", "127.0.0.1", "-p", str(first.port)], check=False
            ).returncode
            == 0
        )
    finally:
        first.stop()


def test_a_database_that_cannot_be_made_is_one_clear_sentence(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(postgres, "LEAST_FREE_BYTES", 1 << 60)
    with pytest.raises(StartError, match="MB are free"):
        postgres.start(tmp_path / "pg", say=quiet)
    monkeypatch.setattr(Path, "glob", lambda *_: iter(()))
    with pytest.raises(StartError, match="not installed"):
        postgres.binaries()


def test_a_taken_port_is_one_clear_sentence() -> None:
    with socket.create_server(("127.0.0.1", 0)) as taken:
        port = taken.getsockname()[1]
        with pytest.raises(StartError, match=rf"Port {port} .* add --port {port + 1}"):
            listening_socket("127.0.0.1", port)


def test_machines_that_are_not_fit_get_one_clear_sentence(
    launcher: ModuleType, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    refused = launcher.Refused
    monkeypatch.setattr(launcher.sys, "version_info", (3, 9, 2))
    monkeypatch.setattr(launcher.shutil, "which", lambda _: None)
    with pytest.raises(refused, match=r"3\.11 or newer and this is 3\.9"):
        launcher.right_python()
    monkeypatch.setattr(launcher.shutil, "which", lambda name: "/usr/bin/apt-get" if name == "apt-get" else None)
    monkeypatch.setattr(launcher.os, "geteuid", lambda: 1000)
    with pytest.raises(refused, match="no sudo: run as root: apt-get install postgresql"):
        launcher.apt(["postgresql"])
    monkeypatch.setattr(launcher, "LEAST_FREE_MB", 1 << 40)
    monkeypatch.setattr(launcher, "VENV", str(tmp_path / "none"))
    with pytest.raises(refused, match="MB are free"):
        launcher.environment(development=False)
    with pytest.raises(refused, match="registry reachable"):
        launcher.run(
            [sys.executable, "-c", "print('no route'); raise SystemExit(1)"],
            "Not installed (is the registry reachable?)",
        )


def test_plan_and_verify_work_on_files_without_a_database(tmp_path: Path) -> None:
    command = [sys.executable, "-m", "rovask.start.cli"]
    demo, out = str(ROOT / "src/rovask/start/demo.refit.json"), str(tmp_path / "plan.json")
    environment = os.environ | {"ROVASK_DATABASE_URL": "postgresql://nobody@127.0.0.1:1/none"}

    def run(*words: str) -> subprocess.CompletedProcess[str]:
        return subprocess.run([*command, *words], capture_output=True, text=True, env=environment, check=False)

    planned = run("plan", demo, "--now", "2026-05-12T10:00+01:00", "--out", out)
    assert planned.returncode == 0, planned.stderr
    assert "held" in planned.stderr
    assert run("verify", demo, out).returncode == 0
    broken = (
        Path(out).read_text().replace('"people": [\n        "ruy"\n      ]', '"people": [\n        "mira"\n      ]', 40)
    )
    Path(out).write_text(broken)
    refused = run("verify", demo, out)
    assert refused.returncode == 1
    assert '"rule": "skill"' in refused.stdout
    bad = tmp_path / "bad.refit.json"
    bad.write_text('{"format": "rovask-refit", "version": 1}')
    told = run("plan", str(bad))
    assert told.returncode == 2
    assert "boat: is missing" in told.stderr
    assert "Traceback" not in told.stderr
    assert run("plan", str(tmp_path / "none.json")).returncode == 2


def statuses(settings: Settings, pk: int) -> list[str]:
    with transaction(settings.database_url) as session:
        rows = session.execute(
            text("select status::text from procrastinate_jobs where lock = :lock order by id"), {"lock": f"refit-{pk}"}
        )
        return [row[0] for row in rows]


def wait_for(settings: Settings, pk: int, wanted: list[str], seconds: float = 120) -> None:
    deadline = time.monotonic() + seconds
    while statuses(settings, pk) != wanted and time.monotonic() < deadline:
        time.sleep(0.1)
    assert statuses(settings, pk) == wanted


def worker_on(settings: Settings) -> subprocess.Popen[bytes]:
    environment = os.environ | {
        "ROVASK_DATABASE_URL": settings.database_url,
        "ROVASK_NOW": str(settings.now),
        "ROVASK_SURER_SECONDS": "0",
        "ROVASK_SEARCH_SECONDS": "3",
    }
    return subprocess.Popen(
        [sys.executable, "-m", "rovask.start.cli", "worker"], env=environment, start_new_session=True
    )


def test_a_killed_worker_leaves_the_plan_and_its_search_is_taken_up_again(
    settings: Settings, demo_pk: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    with transaction(settings.database_url) as session:  # what other tests asked for is not this one's
        session.execute(text("delete from procrastinate_jobs"))
    for _ in range(2):
        Desk(settings).run(ROVASK, AskForSearch(), demo_pk)
    assert statuses(settings, demo_pk) == ["todo"]  # one search waits, however often it is asked for
    with transaction(settings.database_url) as session:
        assert is_waiting(session, demo_pk)
    first = worker_on(settings)
    try:
        wait_for(settings, demo_pk, ["doing"])
    finally:
        os.killpg(first.pid, signal.SIGKILL)
        first.wait()
    assert planned(settings, demo_pk)[1].plan.assignments
    with transaction(settings.database_url) as session:
        session.execute(text("update procrastinate_workers set last_heartbeat = now() - interval '5 minutes'"))
    second = worker_on(settings)
    try:
        wait_for(settings, demo_pk, ["succeeded"])
    finally:
        second.terminate()
        assert second.wait(timeout=15) == 0
    with transaction(settings.database_url) as session:
        assert not is_waiting(session, demo_pk)


def test_an_untouched_demo_begins_its_day_9_again(settings: Settings, capsys: pytest.CaptureFixture[str]) -> None:
    clock = settings.clock()
    later = clock.replace(year=2031)
    with transaction(settings.database_url) as session:
        while (old := refits.demo_pk(session)) is not None:
            refits.remove(session, old)
    pk = load_demo(settings, clock, fresh=False)
    assert load_demo(settings, later, fresh=False) == pk
    assert kept_of(settings, pk).now(later) == clock
    changed(settings.model_copy(update={"now": later}), pk, lambda made: made.model_copy(update={"name": "Mine"}))
    assert load_demo(settings, later.replace(year=2032), fresh=False) == pk
    assert "as you left it" in capsys.readouterr().out
    assert load_demo(settings, later, fresh=True) != pk
