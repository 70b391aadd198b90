"""Recipes: the library, one recipe with its questions, what it would do, and taking it into the refit."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import partial
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.explain.effects import effect_of
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plain.money import Money
from rovask.core.recipes.answers import asked, default_answers, refused
from rovask.core.recipes.common import Library
from rovask.core.recipes.danger import lacking
from rovask.core.recipes.facts import MAST_OUT
from rovask.core.recipes.formula import BadFormula, Value
from rovask.core.recipes.preview import Basket, Pick, Preview, filled, preview
from rovask.core.recipes.recipe import Ask, Group, Recipe
from rovask.core.refit import typed
from rovask.core.refit.model import Job, Refit
from rovask.desk.commands.recipes import AddRecipes, BringInRecipe, GiveRecipe, TakeOutRecipe
from rovask.formats.recipe_file import MOST_BYTES
from rovask.store import recipes as kept_recipes
from rovask.store.errors import NotFound
from rovask.web.acting import acted, let_in, on_to, ran
from rovask.web.asking import Pk, RecordId, desk_of
from rovask.web.costly import Waits, searched_once, worked_once
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.security import Form, Posted, Who

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


def library_here(request: Request, pk: int) -> Library:
    """Every recipe at hand in a refit."""
    with desk_of(request).looking() as session:
        return kept_recipes.library_for(session, pk)


def recipe_of(library: Library, key: str) -> Recipe:
    """The recipe of that id. Raises NotFound."""
    if key not in library.recipes:
        raise NotFound("There is no such recipe. Look in the list of recipes.")
    return library.recipes[key]


@router.get("/r/{pk}/recipes")
def all_recipes(request: Request, who: Who, pk: Pk, q: str = "") -> Response:
    """The library, by group, what fits this boat first."""
    return _library(request, page_here(request, who, pk), q[:80])


def _library(request: Request, page: Page, q: str = "", faults: tuple[Fault, ...] = (), status: int = 200) -> Response:
    with desk_of(request).looking() as session:
        library = kept_recipes.library_for(session, page.kept.pk)
        own = kept_recipes.own_recipes(session, page.kept.pk, page.who.account)
    there = {job.recipe for job in page.refit.jobs}
    mine = {one.id for one in own if one.given}
    wanted = q.strip().lower()
    refusal, groups = refused(page.refit, tuple(library.recipes.values())), dict[str, list[Shelf]]()
    for group, title in GROUP_WORDS.items():
        rows = [
            Shelf(one, refusal[one.id], one.id in there, one.id in mine)
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
        unsound=sorted(mine - set(library.recipes)),
        elsewhere=[one.id for one in own if one.mine and not one.given],
        faults=faults,
    )
    return render(request, "recipes.html", context, status)


def answers_in(asks: Mapping[str, Ask], given: Mapping[str, Any], faults: dict[str, list[str]]) -> dict[str, Value]:
    """What was answered, with what can't be read put under its field."""
    out: dict[str, Value] = {}
    for name, ask in asks.items():
        text = str(given.get(name, "")).strip()
        if not text:
            continue
        if ask.choices:
            out[name] = text
            continue
        try:
            out[name] = typed.number(text)
        except ValueError as error:
            faults.setdefault(name, []).append(str(error))
    return out


def own_skills(given: Mapping[str, Any]) -> frozenset[str]:
    """The skills that the crew takes over itself, as ticked."""
    return frozenset(name.removeprefix("skill-") for name, value in given.items() if value == "own")


@dataclass(frozen=True)
class Look:
    """What a form of picks comes to: the preview, or why there is none."""

    preview: Preview | None
    faults: dict[str, list[str]]
    first: Basket | None = None  # what is known while the plan's answer waits for others' to be worked out


def look_at(
    page: Page,
    library: Library,
    picks: list[Pick],
    own: frozenset[str],
    faults: dict[str, list[str]],
    *,
    settled: bool = False,
) -> Look:
    """Work the picks out on the page's refit, planning it once; settled: with a search on both sides."""
    if faults:
        return Look(None, faults)
    try:
        basket = filled(library, page.refit, picks, own)
    except RefitFaults as error:
        for fault in error.faults:
            faults.setdefault(fault.path, []).append(fault.message)
        return Look(None, faults)
    what = "recipes " + repr([(pick.recipe.id, sorted(pick.answers.items())) for pick in picks]) + repr(sorted(own))

    work = partial(preview, page.refit, basket, page.planned)
    if settled:
        return Look(searched_once(page, f"{what} settled", work), faults)
    try:
        return Look(worked_once(page, what, work), faults)
    except Waits:
        return Look(None, faults, basket)


def _buys(page: Page, basket: Basket | None) -> Money:
    """What the parts of a basket cost."""
    parts = (part for one in basket.expansions for part in one.parts) if basket is not None else ()
    return Money(sum(part.price for part in parts), page.refit.currency)


def _told(page: Page, look: Look, own: frozenset[str]) -> dict[str, Any]:
    """What the templates get of a look."""
    shown = look.preview
    effect, tone = effect_of(shown.before.verdict, shown.after.verdict) if shown else ("", "")
    first = look.first
    return {
        "first": first,
        "first_money": _buys(page, first),
        "look": shown,
        "faults": look.faults,
        "effect": effect,
        "tone": tone,
        "own": own,
        "zone": page.zone,
    }


