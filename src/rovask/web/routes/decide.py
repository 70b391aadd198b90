"""Decisions between ways of doing a job: each worked out on the plan, one adopted, the reason kept."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.books.money import Money
from rovask.core.plan.explain.effects import effect_of
from rovask.core.recipes.expand import half_hours
from rovask.core.recipes.ways import Way, ways_of_finding, ways_of_recipe
from rovask.core.refit import typed
from rovask.core.refit.faults import RefitFaults
from rovask.core.refit.model import Finding
from rovask.desk.commands.recipes import DecideFinding, DecideSchool
from rovask.store.errors import NotFound
from rovask.web.acting import acted, let_in, on_to
from rovask.web.asking import Pk, RecordId
from rovask.web.costly import worked_once
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.routes.recipes import library_here, recipe_of
from rovask.web.security import Form, Posted, Who

router = APIRouter()

INTERIM_HOURS = 2.0
MOST_INTERIM_HOURS = 400.0


@dataclass(frozen=True, slots=True)
class WayShown:
    """A way with its effect in words and its money as such."""

    way: Way
    effect: str
    tone: str
    money: Money


def _shown(page: Page, ways: list[Way]) -> list[WayShown]:
    return [
        WayShown(way, *effect_of(page.verdict, way.after), Money(way.worked.money, page.refit.currency)) for way in ways
    ]


def _page(
    request: Request,
    page: Page,
    title: str,
    back: tuple[str, str],
    ways: list[Way],
    interim: tuple[str, str] | None,
    fault: str = "",
    reason: str = "",
    status: int = 200,
) -> Response:
    shown = _shown(page, ways)
    context = page.context(title=title, back=back, ways=shown, interim=interim, fault=fault, reason=reason)
    return render(request, "decide.html", context, status)


@router.get("/r/{pk}/decide/{key}/{name}")
def decide(request: Request, who: Who, pk: Pk, key: RecordId, name: str) -> Response:
    """The ways of doing a job side by side."""
    return _school(request, who, pk, key, name)


def _school(
    request: Request, who: Who, pk: int, key: str, name: str, fault: str = "", reason: str = "", status: int = 200
) -> Response:
    page, library = page_here(request, who, pk), library_here(request, pk)
    recipe = recipe_of(library, key)
    ways = worked_once(
        page, f"decide {key} {name}", lambda: ways_of_recipe(library, page.refit, page.planned, recipe, name)
    )
    title = f"{recipe.title}: {recipe.ask[name].label.lower()}?"
    back = (f"{page.root}/recipes/{key}", recipe.title)
    return _page(request, page, title, back, ways, None, fault, reason, status)


@router.post("/r/{pk}/decide/{key}/{name}")
def decided(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId, name: str) -> Response:
    """Adopt one way with its reason: the job comes in, or is parked; the decision is kept."""
    reason = posted.words("reason", 200)
    try:
        done = acted(request, who, pk, DecideSchool(key, name, posted.text("way"), reason))
    except RefitFaults as error:
        return _school(request, who, pk, key, name, error.faults[0].message, reason, 422)
    return on_to(f"/r/{pk}/jobs/{done.made}" if done.made else f"/r/{pk}/parked")


@router.get("/r/{pk}/finding/{key}/decide")
def decide_finding(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """What to do about a finding: properly, interim, or next time, side by side."""
    return _finding(request, page_here(request, who, pk), key, (f"{INTERIM_HOURS:g}", "0"), (INTERIM_HOURS, 0))


def _finding(
    request: Request,
    page: Page,
    key: str,
    typed_: tuple[str, str],
    interim: tuple[float, int],
    fault: str = "",
    reason: str = "",
    status: int = 200,
) -> Response:
    finding: Finding | None = next((one for one in page.refit.findings if one.id == key), None)
    if finding is None:
        raise NotFound("This finding is gone; somebody removed it meanwhile.")
    library = library_here(request, page.kept.pk)
    ways = worked_once(
        page,
        f"decide finding {key} {interim}",
        lambda: ways_of_finding(library, page.refit, page.planned, finding, interim),
    )
    back = (f"{page.root}/finding/{finding.id}", finding.title)
    return _page(request, page, f"{finding.title}: what to do?", back, ways, typed_, fault, reason, status)


def _interim(posted: Posted, currency: str) -> tuple[float, int]:
    """Hours (in halves) and minor units of the interim fix. Raises ValueError."""
    hours = typed.number(posted.text("interim_hours") or f"{INTERIM_HOURS:g}", 0, MOST_INTERIM_HOURS)
    return half_hours(hours), typed.minor(posted.text("interim_money") or "0", currency)


@router.post("/r/{pk}/finding/{key}/decide")
def decided_finding(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Adopt what to do about a finding, with its reason."""
    let_in(request, who, pk, DecideFinding.needs)
    page = page_here(request, who, pk)
    typed_ = (posted.text("interim_hours"), posted.text("interim_money"))
    reason = posted.words("reason", 200)
    interim = (INTERIM_HOURS, 0)
    try:
        interim = _interim(posted, page.refit.currency)
        done = acted(request, who, pk, DecideFinding(key, posted.text("way"), reason, interim))
    except ValueError as error:
        fault = f"The interim fix: {error}."
        return _finding(request, page, key, typed_, interim, fault, reason, 422)
    except RefitFaults as error:
        return _finding(request, page, key, typed_, interim, error.faults[0].message, reason, 422)
    return on_to(f"/r/{pk}/jobs/{done.made}" if done.made else f"/r/{pk}/parked")
