"""This checkout against another one, turn by turn in one run: for a machine whose speed changes from minute to minute.

Each side is a process of its own that works with its own sources and is asked in turn, so that what slows one slows the
other; the ratio of each pair is what counts. The other side may be as old as 0.7.0: what is asked of it is looked for
where it was then.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from statistics import median
from typing import Any

ROOT = Path(__file__).parents[1]
TURNS = 15
ASKED = {  # in how much of the other's time, by the bounds of the issue against 0.7.0 (an idle machine)
    "first plan, 220 tasks": 0.65,
    "first plan, 400 tasks": 0.8,
    "plan and verdict after a change, 220 tasks": None,
    "plan and verdict after a change, 400 tasks": None,
    "its check, 220 tasks": None,
}


def against(other: Path) -> list[bool]:
    """Compare with the checkout in ``other``, whose numba cache is filled on the way. One line a question."""
    sides = [_started(other.resolve()), _started(ROOT)]
    holds = []
    for what, most in ASKED.items():
        for side in sides:
            _ask(side, what)
            _ask(side, what)
        rows = [[_ask(side, what) for side in sides] for _ in range(TURNS)]
        ratio = median(ours / theirs for theirs, ours in rows)
        theirs, ours = (round(median(column), 1) for column in zip(*rows, strict=True))
        told = {"bench": f"against {other.name}: {what}", "other_ms": theirs, "this_ms": ours, "ratio": round(ratio, 2)}
        holds.append(most is None or ratio <= most)
        print(json.dumps(told | ({"bound": most, "holds": holds[-1]} if most is not None else {})), flush=True)
    for side in sides:
        side.terminate()
    return holds


def _started(checkout: Path) -> subprocess.Popen[str]:
    env = dict(os.environ, PYTHONPATH=os.pathsep.join((str(checkout / "src"), str(checkout))))
    env.pop("ROVASK_COMPILED", None)
    command = [sys.executable, __file__]
    return subprocess.Popen(command, cwd=checkout, env=env, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)


def _ask(side: subprocess.Popen[str], what: str) -> float:
    if side.stdin is None or side.stdout is None:
        raise RuntimeError("the other process can't be asked")
    side.stdin.write(what + "\n")
    side.stdin.flush()
    return float(side.stdout.readline())


def _answer() -> None:
    """In a process of one checkout: milliseconds for each question that comes."""
    from rovask.core.plan.planner import draft_plan, plan_and_judge
    from rovask.core.plan.verify.check import verify
    from rovask.core.refit.edits import rebuilt

    try:
        from benches.generate import generated_refit
    except ImportError:  # before 0.11.0
        from rovask.core.generate import generated_refit  # type: ignore[import-not-found, no-redef, unused-ignore]
    refits = {size: generated_refit(size, 1) for size in (220, 400)}
    before = {size: plan_and_judge(made, made.haul_at) for size, made in refits.items()}
    turns: dict[str, Callable[[Any, Any, Any], object]] = {
        "first plan": lambda made, now, _: draft_plan(made, now),
        "plan and verdict after a change": lambda made, now, plan: plan_and_judge(made, now, before=plan),
        "its check": lambda made, _, plan: verify(made, plan),
    }
    for turn, line in enumerate(sys.stdin):
        what, _, size = line.strip().removesuffix(" tasks").rpartition(", ")
        was = refits[int(size)]
        made = rebuilt(was, budget=was.budget + turn + 1)  # another revision: nothing is known of it yet
        began = time.perf_counter()
        turns[what](made, was.haul_at, before[int(size)].plan)
        print((time.perf_counter() - began) * 1000, flush=True)


if __name__ == "__main__":
    _answer()