@router.get("/r/{pk}/recipes/several")
def several(request: Request, who: Who, pk: Pk) -> Response:
    """Several recipes with their own answers, worked out together."""
    page, library = page_here(request, who, pk), library_here(request, pk)
    keys = [key for key in dict.fromkeys(request.query_params.getlist("pick")) if key in library.recipes]
    picks = [Pick(library.recipes[key], {}) for key in keys]
    own = own_skills(dict(request.query_params))
    faults: dict[str, list[str]] = {} if picks else {"": ["Tick at least one recipe first."]}
    look = look_at(page, library, picks, own, faults, settled=bool(request.query_params.get("settled")))
    return render(request, "recipes_several.html", page.context(keys=keys, **_told(page, look, own)))


@router.post("/r/{pk}/recipes/several")
def add_several(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Take several recipes in, in one change."""
    keys = dict.fromkeys(posted.many("pick"))
    acted(request, who, pk, AddRecipes({key: {} for key in keys}, own_skills(_texts(posted))))
    return on_to(f"/r/{pk}/jobs")


def _texts(posted: Posted) -> dict[str, str]:
    return {name: value for name, value in posted.form.items() if isinstance(value, str)}


@router.post("/r/{pk}/recipes/bring-in")
def bring_in(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """A recipe of one's own, as a TOML file."""
    let_in(request, who, pk, BringInRecipe.needs)
    upload = posted.upload("file")
    try:
        if upload is None:
            raise RefitFaults([Fault("", "choose a file first")])
        key = ran(request, who, BringInRecipe(upload.file.read(MOST_BYTES + 1)), pk)
    except RefitFaults as error:
        return _library(request, page_here(request, who, pk), faults=error.faults, status=422)
    return on_to(f"/r/{pk}/recipes/{key}")


@router.get("/r/{pk}/recipes/{key}.toml")
def recipe_file(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """A recipe as its file, to change and bring in again."""
    desk = desk_of(request)
    with desk.looking() as session:
        desk.seen_by(session, who.account, pk)
        own = {one.id: one.text for one in kept_recipes.own_recipes(session, pk, who.account)}
    text = own[key] if key in own else kept_recipes.shipped_text(key)
    headers = {"Content-Disposition": f'attachment; filename="{key}.toml"', "Cache-Control": "no-store"}
    return Response(text, media_type="application/toml", headers=headers)


@router.post("/r/{pk}/recipes/{key}/give")
def give(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Have one's own recipe at hand in this refit too."""
    ran(request, who, GiveRecipe(key), pk)
    return on_to(f"/r/{pk}/recipes/{key}")


@router.post("/r/{pk}/recipes/{key}/take-out")
def take_out(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Take an own recipe out of this refit."""
    ran(request, who, TakeOutRecipe(key), pk)
    return on_to(f"/r/{pk}/recipes")


def _aloft(refit: Refit) -> list[Job]:
    """Jobs with work aloft that is still to be done: it could be done at the bench while the mast lies ashore."""
    return [
        job
        for job in refit.jobs
        if job.recipe != MAST_OUT and any("chair" in task.gear and not task.begun_at for task in job.tasks)
    ]


def _one(
    request: Request, page: Page, library: Library, recipe: Recipe, given: Mapping[str, Any], status: int = 200
) -> Response:
    """The page of one recipe with what it would do."""
    faults: dict[str, list[str]] = {}
    asks = asked(recipe, page.refit)
    answers = answers_in(asks, given, faults)
    own = own_skills(given)
    look = look_at(page, library, [Pick(recipe, answers)], own, faults, settled=bool(given.get("settled")))
    try:
        usual = default_answers(recipe, page.refit)
    except BadFormula:
        usual = {}
    shown = {
        name: str(given[name]) if str(given.get(name, "")).strip() else _typed(usual.get(name, "")) for name in asks
    }
    context = page.context(
        recipe=recipe,
        asks=asks,
        shown=shown,
        reason=str(given.get("reason", "")),
        group=GROUP_WORDS[recipe.group],
        parked=str(given.get("parked", "")),
        finding=next((one for one in page.refit.findings if one.id == given.get("finding")), None),
        there=[job for job in page.refit.jobs if job.recipe == recipe.id],
        aloft=_aloft(page.refit) if recipe.id == MAST_OUT else [],
        lacks=list(lacking(recipe, library.common)),
        **_told(page, look, own),
    )
    return render(request, "recipe.html", context, status)


def _typed(value: Value) -> str:
    return value if isinstance(value, str) else f"{value:g}"


@router.get("/r/{pk}/recipes/{key}")
def one_recipe(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """One recipe: its questions, and what it would do with these answers."""
    page, library = page_here(request, who, pk), library_here(request, pk)
    return _one(request, page, library, recipe_of(library, key), dict(request.query_params))


@router.post("/r/{pk}/recipes/{key}")
def add_recipe(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Take a recipe in with the answers given; what is wrong stays in the form."""
    faults: dict[str, list[str]] = {}
    given = _texts(posted)
    library = library_here(request, pk)
    recipe = recipe_of(library, key)
    answers = answers_in(asked(recipe, page_here(request, who, pk).refit), given, faults)
    try:
        if faults:
            raise RefitFaults([Fault(name, told) for name, messages in faults.items() for told in messages])
        command = AddRecipes(
            {key: answers},
            own_skills(given),
            posted.words("reason", 200),
            posted.text("finding"),
            posted.text("parked"),
        )
        done = acted(request, who, pk, command)
    except RefitFaults:
        return _one(request, page_here(request, who, pk), library, recipe, given, 422)
    return on_to(f"/r/{pk}/jobs/{done.made}")
