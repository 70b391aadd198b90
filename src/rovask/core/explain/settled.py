"""Both sides of a comparison searched in step, so that no luck of one is told as an effect."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from copy import copy
from dataclasses import dataclass, replace
from datetime import datetime

from rovask.core.books.forecast import forecast
from rovask.core.explain.own_money import own_money
from rovask.core.explain.search import Halted, Search
from rovask.core.plan.first.serial import Schedule, played_again
from rovask.core.plan.planner import Draft, Planned, draft_plan, moved_over, plan_of, schedule_of
from rovask.core.plan.problem.arrays import FIRST_TASK
from rovask.core.plan.problem.value import value_of
from rovask.core.plan.problem.windows import windows_of
from rovask.core.plan.result import Plan
from rovask.core.plan.solver.improve import Status, improve, put_right
from rovask.core.plan.solver.reorder import Reorder
from rovask.core.plan.verdict.verdict import judge
from rovask.core.refit.model import Refit

RIGHT_SHARE, SOLVED_SHARE = 0.5, 0.3  # of that for what the change moves, and for the solver at the end


SEED = 1


FIRST_GO = 0.6  # of the time; the rest is for the other search


SEEDS_APART = 100


ROUNDS = 3  # that a search on both sides is cut into; the first is not counted on


@dataclass(frozen=True, slots=True)
class Answers:
    """What several searches said the rest of the plan does in answer, in minor units, the least and the most."""

    low: int
    high: int


def settled(
    refit: Refit, changed: Refit, now: datetime, so_far: Plan | None, search: Search
) -> tuple[Planned, Planned, Answers]:
    """Both sides searched in step, each trying at once what the other has found, from the best that is known of the refit.

    Luck of one side would else be told as an effect: an order that one finds is nearly always as good for the other. The
    search is cut in rounds, and made once more with other luck from the same start: what the rounds after the first and
    that other search come to says how far the answer is to be trusted.
    """
    before = _Side(refit, draft_plan(refit, now, before=so_far))
    if so_far is not None and so_far.now == now:
        before.start_from(so_far)
    after = _Side(changed, draft_plan(changed, now, before=before.planned().plan))
    after.learn(before)
    goes = [
        (replace(search, seconds=search.seconds * FIRST_GO), ROUNDS),
        (replace(search, seconds=search.seconds * (1 - FIRST_GO)), 1),
    ]
    told: list[int] = []
    pairs = []
    for turn, (step, rounds) in enumerate(goes):
        pair = before.anew(), after.anew()
        told += _in_step(pair, step, rounds, SEED + turn * SEEDS_APART)
        pairs.append(pair)
        if pair[0].proven and pair[1].proven:
            return pair[0].planned(), pair[1].planned(), Answers(told[-1], told[-1])
    one, other = (min(sides, key=lambda side: side.value) for sides in zip(*pairs, strict=True))
    one.learn(other)
    other.learn(one)
    told.append(_answer(one, other))
    return one.planned(), other.planned(), Answers(min(told), max(told))


def _in_step(sides: tuple[_Side, _Side], search: Search, rounds: int, seed: int) -> list[int]:
    """Searches both sides and lets each learn of the other, round by round; what the answer is after each but the first."""
    found = []
    for at in range(rounds):
        with ThreadPoolExecutor(len(sides)) as pool:
            step = replace(search, seconds=search.seconds / rounds)
            list(pool.map(lambda side: side.search(step, at, seed), sides))  # noqa: B023 - done before the next one
        if search.halt.asked:
            raise Halted
        sides[0].learn(sides[1])
        sides[1].learn(sides[0])
        found.append(_answer(*sides))
        if sides[0].proven and sides[1].proven:
            return found[-1:]
    return found[1:] or found


def _answer(before: _Side, after: _Side) -> int:
    """Minor units by which the rest of the plan answers a change, as far as both sides are found."""
    one, other = before.planned(), after.planned()
    own = own_money(before.refit, one.plan, after.refit, other.plan)
    total = forecast(after.refit, other.plan).total - forecast(before.refit, one.plan).total
    return (total - own).minor


class _Side:
    """One side of a comparison: the best schedule so far, and the means to find a better one."""

    def __init__(self, refit: Refit, draft: Draft) -> None:
        self.refit, self.draft, self.best, self.proven = refit, draft, draft.schedule, False

    def anew(self) -> _Side:
        """The same side before any search."""
        return copy(self)

    @property
    def value(self) -> int:
        """What its best costs; nothing found is dearest."""
        return self.best.value if self.best is not None else 1 << 62

    def start_from(self, plan: Plan) -> None:
        """The plan that is kept of this very refit and moment: the best that is known."""
        if self.best is None:
            return
        self._take(schedule_of(self.draft.problem, plan))

    def search(self, search: Search, turn: int, seed: int) -> None:
        """What the change alone moves put right; then other orders, which may find room for a whole job; then as the worker searches."""
        problem = self.draft.problem
        if self.best is None or problem.size <= FIRST_TASK or self.proven:
            return
        stop, until = search.halt.stop(), search.clock() + search.seconds
        if not turn:
            self._take(put_right(problem, self.best, search.seconds * RIGHT_SHARE, search.clock, stop=stop))
        tries = Reorder(problem, windows_of(problem), seed + turn)
        while self.best is not None and not stop.asked and search.clock() < until - search.seconds * SOLVED_SHARE:
            self._take(tries.near(self.best))
        seconds = until - search.clock()
        found = improve(problem, self.best, seconds=seconds, clock=search.clock, workers=1, stop=stop, seed=seed + turn)
        self._take(found.schedule)
        self.proven = found.status is Status.OPTIMAL and not stop.asked

    def learn(self, other: _Side) -> None:
        """The other side's order and people, with its times and without."""
        if other.best is None or self.best is None:
            return
        problem = self.draft.problem
        known, windows = moved_over(other.draft.problem, other.best, problem), windows_of(problem)
        for held in (True, False):
            self._take(played_again(problem, windows, known, held=held))

    def _take(self, found: Schedule | None) -> None:
        if found is None or found.stuck >= 0 or self.best is None:
            return
        value = value_of(self.draft.problem, found.start, found.end, found.resume, found.mode)
        found = replace(found, value=value)  # what the solver found comes without one
        if found.value <= self.best.value:
            self.best = found

    def planned(self) -> Planned:
        """The best as a plan."""
        plan, problem = self.draft.plan, self.draft.problem
        if self.best is not None and self.best is not self.draft.schedule:
            plan = plan_of(self.refit, problem, self.best, plan.now, plan.starts_tried, ready=plan.ready)
        return Planned(plan, judge(self.refit, plan, problem))
