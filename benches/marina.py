"""Two hundred boats and twenty people at once: two web processes and two workers on this machine, as an installation runs them.

As people are: each is on a boat for a stay of some pages, reads between two of them, and does something once for twenty looks; then it is
another one's turn on another boat. What a page asks for by itself (whether a search is done, what a change did) is asked as a browser
would. Three recipes are looked at all the while until their effect is settled, each time another boat's. Requests go to the two web
processes in turn, as a proxy hands them out. A look is timed until its last byte, an act until its answer (not the page it leads to, which
is a look of its own).
"""

from __future__ import annotations

import json
import os
import random
import re
import shutil
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from datetime import timedelta
from http.client import HTTPConnection, HTTPException
from pathlib import Path
from statistics import median
from urllib.parse import urlencode

from benches.generate import generated_refit
from rovask.settings import Settings

REFITS, PEOPLE, PREVIEWS, WEBS, WORKERS = 200, 20, 3, 2, 2
SMALL, LARGE = 100, 250  # tasks
STAY = (12, 30)  # pages on one boat before another one is looked at
READS = 3.0  # seconds between two pages, on average
LOOKS_TO_AN_ACT = 20
SLOW = 400.0  # milliseconds
MINUTES, WARM_UP = 6.0, 45.0  # how long it goes on, and the seconds at first that are not counted
LOOKS = (
    *("morning",) * 5,
    *("slip", "jobs", "jobs/{job}", "stores", "purse") * 3,
    *("launch", "boat", "progress", "odds", "log", "findings", "look", "people", "purse/ledger", "stores/orders") * 1,
)
RECIPES = ("bottom-coating", "bilge-pumps", "anodes", "hatches", "gas", "chain", "furler", "floors")
BY_ITSELF = re.compile(r'hx-get="([^"]+/(?:standing\?|effect/)[^"]*)"')
SETTLING = re.compile(r'(?:id="effect"[^>]*|data-waits[^>]*)hx-get="([^"]+)"')
CSRF = re.compile(r'name="csrf" value="([^"]+)"')


@dataclass(frozen=True, slots=True)
class Berth:
    """One boat of the marina: its refit, whoever is signed in to it, and what can be acted on."""

    pk: int
    cookie: str
    jobs: tuple[str, ...]
    tasks: tuple[str, ...]


@dataclass
class Told:
    """What was measured, from all threads."""

    counted: bool = False
    looks: dict[str, list[float]] = field(default_factory=dict)
    acts: list[float] = field(default_factory=list)
    previews: list[float] = field(default_factory=list)
    settled: list[float] = field(default_factory=list)
    statuses: dict[int, int] = field(default_factory=dict)
    wrong: list[str] = field(default_factory=list)  # the first server errors, to see what they were
    slow: list[str] = field(default_factory=list)  # looks beyond the bound: page, which of a stay, milliseconds
    refused: int = 0
    lock: threading.Lock = field(default_factory=threading.Lock)

    def note(self, into: str, page: str, taken: float, status: int, body: str, nth: int) -> None:
        """One answer."""
        with self.lock:
            if not self.counted:
                return
            if status >= 500 and len(self.wrong) < 5:
                self.wrong.append(f"{status} {page}: {' '.join(re.sub('<[^>]*>', ' ', body).split())[:300]}")
            self.statuses[status] = self.statuses.get(status, 0) + 1
            if into == "look" and taken > SLOW:
                self.slow.append(f"{page} {nth} {taken:.0f}")
            if into == "look":
                self.looks.setdefault(page, []).append(taken)
            elif into == "act":
                self.acts.append(taken)
                self.refused += status != 303
            else:
                self.previews.append(taken)


