"""Recipes that sailors brought in: the text of their files, whose they are, and the refits they are given to."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from threading import Lock

from cachetools import LRUCache
from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from rovask.core.plain.faults import RefitFaults
from rovask.core.recipes.common import Library
from rovask.core.recipes.recipe import Recipe
from rovask.formats.recipe_file import library, read_recipe, recipe_text
from rovask.store.errors import NotFound
from rovask.store.recipe_tables import GivenRecipeRow, RecipeRow

GONE = "This recipe is gone already, or came with Rovask."


@dataclass(frozen=True, slots=True)
class OwnRecipe:
    """A recipe somebody brought in. ``mine``: by whoever asks; ``given``: at hand in the refit asked about."""

    pk: int
    id: str
    text: str
    mine: bool
    given: bool


_READ: LRUCache[str, Recipe | None] = LRUCache(maxsize=200)
_READING = Lock()


def _read(text: str) -> Recipe | None:
    """A recipe from its text; None for one that was sound for an older Rovask. Its file can still be had and mended."""
    with _READING:
        if text in _READ:
            return _READ[text]
    try:
        found: Recipe | None = read_recipe(text.encode(), library().common)
    except RefitFaults:
        found = None
    with _READING:
        _READ[text] = found
    return found


def library_for(session: Session, refit: int) -> Library:
    """The shipped library with the own recipes given to a refit; a shipped one is never replaced."""
    shipped = library()
    found = dict(shipped.recipes)
    rows = session.execute(
        select(RecipeRow.id, RecipeRow.text)
        .join(GivenRecipeRow, GivenRecipeRow.recipe_pk == RecipeRow.pk)
        .where(GivenRecipeRow.refit_id == refit)
        .order_by(RecipeRow.id, RecipeRow.pk)
    )
    for key, text in rows:
        recipe = _read(text)
        if recipe is not None and key not in found:
            found[key] = recipe
    return Library(shipped.common, found)


def own_recipes(session: Session, refit: int, account: int) -> list[OwnRecipe]:
    """Own recipes at hand in a refit, and those of whoever asks."""
    given = select(GivenRecipeRow.recipe_pk).where(GivenRecipeRow.refit_id == refit)
    rows = session.execute(
        select(RecipeRow, RecipeRow.pk.in_(given))
        .where((RecipeRow.account_pk == account) | RecipeRow.pk.in_(given))
        .order_by(RecipeRow.id, RecipeRow.pk)
    )
    return [OwnRecipe(row.pk, row.id, row.text, row.account_pk == account, is_given) for row, is_given in rows]


def own_key(session: Session, recipe: Recipe, account: int) -> str:
    """The id an own recipe is kept under: its own, unless one that is shipped or somebody else's has it."""
    taken = set(library().recipes)
    taken |= set(session.scalars(select(RecipeRow.id).where(RecipeRow.account_pk.is_distinct_from(account))))
    key, at = recipe.id, 1
    while key in taken:
        key = f"{recipe.id[:34]}-own" + (str(at) if at > 1 else "")
        at += 1
    return key


def keep(session: Session, key: str, text: str, account: int, refit: int, clock: datetime) -> None:
    """Keep a recipe of somebody's own and give it to a refit; it replaces their own of the same id."""
    row = session.scalars(select(RecipeRow).where(RecipeRow.account_pk == account, RecipeRow.id == key)).first()
    if row is None:
        row = RecipeRow(id=key, text=text, account_pk=account, at=clock)
        session.add(row)
    else:
        row.text, row.at = text, clock
    session.flush()
    session.merge(GivenRecipeRow(refit_id=refit, recipe_pk=row.pk))
    session.flush()


def give(session: Session, key: str, account: int, refit: int) -> None:
    """Give one's own recipe to a refit. Raises NotFound."""
    row = session.scalars(select(RecipeRow).where(RecipeRow.account_pk == account, RecipeRow.id == key)).first()
    if row is None:
        raise NotFound(GONE)
    session.merge(GivenRecipeRow(refit_id=refit, recipe_pk=row.pk))
    session.flush()


def give_on(session: Session, before: int, refit: int) -> None:
    """Give a refit all own recipes that the one before it had."""
    for pk in session.scalars(select(GivenRecipeRow.recipe_pk).where(GivenRecipeRow.refit_id == before)):
        session.merge(GivenRecipeRow(refit_id=refit, recipe_pk=pk))
    session.flush()


def take_out(session: Session, key: str, refit: int) -> None:
    """Take an own recipe out of a refit; one that no refit has any more is forgotten. Jobs made of it stay.

    Raises NotFound.
    """
    pk = session.scalars(
        select(RecipeRow.pk)
        .join(GivenRecipeRow, GivenRecipeRow.recipe_pk == RecipeRow.pk)
        .where(GivenRecipeRow.refit_id == refit, RecipeRow.id == key)
    ).first()
    if pk is None:
        raise NotFound(GONE)
    session.execute(delete(GivenRecipeRow).where(GivenRecipeRow.refit_id == refit, GivenRecipeRow.recipe_pk == pk))
    left = session.scalars(select(func.count()).where(GivenRecipeRow.recipe_pk == pk)).one()
    if not left:
        session.execute(delete(RecipeRow).where(RecipeRow.pk == pk))
    session.flush()


def text_for(session: Session, key: str, refit: int) -> str:
    """The file of a recipe at hand in a refit, one's own or shipped. Raises NotFound."""
    own = session.scalars(
        select(RecipeRow.text)
        .join(GivenRecipeRow, GivenRecipeRow.recipe_pk == RecipeRow.pk)
        .where(GivenRecipeRow.refit_id == refit, RecipeRow.id == key)
    ).first()
    return own if own is not None else shipped_text(key)


def shipped_text(key: str) -> str:
    """The file of a recipe that came with Rovask. Raises NotFound."""
    if key not in library().recipes:
        raise NotFound("There is no such recipe. Look in the list of recipes.")
    return recipe_text(key)
