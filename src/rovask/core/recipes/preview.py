"""What adding a job would do: its hours, days and money, the services it takes out, and the launch before and after."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from rovask.core.books.order_by import part_needs
from rovask.core.explain.compare import Comparison, compare
from rovask.core.explain.own_money import left
from rovask.core.explain.search import Search
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plain.money import Money
from rovask.core.plain.words import minutes_of
from rovask.core.plan.planner import Planned
from rovask.core.plan.problem.crews import crews_for
from rovask.core.plan.result import Outcome
from rovask.core.recipes.adopt import adopted, bought_for
from rovask.core.recipes.answers import Answers
from rovask.core.recipes.common import Library
from rovask.core.recipes.expand import Expansion, expand
from rovask.core.recipes.recipe import Recipe
from rovask.core.refit.givens.choices import Service
from rovask.core.refit.model import Part, Refit


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
    """What some jobs do to the refit. told: the comparison, with the money of the jobs themselves apart.

    first, last: when their work begins and ends in the plan; None when it is not planned. pushed_out: titles of jobs
    that no longer fit; left_out: of the new ones that don't.
    """

    basket: Basket
    before: Planned
    after: Planned
    told: Comparison
    first: datetime | None
    last: datetime | None
    parts: tuple[PartDue, ...]
    outages: tuple[Outage, ...]
    pushed_out: tuple[str, ...]
    left_out: tuple[str, ...]

    @property
    def money(self) -> Money:
        """Change of the forecast, all of it."""
        return self.told.money

    @property
    def would_cost(self) -> Money:
        """What the new jobs cost by themselves, planned or not: their parts, and paid hours of the cheapest who can."""
        refit, total = self.basket.refit, 0
        for one in self.basket.expansions:
            total += sum(part.price for part in one.parts)
            for task in one.job.tasks:
                pays = (sum(refit.persons[who].rate for who in crew) for crew in crews_for(refit, task))
                total += Money(min(pays, default=0), refit.currency).times(task.work.likely * task.units).minor
        return Money(total, refit.currency)

    @property
    def hours(self) -> float:
        """Hours of work, every pair of hands counted."""
        return sum(one.hours for one in self.basket.expansions)

    @property
    def tasks(self) -> int:
        """How many tasks come in."""
        return sum(len(one.job.tasks) for one in self.basket.expansions)

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


@dataclass(frozen=True, slots=True)
class Pick:
    """A recipe that is wanted, with the answers given; the rest are its own.

    bought: minor units for which all it buys was offered; None: at the recipe's own prices.
    """

    recipe: Recipe
    answers: Answers
    bought: int | None = None


@dataclass(frozen=True)
class Basket:
    """Some picks taken into a refit, one after the other. missing: skills nobody in the crew has, each with why owners
    mustn't take it over ("": they may).
    """

    refit: Refit
    expansions: tuple[Expansion, ...]
    missing: dict[str, str]


def filled(
    library: Library, refit: Refit, picks: Sequence[Pick], own: frozenset[str] = frozenset(), reason: str = ""
) -> Basket:
    """The refit with the picks in it. Missing skills are taken over by the crew (``own``) or a trade is taken on.

    Raises RefitFaults (DoesNotFit among them); the faults of several picks name their recipe.
    """
    changed, expansions, faults = refit, [], []
    for pick in picks:
        try:
            expansion = expand(library, pick.recipe, changed, pick.answers, own)
        except RefitFaults as error:
            named = f"{pick.recipe.title}: " if len(picks) > 1 else ""
            faults += [Fault(fault.path, named + fault.message) for fault in error.faults]
            continue
        if pick.bought is not None:
            expansion = bought_for(expansion, pick.bought, {part.id for part in changed.parts})
        hire = missing_skills(library, changed, expansion)
        changed = adopted(changed, expansion, reason=reason, hire=hire)
        expansions.append(expansion)
    if faults:
        raise RefitFaults(faults)
    every = [expand(library, pick.recipe, refit, pick.answers) for pick in picks]
    missing = {skill: why for one in every for skill, why in missing_skills(library, refit, one).items()}
    return Basket(changed, tuple(expansions), missing)


def missing_skills(library: Library, refit: Refit, expansion: Expansion) -> dict[str, str]:
    """Skills the job asks for that nobody in the crew has, and why owners mustn't take them over ("": they may)."""
    known = {skill for person in refit.people for skill in person.skills}
    return {skill: library.common.reserved.get(skill, "") for skill in sorted(expansion.skills - known)}


def preview(refit: Refit, basket: Basket, so_far: Planned, search: Search | None = None) -> Preview:
    """Plan the refit with the basket in it and tell what that does, against the refit planned with the same effort.

    search: how long each side is searched; with none the answer of the plan is a first one.
    """
    changed = basket.refit
    told = compare(refit, changed, so_far.plan.now, so_far.plan, search)
    before, after = told.before, told.after
    at = after.plan.by_task()
    tasks = [task for expansion in basket.expansions for task in expansion.job.tasks]
    mine = [at[task.id] for task in tasks if task.id in at]
    keys = {part.id for expansion in basket.expansions for part in expansion.parts}
    jobs = {expansion.job.id for expansion in basket.expansions}
    due = [need for need in part_needs(changed, after.plan, after.verdict) if need.part.id in keys]
    outages = []
    for task in tasks:
        if task.takes_out and task.id in at:
            end = at[task.until].end if task.until in at else at[task.id].end
            outages += [Outage(service, at[task.id].start, end) for service in task.takes_out]
    titles = {job.id: job.title for job in changed.jobs}
    pushed = left(changed, after.plan) - left(refit, before.plan) - jobs
    return Preview(
        basket=basket,
        before=before,
        after=after,
        told=told,
        first=min((item.start for item in mine), default=None),
        last=max((item.end for item in mine), default=None),
        parts=tuple(
            PartDue(need.part, need.order_by, need.order_by is not None and need.order_by < before.plan.now)
            for need in due
        ),
        outages=tuple(outages),
        pushed_out=tuple(titles[key] for key in sorted(pushed)),
        left_out=tuple(titles[key] for key in after.plan.left_out if key in jobs),
    )