class Person:
    """One browser: kept-alive lines to each web process, used in turn."""

    def __init__(self, ports: list[int], told: Told, seed: int) -> None:
        self.told, self.random, self.turn, self.nth = told, random.Random(seed), seed, 0
        self.lines = [HTTPConnection("127.0.0.1", port, timeout=120) for port in ports]

    def ask(self, berth: Berth, path: str, into: str, page: str, form: dict[str, str] | None = None) -> tuple[int, str]:
        """One request; its status and body."""
        self.turn += 1
        line = self.lines[self.turn % len(self.lines)]
        headers = {"cookie": f"rovask_session={berth.cookie}"}
        if form is not None:
            headers["content-type"] = "application/x-www-form-urlencoded"
        began = time.perf_counter()
        try:
            line.request(
                "GET" if form is None else "POST", path, urlencode(form) if form is not None else None, headers
            )
            answer = line.getresponse()
            body, status = answer.read().decode(errors="replace"), answer.status
        except (HTTPException, OSError):
            line.close()
            body, status = "", 599  # a request that had no answer at all
        self.told.note(into, page, (time.perf_counter() - began) * 1000, status, body, self.nth)
        return status, body

    def stay(self, berth: Berth, over: threading.Event) -> None:
        """A stay on one boat."""
        csrf = ""
        for nth in range(self.random.randint(*STAY)):
            self.nth = nth
            if over.wait(self.random.expovariate(1 / READS)):
                return
            if csrf and self.random.random() < 1 / LOOKS_TO_AN_ACT:
                body = self.act(berth, csrf)
            else:
                page = self.random.choice(LOOKS)
                path = page.format(job=self.random.choice(berth.jobs))
                _, body = self.ask(berth, f"/r/{berth.pk}/{path}", "look", page)
            found = CSRF.search(body)
            csrf = found[1] if found else csrf
            for own in BY_ITSELF.findall(body)[:2]:
                if over.wait(1.0):
                    return
                self.ask(berth, own.replace("&amp;", "&"), "look", "what a page asks by itself")

    def act(self, berth: Berth, csrf: str) -> str:
        """Something done, and the page it leads to."""
        task, root = self.random.choice(berth.tasks), f"/r/{berth.pk}"
        sort = self.random.choice(("hours", "hours", "found", "bought", "undo"))
        path, form = {
            "hours": (f"task/{task}/hours", {"hours": "0.5", "person": "ann"}),
            "found": ("found", {"title": "A weep at the pump", "severity": "watch"}),
            "bought": ("purse/entry", {"kind": "payment", "amount": "12", "title": f"Tape {self.random.random()}"}),
            "undo": ("undo", {}),
        }[sort]
        self.ask(berth, f"{root}/{path}", "act", sort, form | {"csrf": csrf, "next": f"{root}/morning"})
        return self.ask(berth, f"{root}/morning", "look", "morning after an act")[1]

    def look_at_recipes(self, berths: list[Berth], over: threading.Event) -> None:
        """One recipe after another, each until its effect is settled."""
        while not over.is_set():
            berth, began = self.random.choice(berths), time.perf_counter()
            path = f"/r/{berth.pk}/recipes/{self.random.choice(RECIPES)}"
            while path and not over.is_set():
                _, body = self.ask(berth, path, "preview", "preview")
                found = SETTLING.search(body)
                path = found[1].replace("&amp;", "&") if found else ""
                if path and over.wait(2.0):
                    return
            if self.told.counted:
                self.told.settled.append(time.perf_counter() - began)


def marina(refits: int = REFITS, minutes: float = MINUTES) -> list[bool]:
    """Pages median within 60 ms and 99 of 100 in 400, acts 95 of 100 in 600, no server error, a web process within 700 MB."""
    with _installation(refits) as (berths, ports, processes):
        told, over = Told(), threading.Event()
        people = [Person(ports, told, seed) for seed in range(PEOPLE + PREVIEWS)]

        def come_and_go(person: Person) -> None:
            while not over.is_set():
                person.stay(person.random.choice(berths), over)

        crowd = [threading.Thread(target=come_and_go, args=(one,)) for one in people[:PEOPLE]]
        crowd += [threading.Thread(target=one.look_at_recipes, args=(berths, over)) for one in people[PEOPLE:]]
        for one in crowd:
            one.start()
        time.sleep(WARM_UP)
        told.counted, before = True, _used(processes)
        time.sleep(minutes * 60)
        told.counted, after = False, _used(processes)
        shares = {name: round((after[name] - used) / minutes / 60, 3) for name, used in before.items()}
        print(json.dumps({"bench": "marina: processors used, of one", **shares}), flush=True)
        over.set()
        for one in crowd:
            one.join()
        return _judged(told, {name: _memory(pid) for name, pid in processes.items() if name != "database"})


