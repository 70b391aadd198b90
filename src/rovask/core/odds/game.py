"""A plan made ready to be played: net, deck and sources, from a refit; and many runs of it, shared out over threads."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

import numpy as np

from rovask.core.odds.calendars import NetCalendars
from rovask.core.odds.deal import Dealt, Deck, certain_release, dealt, deck_of
from rovask.core.odds.net import BEGUN, RELEASE, STATE, TO_PLAY, Made
from rovask.core.odds.net_maker import NetMaker
from rovask.core.odds.play import Played, played
from rovask.core.odds.skies import SKIES, Skies, skies_of
from rovask.core.odds.sources import Sources, sources_of
from rovask.core.plain.derived import derived
from rovask.core.plan.problem.arrays import FIRST_TASK, Problem
from rovask.core.plan.problem.calendar import SlotGrid
from rovask.core.plan.problem.compile import Compiler
from rovask.core.plan.problem.grid import grid_of
from rovask.core.plan.result import Plan
from rovask.core.refit.givens.weather import Weather
from rovask.core.refit.model import Refit, Visit
from rovask.core.refit.work.make_good import with_make_good

COMES_AGAIN = timedelta(days=7)  # whoever comes for some days, and wasn't done, comes again so much later
LOT = 500  # runs a thread takes at a time


@dataclass(frozen=True, eq=False)
class Board:
    """What is the same for every order of a refit's work: its problem, its skies, when anybody can work under them.

    refit: with the plan's make-good work in it. bare: the same without its forecast; compiler, problem: of that one.
    """

    refit: Refit
    bare: Refit
    compiler: Compiler
    problem: Problem
    calendars: NetCalendars
    sky: Skies | None
    seed: int
    only_typed: bool


@dataclass(frozen=True, eq=False)
class Game:
    """What is played. refit: with the plan's make-good work in it; own_climate: whether the yard said its own."""

    refit: Refit
    plan: Plan
    made: Made
    deck: Deck
    sources: Sources
    own_climate: bool


def game_of(refit: Refit, plan: Plan, seed: int, *, only_typed: bool = False, skies: int = SKIES) -> Game:
    """The game of a plan of this very refit. Deterministic. O(compiling it, and its skies)."""
    return game_on(board_of(refit, plan, seed, only_typed=only_typed, skies=skies), plan)


def board_of(
    refit: Refit, plan: Plan, seed: int, *, only_typed: bool = False, skies: int = SKIES, like: Board | None = None
) -> Board:
    """The board for a plan of this very refit, and for every other with the same moment, collisions and missed waits.

    like: a board of the same seed and skies whose calendars it goes on with, where they are of the same days and weather.
    """
    refit = with_make_good(refit, plan.made_good)
    known = refit if only_typed else refit.supposed(weather=Weather(climate=refit.weather.climate))
    bare = _comes_again(known, grid_of(refit, plan.now))
    compiler = Compiler(bare, plan.now)
    problem = compiler.problem(plan.collisions, None, broken=plan.broken)
    calendars, sky = None, None
    if like is not None and like.seed == seed and _under_the_same(refit, problem.grid, like):
        calendars, sky = like.calendars, like.sky
    if sky is None and not only_typed and _weathered(refit):
        calendars, sky = None, skies_for(refit, problem.grid, plan.now, seed, skies)
    if calendars is None:
        calendars = NetCalendars(problem.grid, refit.weather, sky)
    return Board(refit, bare, compiler, problem, calendars, sky, seed, only_typed)


def game_on(board: Board, plan: Plan) -> Game:
    """The game of one of the plans a board is for."""
    refit, problem, compiler, sky = board.refit, board.problem, board.compiler, board.sky
    sources = sources_of(refit, plan, only_typed=board.only_typed)
    there = {*problem.tasks, "haul"} & {*plan.by_task(), "haul"}
    waits = tuple(link.id for link in refit.waits if link.id in sources.wait and {link.first, link.then} <= there)
    maker = NetMaker(refit, board.bare, plan, problem, waits, sources, board.calendars)
    made = _released(refit, maker.made(), compiler, sources)
    deck = deck_of(refit, plan, made, compiler, sources, board.seed)
    return Game(refit, plan, made, deck, sources, sky is None or sky.own_climate)


def _under_the_same(refit: Refit, grid: SlotGrid, like: Board) -> bool:
    """Whether a refit lies under the skies of a board, on the same days."""
    there = like.refit
    return (like.problem.grid, there.weather, there.yard.latitude) == (grid, refit.weather, refit.yard.latitude)


def _weathered(refit: Refit) -> bool:
    """Whether anything hangs on the weather at all."""
    open_ = (task for task in refit.tasks.values() if task.done_at is None)
    return any(task.weather is not None for task in open_) or any(link.cures for link in refit.links)


@derived(lambda refit, grid, now, seed, count: (refit.weather, refit.yard.latitude, grid, now, seed, count))
def skies_for(refit: Refit, grid: SlotGrid, now: datetime, seed: int, count: int) -> Skies:
    """The skies over a refit's yard, as known at ``now``."""
    return skies_of(grid, refit.weather, refit.yard.latitude, now, seed, count)


def _comes_again(refit: Refit, grid: SlotGrid) -> Refit:
    """Whoever is only here on visits is here again a week after the last of them, for what isn't done by then."""
    last: dict[str, Visit] = {}
    for one in refit.visits:
        if one.person is not None and (one.person not in last or one.last > last[one.person].last):
            last[one.person] = one
    more = [
        one.model_copy(update={"id": f"again-{one.id}"[:40], "first": one.last + COMES_AGAIN, "last": grid.last})
        for one in last.values()
        if one.last + COMES_AGAIN <= grid.last
    ]
    return refit.supposed(visits=(*refit.visits, *more)) if more else refit


def _released(refit: Refit, made: Made, compiler: Compiler, sources: Sources) -> Made:
    """Nodes that wait for parts whose time to come is drawn are free of those: the deal says when they are at hand."""
    node = made.net.node.copy()
    for n in range(FIRST_TASK, made.problem.size):
        if node[n, STATE] == TO_PLAY and not node[n, BEGUN]:
            task = refit.tasks[made.names[n]]
            if not sources.lead.keys().isdisjoint(task.parts):
                pin = compiler.grid.ceil(task.pin) if task.pin else 0
                node[n, RELEASE] = max(certain_release(compiler, sources, task), pin)
    return replace(made, net=made.net._replace(node=node))


def runs_of(game: Game, first: int, count: int, threads: int = 2) -> tuple[Dealt, Played]:
    """Some runs of a game, the same on however many threads. O(runs x nodes)."""
    lots = [(at, min(LOT, first + count - at)) for at in range(first, first + count, LOT)]

    def lot(of: tuple[int, int]) -> tuple[Dealt, Played]:
        hand = dealt(game.deck, *of)
        return hand, played(game.made.net, hand)

    if threads > 1 and len(lots) > 1:
        with ThreadPoolExecutor(threads) as pool:
            found = list(pool.map(lot, lots))
    else:
        found = [lot(one) for one in lots]
    hands, outcomes = zip(*found, strict=True)
    hand = Dealt(*(np.concatenate(rows) for rows in zip(*hands, strict=True)))
    ready, launch, missed, end = (
        np.concatenate([getattr(one, name) for one in outcomes]) for name in Played._fields[:4]
    )
    counts = (np.sum([getattr(one, name) for one in outcomes], axis=0) for name in Played._fields[4:])
    return hand, Played(ready, launch, missed, end, *counts)
