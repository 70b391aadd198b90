"""Recipes that sailors brought in: kept as the text of their files, beside the library that ships."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from rovask.core.recipes.expand import Library
from rovask.core.refit.faults import RefitFaults
from rovask.formats.recipe_file import library, read_recipe, recipe_text
from rovask.store.errors import NotFound
from rovask.store.tables import RecipeRow


def whole_library(session: Session) -> Library:
    """The shipped library with the recipes brought in; one of these takes the place of a shipped one of its id."""
    shipped = library()
    found = dict(shipped.recipes)
    for row in session.scalars(select(RecipeRow).order_by(RecipeRow.id)):
        try:
            found[row.id] = read_recipe(row.text.encode(), shipped.common)
        except RefitFaults:  # it was sound for an older Rovask; its file can still be had and mended
            continue
    return Library(shipped.common, found)


def own_recipes(session: Session) -> dict[str, str]:
    """The text of each recipe brought in, by id."""
    return {row.id: row.text for row in session.scalars(select(RecipeRow))}


def bring_in(session: Session, content: bytes, account: int | None, clock: datetime) -> str:
    """Keep a recipe file; it replaces an own recipe of the same id. Returns its id. Raises RefitFaults."""
    recipe = read_recipe(content, library().common)
    session.merge(RecipeRow(id=recipe.id, text=content.decode("utf-8-sig"), account_pk=account, at=clock))
    session.flush()
    return recipe.id


def take_out(session: Session, key: str) -> None:
    """Forget an own recipe; jobs made from it stay. Raises NotFound."""
    row = session.get(RecipeRow, key)
    if row is None:
        raise NotFound("This recipe is gone already, or came with Rovask.")
    session.delete(row)
    session.flush()


def shipped_text(key: str) -> str:
    """The file of a recipe that came with Rovask. Raises NotFound."""
    if key not in library().recipes:
        raise NotFound("There is no such recipe. Look in the list of recipes.")
    return recipe_text(key)
