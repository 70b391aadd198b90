"""Recipe files ``*.toml``: one recipe each, in and out; and the library that ships with the application."""

from __future__ import annotations

import re
import tomllib
from functools import cache
from importlib import resources

from pydantic import ValidationError

from rovask.core.plain.faults import Fault, RefitFaults, faults_of
from rovask.core.recipes.common import Common, Library
from rovask.core.recipes.recipe import Recipe

MOST_BYTES = 256 * 1024
COMMON = "_common"


def read_recipe(content: bytes, common: Common) -> Recipe:
    """The recipe in a TOML file. Raises RefitFaults with everything that is wrong with it."""
    if len(content) > MOST_BYTES:
        raise RefitFaults(
            [Fault("", f"the file is {len(content) >> 10} kB; a recipe has at most {MOST_BYTES >> 10} kB")]
        )
    try:
        data = tomllib.loads(content.decode("utf-8-sig"))
    except UnicodeDecodeError as error:
        raise RefitFaults([Fault("", f"is not UTF-8 text (byte {error.start})")]) from None
    except (ValueError, RecursionError) as error:  # TOMLDecodeError, and whole numbers of thousands of digits
        raise RefitFaults([Fault("", f"is not TOML: {' '.join(str(error).split())[:160]}")]) from None
    try:
        recipe = Recipe.model_validate(data)
    except ValidationError as error:
        raise RefitFaults(faults_of(error)) from None
    faults = [*_unknown_names(recipe, common)]
    if faults:
        raise RefitFaults(faults)
    return recipe


def _unknown_names(recipe: Recipe, common: Common) -> list[Fault]:
    """Cautions, surfaces, equipment and places that the common file doesn't know."""
    out = []
    for at, row in enumerate(recipe.task):
        out += [
            Fault(f"task[{at}].cautions", f"nobody knows the caution {name!r}")
            for name in row.cautions
            if name not in common.cautions
        ]
        if row.weather and row.weather not in common.surfaces:
            out.append(Fault(f"task[{at}].weather", f"nobody knows the surface {row.weather!r}"))
        out += [
            Fault(f"task[{at}].gear", f"nobody knows the equipment {key!r}")
            for key in row.gear
            if key not in common.gear
        ]
    return out


@cache
def library() -> Library:
    """The library as shipped. Raises RefitFaults, naming the file, if one of its recipes is unsound."""
    folder = resources.files("rovask.recipes")
    common = Common.model_validate(tomllib.loads((folder / f"{COMMON}.toml").read_text(encoding="utf-8")))
    recipes: dict[str, Recipe] = {}
    for file in sorted(folder.iterdir(), key=lambda file: file.name):
        stem, _, kind = file.name.partition(".")
        if kind != "toml" or stem.startswith("_"):  # what recipes share, and the tables of core/craft
            continue
        try:
            recipe = read_recipe(file.read_bytes(), common)
        except RefitFaults as error:
            raise RefitFaults([Fault(f"{file.name}: {fault.path}", fault.message) for fault in error.faults]) from None
        recipes[recipe.id] = recipe
    return Library(common, recipes)


def recipe_text(key: str) -> str:
    """The file of a shipped recipe as it lies in the library."""
    return (resources.files("rovask.recipes") / f"{key}.toml").read_text(encoding="utf-8")


def scaled(text: str, step: str, factor: float) -> str:
    """The text of a recipe file with a step's hours times a factor; as it was where the step can't be found in it.

    >>> scaled('task = [{id = "sand", title = "Sand", spot = "deck", hours = "2 * count"}]', "sand", 1.25)
    'task = [{id = "sand", title = "Sand", spot = "deck", hours = "(2 * count) * 1.25"}]'
    """
    of_step = rf'(\bid\s*=\s*"{re.escape(step)}"(?:(?!\bid\s*=)[\s\S])*?\bhours\s*=\s*)("(?:[^"\\]|\\.)*"|[0-9.]+)'
    return re.sub(of_step, lambda found: f'{found[1]}"({found[2].strip(chr(34))}) * {factor:g}"', text, count=1)


def renamed(text: str, key: str) -> str:
    """The text of a recipe file with another id."""
    return re.sub(r"(?m)^\s*id\s*=.*$", f'id = "{key}"', text, count=1)
