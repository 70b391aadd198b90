"""Start everything, say where it is, mind it, and stop all that was started.

This process serves nothing itself: database, stand-ins, and what begets pages and worker (keeper.py) are processes of their own, and whichever
of them dies is there again within seconds. The socket of the pages is held here, so whoever asks meanwhile waits and is not refused.
"""

from __future__ import annotations

import http.client
import json
import signal
import socket
import subprocess
import sys
import threading
import time
from concurrent.futures import Future
from contextlib import suppress
from pathlib import Path

from sqlalchemy.exc import OperationalError

from rovask.settings import Settings
from rovask.start.beginning import load_demo, start_link
from rovask.start.children import Book, Command, Mind, Minded, begin_child, stop_all
from rovask.start.errors import StartError
from rovask.start.postgres import PrivatePostgres
from rovask.start.sockets import free_port
from rovask.store.migrate import migrate

ANSWERS_WITHIN = 180.0  # seconds, on the slowest machine
STOPS = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)  # Ctrl-C, told to go, the terminal was closed
SERVICES = ("supplier", "carrier", "rates")


class PagesAndWorker(Command):
    """The process that begets those of the pages and of the worker. It reads its code at once and is told later on what they work."""

    def __init__(self, sock: socket.socket, book: Book) -> None:
        super().__init__("keeper of pages and worker", ["pages-and-worker", str(sock.fileno())], dict, book)
        self.sock = sock
        self.told: dict[str, str] | None = None

    def start(self) -> None:
        """Start it."""
        self.process = begin_child(self.command, {}, stdin=subprocess.PIPE, pass_fds=(self.sock.fileno(),))
        self.book.note(self.process.pid)
        if self.told is not None:
            self.go_on(self.told)

    def go_on(self, about: dict[str, str]) -> None:
        """Tell it the settings; it begins then, and so does the one after it."""
        self.told = about
        line = self.process.stdin if self.process is not None else None
        if line is not None:
            with suppress(OSError):  # it has died: the next one is told too
                line.write(json.dumps(about).encode() + b"\n")
                line.close()


def run(
    settings: Settings, sock: socket.socket, starting: Future[PrivatePostgres | None], *, demo: bool, fresh: bool
) -> None:
    """Serve until Ctrl-C or a terminate signal; then stop pages, worker and database, whatever was started here.

    starting: the private server on its way up, None in it for a database of somebody's own.
    """
    for sign in STOPS:
        if signal.getsignal(sign) is not signal.SIG_IGN:  # under nohup a closed terminal is no reason to stop
            signal.signal(sign, _interrupt)
    book = Book(settings.state)
    pages = PagesAndWorker(sock, book)
    started: list[Minded] = []
    mind: Mind | None = None
    try:
        left = book.tidy()
        if left:
            _say(f"Ended {left} process(es) that an earlier start had left behind.")
        pages.start()
        server = starting.result()
        if server is not None:
            started.append(server)
            settings = settings.model_copy(update={"database_url": server.url})
        try:
            migrate(settings.database_url)
        except OperationalError as error:
            raise StartError(f"The database does not answer: {error.orig}") from None
        if demo:
            load_demo(settings, settings.clock(), fresh=fresh)
            settings = _with_stand_ins(settings, started, book)
        link = start_link(settings)
        pages.go_on(_environment(settings))
        started.append(pages)
        _until_it_answers(pages, settings)
        mind = Mind(started, _say)
        print(_words(settings, link, shown=sys.stdout.isatty() or (demo and not settings.beyond_loopback)), flush=True)
        threading.Event().wait()
    except KeyboardInterrupt:
        pass
    finally:
        _once_only()
        sock.close()
        if mind is not None:
            mind.stop()
        else:
            stop_all([*started, pages])
        book.tidy()
        print("Stopped.", flush=True)


def _environment(settings: Settings) -> dict[str, str]:
    """What children work on, as their environment says it."""
    names = ("database_url", "host", "port", "weather_url", *(f"{one}_url" for one in SERVICES))
    said = {f"ROVASK_{name.upper()}": str(getattr(settings, name)) for name in names}
    return {name: value for name, value in said.items() if value}


def _with_stand_ins(settings: Settings, started: list[Minded], book: Book) -> Settings:
    """The settings with simulated services where none is named."""
    commands = {"weather": ["weather-standin"]} | {name: ["standin", name] for name in SERVICES}
    for name, words in commands.items():
        if getattr(settings, f"{name}_url"):
            continue
        port = free_port()
        one = Command(f"{name} stand-in", [*words, "--port", str(port)], dict, book)
        one.start()
        started.append(one)
        settings = settings.model_copy(update={f"{name}_url": f"http://127.0.0.1:{port}"})
    return settings


def _until_it_answers(pages: Command, settings: Settings) -> None:
    """Raises StartError when it ends instead; it has said why."""
    deadline = time.monotonic() + ANSWERS_WITHIN
    while pages.alive() and time.monotonic() < deadline:
        line = http.client.HTTPConnection(_host(settings.host).strip("[]"), settings.port, timeout=5)
        try:
            line.request("GET", "/healthz")
            if line.getresponse().status == http.HTTPStatus.OK:
                return
        except (http.client.HTTPException, OSError):
            time.sleep(0.1)
        finally:
            line.close()
    raise StartError("The pages could not be served; what was said above tells why.")


def _say(words: str) -> None:
    with suppress(OSError):  # where a full disk keeps the log nothing can be said, and all the more is to be minded
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
    _once_only()
    raise KeyboardInterrupt


def _once_only() -> None:
    """From the first on: a second Ctrl-C, however soon, doesn't leave the database behind."""
    for sign in STOPS:
        signal.signal(sign, signal.SIG_IGN)


def _host(host: str) -> str:
    return f"[{host}]" if ":" in host else "127.0.0.1" if host == "0.0.0.0" else host
