"""What a change would do, like with like: both sides planned from the same plan with the same effort.

What belongs to the change itself, its parts, its paid hours and its unknowns, is told apart from what the plan does in
answer: days on which somebody is called out, lay-days, what falls out or moves. The first is exact at once; the second
is a search, so a first answer says that it is being worked out, and the settled one comes from a search as long on both
sides. Noise of the search is no effect.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from rovask.core.books.forecast import forecast
from rovask.core.explain.own_money import left, own_money, reworked
from rovask.core.explain.search import Search
from rovask.core.explain.settled import Answers, settled
from rovask.core.plain.currency import exponent
from rovask.core.plain.money import Money
from rovask.core.plan.planner import Planned, draft_plan
from rovask.core.plan.result import Plan
from rovask.core.plan.verdict.verdict import judge
from rovask.core.refit.model import Refit


@dataclass(frozen=True, slots=True)
class Comparison:
    """One change worked out. own: money of the thing itself; answer: what the plan of the rest does; both of the forecast.

    sooner: minutes by which *ready at* comes earlier, negative: later. out, back: titles of jobs that fall out and that
    fit again. settled: whether both sides were searched, and not only repaired.
    """

    before: Planned
    after: Planned
    own: Money
    answer: Money
    sooner: int
    out: tuple[str, ...]
    back: tuple[str, ...]
    settled: bool
    answers: Answers | None = None

    @property
    def firm(self) -> bool:
        """Whether the searches agree on the answer: within a hundredth of the thing's own money, or ten in the currency."""
        return self.answers is None or self.answers.high - self.answers.low <= about_nothing(self.own)

    @property
    def money(self) -> Money:
        """All of it."""
        return self.own + self.answer


def compare(
    refit: Refit, changed: Refit, now: datetime, so_far: Plan | None, search: Search | None = None
) -> Comparison:
    """What ``changed`` does against ``refit``, both planned from ``so_far``, and searched where that is asked. Two plans.

    Raises Halted when the search was given up.
    """
    if search is None:
        before, after = worked_out(refit, now, so_far), worked_out(changed, now, so_far)
        return between(refit, before, changed, after, settled=False)
    before, after, answers = settled(refit, changed, now, so_far, search)
    return between(refit, before, changed, after, settled=True, answers=answers)


def between(
    refit: Refit, before: Planned, changed: Refit, after: Planned, *, settled: bool, answers: Answers | None = None
) -> Comparison:
    """The comparison of two plans of two states of one refit, made with the same effort."""
    total = forecast(changed, after.plan).total - forecast(refit, before.plan).total
    own = own_money(refit, before.plan, changed, after.plan)
    if total != own:  # what an act changes of the work there was is its own, too: an hour more, a pace, another launch
        own += reworked(refit, before.plan, changed, after.plan)
    titles = {job.id: job.title for one in (refit, changed) for job in one.jobs}
    there = {job.id for job in changed.jobs}
    out = left(changed, after.plan) - left(refit, before.plan)
    back = (left(refit, before.plan) - left(changed, after.plan)) & there
    was, is_ = before.plan.ready, after.plan.ready
    sooner = round((was.at - is_.at).total_seconds() / 60) if was is not None and is_ is not None else 0
    return Comparison(
        before,
        after,
        own,
        total - own,
        sooner,
        tuple(sorted(titles[key] for key in out)),
        tuple(sorted(titles[key] for key in back)),
        settled,
        answers,
    )


def about_nothing(own: Money) -> int:
    """The minor units within which an answer of the plan is told as about nothing: a hundredth of the own money, or ten."""
    return max(abs(own.minor) // 100, int(10 * 10 ** exponent(own.currency)))


def worked_out(refit: Refit, now: datetime, so_far: Plan | None) -> Planned:
    """A plan that follows ``so_far``. Deterministic."""
    draft = draft_plan(refit, now, before=so_far)
    return Planned(draft.plan, judge(refit, draft.plan, draft.problem))
