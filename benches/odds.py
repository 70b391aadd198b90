"""The odds: how long playing takes, and how much memory; each against its bound."""

from __future__ import annotations

import json
import resource
from functools import partial

from benches.generate import generated_refit
from benches.run import times, told
from rovask.core.odds.game import game_of, runs_of
from rovask.core.odds.odds import odds_of
from rovask.core.plan.planner import make_plan

RUNS, FIRST = 10_000, 2_000
MOST_MB = 300


def odds() -> list[bool]:
    """10,000 runs of 220 tasks, of what was typed and with skies, unknowns and all; the first odds after a change."""
    refit = generated_refit(220, 1)
    plan = make_plan(refit, refit.haul_at)
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    holds = []
    for name, typed, bound in (("as typed", True, 500.0), ("with skies and unknowns", False, 1000.0)):
        game = game_of(refit, plan, 1, only_typed=typed)
        holds.append(told(f"odds, {RUNS} runs of 220 tasks, {name}", bound, times(partial(runs_of, game, 0, RUNS), 5)))
    first = partial(odds_of, refit, plan, runs=FIRST, looks=False)
    holds.append(told(f"odds, the first {FIRST} runs with all that is said of them", 1000.0, times(first, 5)))
    more = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024 - before
    print(json.dumps({"bench": "odds, memory", "more_mb": round(more), "bound_mb": MOST_MB, "holds": more <= MOST_MB}))
    return [*holds, more <= MOST_MB]
