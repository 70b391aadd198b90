"""A plan worth about the same by which the launch is surer: other orders and other people, played under the same luck.

A plan of likely figures has no reason to begin what may turn out badly before what can't, or to leave a day before a fixed
appointment. So plans near the one there is are tried, thousands of them: a few tasks moved (moves.py), or by the solver what drove the
launch in most runs ended sooner (plan/solver/sooner.py). Only one that is worth as much within a hundredth is played. The best is
put to a test on fresh luck before anything is said of it: the best of many tries on one deal is the luckiest of them, too.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from rovask.core.odds.deal import Dealt, dealt, part_of
from rovask.core.odds.game import Board, Game, board_of, game_on, runs_of
from rovask.core.odds.money import money_of
from rovask.core.odds.moves import Moves
from rovask.core.odds.net import Net, in_order
from rovask.core.odds.odds import why_not
from rovask.core.odds.play import played
from rovask.core.plain.words import money
from rovask.core.plan.first.serial import Schedule
from rovask.core.plan.planner import Draft, plan_of
from rovask.core.plan.problem.arrays import FIRST_TASK, LAUNCH_NODE, Problem
from rovask.core.plan.problem.value import LATE, NEAR_SLOTS, STILL_SLOTS, UNPLACED, value_of, with_weights
from rovask.core.plan.problem.windows import windows_of
from rovask.core.plan.result import Plan
from rovask.core.plan.solver.sooner import Sooner
from rovask.core.refit.model import Refit

ABOUT = 0.01  # of the worth of a plan, by which another may be worth less
FEW, MANY, FRESH = 400, 1_600, 6_000  # runs: to see whether a plan is worth a closer look, to look closer, to be sure
LUCK = 1001  # never that of the pages (odds.SEED), or what they tell would be the luck a plan was chosen by
ONE_IN_A_HUNDRED = 2.326  # standard errors: the one-sided test at 1 % (normal distribution)
TAKEN_ON = 2.0  # standard errors by which many runs must speak for a plan, for the search to go on from it
PATIENCE = 300  # plans played since the last that was gone on from, after which nothing more is looked for
SETTLED = 0.025  # odds so near to never and surely, and told as such, are not worth a shuffle
LEAST = 0.02  # less is not worth that anybody's plan is shuffled for it (a judgement) …
NEAR_MOVE = 0.005  # … nor less than this for each task of the next days that moves
HALF_A_DAY = 24.0  # slots: how near to the slot a run has missed or kept it counts while looking
SOLVED = 25  # plans that are played between two that the solver is asked for: it takes as long as they
WEIGHT = 100  # of a task that drove the launch in every run …
UNDER = 0.03  # … and a share of it for every other, so that no day is left empty for nothing
NOISE = (0.3, 1.0)  # log-sd of what the weights are shaken by, so that one look finds another plan than the last


Scores = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Surer:
    """A plan by which the launch is surer.

    before, after: odds of the old and the new on fresh luck, 0 to 1; low, high: of what is gained, 95 %. money: minor units that
    it costs more on the mean of the same runs, 0 where that may be chance. tried: plans that were played.
    """

    plan: Plan
    before: float
    after: float
    low: float
    high: float
    money: int
    tried: int

    @property
    def gains(self) -> float:
        """How much surer it is."""
        return self.after - self.before

    def in_words(self, currency: str) -> str:
        """What it wins, and at what price, in a sentence."""
        price = " for the same money"
        if self.money:
            price = f", {money(abs(self.money), currency, whole=True)} {'dearer' if self.money > 0 else 'cheaper'} on the mean"
        return f"A surer plan was found: {round(100 * self.gains):+d} in 100{price}; {self.tried} were played."


def surer(refit: Refit, draft: Draft, go_on: Callable[[int], bool], seed: int = LUCK, threads: int = 2) -> Surer | None:
    """The surest plan that is found while ``go_on`` (told how many were tried) says so; None if none is surer for certain.

    draft: the plan to begin with, of this very refit, and its problem. seed: of the luck that is chosen by; the test is on the next.
    Where nothing can be said, or the launch is as good as sure or lost by any order, nothing is tried.
    """
    if draft.schedule is None or draft.problem.size <= FIRST_TASK or why_not(refit, draft.plan):
        return None
    search = _Search(refit, draft, draft.schedule, seed, threads)
    if not SETTLED <= search.kept <= 1 - SETTLED:
        return None
    found = search.best_of(go_on)
    return None if found is None else search.proved(found)


class _Search:
    def __init__(self, refit: Refit, draft: Draft, base: Schedule, seed: int, threads: int) -> None:
        self.refit, self.draft, self.seed, self.threads = refit, draft, seed, threads
        self.problem = free_to_move(draft.problem)
        base = self.base = _valued(self.problem, base)
        self.board = board_of(refit, draft.plan, seed)
        self.random = np.random.default_rng(seed)
        self.sooner = Sooner(self.problem, windows_of(self.problem), seed)
        self.tried = 0
        late = max(int(base.start[LAUNCH_NODE]) - int(self.problem.arrays.launch_at), 0)
        self.least = base.value + round(ABOUT * (base.value - late * int(self.problem.arrays.weights[LATE])))
        game = game_on(self.board, draft.plan)
        score = self._score(game.made.net, dealt(game.deck, 0, MANY))
        self.kept = float((score >= 0.5).mean())  # ready at the slot or before
        self._take(base, draft.plan, game, score)

    def _take(self, schedule: Schedule, plan: Plan, game: Game, score: Scores) -> None:
        """Go on from a plan."""
        self.best, self.plan, self.game, self.score = schedule, plan, game, score
        self.few = dealt(game.deck, 0, FEW)
        self.often: Scores = played(game.made.net, self.few).drives[: self.problem.size] / FEW
        self.moves = Moves(self.problem, schedule, self.often, self.random)

    def best_of(self, go_on: Callable[[int], bool]) -> Plan | None:
        """The plan that did best on one deal; None if nothing did better than what there is."""
        solved, taken = 0, 0
        while go_on(self.tried) and self.tried - taken < PATIENCE:
            due = self.tried >= (solved + 1) * SOLVED
            solved += due
            schedule = self._solved() if due else self.moves.another()
            if schedule is None or not self._about_as_good(schedule):
                continue
            self.tried += 1
            plan = self._plan(schedule)
            if (schedule.mode == self.best.mode).all():
                net, hand = self._ordered(plan), self.few
                if not _better(self._score(net, hand), self.score, 0.0):
                    continue
            game = game_on(self.board, plan)
            for runs in (FEW, MANY):
                score = self._score(game.made.net, dealt(game.deck, 0, runs))
                if not _better(score, self.score, TAKEN_ON if runs == MANY else 0.0):
                    break
            else:
                self._take(schedule, plan, game, score)
                taken = self.tried
        return None if self.plan is self.draft.plan else self.plan

    def proved(self, plan: Plan) -> Surer | None:
        """What a plan wins on luck that no choice was made by; None if that is not certain, or hardly anything."""
        fresh = board_of(self.refit, self.draft.plan, self.seed + 1)
        (was, of_was), (is_, of_is) = (self._money_and_kept(fresh, one) for one in (self.draft.plan, plan))
        gained = of_is.astype(np.float64) - of_was
        mean, error = float(gained.mean()), float(gained.std()) / math.sqrt(len(gained))
        if (
            mean < LEAST + NEAR_MOVE * near_moves(self.problem, self.base, self.best)
            or mean <= ONE_IN_A_HUNDRED * error
        ):
            return None
        half = 1.96 * error
        dearer = (is_ - was).astype(np.float64)
        sure = abs(float(dearer.mean())) > 1.96 * float(dearer.std()) / math.sqrt(len(dearer))
        money = round(float(dearer.mean())) if sure else 0
        return Surer(plan, float(of_was.mean()), float(of_is.mean()), mean - half, mean + half, money, self.tried)

    def _money_and_kept(self, board: Board, plan: Plan) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.bool_]]:
        """Of each run of a plan: minor units, and whether she floats at the slot."""
        game = game_on(board, plan)
        hand, outcome = runs_of(game, 0, FRESH, self.threads)
        return money_of(game, hand, outcome, np.arange(FRESH), board.seed), outcome.launch <= game.made.net.slot

    def _ordered(self, plan: Plan) -> Net:
        """The net of the best plan in the order of another; safe figures as the best has them."""
        made = self.game.made
        return in_order(made.net, made.order_of(plan))

    def _score(self, net: Net, hand: Dealt) -> Scores:
        """How each run did: near 1 where she is ready well before the slot, near 0 well after."""
        ready = _ready_in(net, hand, self.threads)
        return np.asarray(1.0 / (1.0 + np.exp(np.clip((ready - net.slot) / HALF_A_DAY, -50, 50))))

    def _solved(self) -> Schedule | None:
        noise = np.exp(self.random.normal(0.0, float(self.random.choice(NOISE)), len(self.often)))
        weights = np.rint(WEIGHT * (self.often + UNDER) * noise).astype(np.int64)
        return self.sooner.near(self.best, weights, self.least)

    def _plan(self, schedule: Schedule) -> Plan:
        old = self.draft.plan
        return plan_of(self.refit, self.problem, schedule, old.now, bound=old.bound, ready=old.ready)

    def _about_as_good(self, other: Schedule) -> bool:
        """Whether a schedule is worth as much within a hundredth, floats no later, and leaves nothing more out."""
        if other.stuck >= 0 or ((other.start == UNPLACED) & (self.base.start != UNPLACED)).any():
            return False
        if other.start[LAUNCH_NODE] > self.base.start[LAUNCH_NODE] or other.value > self.least:
            return False
        return bool((other.start != self.best.start).any() or (other.mode != self.best.mode).any())


def near_moves(problem: Problem, was: Schedule, becomes: Schedule) -> int:
    """How many tasks of the next days one schedule has elsewhere, or done by others, than another of the same problem."""
    a = problem.arrays
    near = (was.start != UNPLACED) & (was.start < a.now + NEAR_SLOTS) & (a.fixed_start < 0)
    elsewhere = (np.abs(becomes.start - was.start) > STILL_SLOTS) | (becomes.mode != was.mode)
    return int(np.count_nonzero((near & elsewhere)[FIRST_TASK:]))


def free_to_move(problem: Problem) -> Problem:
    """The same problem without a price on what moves: the worth of two plans by themselves is compared."""
    weights = with_weights(problem.arrays.weights, still=False)
    return replace(problem, arrays=problem.arrays._replace(weights=weights))


def _valued(problem: Problem, schedule: Schedule) -> Schedule:
    value = value_of(problem, schedule.start, schedule.end, schedule.resume, schedule.mode)
    return replace(schedule, value=value)


def _ready_in(net: Net, hand: Dealt, threads: int) -> npt.NDArray[np.int64]:
    """When she is ready in each run, the runs shared out."""
    cuts = [len(hand.sky) * one // threads for one in range(threads + 1)]
    hands = [part_of(hand, first, end) for first, end in pairwise(cuts)]
    with ThreadPoolExecutor(threads) as pool:
        return np.concatenate(list(pool.map(lambda one: played(net, one).ready, hands)))


def _better(one: Scores, other: Scores, errors: float) -> bool:
    """Whether one does better than the other in the same runs, by so many standard errors."""
    gained = one - other[: len(one)]
    return float(gained.mean()) > errors * float(gained.std()) / math.sqrt(len(gained))
