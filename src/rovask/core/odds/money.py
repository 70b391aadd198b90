"""What each run costs: the forecast of the plan, with what turned out otherwise in that run in its place.

    known forecast + yard's bill to the run's launch - to the planned one + nights elsewhere of the days between
    + what came to light + prices as drawn - as expected + paid hours as drawn - as planned
    - what of jobs that were left out after all was neither bound nor spent

The forecast is the one of books/forecast.py, the bill that of books/yard_bill.py. Paid hours count by their rate, so a
call-out's least is that of the plan's days: a judgement, since a run moves hours and seldom adds a day.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from datetime import date, timedelta

import numpy as np
import numpy.typing as npt

from rovask.core.books.forecast import forecast
from rovask.core.books.item import ItemKind
from rovask.core.books.items import items, nights_to_pay, unbought
from rovask.core.books.paid_work import Stint, agreement_for, by_the_hour, spared
from rovask.core.books.yard_bill import bill_for, stay_of
from rovask.core.odds.deal import Dealt
from rovask.core.odds.game import Game
from rovask.core.odds.luck import lucks, stream_of
from rovask.core.odds.net import JOB, LIKELY, MODE_LO, PEOPLE, STATE, TO_PLAY
from rovask.core.odds.play import Played
from rovask.core.odds.source import Source, table_of
from rovask.core.odds.spread import ROWS
from rovask.core.plan.problem.arrays import FIRST_TASK, Ints

Minors = npt.NDArray[np.int64]


def money_of(game: Game, hand: Dealt, outcome: Played, runs: Ints, seed: int) -> Minors:
    """Minor units of each run. O(runs x (paid tasks + unknowns + prices) + days)."""
    refit, plan, node = game.refit, game.plan, game.made.net.node
    left = [outcome.end[:, at] < 0 for at in range(len(refit.jobs))]
    out = np.full(len(runs), forecast(refit, plan).known.minor, dtype=np.float64) + by_launch(game, outcome.launch)
    for at, (one, n) in enumerate(game.made.unknowns):
        source, job = game.sources.unknown_money.get(one.id), int(node[n, JOB])
        if source is not None:
            came = hand.came[:, at] if job < 0 else hand.came[:, at] & ~left[job]
            out += came * _drawn(source, seed, runs)
    for key, source in game.sources.price.items():
        part = refit.part_by_id[key]
        out += unbought(refit, part) * (_drawn(source, seed, runs) - part.price)
    paid, planned = by_the_hour(refit, plan), set[int]()
    for n in range(FIRST_TASK, game.made.problem.size):
        if node[n, STATE] == TO_PLAY:
            planned.add(int(node[n, JOB]))
            rate = _paid_by_the_hour(game, n)
            if rate:
                more = rate * (hand.work[:, n].astype(np.float64) - float(node[n, LIKELY])) / 2
                out += np.where(left[int(node[n, JOB])], 0.0, more)
    for job in sorted(planned):
        if left[job].any():
            out -= left[job] * _spared(game, refit.jobs[job].id, paid)
    return np.rint(out).astype(np.int64)


def _spared(game: Game, job: str, paid: Mapping[str, list[Stint]]) -> int:
    """Minor units that a job that is left out after all does not take: what of its parts isn't bound, and its paid hours."""
    goods = sum(row.rest for row in items(game.refit, game.plan) if row.kind is ItemKind.PART and row.job == job)
    return goods + spared(game.refit, paid, lambda row: row.job == job)


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


def _drawn(source: Source, seed: int, runs: Ints) -> npt.NDArray[np.float64]:
    return np.asarray(table_of(source)[(lucks(stream_of(seed, *source.stream), runs) * ROWS).astype(np.int64)])
