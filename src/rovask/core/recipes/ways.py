"""Ways to go about something, each worked out on the same plan: recipes' answers, an interim fix, the next haul-out."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime

from rovask.core.plan.explain.compare import compare
from rovask.core.plan.planner import Planned
from rovask.core.plan.result import Verdict
from rovask.core.recipes.answers import default_answers
from rovask.core.recipes.expand import Library, expand
from rovask.core.recipes.formula import BadFormula
from rovask.core.recipes.likely import likely_recipes
from rovask.core.recipes.preview import Pick, Preview, filled, preview
from rovask.core.recipes.recipe import Recipe
from rovask.core.refit.edits import put
from rovask.core.refit.faults import Fault, RefitFaults
from rovask.core.refit.model import Finding, Refit
from rovask.core.refit.seen import Alternative, Decision, Parked
from rovask.core.refit.seen_edits import interim_fix, job_came_of, own_job
from rovask.core.refit.whole import Edited
from rovask.core.words import money

INTERIM, NEXT_TIME, OWN = "-interim", "-next-time", "-own"  # recipes and their answers begin with a letter
Offers = Mapping[str, int]
NO_OFFERS: Offers = {}
TRIED = 3  # recipes whose effect is worked out beside a finding


@dataclass(frozen=True, slots=True)
class Way:
    """One way to go about it, worked out.

    value: what a form sends for it; picks: the recipe and answers that make it; after: what the plan says with it;
    bought: minor units of what it buys.
    """

    value: str
    title: str
    worked: Alternative
    days: float
    after: Verdict
    picks: tuple[Pick, ...] = ()
    bought: int = 0


@dataclass(frozen=True, slots=True)
class OwnWay:
    """A way of one's own: what it takes and what it risks. money in minor units; wait_days: until what it needs is there."""

    title: str
    hours: float
    hands: int = 1
    money: int = 0
    wait_days: int = 0
    risk: str = ""


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


def hours_by_recipe(library: Library, refit: Refit, key: str | None) -> float | None:
    """Hours of work, every pair of hands counted, of a recipe with its usual answers; None where it doesn't fit."""
    recipe = library.recipes.get(key or "")
    if recipe is None:
        return None
    try:
        return expand(library, recipe, refit, default_answers(recipe, refit)).hours
    except (RefitFaults, BadFormula):
        return None


def _worked_out(library: Library, refit: Refit, planned: Planned, value: str, title: str, pick: Pick) -> Way | None:
    """A recipe with its answers as a way; None when it doesn't fit."""
    try:
        look = preview(refit, filled(library, refit, [pick]), planned)
    except RefitFaults:
        return None
    worked = Alternative(
        title=title[:120],
        hours=round(look.hours * 2) / 2,
        money=look.told.own.minor,
        spare_minutes=look.after.verdict.spare_minutes,
        holds=look.holds,
    )
    bought = sum(part.price for one in look.basket.expansions for part in one.parts)
    return Way(value, title, worked, look.days, look.after.verdict, (pick,), bought)


def _plain_way(planned: Planned, value: str, title: str, hours: float = 0, money: int = 0) -> Way:
    """A way that adds nothing to the plan yet: an interim fix, or leaving it to the next haul-out."""
    spare = planned.verdict.spare_minutes
    worked = Alternative(title=title, hours=hours, money=money, spare_minutes=spare, holds=spare >= 0)
    return Way(value, title, worked, 0, planned.verdict)


def _tried(refit: Refit, planned: Planned, changed: Refit, value: str, title: str, hours: float) -> Way:
    """A way of one's own worked out on the plan, like with like."""
    told = compare(refit, changed, planned.plan.now, planned.plan)
    verdict = told.after.verdict
    spare = verdict.spare_minutes
    worked = Alternative(title=title[:120], hours=hours, money=told.own.minor, spare_minutes=spare, holds=spare >= 0)
    return Way(value, title[:120], worked, 0, verdict)


