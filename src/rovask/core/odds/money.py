"""What each run costs: the forecast of the plan, with what turned out otherwise in that run in its place.

    known forecast + yard's bill to the run's launch - to the planned one + nights elsewhere of the days between
    + what came to light + prices as drawn - as expected + paid hours as drawn - as planned

The forecast is the one of books/forecast.py, the bill that of books/yard_bill.py. Paid hours count by their rate, so a
call-out's least is that of the plan's days: a judgement, since a run moves hours and seldom adds a day.
"""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta

import numpy as np
import numpy.typing as npt

from rovask.core.books.forecast import forecast
from rovask.core.books.items import nights_to_pay, unbought
from rovask.core.books.paid_work import agreement_for
from rovask.core.books.yard_bill import bill_for, stay_of
from rovask.core.odds.deal import Dealt
from rovask.core.odds.game import Game
from rovask.core.odds.luck import lucks, stream_of
from rovask.core.odds.net import LIKELY, MODE_LO, PEOPLE, STATE, TO_PLAY
from rovask.core.odds.sources import table_of
from rovask.core.odds.spread import ROWS
from rovask.core.plan.problem.arrays import FIRST_TASK, Ints

Minors = npt.NDArray[np.int64]


def money_of(game: Game, hand: Dealt, launch: Ints, runs: Ints, seed: int) -> Minors:
    """Minor units of each run; launch: when she was, in slots. O(runs x (paid tasks + unknowns + prices) + days)."""
    refit, plan = game.refit, game.plan
    known = forecast(refit, plan).known.minor
    out = np.full(len(runs), known, dtype=np.float64) + by_launch(game, launch)
    for at, (one, _) in enumerate(game.made.unknowns):
        source = game.sources.unknown_money.get(one.id)
        if source is not None:
            out += hand.came[:, at] * _drawn(table_of(source), seed, "unknown money", one.id, runs)
    for key, source in game.sources.price.items():
        part = refit.part_by_id[key]
        out += unbought(refit, part) * (_drawn(table_of(source), seed, "price", key, runs) - part.price)
    node = game.made.net.node
    for n in range(FIRST_TASK, game.made.problem.size):
        if node[n, STATE] == TO_PLAY:
            rate = _paid_by_the_hour(game, n)
            if rate:
                out += rate * (hand.work[:, n].astype(np.float64) - float(node[n, LIKELY])) / 2
    return np.rint(out).astype(np.int64)


def by_launch(game: Game, launch: Ints) -> npt.NDArray[np.float64]:
    """What launches on other days than the planned one cost more: the yard's bill, and nights elsewhere where some are due."""
    refit, grid = game.refit, game.made.problem.grid
    stay = stay_of(refit, game.plan)
    days = np.searchsorted(grid.day_starts(), launch, side="right") - 1
    nights = nights_to_pay(refit, game.plan) > 0
    night = (refit.price_night_ashore or 0) if nights else 0
    planned = sum(line.amount for line in bill_for(refit, stay))
    of_day = {}
    for day in np.unique(days).tolist():
        on: date = grid.first + timedelta(days=day)
        later = (on - stay.last).days
        moved = replace(stay, last=on, slings=tuple(one + timedelta(days=later) for one in stay.slings))
        of_day[day] = sum(line.amount for line in bill_for(refit, moved)) - planned + night * max(later, 0)
    return np.array([of_day[day] for day in days.tolist()], dtype=np.float64)


def _paid_by_the_hour(game: Game, n: int) -> int:
    """Minor units an hour of a node costs outside every agreement."""
    refit, net = game.refit, game.made.net
    job = refit.job_of[game.made.names[n]].id
    crew = [refit.people[who] for who in net.mode[net.node[n, MODE_LO], PEOPLE:].tolist() if who >= 0]
    return sum(who.rate for who in crew if agreement_for(refit, who.id, job) is None)


def _drawn(table: npt.NDArray[np.float64], seed: int, what: str, key: str, runs: Ints) -> npt.NDArray[np.float64]:
    return np.asarray(table[(lucks(stream_of(seed, what, key), runs) * ROWS).astype(np.int64)])
