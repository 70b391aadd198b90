"""Ways to go about something, each worked out on the same plan: recipes' answers, an interim fix, the next haul-out."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from rovask.core.explain.compare import Comparison, compare
from rovask.core.explain.risks import Risk, misfit_risk
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plain.words import money
from rovask.core.plan.planner import Planned
from rovask.core.plan.result import Verdict
from rovask.core.recipes.answers import Answers, asked, default_answers
from rovask.core.recipes.common import Library
from rovask.core.recipes.expand import expand
from rovask.core.recipes.formula import BadFormula
from rovask.core.recipes.likely import likely_recipes
from rovask.core.recipes.own_way import OwnWay, instead_of_step, own_taken
from rovask.core.recipes.preview import Basket, Pick, Preview, filled, preview
from rovask.core.recipes.recipe import Recipe
from rovask.core.refit.edits import put
from rovask.core.refit.model import Finding, Job, Refit
from rovask.core.refit.seen.edits import interim_fix, job_came_of, parked_from
from rovask.core.refit.seen.kinds import Alternative, Decision, Parked
from rovask.core.refit.whole import Edited

INTERIM, NEXT_TIME, OWN = "-interim", "-next-time", "-own"  # recipes and their answers begin with a letter
Offers = Mapping[str, int]
NO_OFFERS: Offers = {}
NO_ANSWERS: Answers = {}
TRIED = 3  # recipes whose effect is worked out beside a finding


@dataclass(frozen=True, slots=True)
class Way:
    """One way to go about it, worked out.

    value: what a form sends for it; picks: the recipe and answers that make it; after: what the plan says with it;
    bought: minor units of what it buys. told: what it does, its own money and what the plan does in answer; None for what
    changes nothing now. worked.money is all of it, the same figure as on its preview. risks: what it does when it goes wrong.
    own: which way of one's own it is. does_not_fit: it would be left out, and what it would cost then, in minor units.
    """

    value: str
    title: str
    worked: Alternative
    days: float
    after: Verdict
    picks: tuple[Pick, ...] = ()
    bought: int = 0
    told: Comparison | None = None
    risks: tuple[Risk, ...] = ()
    own: OwnWay | None = None
    does_not_fit: int | None = None


@dataclass(frozen=True, slots=True)
class Proposal:
    """A recipe that may answer a finding, with what it would do where that was worked out; or the job of it there is."""

    recipe: Recipe
    look: Preview | None = None
    there: Job | None = None


def proposed(library: Library, refit: Refit, planned: Planned, finding: Finding, tried: int = TRIED) -> list[Proposal]:
    """Recipes for where it was found, the likeliest first; the first ``tried`` that are not in the refit are worked out."""
    found = likely_recipes(library.recipes.values(), refit, finding)
    jobs = {job.recipe: job for job in refit.jobs if any(not task.done_at for task in job.tasks)}
    out, left = [], tried
    for recipe in found:
        there, look = jobs.get(recipe.id), None
        if there is None and left > 0:
            left -= 1
            try:
                look = preview(refit, filled(library, refit, [Pick(recipe, {})]), planned)
            except RefitFaults:
                look = None
        out.append(Proposal(recipe, look, there))
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


def _worked_out(
    library: Library, refit: Refit, planned: Planned, value: str, title: str, pick: Pick, mine: frozenset[str]
) -> Way | None:
    """A recipe with its answers as a way, the crew taking over the skills of ``mine``; None when it doesn't fit."""
    try:
        look = preview(refit, filled(library, refit, [pick], mine), planned)
    except RefitFaults:
        return None
    worked = Alternative(
        title=title[:120],
        hours=round(look.hours * 2) / 2,
        money=look.told.money.minor,
        spare_minutes=look.after.verdict.spare_minutes,
        holds=look.holds,
    )
    bought = sum(part.price for one in look.basket.expansions for part in one.parts)
    out = look.would_cost.minor if look.left_out else None
    return Way(value, title, worked, look.days, look.after.verdict, (pick,), bought, look.told, does_not_fit=out)


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
    worked = Alternative(title=title[:120], hours=hours, money=told.money.minor, spare_minutes=spare, holds=spare >= 0)
    return Way(value, title[:120], worked, 0, verdict, told=told)


