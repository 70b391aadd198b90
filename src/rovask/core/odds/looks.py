"""What one look is worth: the same plan under the same luck, with the task in which a thing comes to light done first.

A look moves nothing but its moment (and what must be done before one can look). What it wins is what can then be done in
time: a part ordered before the last week, a repair begun while there are days.
"""

from __future__ import annotations

import math

import numpy as np

from rovask.core.odds.deal import Dealt, part_of
from rovask.core.odds.game import Game
from rovask.core.odds.money import money_of
from rovask.core.odds.net import STATE, TO_PLAY, done_first
from rovask.core.odds.play import Played, first_played, played
from rovask.core.odds.told import Look
from rovask.core.refit.seen.kinds import Unknown

RUNS = 4000  # of them at most: half a tenth is told surely by so many pairs
MOST = 6  # looks that are worked out: of what is likeliest to cost most time


def looks_of(game: Game, hand: Dealt, outcome: Played, seed: int) -> tuple[Look, ...]:
    """What each look is worth, the best first; of things that show in a task not begun. O(looks x runs x nodes)."""
    runs = min(RUNS, len(outcome.ready))
    few = part_of(hand, 0, runs)
    numbers = np.arange(runs)
    planned = first_played(outcome, runs)
    cost = money_of(game, few, planned, numbers, seed)
    out = []
    for one in _worth_asking(game):
        assert one.task is not None
        node = game.made.node(one.task)
        early = played(done_first(game.made.net, {node}), few)
        slot = game.made.net.slot
        gained = (early.launch <= slot).astype(np.float64) - (planned.launch <= slot)
        half = 1.96 * float(gained.std()) / math.sqrt(runs)
        saved = float((cost - money_of(game, few, early, numbers, seed)).mean())
        mean = float(gained.mean())
        sooner = float((planned.ready - early.ready).mean()) / 2
        out.append(
            Look(
                unknown=one.id, task=one.task, title=one.title, gains=round(mean, 4), low=round(mean - half, 4),
                high=round(mean + half, 4), hours=round(sooner, 1), money=round(saved),
            )
        )  # fmt: skip
    return tuple(sorted(out, key=lambda look: (-look.gains, -look.money)))


def _worth_asking(game: Game) -> list[Unknown]:
    """Unknowns that a look could settle sooner, by what they take if they are so, times how likely they are."""
    node, found = game.made.net.node, []
    for one, _ in game.made.unknowns:
        task = None if one.task is None else game.refit.tasks.get(one.task)
        if task is None or task.begun_at is not None or task.id not in game.made.names:
            continue
        if node[game.made.node(task.id), STATE] == TO_PLAY:
            found.append(one)
    return sorted(found, key=lambda one: -one.chance * (one.hours + 24 * one.lead_days))[:MOST]
