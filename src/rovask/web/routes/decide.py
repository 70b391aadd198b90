"""Decisions between ways of doing a job: each worked out on the plan, one adopted, the reason kept."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from rovask.core.recipes.expand import Library, half_hours
from rovask.core.recipes.preview import Pick, filled, preview
from rovask.core.recipes.recipe import Recipe
from rovask.core.refit.edits import put
from rovask.core.refit.faults import Fault, RefitFaults
from rovask.core.refit.model import Finding, Refit
from rovask.core.refit.records import Kind
from rovask.core.refit.seen import Alternative, Decision, Parked
from rovask.core.refit.seen_edits import interim_fix, job_came_of
from rovask.store.errors import NotFound
from rovask.web.page import Page, effect_of, page_here
from rovask.web.rendering import render
from rovask.web.routes.recipes import library_here, recipe_of
from rovask.web.routes.seen import TRIED, changed, proposed, token
from rovask.web.security import Form, Who
from rovask.web.spelling import read_money

router = APIRouter()

INTERIM, NEXT_TIME = "-interim", "-next-time"  # recipes and their answers begin with a letter


@dataclass(frozen=True, slots=True)
class Way:
    """One way to go about it, worked out. value: what its form sends; picks: the recipe and answers that make it."""

    value: str
    title: str
    effect: str
    tone: str
    worked: Alternative
    days: float
    picks: tuple[Pick, ...] = ()


def _worked_out(library: Library, page: Page, value: str, title: str, pick: Pick) -> Way | None:
    """A recipe with its answers as a way; None when it doesn't fit."""
    try:
        look = preview(page.refit, filled(library, page.refit, [pick]), page.planned)
    except RefitFaults:
        return None
    effect, tone = effect_of(look.before.verdict, look.after.verdict)
    worked = Alternative(
        title=title[:120],
        hours=round(look.hours * 2) / 2,
        money=look.money,
        spare_minutes=look.after.verdict.spare_minutes,
        holds=look.holds,
    )
    return Way(value, title, effect, tone, worked, look.days, (pick,))


def _plain_way(page: Page, value: str, title: str, hours: float = 0, money: int = 0) -> Way:
    """A way that adds nothing to the plan yet: an interim fix, or leaving it to the next haul-out."""
    spare = page.verdict.spare_minutes
    worked = Alternative(title=title, hours=hours, money=money, spare_minutes=spare, holds=spare >= 0)
    return Way(value, title, effect_of(page.verdict, page.verdict)[0], "", worked, 0)


def _ways_of_recipe(library: Library, page: Page, recipe: Recipe, name: str) -> list[Way]:
    """Each answer to a recipe's question, and leaving it to the next haul-out, worked out on the same plan."""
    found = [
        _worked_out(library, page, value, why, Pick(recipe, {name: value}))
        for value, why in recipe.ask[name].choices.items()
    ]
    return [way for way in found if way is not None] + [_plain_way(page, NEXT_TIME, "Left to the next haul-out.")]


def _ways_of_finding(library: Library, page: Page, finding: Finding, interim: tuple[float, int]) -> list[Way]:
    """Properly by one of the recipes that come near it, an interim fix, or the next haul-out."""
    found = [
        _worked_out(library, page, one.recipe.id, f"Properly: {one.recipe.title}", Pick(one.recipe, {}))
        for one in proposed(library, page, finding, tried=0)[:TRIED]
    ]
    hours, money = interim
    plain = [_plain_way(page, INTERIM, "Interim fix now, properly next time.", hours, money)]
    if not finding.blocks:
        plain.append(_plain_way(page, NEXT_TIME, "Left to the next haul-out."))
    return [way for way in found if way is not None] + plain


def _kept_decision(
    refit: Refit, now: datetime, title: str, ways: list[Way], chosen: Way, reason: str, job: str | None
) -> Refit:
    decision = Decision(
        id=token("d"),
        title=title[:120],
        alternatives=tuple(way.worked for way in ways),
        adopted=chosen.worked.title,
        reason=reason,
        job=job,
        at=now,
    )
    return put(refit, Kind.DECISION, decision)


@router.get("/r/{pk}/decide/{key}/{name}")
def decide(request: Request, who: Who, pk: int, key: str, name: str) -> Response:
    """The ways of doing a job side by side."""
    page, library = page_here(request, who, pk), library_here(request)
    recipe = _asked(library, key, name)
    context = page.context(
        title=f"{recipe.title}: {recipe.ask[name].label.lower()}?",
        back=(f"{page.root}/recipes/{key}", recipe.title),
        ways=_ways_of_recipe(library, page, recipe, name),
        interim=None,
        fault="",
    )
    return render(request, "decide.html", context)


