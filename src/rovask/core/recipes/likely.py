"""Which recipes may answer a finding: what the first look says it leads to, where it was found, and its words."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable

from rovask.core.recipes.answers import refusals
from rovask.core.recipes.formula import BadFormula
from rovask.core.recipes.recipe import Group, Recipe
from rovask.core.refit.choices import Spot
from rovask.core.refit.model import Finding, Refit

MOST = 6
LED_TO, EACH_WORD = 20.0, 2.0  # weights are a judgement: what was led to comes first, then words, then place
NEARLY_ALL = 0.75  # of a recipe's tasks lie where it was found
EMPTY = frozenset({"with", "from", "that", "this", "then", "they", "after", "before", "every", "each", "into", "over"})


def likely_recipes(recipes: Iterable[Recipe], refit: Refit, finding: Finding, most: int = MOST) -> list[Recipe]:
    """Recipes that fit the boat and answer what was found, the likeliest first, ties by title. O(recipes x words).

    A recipe answers when the first look says that the finding leads to it, when it is about the words of the finding,
    the rarer a word among the recipes the more, or when nearly all of it is done where it was found.
    """
    place = refit.place_by_id.get(finding.place or "")
    spot = place.spot if place else None
    led = {one.recipe for one in refit.inspections if one.title == finding.title}
    fitting = [recipe for recipe in recipes if recipe.group is not Group.ALWAYS and _fits(recipe, refit)]
    texts = {recipe.id: _words(_text_of(recipe)) for recipe in fitting}
    found = _words(f"{finding.title} {finding.note}")
    scored = []
    for recipe in fitting:
        near, common = _nearness(recipe, spot), found & texts[recipe.id]
        if recipe.id not in led and near < NEARLY_ALL and (not common or (spot is not None and not near)):
            continue
        rare = sum(math.log(len(fitting) / sum(word in text for text in texts.values())) for word in common)
        score = LED_TO * (recipe.id in led) + near + EACH_WORD * rare
        scored.append((-score, recipe.title, recipe))
    return [recipe for _, _, recipe in sorted(scored, key=lambda row: row[:2])[:most]]


def _text_of(recipe: Recipe) -> str:
    unknowns = " ".join(one.title for one in recipe.unknown)
    return f"{recipe.title} {recipe.about} {' '.join(row.title for row in recipe.task)} {unknowns}"


def _words(text: str) -> set[str]:
    """The words of a text that say something, without endings."""
    found = re.findall(r"[a-z]{4,}", text.lower())
    return {re.sub(r"(ing|ed|es|s)$", "", word) for word in found if word not in EMPTY}


def _fits(recipe: Recipe, refit: Refit) -> bool:
    try:
        return not refusals(recipe, refit)
    except BadFormula:
        return False


def _nearness(recipe: Recipe, spot: Spot | None) -> float:
    """How much of a recipe happens at a spot, 0 to 1."""
    return sum(row.spot is spot for row in recipe.task) / len(recipe.task) if spot else 0.0
