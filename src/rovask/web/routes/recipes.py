"""Recipes: the library, one recipe with its questions, what it would do, and taking it into the refit."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response
from starlette.datastructures import UploadFile

from rovask.core.recipes.answers import default_answers, refusals
from rovask.core.recipes.expand import Library
from rovask.core.recipes.formula import BadFormula, Value
from rovask.core.recipes.preview import Basket, Pick, Preview, filled, preview
from rovask.core.recipes.recipe import Group, Recipe
from rovask.core.refit.edits import rebuilt
from rovask.core.refit.faults import Fault, RefitFaults
from rovask.core.refit.model import Refit
from rovask.core.refit.seen_edits import job_came_of
from rovask.store import recipes as kept_recipes
from rovask.store import refits
from rovask.store.database import transaction
from rovask.store.errors import NotFound
from rovask.web.page import Page, effect_of, page_here
from rovask.web.rendering import render
from rovask.web.security import Form, Who, settings_of
from rovask.work.queue import ask_for_search

router = APIRouter()

ALWAYS = ("haul", "look", "ready", "launch", "proving")
GROUP_WORDS = {
    Group.ALWAYS: "Every haul-out",
    Group.BOTTOM: "Bottom and topsides",
    Group.STRUCTURE: "Structure",
    Group.DRIVE: "Drive train",
    Group.STEERING: "Rudder and steering",
    Group.WATER: "Openings, water and pumps",
    Group.ELECTRIC: "Electrics",
    Group.RIG: "Rig",
    Group.DECK: "Deck",
    Group.INSIDE: "Inside",
    Group.SAFETY: "Safety",
}


@dataclass(frozen=True, slots=True)
class Shelf:
    """A recipe in the list: why it doesn't fit this boat ("" if it does), and whether the refit has it already."""

    recipe: Recipe
    refusal: str
    there: bool
    own: bool


def _refusal(recipe: Recipe, refit: Refit) -> str:
    """Why a recipe doesn't fit, a formula that comes to nothing on this boat among it; "" when it does."""
    try:
        return " ".join(refusals(recipe, refit))
    except BadFormula as error:
        return f"It can't be worked out for this boat: {error}."


def library_here(request: Request) -> Library:
    """Every recipe at hand."""
    with transaction(settings_of(request).database_url) as session:
        return kept_recipes.whole_library(session)


def recipe_of(library: Library, key: str) -> Recipe:
    """The recipe of that id. Raises NotFound."""
    if key not in library.recipes:
        raise NotFound("There is no such recipe. Look in the list of recipes.")
    return library.recipes[key]


@router.get("/r/{pk}/recipes")
def all_recipes(request: Request, who: Who, pk: int, q: str = "") -> Response:
    """The library, by group, what fits this boat first."""
    page = page_here(request, who, pk)
    with transaction(settings_of(request).database_url) as session:
        library, own = kept_recipes.whole_library(session), kept_recipes.own_recipes(session)
    there = {job.recipe for job in page.refit.jobs}
    wanted = q.strip().lower()
    groups: dict[str, list[Shelf]] = {}
    for group, title in GROUP_WORDS.items():
        rows = [
            Shelf(one, _refusal(one, page.refit), one.id in there, one.id in own)
            for one in library.recipes.values()
            if one.group is group and (not wanted or wanted in f"{one.title} {one.about}".lower())
        ]
        if rows:
            rows.sort(
                key=lambda row: (bool(row.refusal), ALWAYS.index(row.recipe.id) if row.recipe.id in ALWAYS else 9)
            )
            groups[title] = rows
    context = page.context(
        groups=groups,
        q=q,
        always=[key for key in ALWAYS if key not in there],
        unsound=sorted(set(own) - set(library.recipes)),
        faults=[],
    )
    return render(request, "recipes.html", context)


