"""Plans of several ways from one plan, with the same effort, so that no luck of a search is told as what a way does."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from rovask.core.odds.surer import ABOUT, free_to_move
from rovask.core.plan.first.serial import Schedule, played_again
from rovask.core.plan.planner import Draft, draft_plan, moved_over, plan_of, schedule_of
from rovask.core.plan.problem.arrays import FIRST_TASK, LAUNCH_NODE, Problem
from rovask.core.plan.problem.compile import compile_refit
from rovask.core.plan.problem.value import LATE, value_of
from rovask.core.plan.problem.windows import windows_of
from rovask.core.plan.result import Plan
from rovask.core.plan.solver.improve import Stop, improve
from rovask.core.plan.trial import without_room
from rovask.core.plan.verify.check import verify
from rovask.core.refit.model import Refit

FEW_STARTS = 3


@dataclass(frozen=True)
class Side:
    """A way's refit and its plans that are worth about the same, each with the problem it was made on; the best first.

    why_not: why there is none, in a sentence; "": there is one.
    """

    refit: Refit
    drafts: tuple[Draft, ...]
    why_not: str = ""

    @property
    def draft(self) -> Draft:
        """The plan it is told by."""
        return self.drafts[0]

    @property
    def plan(self) -> Plan:
        """Its plan."""
        return self.draft.plan

    def told_by(self, draft: Draft) -> Side:
        """The same told by one of its plans."""
        return replace(self, drafts=(draft,))


class Sides:
    """Makes the plans of one way after the other, from the present plan of the refit as it is. O(a first plan) each."""

    def __init__(self, refit: Refit, plan: Plan) -> None:
        self.refit, self.plan = refit, plan
        problem = compile_refit(refit, plan.now, plan.collisions, plan.made_good, plan, broken=plan.broken)
        self.as_planned = Draft(plan, problem, schedule_of(problem, plan))

    def as_it_is(self) -> Side:
        """The refit with the plan it has: the one every page shows."""
        return Side(self.refit, (self.as_planned,))

    def of(self, refit: Refit) -> Side:
        """The side of one way: the present plan's order and people with what changed, and what follows it.

        The present plan was searched for long; a way is not to seem less sure only because its own is rougher.
        """
        draft = draft_plan(refit, self.plan.now, before=self.plan)
        if draft.schedule is None:
            return checked(refit, [draft])
        return checked(refit, [*_in_order_of(self.as_planned, refit, draft), draft])

    def quick(self, refit: Refit) -> Side:
        """The side of one way in the present plan's order and with its people, looked at by no verifier: for a search over many ways.

        What can't be so is planned as any other. O(compiling it).
        """
        plan = self.plan
        problem = compile_refit(refit, plan.now, plan.collisions, plan.made_good, plan, broken=plan.broken)
        rows = _in_order_of(self.as_planned, refit, Draft(plan, problem, None)) if windows_of(problem).possible else []
        placed = [one for one in rows if one.schedule is not None and not without_room(problem, one.schedule)]
        if not placed:
            return self.of(refit)
        free = free_to_move(problem)
        return Side(refit, (min(placed, key=lambda one: sum(_worth(free, one.schedule)) if one.schedule else 0),))

    def searched(self, side: Side, seconds: float, clock: Callable[[], float], stop: Stop, seed: int) -> Side:
        """The side with a plan made anew and made better for up to ``seconds``, near tasks kept where they were where that is worth it.

        Whoever is hired is of no use in an order that was made without them.
        """
        begun, draft = self._anew(side, seed), side.draft
        if begun is None or stop.asked:
            return side
        problem = draft.problem
        found = improve(problem, begun, seconds=seconds, clock=clock, workers=1, stop=stop, seed=seed).schedule or begun
        return checked(side.refit, [*side.drafts, _with(side.refit, draft, found)])

    def with_fresh(self, side: Side, seed: int) -> Side:
        """The side with a plan made anew besides its own, looked at by no verifier."""
        begun = self._anew(side, seed)
        if begun is None:
            return side
        return Side(side.refit, (*side.drafts, _with(side.refit, side.draft, begun)), side.why_not)

    def _anew(self, side: Side, seed: int) -> Schedule | None:
        """A schedule of a side's problem made without regard of the present plan; None where there is none."""
        draft = side.draft
        if side.why_not or draft.schedule is None or draft.problem.size <= FIRST_TASK:
            return None
        anew, problem = draft_plan(side.refit, self.plan.now, FEW_STARTS, seed), draft.problem
        if anew.schedule is None:
            return None
        known = moved_over(anew.problem, anew.schedule, problem)
        begun = played_again(problem, windows_of(problem), known, held=True)
        return begun if begun.stuck < 0 else None


def learnt(side: Side, other: Side) -> Side:
    """The side with the order and people of another's plan among its own: what one finds is nearly always as good for the next."""
    if side.why_not or side.draft.schedule is None or other.draft.schedule is None:
        return side
    return checked(side.refit, [*side.drafts, *_in_order_of(other.draft, side.refit, side.draft)])


def _in_order_of(known: Draft, refit: Refit, draft: Draft) -> list[Draft]:
    """A refit's plans in the order and with the people of a plan of another: with its times and without."""
    if known.schedule is None:
        return []
    problem, windows = draft.problem, windows_of(draft.problem)
    there = moved_over(known.problem, known.schedule, problem)
    found = [played_again(problem, windows, there, held=held) for held in (True, False)]
    return [_with(refit, draft, one) for one in found if one.stuck < 0]


def _with(refit: Refit, draft: Draft, schedule: Schedule) -> Draft:
    """The draft of another schedule of the same problem."""
    problem = draft.problem
    plan = plan_of(refit, problem, schedule, draft.plan.now, draft.plan.starts_tried, ready=draft.plan.ready)
    return Draft(plan, problem, schedule)


def checked(refit: Refit, drafts: Sequence[Draft]) -> Side:
    """The side of what the verifier has passed of some plans of one refit and is worth about as much as the best of them.

    What is moved of the next days has no price here: those who choose between them weigh that. What breaks a rule is told where
    nothing else is left. The first of those that are the same stays.
    """
    apart = list[Draft]()
    for draft in drafts:
        if not any(draft.plan.assignments == one.plan.assignments for one in apart):
            apart.append(draft)
    breaches = [verify(refit, draft.plan) for draft in apart]
    sound = [draft for draft, broken in zip(apart, breaches, strict=True) if not broken]
    if not sound:
        return Side(refit, tuple(apart[:1]), breaches[0][0].sentence)
    placed = [draft for draft in sound if draft.schedule is not None]
    if not placed:
        return Side(refit, (sound[0],))
    free = free_to_move(placed[0].problem)
    worths = [_worth(free, draft.schedule) for draft in placed if draft.schedule is not None]
    least = min(sum(one) for one in worths)
    allowed = least + max(round(ABOUT * min(worth for worth, _ in worths)), 0)
    return Side(refit, tuple(draft for draft, one in zip(placed, worths, strict=True) if sum(one) <= allowed))


def _worth(free: Problem, schedule: Schedule) -> tuple[int, int]:
    """What a schedule costs, and apart from that what must-work costs that is late."""
    value = value_of(free, schedule.start, schedule.end, schedule.resume, schedule.mode)
    late = max(int(schedule.start[LAUNCH_NODE]) - int(free.arrays.launch_at), 0) * int(free.arrays.weights[LATE])
    return value - late, late
