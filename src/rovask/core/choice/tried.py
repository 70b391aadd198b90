"""One set of levers tried: the refit with all its acts, planned and played in few runs, against as it is in the very same ones."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field

import numpy as np

from rovask.core.books.items import left_out
from rovask.core.choice.lay import cant, surest
from rovask.core.choice.levers import Lever
from rovask.core.choice.sides import Side, Sides, checked
from rovask.core.odds.game import Board, board_of, game_on, runs_of
from rovask.core.odds.money import money_of
from rovask.core.odds.odds import SEED, made_it
from rovask.core.plain.faults import RefitFaults
from rovask.core.plan.planner import Planned
from rovask.core.plan.result import Plan
from rovask.core.readings.prices import prices_of
from rovask.core.refit.model import Job, Refit
from rovask.core.refit.ways.choices import ActSort
from rovask.core.refit.work.choices import Need

Apply = Callable[[Refit, Lever], Refit]  # raises RefitFaults for what can't be done
BASE_RUNS = 1_000
FEW = 400  # runs, to see whether a set is worth a closer look
MANY = 4_000  # and to tell it
INTERIM_LEAVES = 0.5  # of what leaving a job is worth: it comes back (a judgement)
MUST_LEFT = 2  # times a should-job: what leaving a must-job for next time is reckoned at, where the sailor lets it be left (a judgement)


@dataclass(frozen=True, slots=True)
class Tried:
    """What a set of levers comes to. odds: 0 to 1; money: mean minor units of the forecast; left: what is left for it, at its price.

    jobs: ids of the jobs that are left.
    """

    levers: frozenset[str]
    odds: float
    money: float
    left: int
    jobs: tuple[str, ...]
    runs: int

    @property
    def price(self) -> float:
        """Money in all, with what is left at its price: what a frontier makes small."""
        return self.money + self.left


@dataclass
class Trier:
    """Tries sets of levers on one refit. The same for the same refit, plan, levers and seed."""

    refit: Refit
    planned: Planned
    levers: Sequence[Lever]
    apply: Apply
    seed: int = SEED
    threads: int = 1
    sides: Sides = field(init=False)
    board: Board | None = field(init=False, default=None)
    refits: dict[tuple[str, ...], Refit | None] = field(init=False, default_factory=dict)
    by_key: dict[str, Lever] = field(init=False)

    def __post_init__(self) -> None:
        self.sides = Sides(self.refit, self.planned.plan)
        base = self.sides.with_fresh(self.sides.as_it_is(), self.seed)
        if not cant(
            base
        ):  # what is tried goes on from the better order, or having looked would be told as what a lever does
            plan = surest(base, self._board(base), BASE_RUNS, self.threads).plan
            if plan is not self.planned.plan:
                self.sides = Sides(self.refit, plan)
        self.by_key = {lever.key: lever for lever in self.levers}

    def tried(self, keys: Iterable[str], runs: int = FEW, *, closely: bool = False) -> Tried | None:
        """What some levers come to together; none: as it is. None where they can't be done or planned together.

        closely: by plans that the verifier has passed, to be told and not only compared.
        """
        wanted = frozenset(keys)
        order = tuple(lever.key for lever in self.levers if lever.key in wanted)
        groups = [self.by_key[key].group for key in order]
        if len(set(groups)) < len(groups):
            return None
        refit = self._with(order)
        if refit is None:
            return None
        side = self.sides.as_it_is() if not order else self._planned(refit, order, closely=closely)
        if cant(side):
            return None
        odds, money = self._played(side, runs)
        jobs, left = self._left(refit, side.plan, order)
        return Tried(wanted, odds, money, left, jobs, runs)

    def _with(self, order: tuple[str, ...]) -> Refit | None:
        """The refit with the acts of some levers, in their order; what a set shares with another is done once."""
        if not order:
            return self.refit
        if order not in self.refits:
            before = self._with(order[:-1])
            made = None
            if before is not None:
                try:
                    made = self.apply(before, self.by_key[order[-1]])
                except RefitFaults:
                    made = None
            self.refits[order] = made
        return self.refits[order]

    def _planned(self, refit: Refit, order: tuple[str, ...], *, closely: bool) -> Side:
        side = self.sides.quick(refit)
        if any(self.by_key[key].people for key in order):
            side = self.sides.with_fresh(side, self.seed)
        return checked(refit, side.drafts) if closely else side

    def _board(self, side: Side) -> Board:
        board = board_of(side.refit, side.plan, self.seed, like=self.board)
        self.board = self.board or board
        return board

    def _played(self, side: Side, runs: int) -> tuple[float, float]:
        """Odds and mean money of a side."""
        board = self._board(side)
        if len(side.drafts) > 1:
            side = surest(side, board, FEW, self.threads)
        game = game_on(board, side.plan)
        hand, outcome = runs_of(game, 0, runs, self.threads)
        money = money_of(game, hand, outcome, np.arange(runs), self.seed)
        return float(made_it(game, outcome).mean()), float(money.mean())

    def _left(self, refit: Refit, plan: Plan, order: tuple[str, ...]) -> tuple[tuple[str, ...], int]:
        """Jobs that as it is are done and so are not, and what that is reckoned at."""
        there = {job.id for job in refit.jobs} - left_out(refit, plan)
        was = left_out(self.refit, self.planned.plan)
        gone = [job for job in self.refit.jobs if job.id not in there and job.id not in was]
        interim = {act.of for key in order for act in self.by_key[key].acts if act.do is ActSort.INTERIM}
        worth = sum(round(self._worth(job) * (INTERIM_LEAVES if job.id in interim else 1)) for job in gone)
        return tuple(job.id for job in gone), worth

    def _worth(self, job: Job) -> int:
        """What leaving a job is reckoned at, in minor units: as the planner does."""
        prices = prices_of(self.refit)
        of = {
            Need.MUST: MUST_LEFT * prices.leave_should,
            Need.SHOULD: prices.leave_should,
            Need.COULD: prices.leave_could,
        }
        return of[job.need] + prices.task_left * sum(1 for task in job.tasks if task.done_at is None)
