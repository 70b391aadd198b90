"""What is compiled is found again by every process, and compiled before a page is served where it isn't there yet."""

from __future__ import annotations

import os
import subprocess
import sys
import threading
from pathlib import Path

import pytest

from rovask.start import compiling

FOLDER = "import rovask, os; print(os.environ['NUMBA_CACHE_DIR'])"


def test_a_child_of_a_child_looks_where_its_parent_kept_it(tmp_path: Path) -> None:
    def child(kept: str) -> str:
        own = {name: value for name, value in os.environ.items() if not name.startswith("ROVASK_")}
        run = [sys.executable, "-c", FOLDER]
        return subprocess.run(run, env=own | {"NUMBA_CACHE_DIR": kept}, capture_output=True, text=True).stdout.strip()

    first = child(str(tmp_path))
    assert Path(first).parent == tmp_path
    assert child(first) == first  # it was a folder deeper, and empty: a first import took 47 s in a request


def test_of_three_that_start_at_once_one_compiles_and_the_others_wait(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("NUMBA_CACHE_DIR", str(tmp_path / "kept"))
    ran: list[str] = []

    def compile_it(*_: object, **__: object) -> None:
        ran.append("compiled")
        threading.Event().wait(0.2)
        compiling.mark_compiled()

    monkeypatch.setattr(compiling.subprocess, "run", compile_it)
    told: list[str] = []
    starts = [threading.Thread(target=compiling.compile_first, args=(told.append,)) for _ in range(3)]
    for one in starts:
        one.start()
    for one in starts:
        one.join()
    assert (ran, len(told), compiling.is_compiled()) == (["compiled"], 1, True)
    monkeypatch.setattr(compiling.binding, "get_host_cpu_name", lambda: "another")  # the folder came with an image
    assert not compiling.is_compiled()


def test_where_nothing_can_be_kept_it_is_served_all_the_same(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "a file").touch()
    monkeypatch.setenv("NUMBA_CACHE_DIR", str(tmp_path / "a file" / "kept"))
    monkeypatch.setattr(compiling.subprocess, "run", lambda *_, **__: compiling.mark_compiled())
    compiling.compile_first(lambda _: None)
    assert not compiling.is_compiled()
