"""`serve` as a person starts it, with sailors who act on it and a hand that kills one of its processes at a time."""

from __future__ import annotations

import io
import json
import os
import random
import secrets
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from pathlib import Path

import httpx2 as httpx
import psycopg
import uvicorn
from PIL import Image

from rovask.standins import supplier
from rovask.standins.trouble import Moods
from rovask.start.postgres import running_url
from rovask.start.sockets import free_port, listening_socket

SUPPLIER = "Shop"
BOAT = {
    "format": "rovask-refit",
    "version": 1,
    "name": "Room",
    "currency": "EUR",
    "budget": 0,
    "haul_at": "2027-03-01T08:00:00Z",
    "launch_at": "2027-03-25T08:00:00Z",
    "boat": {"name": "Room", "length_m": 10, "waterline_m": 8, "beam_m": 3, "draft_m": 1.6, "displacement_kg": 5000},
    "yard": {"name": "Yard", "time_zone": "Europe/Lisbon", "latitude": 38.7, "longitude": -9.1},
    "places": [{"id": "bay", "name": "Engine bay"}],
    "people": [{"id": "ann", "name": "Ann"}],
    "suppliers": [{"id": "shop", "name": SUPPLIER, "by_service": True}],
    "parts": [{"id": "bearing", "name": "Bearing", "supplier": SUPPLIER, "price": 9000}],
    "jobs": [
        {
            "id": "j",
            "title": "Shaft",
            "tasks": [{"id": "a", "title": "Fit it", "place": "bay", "work": {"least": 2, "likely": 4, "most": 6}}],
        }
    ],
}


@dataclass
class Said:
    """One act: what would be found of it, and whether it was acknowledged."""

    kind: str
    title: str
    sent: int = 0
    acknowledged: bool = False


@dataclass
class Room:
    """A running installation."""

    state: Path
    process: subprocess.Popen[str]
    base: str
    link: str
    shop: supplier.Shop
    said: list[Said] = field(default_factory=list)
    over: threading.Event = field(default_factory=threading.Event)
    hearts: int = 0
    without: bool = False  # the worker was killed last

    # -- its processes ------------------------------------------------------------------------------

    def pids(self, what: str) -> list[int]:
        """Processes of one sort: web, worker, their keeper, database, reader (of files, and helpers of the pages)."""
        if what == "database":
            return [int(next(self.state.rglob("postmaster.pid")).read_text().splitlines()[0])]
        keeper = [pid for pid in _children(self.process.pid) if "cli pages-and-worker" in _command(pid)]
        if what == "keeper":
            return keeper
        name = "worker" if what == "worker" else "pages"
        found = [kid for pid in keeper for kid in _children(pid) if _name(kid) == f"rovask-{name}"]
        if what != "reader":
            return found
        return [kid for pid in found for kid in _children(pid) if "spawn_main" in _command(kid)]

    def kill(self, what: str, chosen: random.Random) -> bool:
        """Kill one of that sort, as hard as can be; whether there was one."""
        with suppress(StopIteration, OSError, ValueError):
            found, self.hearts = self.pids(what), self.newest_heart()
            if found:
                self.without = what in ("worker", "keeper")
                os.kill(chosen.choice(found), signal.SIGKILL)
                return True
        return False

    def newest_heart(self) -> int:
        """The highest number a worker has gone by in the queue's book; 0 where the book can't be read."""
        with suppress(psycopg.Error), psycopg.connect(running_url(self.state) or "", connect_timeout=2) as line:
            return int((line.execute("select max(id) from procrastinate_workers").fetchone() or (0,))[0] or 0)
        return 0

    def until_up(self, within: float = 60.0) -> float:
        """Seconds until it can serve, and where its worker was killed until a new one works the queue."""
        began = time.monotonic()
        while time.monotonic() - began < within:
            with suppress(httpx.HTTPError):
                if httpx.get(f"{self.base}/readyz", timeout=within).status_code == 200 and (
                    not self.without or self.newest_heart() > self.hearts
                ):
                    return time.monotonic() - began
            time.sleep(0.05)
        return within

    # -- who acts on it -----------------------------------------------------------------------------

    def signed_in(self) -> httpx.Client:
        """A browser of the skipper's."""
        return httpx.Client(base_url=self.base, timeout=40, follow_redirects=False)

    def begin_refit(self, browser: httpx.Client) -> tuple[str, str]:
        """Sign in and bring the boat; the root of its pages, and the token of forms."""
        assert browser.post(self.link).status_code == 303
        csrf = _csrf(browser.get("/").text)
        file = {"file": ("room.refit.json", json.dumps(BOAT).encode())}
        made = browser.post("/import", data={"csrf": csrf}, files=file)
        assert made.status_code == 303, made.text[:2000]
        root = "/".join(made.headers["location"].split("/")[:3])
        return root, csrf

    def act_on(self, browser: httpx.Client, root: str, csrf: str, seed: int, most: int = 1_000_000) -> None:
        """One act after another, each sent again with its mark until it is acknowledged, as a page does."""
        chosen = random.Random(seed)
        for number in range(most):
            if self.over.is_set():
                return
            kind = chosen.choice(("finding", "photo", "entry", "order"))
            act = Said(kind, f"{kind} {seed} {number}")
            self.said.append(act)
            went = self._sent(browser, act, root, csrf, number)
            if kind == "order" and went:
                send = Said("send", act.title)
                self.said.append(send)
                self._until_acknowledged(browser, send, f"{root}/order/{went.rpartition('/')[2]}/send", csrf, {}, None)
            self.over.wait(chosen.random() * 0.5)

    def _sent(self, browser: httpx.Client, act: Said, root: str, csrf: str, number: int) -> str:
        if act.kind == "entry":
            form = {"kind": "payment", "amount": f"{number % 90 + 1}", "title": act.title}
            return self._until_acknowledged(browser, act, f"{root}/purse/entry", csrf, form, None)
        if act.kind == "order":
            form = {"supplier": SUPPLIER, "take": "bearing", "quantity:bearing": quantity_of(act.title)}
            return self._until_acknowledged(browser, act, f"{root}/stores/new-order", csrf, form, None)
        photo = None
        if act.kind == "photo":
            out = io.BytesIO()
            Image.effect_noise((400, 300), 90).save(out, "JPEG", quality=95)
            photo = out.getvalue()
        return self._until_acknowledged(
            browser, act, f"{root}/found", csrf, {"title": act.title, "severity": "watch"}, photo
        )

    def _until_acknowledged(
        self, browser: httpx.Client, act: Said, path: str, csrf: str, form: dict[str, str], photo: bytes | None
    ) -> str:
        """Where it led, "" if the evening was over before that was known."""
        mark = secrets.token_hex(8)
        while True:
            act.sent += 1
            with suppress(httpx.HTTPError):
                files = {"photo": ("a.jpg", photo, "image/jpeg")} if photo else None
                answer = browser.post(path, data={"csrf": csrf, "mark": mark} | form, files=files)
                if answer.status_code == 303:
                    act.acknowledged = True
                    return str(answer.headers["location"])
                if (
                    answer.status_code == 409 and "Done already" in answer.text
                ):  # whoever did it died before it could say where it led
                    act.acknowledged = True
                    return ""
                assert answer.status_code in (500, 502, 503), (path, answer.status_code, answer.text[:3000])
            if self.over.wait(0.2):
                return ""


