"""Ways to go about something, each worked out on the same plan: recipes' answers, an interim fix, the next haul-out."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime

from rovask.core.plan.planner import Planned
from rovask.core.plan.result import Verdict
from rovask.core.recipes.expand import Library
from rovask.core.recipes.likely import likely_recipes
from rovask.core.recipes.preview import Pick, Preview, filled, preview
from rovask.core.recipes.recipe import Recipe
from rovask.core.refit.edits import put
from rovask.core.refit.faults import Fault, RefitFaults
from rovask.core.refit.model import Finding, Refit
from rovask.core.refit.seen import Alternative, Decision, Parked
from rovask.core.refit.seen_edits import interim_fix, job_came_of
from rovask.core.refit.whole import Edited

INTERIM, NEXT_TIME = "-interim", "-next-time"  # recipes and their answers begin with a letter
TRIED = 3  # recipes whose effect is worked out beside a finding


@dataclass(frozen=True, slots=True)
class Way:
    """One way to go about it, worked out.

    value: what a form sends for it; picks: the recipe and answers that make it; after: what the plan says with it.
    """

    value: str
    title: str
    worked: Alternative
    days: float
    after: Verdict
    picks: tuple[Pick, ...] = ()


@dataclass(frozen=True, slots=True)
class Proposal:
    """A recipe that may answer a finding, with what it would do where that was worked out."""

    recipe: Recipe
    look: Preview | None = None


def proposed(library: Library, refit: Refit, planned: Planned, finding: Finding, tried: int = TRIED) -> list[Proposal]:
    """Recipes for where it was found, the likeliest first; the first ``tried`` are worked out on the plan."""
    found = likely_recipes(library.recipes.values(), refit, finding)
    out = []
    for at, recipe in enumerate(found):
        try:
            pick = [Pick(recipe, {})]
            look = preview(refit, filled(library, refit, pick), planned) if at < tried else None
        except RefitFaults:
            look = None
        out.append(Proposal(recipe, look))
    return out


def _worked_out(library: Library, refit: Refit, planned: Planned, value: str, title: str, pick: Pick) -> Way | None:
    """A recipe with its answers as a way; None when it doesn't fit."""
    try:
        look = preview(refit, filled(library, refit, [pick]), planned)
    except RefitFaults:
        return None
    worked = Alternative(
        title=title[:120],
        hours=round(look.hours * 2) / 2,
        money=look.money.minor,
        spare_minutes=look.after.verdict.spare_minutes,
        holds=look.holds,
    )
    return Way(value, title, worked, look.days, look.after.verdict, (pick,))


def _plain_way(planned: Planned, value: str, title: str, hours: float = 0, money: int = 0) -> Way:
    """A way that adds nothing to the plan yet: an interim fix, or leaving it to the next haul-out."""
    spare = planned.verdict.spare_minutes
    worked = Alternative(title=title, hours=hours, money=money, spare_minutes=spare, holds=spare >= 0)
    return Way(value, title, worked, 0, planned.verdict)


def ways_of_recipe(library: Library, refit: Refit, planned: Planned, recipe: Recipe, name: str) -> list[Way]:
    """Each answer to a recipe's question, and leaving it to the next haul-out. Raises RefitFaults where none is asked."""
    if name not in recipe.ask or not recipe.ask[name].choices:
        raise RefitFaults([Fault("", "This recipe has no such choice.")])
    found = [
        _worked_out(library, refit, planned, value, why, Pick(recipe, {name: value}))
        for value, why in recipe.ask[name].choices.items()
    ]
    return [way for way in found if way is not None] + [_plain_way(planned, NEXT_TIME, "Left to the next haul-out.")]


def ways_of_finding(
    library: Library, refit: Refit, planned: Planned, finding: Finding, interim: tuple[float, int]
) -> list[Way]:
    """Properly by one of the recipes that come near it, an interim fix (hours, minor units), or the next haul-out.

    What is dangerous is not left to the next haul-out.
    """
    near = proposed(library, refit, planned, finding, tried=0)[:TRIED]
    found = [
        _worked_out(library, refit, planned, one.recipe.id, f"Properly: {one.recipe.title}", Pick(one.recipe, {}))
        for one in near
    ]
    plain = [_plain_way(planned, INTERIM, "Interim fix now, properly next time.", *interim)]
    if not finding.blocks:
        plain.append(_plain_way(planned, NEXT_TIME, "Left to the next haul-out."))
    return [way for way in found if way is not None] + plain


def adopted_way(
    library: Library,
    refit: Refit,
    now: datetime,
    title: str,
    ways: list[Way],
    value: str,
    reason: str,
    finding: Finding | None,
    new_id: Callable[[str], str],
) -> tuple[Edited, str]:
    """The refit with the way of that value gone, the decision kept aside, and the job that came of it ("": it is parked).

    Raises RefitFaults when no such way was offered, or it no longer fits.
    """
    chosen = next((way for way in ways if way.value == value), None)
    if chosen is None:
        raise RefitFaults([Fault("way", "Choose one of them first.")])
    job = ""
    if chosen.picks:
        basket = filled(library, refit, list(chosen.picks), reason=reason)
        refit, job = basket.refit, basket.expansions[0].job.id
    elif chosen.value == INTERIM and finding is not None:
        job = new_id("job")
        refit = interim_fix(refit, finding, chosen.worked.hours, chosen.worked.money, job)
    if chosen.value in (NEXT_TIME, INTERIM):
        name = finding.title if finding is not None else title.partition(":")[0]
        place = finding.place if finding is not None else None
        refit = put(refit, Parked(id=new_id("parked"), title=name, place=place, next_time=True))
    if job and finding is not None:
        refit = job_came_of(refit, finding.id, job)
    decision = Decision(
        id=new_id("decision"),
        title=title[:120],
        alternatives=tuple(way.worked for way in ways),
        adopted=chosen.worked.title,
        reason=reason,
        job=job or None,
        at=now,
    )
    return Edited(refit, (decision,)), job
