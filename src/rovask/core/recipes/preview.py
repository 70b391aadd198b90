"""What adding a job would do: its hours, days and money, the services it takes out, and the launch before and after."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from rovask.core.choices import Service
from rovask.core.cost import forecast
from rovask.core.model import Part, Refit
from rovask.core.orders import part_needs
from rovask.core.plan.planner import Planned, plan_and_judge
from rovask.core.plan.result import Outcome
from rovask.core.recipes.expand import Expansion, Library
from rovask.core.words import minutes_of


@dataclass(frozen=True, slots=True)
class PartDue:
    """A part of the job with its order-by moment in the plan; None when nothing waits for it. late: it has passed."""

    part: Part
    order_by: datetime | None
    late: bool


@dataclass(frozen=True, slots=True)
class Outage:
    """A service nobody has from a moment to another, as planned."""

    service: Service
    start: datetime
    end: datetime


@dataclass(frozen=True)
class Preview:
    """What a job does to the refit. money: change of the forecast in minor units, or of the part's prices alone.

    first, last: when its work begins and ends in the plan; None when it is not planned. missing: skills nobody has,
    each with why owners mustn't take it over ("" if they may). pushed_out: jobs that no longer fit.
    """

    before: Planned
    after: Planned
    refit: Refit
    hours: float
    money: int
    first: datetime | None
    last: datetime | None
    parts: tuple[PartDue, ...]
    outages: tuple[Outage, ...]
    missing: dict[str, str]
    pushed_out: tuple[str, ...]
    left_out: bool

    @property
    def lost_minutes(self) -> int:
        """How much spare the launch loses."""
        return self.before.verdict.spare_minutes - self.after.verdict.spare_minutes

    @property
    def holds(self) -> bool:
        """Whether the launch slot holds with it."""
        return self.after.verdict.outcome in (Outcome.HELD, Outcome.AFLOAT)

    @property
    def days(self) -> float:
        """Elapsed days from its first touch to its last."""
        if self.first is None or self.last is None:
            return 0.0
        return minutes_of(self.last - self.first) / 1440


def missing_skills(library: Library, refit: Refit, expansion: Expansion) -> dict[str, str]:
    """Skills the job asks for that nobody in the crew has, and why owners mustn't take them over ("": they may)."""
    known = {skill for person in refit.people for skill in person.skills}
    return {skill: library.common.reserved.get(skill, "") for skill in sorted(expansion.skills - known)}


def preview(refit: Refit, changed: Refit, expansion: Expansion, before: Planned, missing: dict[str, str]) -> Preview:
    """Plan the refit with the job in it (``changed``) and tell what that does, against the plan so far."""
    after = plan_and_judge(changed, before.plan.now, before=before.plan)
    at = after.plan.by_task()
    mine = [at[task.id] for task in expansion.job.tasks if task.id in at]
    keys = {part.id for part in expansion.parts}
    due = [need for need in part_needs(changed, after.plan, after.verdict) if need.part.id in keys]
    outages = []
    for task in expansion.job.tasks:
        if task.takes_out and task.id in at:
            end = at[task.until].end if task.until in at else at[task.id].end
            outages += [Outage(service, at[task.id].start, end) for service in task.takes_out]
    titles = {job.id: job.title for job in changed.jobs}
    pushed = set(after.plan.left_out) - set(before.plan.left_out) - {expansion.job.id}
    return Preview(
        before=before,
        after=after,
        refit=changed,
        hours=expansion.hours,
        money=forecast(changed, after.plan).total - forecast(refit, before.plan).total,
        first=min((item.start for item in mine), default=None),
        last=max((item.end for item in mine), default=None),
        parts=tuple(
            PartDue(need.part, need.order_by, need.order_by is not None and need.order_by < before.plan.now)
            for need in due
        ),
        outages=tuple(outages),
        missing=missing,
        pushed_out=tuple(titles[key] for key in sorted(pushed)),
        left_out=expansion.job.id in after.plan.left_out,
    )