def own_way(
    refit: Refit, planned: Planned, at: int, own: OwnWay, place: str | None, base: tuple[Pick, Basket] | None = None
) -> Way:
    """A way of one's own beside the recipes'; base: the recipe and its job, for one that stands for a step of it."""
    whole = base[1] if base is not None and own.step else None

    def taken(this: OwnWay) -> Refit:
        if whole is not None:
            return instead_of_step(whole.refit, whole.expansions[0], this)
        return own_taken(refit, this, place, "own-way")

    changed = taken(own)
    hours, bought = own.worked, own.money
    if whole is not None:
        job = next(one for one in changed.jobs if one.id == whole.expansions[0].job.id)
        hours = sum(changed.hours_to_do(task) * task.hands for task in job.tasks)
        keys = {key for task in job.tasks for key in task.parts}
        bought = sum(part.price for part in changed.parts if part.id in keys)
    way = _tried(refit, planned, changed, f"{OWN}-{at}", own.told, hours)
    if way.told is not None and "own-way" in way.told.after.plan.left_out:
        way = replace(way, does_not_fit=own.money)
    risks: tuple[Risk, ...] = ()
    if own.misfit:
        again = replace(own, money=own.money * 2, wait_days=own.wait_days * 2)
        risks = (misfit_risk(own.misfit, changed, taken(again), planned.plan),)
    picks = (base[0],) if base is not None and whole is not None else ()
    return replace(way, risks=risks, own=own, bought=bought, picks=picks)


def ways_of_recipe(
    library: Library, refit: Refit, planned: Planned, recipe: Recipe, name: str, own: Sequence[OwnWay] = (),
    offers: Offers = NO_OFFERS, answers: Answers = NO_ANSWERS, mine: frozenset[str] = frozenset(),
) -> list[Way]:  # fmt: skip
    """Each answer to a recipe's question, ways of one's own, and leaving it to the next haul-out.

    answers: what was answered to its other questions; mine: skills the crew takes over. offers: by the value of a way,
    for how much what it buys was offered. Raises RefitFaults where none is asked.
    """
    asks = asked(recipe, refit)
    if name not in asks or not asks[name].choices:
        raise RefitFaults([Fault("", "This recipe has no such choice.")])
    found = [
        _worked_out(
            library, refit, planned, value, why, Pick(recipe, {**answers, name: value}, offers.get(value)), mine
        )
        for value, why in asks[name].choices.items()
    ]
    fit = [way for way in found if way is not None]
    pick = Pick(recipe, answers)
    base = (pick, filled(library, refit, [pick], mine)) if any(one.step for one in own) else None
    plain = [own_way(refit, planned, at, one, place_of(refit, recipe), base) for at, one in enumerate(own, 1)]
    usual = answers.get(name, default_answers(recipe, refit).get(name))
    return [*fit, *plain, _next_time(planned, sorted(fit, key=lambda way: way.value != usual))]