def _answers(recipe: Recipe, given: Mapping[str, Any], faults: dict[str, list[str]]) -> dict[str, Value]:
    """What was answered, with what can't be read put under its field."""
    out: dict[str, Value] = {}
    for name, ask in recipe.ask.items():
        text = str(given.get(name, "")).strip()
        if not text:
            continue
        if ask.choices:
            out[name] = text
            continue
        try:
            out[name] = float(text.replace(",", "."))
        except ValueError:
            faults.setdefault(name, []).append(f"“{text}” is not a number")
    return out


def _own(given: Mapping[str, Any]) -> frozenset[str]:
    return frozenset(name.removeprefix("skill-") for name, value in given.items() if value == "own")


@dataclass(frozen=True)
class Look:
    """What a form of picks comes to: the preview, or why there is none."""

    preview: Preview | None
    faults: dict[str, list[str]]


def look_at(page: Page, library: Library, picks: list[Pick], own: frozenset[str], faults: dict[str, list[str]]) -> Look:
    """Work the picks out on the page's refit, planning it once."""
    if faults:
        return Look(None, faults)
    try:
        basket = filled(library, page.refit, picks, own)
    except RefitFaults as error:
        for fault in error.faults:
            faults.setdefault(fault.path, []).append(fault.message)
        return Look(None, faults)
    return Look(preview(page.refit, basket, page.planned), faults)


def _told(page: Page, look: Look, own: frozenset[str]) -> dict[str, Any]:
    """What the templates get of a look."""
    shown = look.preview
    effect, tone = effect_of(shown.before.verdict, shown.after.verdict) if shown else ("", "")
    return {"look": shown, "faults": look.faults, "effect": effect, "tone": tone, "own": own, "zone": page.zone}


@router.get("/r/{pk}/recipes/several")
def several(request: Request, who: Who, pk: int) -> Response:
    """Several recipes with their own answers, worked out together."""
    page, library = page_here(request, who, pk), library_here(request)
    keys = [key for key in dict.fromkeys(request.query_params.getlist("pick")) if key in library.recipes]
    picks = [Pick(library.recipes[key], {}) for key in keys]
    own = _own(dict(request.query_params))
    look = look_at(page, library, picks, own, {} if picks else {"": ["Tick at least one recipe first."]})
    return render(request, "recipes_several.html", page.context(keys=keys, **_told(page, look, own)))


@router.post("/r/{pk}/recipes/several")
def add_several(request: Request, who: Who, posted: Form, pk: int) -> Response:
    """Take several recipes in, in one change."""
    library = library_here(request)
    keys = [str(key) for key in posted.form.getlist("pick") if key in library.recipes]
    picks = [Pick(library.recipes[key], {}) for key in keys]
    titles = ", ".join(pick.recipe.title for pick in picks[:3]) + (f" and {len(picks) - 3} more" if picks[3:] else "")
    _take_in(request, who.account, pk, library, picks, _own(dict(posted.form)), "", f"added from recipes: {titles}")
    return RedirectResponse(f"/r/{pk}/jobs", status_code=303)


def _take_in(
    request: Request,
    account: int,
    pk: int,
    library: Library,
    picks: list[Pick],
    own: frozenset[str],
    reason: str,
    told: str,
    finding: str = "",
    parked: str = "",
) -> Basket:
    """One change that takes the picks in. Raises RefitFaults; nothing is kept then."""
    settings = settings_of(request)
    baskets: list[Basket] = []

    def edit(refit: Refit) -> Refit:
        baskets.append(filled(library, refit, picks, own, reason))
        changed = baskets[-1].refit
        if any(one.id == finding for one in changed.findings):
            changed = job_came_of(changed, finding, baskets[-1].expansions[0].job.id)
        if any(one.id == parked for one in changed.parked):  # it waits no longer
            rest = tuple(one for one in changed.parked if one.id != parked)
            changed = rebuilt(changed, parked=rest)
        return changed

    if not picks:
        raise RefitFaults([Fault("", "Tick at least one recipe first.")])
    with transaction(settings.database_url) as session:
        refits.change(session, pk, edit, who=account, what=told, clock=settings.clock())
    ask_for_search(settings.database_url, pk)
    return baskets[-1]