def own_way(refit: Refit, planned: Planned, own: OwnWay, place: str | None) -> Way:
    """A way of one's own beside the recipes'."""
    changed = own_job(
        refit, "own-way", own.title, place, own.hours, hands=own.hands, money=own.money, wait_days=own.wait_days
    )
    title = own.title + (f" (risk: {own.risk})" if own.risk else "")
    return _tried(refit, planned, changed, OWN, title, own.hours * own.hands)


def ways_of_recipe(
    library: Library, refit: Refit, planned: Planned, recipe: Recipe, name: str, own: OwnWay | None = None,
    offers: Offers = NO_OFFERS,
) -> list[Way]:  # fmt: skip
    """Each answer to a recipe's question, and leaving it to the next haul-out.

    offers: by the value of a way, for how much what it buys was offered. Raises RefitFaults where none is asked.
    """
    if name not in recipe.ask or not recipe.ask[name].choices:
        raise RefitFaults([Fault("", "This recipe has no such choice.")])
    found = [
        _worked_out(library, refit, planned, value, why, Pick(recipe, {name: value}, offers.get(value)))
        for value, why in recipe.ask[name].choices.items()
    ]
    fit = [way for way in found if way is not None]
    plain = [own_way(refit, planned, own, None)] if own is not None else []
    return [*fit, *plain, _next_time(planned, fit)]


def _next_time(planned: Planned, proper: list[Way]) -> Way:
    """Left to the next haul-out: nothing now, the hours of doing it properly then."""
    hours = proper[0].worked.hours if proper else 0
    return _plain_way(planned, NEXT_TIME, "Left to the next haul-out: the hours are then.", hours)


def ways_of_finding(
    library: Library,
    refit: Refit,
    planned: Planned,
    finding: Finding,
    interim: tuple[float, int],
    own: OwnWay | None = None,
    offers: Offers = NO_OFFERS,
) -> list[Way]:
    """Properly by one of the recipes that come near it, an interim fix (hours, minor units), or the next haul-out.

    What is dangerous is not left to the next haul-out.
    """
    near = proposed(library, refit, planned, finding, tried=0)[:TRIED]
    found = [
        _worked_out(
            library, refit, planned, key, f"Properly: {one.recipe.title}", Pick(one.recipe, {}, offers.get(key))
        )
        for one in near
        for key in (one.recipe.id,)
    ]
    fit = [way for way in found if way is not None]
    fixed = interim_fix(refit, finding, interim[0], interim[1], "interim-way")
    plain = [_tried(refit, planned, fixed, INTERIM, "Interim fix now, properly next time.", interim[0])]
    if own is not None:
        plain.append(own_way(refit, planned, own, finding.place))
    if not finding.blocks:
        plain.append(_next_time(planned, fit))
    return fit + plain


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
    own: OwnWay | None = None,
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
    elif chosen.value == OWN and own is not None:
        job = new_id("job")
        place = finding.place if finding is not None else None
        said = [*([f"Risk: {own.risk}"] if own.risk else []), *([f"Why: {reason}"] if reason else [])]
        refit = own_job(
            refit, job, own.title, place, own.hours, hands=own.hands, money=own.money, wait_days=own.wait_days,
            note="\n".join(said),
        )  # fmt: skip
    if chosen.value in (NEXT_TIME, INTERIM):
        name = finding.title if finding is not None else title.partition(":")[0]
        place = finding.place if finding is not None else None
        proper = next((way for way in ways if way.picks), None)
        then = proper.worked if proper is not None else chosen.worked
        said = [f"Why: {reason}"] if reason else []
        if then.money > 0:
            said.append(f"Properly it was reckoned at {money(then.money, refit.currency)}.")
        recipe = proper.picks[0].recipe.id if proper is not None and not proper.picks[0].recipe.refuse else None
        row = Parked(
            id=new_id("parked"), title=name, place=place, next_time=True, hours=max(then.hours, 0.5), recipe=recipe,
            note="\n".join(said),
        )  # fmt: skip
        refit = put(refit, row)
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