def place_of(refit: Refit, recipe: Recipe) -> str | None:
    """The place on this boat where most of a recipe is done."""
    spots = Counter(row.spot for row in recipe.task)
    return next((place.id for spot, _ in spots.most_common() for place in refit.places if place.spot is spot), None)


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
    own: Sequence[OwnWay] = (),
    offers: Offers = NO_OFFERS,
) -> list[Way]:
    """Properly by one of the recipes that come near it, an interim fix (hours, minor units), or the next haul-out.

    What is dangerous is not left to the next haul-out.
    """
    every = proposed(library, refit, planned, finding, tried=0)
    near = [one for one in every if one.there is None][:TRIED]
    found = [
        _worked_out(
            library,
            refit,
            planned,
            key,
            f"Properly: {one.recipe.title}",
            Pick(one.recipe, {}, offers.get(key)),
            frozenset(),
        )
        for one in near
        for key in (one.recipe.id,)
    ]
    fit = [way for way in found if way is not None]
    fixed = interim_fix(refit, finding, interim[0], interim[1], "interim-way")
    plain = [
        replace(
            _tried(refit, planned, fixed, INTERIM, "Interim fix now, properly next time.", interim[0]),
            bought=interim[1],
        )
    ]
    plain += [own_way(refit, planned, at, one, finding.place) for at, one in enumerate(own, 1)]
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
    mine: frozenset[str] = frozenset(),
    then: str = "",
    place: str | None = None,
) -> tuple[Edited, str]:
    """The refit with the way of that value gone, the decision kept aside, and the job that came of it ("": it is parked).

    then: the value of the way it is done properly next time, where it is not done so now; "": the first. place: where a
    way of one's own is done, when not where it was found.
    Raises RefitFaults when no such way was offered, or it no longer fits.
    """
    chosen = next((way for way in ways if way.value == value), None)
    if chosen is None:
        raise RefitFaults([Fault("way", "Choose one of them first.")])
    job, place = "", finding.place if finding is not None else place
    if chosen.own is not None and not chosen.picks:
        job = new_id("job")
        refit = own_taken(refit, chosen.own, place, job, reason)
    elif chosen.picks:
        basket = filled(library, refit, list(chosen.picks), mine, reason)
        refit, job = basket.refit, basket.expansions[0].job.id
        if chosen.own is not None:
            refit = instead_of_step(refit, basket.expansions[0], chosen.own)
    elif chosen.value == INTERIM and finding is not None:
        job = new_id("job")
        refit = interim_fix(refit, finding, chosen.worked.hours, chosen.bought, job)
    if chosen.value in (NEXT_TIME, INTERIM):
        name = finding.title if finding is not None else title.partition(":")[0]
        row = _put_off(library, refit, name, place, ways, then, chosen, reason, new_id("parked"), mine)
        refit = put(refit, row)
    if job and finding is not None:
        refit = job_came_of(refit, finding.id, job)
    decision = Decision(
        id=new_id("decision"),
        title=title[:120],
        alternatives=tuple(way.worked for way in _kept(ways, chosen)),
        adopted=chosen.worked.title,
        reason=reason,
        job=job or None,
        at=now,
    )
    return Edited(refit, (decision,)), job


MOST_KEPT = 8  # alternatives of a decision


def _kept(ways: list[Way], chosen: Way) -> list[Way]:
    """As many ways as a decision keeps, the chosen one among them, in their order."""
    first = [way for way in ways if way is not chosen][: MOST_KEPT - 1]
    return [way for way in ways if way is chosen or way in first]


def _put_off(
    library: Library, refit: Refit, name: str, place: str | None, ways: list[Way], then: str, chosen: Way, reason: str,
    key: str, mine: frozenset[str],
) -> Parked:  # fmt: skip
    """What is done properly next time, as a parked job: its hours, whose they are, and what it was reckoned at."""
    able = [way for way in ways if way.picks and way.own is None]
    proper = next((way for way in able if way.value == then), able[0] if able else None)
    said = [f"Why: {reason}"] if reason else []
    if proper is None:
        return Parked(
            id=key, title=name, place=place, next_time=True, hours=max(chosen.worked.hours, 0.5), note="\n".join(said)
        )
    made = filled(library, refit, list(proper.picks), mine)
    job = made.expansions[0].job
    row = parked_from(made.refit, job, job.tasks, key)
    if proper.told is not None and proper.told.own.minor > 0:
        said.append(f"Properly it was reckoned at {money(proper.told.own.minor, refit.currency)}: {proper.title}")
    note = "\n".join(said)
    return row.model_copy(update={"title": name, "place": place or row.place, "next_time": True, "note": note})