@router.post("/r/{pk}/recipes/bring-in")
def bring_in(request: Request, who: Who, posted: Form, pk: int) -> Response:
    """A recipe file in, for every refit here; or refused with every fault."""
    settings = settings_of(request)
    upload = posted.form.get("file")
    if not isinstance(upload, UploadFile) or not upload.filename:
        raise RefitFaults([Fault("", "no file was chosen; choose a recipe's .toml file first")])
    content = upload.file.read()
    with transaction(settings.database_url) as session:
        key = kept_recipes.bring_in(session, content, who.account, settings.clock())
    return RedirectResponse(f"/r/{pk}/recipes/{key}", status_code=303)


@router.get("/r/{pk}/recipes/{key}.toml")
def recipe_file(request: Request, who: Who, pk: int, key: str) -> Response:
    """A recipe as its file, to change and bring in again."""
    with transaction(settings_of(request).database_url) as session:
        own = kept_recipes.own_recipes(session)
    text = own[key] if key in own else kept_recipes.shipped_text(key)
    headers = {"Content-Disposition": f'attachment; filename="{key}.toml"', "Cache-Control": "no-store"}
    return Response(text, media_type="application/toml", headers=headers)


@router.post("/r/{pk}/recipes/{key}/take-out")
def take_out(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """Forget an own recipe."""
    with transaction(settings_of(request).database_url) as session:
        kept_recipes.take_out(session, key)
    return RedirectResponse(f"/r/{pk}/recipes", status_code=303)


def _one(
    request: Request, page: Page, library: Library, recipe: Recipe, given: Mapping[str, Any], status: int = 200
) -> Response:
    """The page of one recipe with what it would do."""
    faults: dict[str, list[str]] = {}
    answers = _answers(recipe, given, faults)
    own = _own(given)
    look = look_at(page, library, [Pick(recipe, answers)], own, faults)
    try:
        usual = default_answers(recipe, page.refit)
    except BadFormula:
        usual = {}
    shown = {
        name: str(given[name]) if str(given.get(name, "")).strip() else _typed(usual.get(name, ""))
        for name in recipe.ask
    }
    context = page.context(
        recipe=recipe,
        shown=shown,
        reason=str(given.get("reason", "")),
        group=GROUP_WORDS[recipe.group],
        parked=str(given.get("parked", "")),
        finding=next((one for one in page.refit.findings if one.id == given.get("finding")), None),
        there=[job for job in page.refit.jobs if job.recipe == recipe.id],
        **_told(page, look, own),
    )
    return render(request, "recipe.html", context, status)


def _typed(value: Value) -> str:
    return value if isinstance(value, str) else f"{value:g}"


@router.get("/r/{pk}/recipes/{key}")
def one_recipe(request: Request, who: Who, pk: int, key: str) -> Response:
    """One recipe: its questions, and what it would do with these answers."""
    page, library = page_here(request, who, pk), library_here(request)
    return _one(request, page, library, recipe_of(library, key), dict(request.query_params))


@router.post("/r/{pk}/recipes/{key}")
def add_recipe(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """Take a recipe in with the answers given; what is wrong stays in the form."""
    library = library_here(request)
    recipe = recipe_of(library, key)
    faults: dict[str, list[str]] = {}
    given = {name: value for name, value in posted.form.items() if isinstance(value, str)}
    answers = _answers(recipe, given, faults)
    try:
        if faults:
            raise RefitFaults([Fault(name, told) for name, messages in faults.items() for told in messages])
        basket = _take_in(
            request,
            who.account,
            pk,
            library,
            [Pick(recipe, answers)],
            _own(given),
            posted.text("reason")[:200],
            f"added “{recipe.title}” from its recipe",
            posted.text("finding"),
            posted.text("parked"),
        )
    except RefitFaults:
        return _one(request, page_here(request, who, pk), library, recipe, given, 422)
    return RedirectResponse(f"/r/{pk}/jobs/{basket.expansions[0].job.id}", status_code=303)