def _asked(library: Library, key: str, name: str) -> Recipe:
    recipe = recipe_of(library, key)
    if name not in recipe.ask or not recipe.ask[name].choices:
        raise RefitFaults([Fault("", "This recipe has no such choice.")])
    return recipe


@router.post("/r/{pk}/decide/{key}/{name}")
def decided(request: Request, who: Who, posted: Form, pk: int, key: str, name: str) -> Response:
    """Adopt one way with its reason: the job comes in, or is parked; the decision is kept."""
    page, library = page_here(request, who, pk), library_here(request)
    recipe = _asked(library, key, name)
    ways = _ways_of_recipe(library, page, recipe, name)
    title = f"{recipe.title}: {recipe.ask[name].label}"
    chosen = next((way for way in ways if way.value == posted.text("way")), None)
    if chosen is None:
        context = page.context(
            title=f"{title.lower()}?",
            back=(f"{page.root}/recipes/{key}", recipe.title),
            ways=ways,
            interim=None,
            fault="Choose one of them first.",
        )
        return render(request, "decide.html", context, 422)
    where = _adopt(request, who.account, pk, library, title, ways, chosen, posted.text("reason").strip()[:200], None)
    return RedirectResponse(f"/r/{pk}/{where}", status_code=303)


def _adopt(
    request: Request,
    account: int,
    pk: int,
    library: Library,
    title: str,
    ways: list[Way],
    chosen: Way,
    reason: str,
    finding: Finding | None,
) -> str:
    """One change with the job of the way that was chosen and the decision; where to go then."""
    made: list[str] = []

    def edit(refit: Refit, now: datetime) -> Refit:
        job: str | None = None
        if chosen.picks:
            basket = filled(library, refit, list(chosen.picks), reason=reason)
            refit, job = basket.refit, basket.expansions[0].job.id
        elif chosen.value == INTERIM and finding is not None:
            job = token("j")
            refit = interim_fix(refit, finding, chosen.worked.hours, chosen.worked.money, job)
        if chosen.value in (NEXT_TIME, INTERIM):
            name = finding.title if finding is not None else title.partition(":")[0]
            row = Parked(id=token("k"), title=name, place=finding.place if finding else None, next_time=True)
            refit = put(refit, Kind.PARKED, row)
        if job is not None:
            made.append(job)
            refit = job_came_of(refit, finding.id, job) if finding is not None else refit
        return _kept_decision(refit, now, title, ways, chosen, reason, job)

    changed(request, pk, account, f"decided: {title}, {chosen.title}", edit)
    return f"jobs/{made[0]}" if made else "parked"


@router.get("/r/{pk}/finding/{key}/decide")
def decide_finding(request: Request, who: Who, pk: int, key: str) -> Response:
    """What to do about a finding: properly, interim, or next time, side by side."""
    page, library = page_here(request, who, pk), library_here(request)
    finding = _finding(page, key)
    return _finding_ways(request, page, library, finding, (2.0, 0), "", 200)


def _finding(page: Page, key: str) -> Finding:
    found = next((one for one in page.refit.findings if one.id == key), None)
    if found is None:
        raise NotFound("This finding is gone; somebody removed it meanwhile.")
    return found


def _finding_ways(
    request: Request,
    page: Page,
    library: Library,
    finding: Finding,
    interim: tuple[float, int],
    fault: str,
    status: int,
) -> Response:
    context = page.context(
        title=f"{finding.title}: what to do?",
        back=(f"{page.root}/finding/{finding.id}", finding.title),
        ways=_ways_of_finding(library, page, finding, interim),
        interim=interim,
        fault=fault,
    )
    return render(request, "decide.html", context, status)


@router.post("/r/{pk}/finding/{key}/decide")
def decided_finding(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """Adopt what to do about a finding, with its reason."""
    page, library = page_here(request, who, pk), library_here(request)
    finding = _finding(page, key)
    try:
        hours = half_hours(float(posted.text("interim_hours", "2").replace(",", ".")))
        money = read_money(posted.text("interim_money", "0") or "0")
    except (ValueError, OverflowError):
        return _finding_ways(
            request, page, library, finding, (2.0, 0), "Type hours and money of the interim fix as numbers.", 422
        )
    ways = _ways_of_finding(library, page, finding, (hours, money))
    chosen = next((way for way in ways if way.value == posted.text("way")), None)
    if chosen is None:
        return _finding_ways(request, page, library, finding, (hours, money), "Choose one of them first.", 422)
    reason = posted.text("reason").strip()[:200]
    where = _adopt(request, who.account, pk, library, finding.title, ways, chosen, reason, finding)
    return RedirectResponse(f"/r/{pk}/{where}", status_code=303)
