"""However Rovask ends, nothing of it runs on; and a refit that is removed while it is searched leaves one line."""

from __future__ import annotations

import json
import logging
import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from rovask.desk.commands.refits import RemoveRefit
from rovask.desk.door import Desk
from rovask.settings import Settings
from rovask.start.children import began
from rovask.start.sockets import free_port
from rovask.work import search as searching
from tests.acts import ROVASK, kept_of

SECONDS = 60.0


def wait_until(what, seconds: float = SECONDS) -> bool:  # type: ignore[no-untyped-def]
    deadline = time.monotonic() + seconds
    while not what() and time.monotonic() < deadline:
        time.sleep(0.1)
    return bool(what())


def serving(state: Path) -> subprocess.Popen[str]:
    environment = {name: value for name, value in os.environ.items() if name != "ROVASK_DATABASE_URL"}
    return subprocess.Popen(
        [sys.executable, "-u", "-m", "rovask.start.cli", "serve", "--port", str(free_port())],
        env=environment | {"ROVASK_STATE": str(state)},
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        text=True,
        start_new_session=True,
        preexec_fn=lambda: signal.signal(
            signal.SIGINT, signal.SIG_DFL
        ),  # in the background Ctrl-C is ignored, and inherited so
    )


def processes(state: Path, main: int) -> dict[int, str]:
    """Everything that runs for this start, with the moment each began: whose parent is it, and the database."""
    found = {main}
    database = next(iter(Path(state).rglob("postmaster.pid")), None)
    if database is None:  # where another user has to reach it
        database = next(
            path for path in Path("/var/tmp").glob("rovask-*/**/postmaster.pid") if str(main) in owner(path.parent)
        )
    found.add(int(database.read_text().splitlines()[0]))
    for proc in Path("/proc").glob("[0-9]*"):
        try:
            parent = int((proc / "stat").read_text().rpartition(")")[2].split()[1])
        except (OSError, ValueError):
            continue
        if parent in found:
            found.add(int(proc.name))
    return {pid: began(pid) or "" for pid in found}


def owner(data: Path) -> str:
    try:
        return (data.parent / f"{data.name}.owner").read_text()
    except OSError:
        return ""


@pytest.mark.parametrize("sign", [signal.SIGINT, signal.SIGKILL])
def test_the_database_and_every_child_end_with_the_start(tmp_path: Path, sign: signal.Signals) -> None:
    process = serving(tmp_path)
    assert process.stdout is not None
    try:
        assert any("Ready." in line for line in process.stdout)
        book = tmp_path / "children.json"
        assert wait_until(lambda: book.exists() and len(json.loads(book.read_text())) >= 1, 10)  # the worker
        running = processes(tmp_path, process.pid)
        assert len(running) >= 4  # pages, database, its guard, worker
        process.send_signal(sign)
        if sign is signal.SIGINT:
            process.send_signal(sign)  # pressed twice
            assert process.wait(timeout=15) == 0
        else:
            process.wait()
        left = wait_until(lambda: not [pid for pid, at in running.items() if began(pid) == at], 25)
        assert left, [Path(f"/proc/{pid}/cmdline").read_text() for pid, at in running.items() if began(pid) == at]
    finally:
        process.kill()
        process.wait()
        process.stdout.close()


@pytest.mark.parametrize("where", ["plans.beside", "BeginSearch", "settled", "improve"])
def test_a_refit_removed_while_it_is_searched_leaves_no_traceback(
    settings: Settings, demo_pk: int, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture, where: str
) -> None:
    """Whatever the search was about to do when the refit went: nothing of it is an error."""
    name = kept_of(settings, demo_pk).refit.name
    holder, _, step = f"searching.{where}".rpartition(".")
    home = searching.plans if holder.endswith("plans") else searching
    then = getattr(home, step)

    def removed_meanwhile(*given, **more):  # type: ignore[no-untyped-def]
        found = then(*given, **more)
        Desk(settings).run(ROVASK, RemoveRefit(name), demo_pk)
        return found

    monkeypatch.setattr(home, step, removed_meanwhile)
    with caplog.at_level(logging.INFO, "rovask"):
        assert searching.search(settings, demo_pk, 1.0) >= 0
    assert [one.message for one in caplog.records if one.levelno > logging.INFO] == []