def _of(taken: list[float], share: float) -> float:
    ordered = sorted(taken)
    return round(ordered[min(int(share * len(ordered)), len(ordered) - 1)], 1) if ordered else 0.0


def _judged(told: Told, memory: dict[str, dict[str, float]]) -> list[bool]:
    looks = [one for taken in told.looks.values() for one in taken]
    wrong = sum(number for status, number in told.statuses.items() if status >= 500)
    web = max(one["peak_mb"] for name, one in memory.items() if name.startswith("web"))
    for page, taken in sorted(told.looks.items()):
        figures = {"n": len(taken), "median_ms": _of(taken, 0.5), "p95_ms": _of(taken, 0.95), "worst_ms": max(taken)}
        print(json.dumps({"bench": f"marina: {page}", **figures}), flush=True)
    print(
        json.dumps({"bench": "marina: answers", "statuses": told.statuses, "wrong": told.wrong, "slow": told.slow}),
        flush=True,
    )
    settled = {"n": len(told.settled), "median_s": round(median(told.settled or [0]), 1)}
    print(json.dumps({"bench": "marina: until a preview is settled", **settled}), flush=True)
    print(json.dumps({"bench": "marina: memory", **memory}), flush=True)
    rows = [
        ("looks, median ms", len(looks), _of(looks, 0.5), 60.0),
        ("looks, 99 of 100 ms", len(looks), _of(looks, 0.99), 400.0),
        ("acts, 95 of 100 ms", len(told.acts), _of(told.acts, 0.95), 600.0),
        ("previews, 95 of 100 ms", len(told.previews), _of(told.previews, 0.95), 600.0),
        ("server errors", sum(told.statuses.values()), float(wrong), 0.0),
        ("acts that were refused", len(told.acts), float(told.refused), 0.1 * len(told.acts)),
        ("memory of a web process, MB", WEBS, web, 700.0),
    ]
    holds = []
    for name, number, value, bound in rows:
        holds.append(value <= bound and number > 0)
        told_of = {"bench": f"marina: {name}", "n": number, "value": value, "bound": bound, "holds": holds[-1]}
        print(json.dumps(told_of), flush=True)
    return holds


def _used(processes: dict[str, int]) -> dict[str, float]:
    """Seconds of computing so far: the pages, what they ask beside them, the workers, the database."""
    found = dict.fromkeys(("pages", "beside the pages", "workers", "database"), 0.0)
    for name, pid in processes.items():
        sort = {"web": "pages", "worker": "workers"}.get(name.split()[0], "database")
        found[sort] += _seconds(pid)
        for kid in _children(pid):
            found["database" if sort == "database" else "beside the pages"] += _seconds(kid)
    return found


def _seconds(pid: int) -> float:
    """Of a process, with what its ended children used."""
    try:
        row = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    except OSError:
        return 0.0
    return sum(int(ticks) for ticks in row[11:15]) / os.sysconf("SC_CLK_TCK")


def _children(pid: int) -> list[int]:
    return [int(kid) for each in Path(f"/proc/{pid}/task").glob("*/children") for kid in each.read_text().split()]


def _memory(pid: int) -> dict[str, float]:
    """Now and at most, of one process, in megabytes; of its children now."""
    lines = dict(line.split(":", 1) for line in Path(f"/proc/{pid}/status").read_text().splitlines())
    own = {"now_mb": int(lines["VmRSS"].split()[0]) / 1024, "peak_mb": int(lines["VmHWM"].split()[0]) / 1024}
    return {name: round(value, 1) for name, value in own.items()} | {
        "children_mb": round(sum(map(_resident, _children(pid))), 1)
    }


