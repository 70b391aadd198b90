"""Start everything, say where it is, and stop all that was started."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import threading
from collections.abc import Callable
from concurrent.futures import Future
from datetime import datetime, timedelta
from pathlib import Path

import uvicorn
from sqlalchemy.exc import OperationalError

from rovask.desk.command import Actor
from rovask.desk.door import Desk
from rovask.settings import Settings
from rovask.start.errors import LaunchError
from rovask.start.postgres import PrivatePostgres
from rovask.start.sockets import free_port
from rovask.store import accounts, refits
from rovask.store.account_tables import Membership
from rovask.store.database import transaction
from rovask.store.migrate import migrate
from rovask.web.app import create_app

ROOT = Path(__file__).parents[3]
DEMO_FILE = ROOT / "demo/demo.refit.json"
SKIPPER = "Skipper"
MOST_RESTARTS = 5


class _Announced(uvicorn.Server):
    """A server that says where it is as soon as it answers, and starts the worker only then."""

    def __init__(self, config: uvicorn.Config, words: str, then: Callable[[], None]) -> None:
        super().__init__(config)
        self.words, self.then = words, then

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        """Start, and say so."""
        await super().startup(sockets)
        print(self.words, flush=True)
        self.then()


def run(
    settings: Settings, sock: socket.socket, starting: Future[PrivatePostgres | None], *, demo: bool, fresh: bool
) -> None:
    """Serve until Ctrl-C or a terminate signal; then stop web, worker and database, whatever was started here.

    starting: the private server on its way up, None in it for a database of somebody's own.
    """
    signal.signal(signal.SIGTERM, _interrupt)
    workers: list[subprocess.Popen[bytes]] = []
    minded: list[_Minded] = []
    try:
        server = starting.result()
        if server is not None:
            settings = settings.model_copy(update={"database_url": server.url})
        try:
            migrate(settings.database_url)
        except OperationalError as error:
            raise LaunchError(f"The database does not answer: {error.orig}") from None
        if demo:
            load_demo(settings, settings.clock(), fresh=fresh)
            if not settings.weather_url:
                port = free_port()
                workers.append(_start(settings, "weather-standin", "--port", str(port)))
                settings = settings.model_copy(update={"weather_url": f"http://127.0.0.1:{port}"})
        words = _words(settings, _link(settings))
        config = uvicorn.Config(
            create_app(settings), log_level="warning", access_log=False, timeout_graceful_shutdown=3, lifespan="off"
        )
        _Announced(config, words, lambda: minded.append(_Minded(settings))).run(sockets=[sock])
    except KeyboardInterrupt:
        pass
    finally:
        sock.close()
        for one in minded:
            one.stop()
        for worker in workers:
            _stop(worker)
        if starting.exception() is None and (server := starting.result()) is not None:
            server.stop()
        print("Stopped.", flush=True)


def _words(settings: Settings, link: str) -> str:
    """What is printed once the pages are served."""
    address = f"http://{_host(settings.host)}:{settings.port}"
    words = f"\nRovask is at {address}/  (Ctrl-C stops it)\nSign in once with: {address}/come-aboard/{link}\n"
    if settings.beyond_loopback:
        words += (
            "\nWARNING: others on this network can reach it, and without https what they type can be read on "
            "the way. Nobody can stay signed in over plain http from elsewhere: put it behind a proxy with https.\n"
        )
    return words + "Ready."


def _interrupt(_number: int, _frame: object) -> None:
    raise KeyboardInterrupt


def _host(host: str) -> str:
    return f"[{host}]" if ":" in host else "127.0.0.1" if host == "0.0.0.0" else host


def _link(settings: Settings) -> str:
    """A link that signs whoever was here first in, once: only who starts Rovask sees it."""
    clock = settings.clock()
    with transaction(settings.database_url) as session:
        account = accounts.first_account(session) or accounts.new_account(session, SKIPPER, clock)
        for pk in refits.without_members(session):  # the demo, and what was here before there were members
            accounts.join(session, pk, account.pk, Membership.SKIPPER, clock)
        return accounts.device_link(session, account.pk, None, clock)


def load_demo(settings: Settings, clock: datetime, *, fresh: bool) -> int:
    """Load the demo if it isn't there; an untouched one starts its day 9 again. Returns its key."""
    from rovask.formats.refit_file import read_refit

    whole = read_refit(DEMO_FILE.read_bytes())
    started = max(entry.at for entry in whole.refit.hours_log) + timedelta(minutes=30)
    with transaction(settings.database_url) as session:
        found = refits.demo_pk(session)
        if found is not None and fresh:
            refits.remove(session, found)
            found = None
        elif found is not None and refits.load(session, found).revision == 1:
            refits.set_clock(session, found, started - clock)
        elif found is not None:
            print("The demo is as you left it; --fresh loads it anew.", flush=True)
    if found is not None:
        return found
    print("Loading the demo refit …", flush=True)
    desk = Desk(settings)
    return desk.add(Actor(None), whole, "loaded the demo", clock, clock_shift=started - clock, is_demo=True).pk


def _start(settings: Settings, *command: str) -> subprocess.Popen[bytes]:
    """A worker or stand-in as a process of its own, in its own process group, so that Ctrl-C reaches it through us."""
    environment = os.environ | {"ROVASK_DATABASE_URL": settings.database_url}
    return subprocess.Popen(
        [sys.executable, "-m", "rovask.start.cli", *command],
        env=environment,
        start_new_session=True,
        stdin=subprocess.DEVNULL,
    )


class _Minded:
    """A worker that is started again when it dies by itself, a few times; one that keeps dying is left alone."""

    def __init__(self, settings: Settings) -> None:
        self.settings = settings
        self.process = _start(settings, "worker")
        self.over = threading.Event()
        self.thread = threading.Thread(target=self._mind, daemon=True)
        self.thread.start()

    def _mind(self) -> None:
        for _ in range(MOST_RESTARTS):
            while not self.over.wait(1.0) and self.process.poll() is None:
                pass
            if self.over.is_set():
                return
            print("The worker ended by itself and is started again.", file=sys.stderr, flush=True)
            self.process = _start(self.settings, "worker")

    def stop(self) -> None:
        """Stop it for good."""
        self.over.set()
        self.thread.join(timeout=3)
        _stop(self.process)


def _stop(process: subprocess.Popen[bytes] | None) -> None:
    if process is None or process.poll() is not None:
        return
    process.terminate()
    try:
        process.wait(timeout=5)
    except subprocess.TimeoutExpired:
        process.kill()
        process.wait()
