"""Make the database of an earlier version, as that version itself writes it: its own demo, and a hundred acts through its own pages.

    python tests/upgrades/make.py 0.4.0

checks its commit out beside, installs its own locked packages, starts its ``demo``, acts on it, and keeps what is in its database and its
photos as a backup of today's kind (``store/backup``), which reads any schema. Run by hand once for each version that is released; the tests
take the results up (test_upgrades.py).
"""

from __future__ import annotations

import io
import os
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path

import httpx2 as httpx
from PIL import Image

from rovask.store.backup.archive import make_backup
from rovask.store.photos import photo_store

HERE = Path(__file__).parent
ROOT = HERE.parents[1]
PORT, ACTS, READY_SECONDS = 8977, 100, 900
# The commit of each released version: the last that landed under its number, and what its tag v… names.
RELEASED = {
    "0.4.0": "30ca05d",
    "0.5.0": "fc6c4e9",
    "0.6.0": "99fcbf4",
    "0.7.0": "2b6ffed",
    "0.8.0": "a9f2d35",
    "0.9.0": "4055234",
    "0.10.0": "19162b2",
    "0.11.0": "9c64eca",
    "0.12.0": "2a88029",
    "0.13.0": "8b1c567",
    "0.14.0": "951df27",
    "0.15.0": "4f1180d",
    "0.16.0": "e685957",
}


class Boat:
    """Whoever acts on an old version's demo: knows its forms by their names, and takes what is refused as it comes."""

    def __init__(self, link: str) -> None:
        self.browser = httpx.Client(timeout=300, follow_redirects=False)
        self.base = link.partition("/come-aboard")[0]
        self.browser.get(link)
        if not self.browser.cookies:
            self.browser.post(link)
        page = self.browser.get(f"{self.base}/", follow_redirects=True)
        self.root = f"{self.base}/r/" + re.findall(r"/r/(\d+)", str(page.url) + page.text)[0]
        self.csrf = re.findall(r'name="csrf" value="([^"]+)"', self.browser.get(f"{self.root}/morning").text)[0]
        self.done = 0

    def act(self, path: str, form: dict[str, str], **more: object) -> bool:
        """Send a form; whether it was done."""
        answer = self.browser.post(f"{self.root}/{path}", data={"csrf": self.csrf} | form, **more)  # type: ignore[arg-type]
        good = answer.status_code == 303
        self.done += good
        print(self.done, answer.status_code, path, flush=True)
        return good

    def tasks(self) -> list[str]:
        """Ids of tasks, as the pages name them."""
        jobs = re.findall(r"/jobs/([\w-]+)", self.browser.get(f"{self.root}/jobs").text)
        found: list[str] = []
        for job in dict.fromkeys(jobs):
            found += re.findall(r"/task/([\w-]+)/(?:hours|done)", self.browser.get(f"{self.root}/jobs/{job}").text)
            if len(found) > 60:
                break
        return list(dict.fromkeys(found))

    def live(self) -> None:
        """A hundred acts: hours, findings with photos, things done, a recipe, much of it taken back and done again."""
        people = re.findall(r'<option value="([\w-]+)"[^>]*>', self.browser.get(f"{self.root}/jobs").text)
        person = next((one for one in ("mira", *people) if one), "mira")
        tasks = self.tasks()
        self.act("recipes/winches", {"count": "4"})
        for number in range(4 * ACTS):
            if self.done >= ACTS:
                break
            task = tasks[number % len(tasks)]
            sort = number % 6
            if sort in (0, 3):
                self.act(f"task/{task}/hours", {"hours": "1", "person": person})
            elif sort == 1:
                out = io.BytesIO()
                Image.new("RGB", (64, 48), (number % 256, 80, 120)).save(out, "JPEG")
                photo = {"photo": ("a.jpg", out.getvalue(), "image/jpeg")} if number % 5 == 1 else None
                self.act(
                    "found", {"title": f"Found no. {number}", "severity": "watch", "note": "größer «so»"}, files=photo
                )
            elif sort == 2 and number % 4 == 2:
                self.act(f"task/{task}/done", {"hours": "1", "anyway": "yes", "reason": "for the old version"})
            elif sort == 4:
                self.act("undo", {})
            elif sort == 5 and number % 12 == 5:
                self.act("redo", {})


def main(version: str, commit: str = "") -> None:
    """Make the one of a version."""
    commit = commit or RELEASED[version]
    with tempfile.TemporaryDirectory(prefix="rovask-old-", dir="/var/tmp") as folder:
        scratch = Path(folder)
        scratch.chmod(0o755)
        tree, venv, state = scratch / "tree", scratch / "venv", scratch / "state"
        subprocess.run(["git", "worktree", "add", "-q", "--detach", str(tree), commit], cwd=ROOT, check=True)
        try:
            subprocess.run([sys.executable, "-m", "venv", str(venv)], check=True)
            lock = tree / "requirements/app.lock"
            uv = shutil.which("uv", path=str(Path(sys.executable).parent)) or "uv"
            subprocess.run([uv, "pip", "sync", "-q", "--python", str(venv / "bin/python"), str(lock)], check=True)
            _keep(version, tree, venv / "bin/python", state)
        finally:
            subprocess.run(["git", "worktree", "remove", "--force", str(tree)], cwd=ROOT, check=False)


def _keep(version: str, tree: Path, python: Path, state: Path) -> None:
    own = {name: value for name, value in os.environ.items() if not name.startswith("ROVASK_")}
    own |= {
        "PYTHONPATH": str(tree / "src"),
        "ROVASK_STATE": str(state),
        "NUMBA_CACHE_DIR": str(state / "numba"),
        "ROVASK_SEARCH_SECONDS": "2",
    }
    state.mkdir()
    command = [str(python), "-u", "-m", "rovask.start.cli", "demo", "--port", str(PORT)]
    process = subprocess.Popen(command, cwd=tree, env=own, stdout=subprocess.PIPE, text=True, start_new_session=True)
    try:
        assert process.stdout is not None
        link, deadline = "", time.monotonic() + READY_SECONDS
        while time.monotonic() < deadline:
            line = process.stdout.readline()
            link = next(iter(re.findall(r"http\S+/come-aboard/\S+", line)), link)
            if line.startswith("Ready") or not line:
                break
        Boat(link).live()
        time.sleep(5)  # the worker ends what it is at
        lines = (state / "pg/postmaster.pid").read_text().splitlines()
        url = f"postgresql://rovask:{(state / 'pg.secret').read_text().strip()}@127.0.0.1:{lines[3]}/rovask"
        made = make_backup(url, photo_store(state), state / "copies", version, datetime.now(UTC))
        shutil.copyfile(made.path, HERE / f"{version}.tar")
        print(version, made.manifest.schema, f"{made.size / 1e6:.2f} MB", flush=True)
    finally:
        os.killpg(process.pid, signal.SIGINT)
        process.wait(timeout=60)


if __name__ == "__main__":
    main(*sys.argv[1:3])