def _resident(pid: int) -> float:
    return int(Path(f"/proc/{pid}/statm").read_text().split()[1]) * 4096 / (1 << 20)


@contextmanager
def _installation(refits: int) -> Iterator[tuple[list[Berth], list[int], dict[str, int]]]:
    """Boats in a database, and what serves them: processes of their own, as a supervisor starts them."""
    from rovask.start import postgres
    from rovask.start.sockets import free_port
    from rovask.store.database import sessions_for
    from rovask.store.migrate import migrate

    folder = Path(tempfile.mkdtemp(prefix="rovask-marina-", dir="/var/tmp"))
    folder.chmod(0o755)
    server = postgres.start(postgres.data_folder(folder, "pg"), say=lambda _: None)
    own = {name: value for name, value in os.environ.items() if not name.startswith("ROVASK_")}
    own |= {"ROVASK_DATABASE_URL": server.url, "ROVASK_STATE": str(folder / "state")}
    begun: dict[str, subprocess.Popen[bytes]] = {}
    try:
        migrate(server.url)
        began = time.perf_counter()
        berths = _boats(Settings(database_url=server.url), refits)
        print(json.dumps({"bench": "marina: boats", "n": refits, "s": round(time.perf_counter() - began)}), flush=True)
        sessions_for(server.url).kw["bind"].dispose()
        ports = [free_port() for _ in range(WEBS)]
        words = [(f"web {port}", ["web", "--port", str(port)]) for port in ports]
        words += [(f"worker {number}", ["worker"]) for number in range(WORKERS)]
        for name, command in words:
            begun[name] = subprocess.Popen([sys.executable, "-m", "rovask.start.cli", *command], env=own)
        for port in ports:
            _until_it_answers(port)
        yield berths, ports, {name: process.pid for name, process in begun.items()} | {"database": _postmaster(folder)}
    finally:
        for process in begun.values():
            process.terminate()
        for process in begun.values():
            process.wait(timeout=60)
        server.stop()
        shutil.rmtree(folder, ignore_errors=True)


def _postmaster(folder: Path) -> int:
    return int(next(folder.rglob("postmaster.pid")).read_text().splitlines()[0])


def _boats(settings: Settings, refits: int) -> list[Berth]:
    from sqlalchemy import text

    from rovask.core.refit.whole import Whole
    from rovask.desk.command import Actor
    from rovask.desk.door import Desk
    from rovask.store import accounts
    from rovask.store.database import transaction

    desk, clock, berths = Desk(settings), settings.clock(), []
    sizes = random.Random(1)
    for number in range(refits):
        refit = generated_refit(sizes.randint(SMALL, LARGE), number)
        with transaction(settings.database_url) as session:
            account = accounts.new_account(session, f"Skipper {number}", clock).pk
            cookie = accounts.begin_session(session, account, "", clock)
        # each is three days out of the water, and its half-hour ends at another moment, so that some do at any time
        shift = refit.haul_at + timedelta(days=3, hours=1, minutes=sizes.uniform(0, 30)) - clock
        kept = desk.add(Actor(account), Whole(refit), "bench", clock, clock_shift=shift)
        tasks = tuple(task for task in refit.tasks)
        berths.append(Berth(kept.pk, cookie, tuple(job.id for job in refit.jobs), tasks))
    with transaction(settings.database_url) as session:  # they were searched and played long ago
        session.execute(text("delete from procrastinate_jobs"))
    return berths


def _until_it_answers(port: int, seconds: float = 180) -> None:
    deadline = time.monotonic() + seconds
    while True:
        try:
            line = HTTPConnection("127.0.0.1", port, timeout=5)
            line.request("GET", "/readyz")
            if line.getresponse().status == 200:
                return
        except (HTTPException, OSError):
            pass
        if time.monotonic() > deadline:
            raise RuntimeError("a web process did not come up")
        time.sleep(0.2)
