"""The package by itself: built, put somewhere else, and the command in it works without the checkout."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tomllib
from datetime import datetime
from pathlib import Path

from rovask.core.plan.planner import make_plan
from rovask.core.refit.model import Refit
from rovask.formats.refit_file import plan_json

ROOT = Path(__file__).parents[1]
KEPT_OUT = shutil.ignore_patterns(".*", "node_modules", "tests", "docs", "__pycache__", "build", "*.egg-info")


def uv_here() -> str:
    """uv as the launcher keeps it beside the state, or one on the path."""
    kept = Path(os.environ.get("ROVASK_STATE", ROOT / ".rovask")) / "uv/uv"
    found = str(kept) if kept.exists() else shutil.which("uv")
    assert found, "the launcher keeps uv in its state: run ./rovask setup"
    return found


def test_an_installed_package_works_without_the_checkout(tmp_path: Path, demo: Refit, day_9: datetime) -> None:
    shutil.copytree(ROOT, tmp_path / "source", ignore=KEPT_OUT)
    uv = uv_here()
    building = ["build", "-q", "--wheel", "--no-build-isolation", "-o", str(tmp_path), str(tmp_path / "source")]
    subprocess.run([uv, *building, "--python", sys.executable], check=True, capture_output=True)
    wheel = next(tmp_path.glob("rovask-*.whl"))
    there = tmp_path / "there"
    installing = ["pip", "install", "-q", "--no-deps", "--target", str(there), str(wheel), "--python", sys.executable]
    subprocess.run([uv, *installing], check=True, capture_output=True)
    environment = os.environ | {"PYTHONPATH": str(there)}
    command = there / "bin/rovask"
    kept, plan = there / "rovask/start/demo.refit.json", tmp_path / "plan.json"
    plan.write_text(plan_json(make_plan(demo, day_9)))
    words = [sys.executable, str(command), "verify", str(kept), str(plan)]
    done = subprocess.run(words, cwd=tmp_path, env=environment, capture_output=True, text=True, check=False)
    assert (done.returncode, done.stderr.strip()) == (0, "valid")
    where = [sys.executable, "-c", "import rovask.web.app as one; print(one.__file__)"]
    assert subprocess.check_output(where, cwd=tmp_path, env=environment, text=True).startswith(str(there))
    for name in ("web/templates/base.html", "web/static/rovask.css", "recipes/anodes.toml", "store/migrations/env.py"):
        assert (there / "rovask" / name).exists(), name


def test_the_package_names_what_the_lock_pins() -> None:
    """Dependencies are named in one place for pip and in another for the hashed lock: they must be the same."""
    named = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]["dependencies"]
    rows = (ROOT / "requirements/app.in").read_text().splitlines()
    wanted = {row.partition("==")[0] for row in rows if row and not row.startswith("#")}
    assert {one.partition("==")[0] for one in named} == wanted
    lock = (ROOT / "requirements/app.lock").read_text()
    for one in named:
        name, _, version = one.partition("==")
        assert f"\n{name.partition('[')[0]}=={version} " in f"\n{lock}", one
