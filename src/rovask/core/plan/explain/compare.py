"""What a change would do, like with like: both sides planned from the same plan with the same effort.

What belongs to the change itself, its parts, its paid hours and its unknowns, is told apart from what the plan does in
answer: days on which somebody is called out, lay-days, what falls out or moves. The first is exact at once; the second is a search, so a first answer says that it is
being worked out, and the settled one comes from as many tries on both sides. Noise of the search is no effect.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime

from rovask.core.books.forecast import forecast
from rovask.core.books.money import Money
from rovask.core.plan.explain.verdict import judge
from rovask.core.plan.first.serial import Schedule
from rovask.core.plan.planner import Draft, Planned, draft_plan, plan_of
from rovask.core.plan.problem.windows import windows_of
from rovask.core.plan.result import Plan
from rovask.core.plan.solver.reorder import Reorder
from rovask.core.refit.model import Job, Part, Refit

SETTLING_TRIES = 240
QUIET = 60  # minutes of launch that are not told as an effect while it isn't settled


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

    @property
    def money(self) -> Money:
        """All of it."""
        return self.own + self.answer


def compare(refit: Refit, changed: Refit, now: datetime, so_far: Plan | None, tries: int = 0) -> Comparison:
    """What ``changed`` does against ``refit``, both planned from ``so_far``. tries: of the search, on each side. Two plans."""
    before, after = worked_out(refit, now, so_far, tries), worked_out(changed, now, so_far, tries)
    return between(refit, before, changed, after, settled=tries > 0)


def between(refit: Refit, before: Planned, changed: Refit, after: Planned, *, settled: bool) -> Comparison:
    """The comparison of two plans of two states of one refit, made with the same effort."""
    total = forecast(changed, after.plan).total - forecast(refit, before.plan).total
    own = own_money(refit, before.plan, changed, after.plan)
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
    )


def left(refit: Refit, plan: Plan) -> set[str]:
    """Jobs that are left out or can't be planned whole."""
    return set(plan.left_out) | {refit.job_of[key].id for key in plan.unplanned if key in refit.job_of}


def own_money(refit: Refit, before: Plan, changed: Refit, after: Plan) -> Money:
    """What the things that differ cost by themselves: what is new on the plan after, less what is gone on the one before."""
    new = [job for job in changed.jobs if job not in refit.jobs and job.id not in {one.id for one in refit.jobs}]
    gone = [job for job in refit.jobs if job.id not in {one.id for one in changed.jobs}]
    parts = {part.id: part for part in refit.parts}
    bought = [part for part in changed.parts if parts.get(part.id) != part]
    kept = {part.id: part for part in changed.parts}
    spared = [part for part in refit.parts if kept.get(part.id) != part]
    return _worth(changed, after, new, bought) - _worth(refit, before, gone, spared)


def _worth(refit: Refit, plan: Plan, jobs: list[Job], parts: list[Part]) -> Money:
    """What some jobs and parts add to the forecast of a plan, whatever day they lie on: it with them, less it without.

    Paid hours count as hours: whether somebody has to come for an hour more or is there anyway is the plan's answer.
    """
    if not jobs and not parts:
        return Money(0, refit.currency)
    people = tuple(person.model_copy(update={"call_out_hours": 0.0}) for person in refit.people)
    refit = Refit.model_construct(**(dict(refit) | {"people": people}))
    keys = {task.id for job in jobs for task in job.tasks}
    bare = without(refit, {job.id for job in jobs}, {part.id for part in parts})
    rest = plan.model_copy(
        update={
            "assignments": tuple(item for item in plan.assignments if item.task not in keys),
            "unplanned": tuple(key for key in plan.unplanned if key not in keys),
            "left_out": tuple(key for key in plan.left_out if key not in {job.id for job in jobs}),
            "made_good": tuple(key for key in plan.made_good if any(link.id == key for link in bare.links)),
        }
    )
    return forecast(refit, plan).total - forecast(bare, rest).total


def without(refit: Refit, jobs: set[str], parts: set[str]) -> Refit:
    """A refit without some jobs with all that hangs on them, and some parts; for arithmetic only, not validated."""
    keys = {task.id for job in refit.jobs if job.id in jobs for task in job.tasks}
    rows = tuple(
        job.model_copy(
            update={
                "tasks": tuple(
                    task.model_copy(update={"parts": tuple(key for key in task.parts if key not in parts)})
                    if set(task.parts) & parts
                    else task
                    for task in job.tasks
                )
            }
        )
        for job in refit.jobs
        if job.id not in jobs
    )
    return Refit.model_construct(
        **(
            dict(refit)
            | {
                "jobs": rows,
                "parts": tuple(part for part in refit.parts if part.id not in parts),
                "links": tuple(link for link in refit.links if link.first not in keys and link.then not in keys),
                "hours_log": tuple(entry for entry in refit.hours_log if entry.task not in keys),
                "unknowns": tuple(one for one in refit.unknowns if one.task not in keys),
            }
        )
    )


def worked_out(refit: Refit, now: datetime, so_far: Plan | None, tries: int = 0, seed: int = 1) -> Planned:
    """A plan that follows ``so_far``, after so many tries for a better one. Deterministic."""
    draft = draft_plan(refit, now, before=so_far)
    if tries and draft.schedule is not None:
        draft = _searched(refit, draft, tries, seed)
    return Planned(draft.plan, judge(refit, draft.plan, draft.problem))


def _searched(refit: Refit, draft: Draft, tries: int, seed: int) -> Draft:
    best: Schedule | None = draft.schedule
    if best is None:
        return draft
    reorder = Reorder(draft.problem, windows_of(draft.problem), seed)
    for _ in range(tries):
        found = reorder.near(best)
        if found is not None and found.value <= best.value:
            best = found
    if best is draft.schedule:
        return draft
    plan = plan_of(refit, draft.problem, best, draft.plan.now, draft.plan.starts_tried, ready=draft.plan.ready)
    return replace(draft, plan=plan, schedule=best)
