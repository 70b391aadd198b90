"""Plans of several ways from one plan, with the same effort, so that no luck of a search is told as what a way does."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

from rovask.core.odds.surer import ABOUT
from rovask.core.plan.first.serial import Schedule, played_again
from rovask.core.plan.planner import Draft, draft_plan, moved_over, plan_of, schedule_of
from rovask.core.plan.problem.arrays import FIRST_TASK, LAUNCH_NODE
from rovask.core.plan.problem.compile import compile_refit
from rovask.core.plan.problem.value import LATE, value_of
from rovask.core.plan.problem.windows import windows_of
from rovask.core.plan.result import Plan
from rovask.core.plan.solver.improve import Stop, put_right
from rovask.core.plan.verify.check import verify
from rovask.core.refit.model import Refit

FEW_STARTS = 3


@dataclass(frozen=True)
class Side:
    """A way's refit, its plan with the problem it was made on, and why there is none ("": there is one)."""

    refit: Refit
    draft: Draft
    why_not: str = ""

    @property
    def plan(self) -> Plan:
        """Its plan."""
        return self.draft.plan


class Sides:
    """Makes the plan of one way after the other, from the present plan of the refit as it is. O(a first plan) each."""

    def __init__(self, refit: Refit, plan: Plan) -> None:
        self.refit, self.plan = refit, plan
        problem = compile_refit(refit, plan.now, plan.collisions, plan.made_good, plan, broken=plan.broken)
        self.problem, self.schedule = problem, schedule_of(problem, plan)

    def as_it_is(self) -> Side:
        """The refit with the plan it has: the one every page shows."""
        return Side(self.refit, Draft(self.plan, self.problem, self.schedule))

    def of(self, refit: Refit) -> Side:
        """The side of one way.

        The order and the people of the present plan stay unless another is worth more by a hundredth: that plan was searched for
        long, and a way is not to seem less sure only because its plan is rougher.
        """
        draft = draft_plan(refit, self.plan.now, FEW_STARTS, before=self.plan)
        if draft.schedule is not None and self.schedule is not None:
            draft = _chosen(refit, draft, self._held(draft))
        return _checked(refit, draft)

    def _held(self, draft: Draft) -> list[Schedule]:
        """The present plan's order in a way's problem: with its times and without."""
        if self.schedule is None:
            return []
        known, windows = moved_over(self.problem, self.schedule, draft.problem), windows_of(draft.problem)
        found = [played_again(draft.problem, windows, known, held=held) for held in (True, False)]
        return [one for one in found if one.stuck < 0]


def searched(sides: Sequence[Side], seconds: float, clock: Callable[[], float], stop: Stop) -> list[Side]:
    """The sides, what each change moves put right by the solver for up to ``seconds`` each; two at once."""

    def one(side: Side) -> Side:
        draft = side.draft
        if side.why_not or draft.schedule is None or draft.problem.size <= FIRST_TASK or stop.asked:
            return side
        found = put_right(draft.problem, draft.schedule, seconds, clock, stop=stop)
        if found is draft.schedule or found.stuck >= 0:
            return side
        return _checked(side.refit, _chosen(side.refit, draft, [draft.schedule], found))

    with ThreadPoolExecutor(2) as pool:
        return list(pool.map(one, sides))


def _chosen(refit: Refit, draft: Draft, kept: Sequence[Schedule], other: Schedule | None = None) -> Draft:
    """The draft with the best of what is kept, unless another is worth more by a hundredth; its own where nothing else is given."""
    problem = draft.problem
    best = other or draft.schedule
    assert best is not None
    late = int(problem.arrays.weights[LATE]) * max(int(best.start[LAUNCH_NODE]) - int(problem.arrays.launch_at), 0)

    def valued(one: Schedule) -> Schedule:
        return replace(one, value=value_of(problem, one.start, one.end, one.resume, one.mode))

    best = valued(best)
    rows = sorted((valued(one) for one in kept), key=lambda one: one.value)
    if rows and rows[0].value <= best.value + max(round(ABOUT * (best.value - late)), 0):
        best = rows[0]
    if best is draft.schedule:
        return draft
    plan = plan_of(refit, problem, best, draft.plan.now, draft.plan.starts_tried, ready=draft.plan.ready)
    return Draft(plan, problem, best)


def _checked(refit: Refit, draft: Draft) -> Side:
    """A side that the verifier has passed; what breaks a rule is told, and not played."""
    breaches = verify(refit, draft.plan)
    return Side(refit, draft, breaches[0].sentence if breaches else "")