def quantity_of(title: str) -> str:
    """By which an order is found again: its number becomes the supplier's."""
    _, seed, number = title.split()
    return str(int(seed) * 100_000 + int(number) + 1)


def _csrf(page: str) -> str:
    return page.partition('name="csrf" value="')[2].partition('"')[0]


def _children(pid: int) -> list[int]:
    found = []
    with suppress(OSError):
        for each in Path(f"/proc/{pid}/task").glob("*/children"):
            found += [int(kid) for kid in each.read_text().split()]
    return found


def _name(pid: int) -> str:
    with suppress(OSError):
        return Path(f"/proc/{pid}/comm").read_text().strip()
    return ""


def _command(pid: int) -> str:
    with suppress(OSError):
        return Path(f"/proc/{pid}/cmdline").read_bytes().replace(b"\0", b" ").decode()
    return ""


@contextmanager
def room(state: Path, *, trouble: float = 0.2) -> Iterator[Room]:
    """`serve` on a state of its own, beside a supplier who misbehaves in so large a share of what it is asked."""
    port, shop_port = free_port(), free_port()
    app = supplier.create_app(1, Moods(1, trouble), 0.0, waits=False)
    server = uvicorn.Server(uvicorn.Config(app, log_level="error", lifespan="off"))
    sock = listening_socket("127.0.0.1", shop_port)
    thread = threading.Thread(target=server.run, kwargs={"sockets": [sock]}, daemon=True)
    thread.start()
    own = {name: value for name, value in os.environ.items() if not name.startswith("ROVASK_")}
    own |= {
        "ROVASK_STATE": str(state),
        "ROVASK_SUPPLIER_URL": f"http://127.0.0.1:{shop_port}",
        "ROVASK_SEARCH_SECONDS": "2",
        "ROVASK_COPY_HOURS": "0",
    }
    log = (state / "log").open("w")
    process = subprocess.Popen(
        [sys.executable, "-u", "-m", "rovask.start.cli", "serve", "--port", str(port)],
        env=own,
        stdout=subprocess.PIPE,
        stderr=log,
        text=True,
        start_new_session=True,
    )
    try:
        assert process.stdout is not None
        for line in process.stdout:
            if line.startswith("Ready"):
                break
        link = (state / "sign-in-link").read_text().strip()
        yield Room(state, process, f"http://127.0.0.1:{port}", link, app.state.shop)
    except BaseException:
        log.flush()
        print("what it said:", (state / "log").read_text()[-12_000:])  # shown beside the failure
        raise
    finally:
        process.send_signal(signal.SIGTERM)  # under nohup Ctrl-C is nobody's
        try:
            process.wait(timeout=30)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()
        if process.stdout is not None:
            process.stdout.close()
        log.close()
        server.should_exit = True
        thread.join(timeout=10)
