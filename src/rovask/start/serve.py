"""Start everything, say where it is, and stop all that was started."""

from __future__ import annotations

import signal
import socket
import sys
from collections.abc import Callable
from concurrent.futures import Future
from pathlib import Path

import uvicorn
from sqlalchemy.exc import OperationalError

from rovask.desk.helpers import Helpers
from rovask.settings import Settings
from rovask.start.asgi import app_for
from rovask.start.beginning import load_demo, start_link
from rovask.start.children import Book, Command, Mind, Minded
from rovask.start.errors import StartError
from rovask.start.postgres import PrivatePostgres
from rovask.start.sockets import free_port
from rovask.store.migrate import migrate


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
    for sign in (signal.SIGTERM, signal.SIGHUP):  # told to go, or the terminal was closed
        if signal.getsignal(sign) is not signal.SIG_IGN:  # under nohup a closed terminal is no reason to stop
            signal.signal(sign, _interrupt)
    minds: list[Mind] = []
    book = Book(settings.state)
    server: PrivatePostgres | None = None
    helpers: Helpers | None = None
    try:
        left = book.tidy()
        if left:
            print(f"Ended {left} process(es) that an earlier start had left behind.", file=sys.stderr, flush=True)
        server = starting.result()
        if server is not None:
            settings = settings.model_copy(update={"database_url": server.url})
        try:
            migrate(settings.database_url)
        except OperationalError as error:
            raise StartError(f"The database does not answer: {error.orig}") from None
        standins: list[Minded] = []
        if demo:
            load_demo(settings, settings.clock(), fresh=fresh)
            if not settings.weather_url:
                port = free_port()
                standins.append(Command("weather stand-in", ["weather-standin", "--port", str(port)], dict, book))
                standins[0].start()
                settings = settings.model_copy(update={"weather_url": f"http://127.0.0.1:{port}"})
            for name in ("supplier", "carrier", "rates"):
                if not getattr(settings, f"{name}_url"):
                    port = free_port()
                    started = Command(f"{name} stand-in", ["standin", name, "--port", str(port)], dict, book)
                    started.start()
                    standins.append(started)
                    settings = settings.model_copy(update={f"{name}_url": f"http://127.0.0.1:{port}"})
        words = _words(
            settings, start_link(settings), shown=sys.stdout.isatty() or (demo and not settings.beyond_loopback)
        )
        app = app_for(settings)
        helpers = app.state.helpers
        config = uvicorn.Config(app, log_level="warning", access_log=False, timeout_graceful_shutdown=3, lifespan="off")
        database: list[Minded] = [server] if server is not None else []
        url = settings.database_url

        def begin() -> None:
            supplier = settings.supplier_url
            about = {"ROVASK_DATABASE_URL": url} | ({"ROVASK_SUPPLIER_URL": supplier} if supplier else {})
            worker = Command("worker", ["worker"], lambda: about, book)
            worker.start()
            app.state.helpers.warm()
            minds.append(Mind([*database, *standins, worker], _say))

        _Announced(config, words, begin).run(sockets=[sock])
    except KeyboardInterrupt:
        pass
    finally:
        for sign in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            signal.signal(sign, signal.SIG_IGN)  # a second Ctrl-C doesn't leave the database behind
        sock.close()
        if helpers is not None:
            helpers.close()
        for mind in minds:
            mind.stop()
        book.tidy()
        if not minds and server is not None:
            server.stop()
        print("Stopped.", flush=True)


def _say(words: str) -> None:
    print(words, file=sys.stderr, flush=True)


def _words(settings: Settings, link: str, *, shown: bool) -> str:
    """What is printed once the pages are served. shown: whether somebody sees it who may have the link, and no log keeps it."""
    address = f"http://{_host(settings.host)}:{settings.port}"
    words = f"\nRovask is at {address}/  (Ctrl-C stops it)\n"
    if shown:
        words += f"Sign in once with: {address}/come-aboard/{link}\n"
    else:
        words += f"The link that signs you in once lies in {_kept_link(settings, f'{address}/come-aboard/{link}')}\n"
    if settings.beyond_loopback:
        words += (
            "\nWARNING: others on this network can reach it, and without https what they type can be read on "
            "the way. Nobody can stay signed in over plain http from elsewhere: put it behind a proxy with https.\n"
        )
    return words + "Ready."


def _kept_link(settings: Settings, address: str) -> Path:
    """A file only its owner can read: a log is read by many, and kept."""
    path = settings.state / "sign-in-link"
    path.unlink(missing_ok=True)
    path.touch(mode=0o600)
    path.write_text(address + "\n")
    return path


def _interrupt(_number: int, _frame: object) -> None:
    raise KeyboardInterrupt


def _host(host: str) -> str:
    return f"[{host}]" if ":" in host else "127.0.0.1" if host == "0.0.0.0" else host
