"""Which recipes may answer a finding: what the first look says it leads to, where it was found, and its words."""

from __future__ import annotations

from collections.abc import Iterable

from rovask.core.recipes.answers import refusals
from rovask.core.recipes.formula import BadFormula
from rovask.core.recipes.recipe import Group, Recipe
from rovask.core.refit.choices import Spot
from rovask.core.refit.model import Finding, Refit

MOST = 6
LED_TO, EACH_WORD, LEAST = 8.0, 2.0, 1.0  # weights are a judgement: what was led to comes first, then place, then words


def likely_recipes(recipes: Iterable[Recipe], refit: Refit, finding: Finding, most: int = MOST) -> list[Recipe]:
    """Recipes that fit the boat and come near the finding, the likeliest first, ties by title. O(recipes x tasks)."""
    place = refit.place_by_id.get(finding.place or "")
    spot = place.spot if place else None
    words = {word for word in f"{finding.title} {finding.note}".lower().replace(",", " ").split() if len(word) > 3}
    led = {one.recipe for one in refit.inspections if one.title == finding.title}
    scored = []
    for recipe in recipes:
        if recipe.group is Group.ALWAYS or not _fits(recipe, refit):
            continue
        near = _nearness(recipe, spot)
        if spot is not None and not near and recipe.id not in led:
            continue  # a word in common is no reason to mend something elsewhere
        text = f"{recipe.title} {recipe.about} {recipe.id}".lower()
        score = LED_TO * (recipe.id in led) + near + EACH_WORD * sum(word.rstrip("s") in text for word in words)
        if score >= LEAST:
            scored.append((-score, recipe.title, recipe))
    return [recipe for _, _, recipe in sorted(scored, key=lambda row: row[:2])[:most]]


def _fits(recipe: Recipe, refit: Refit) -> bool:
    try:
        return not refusals(recipe, refit)
    except BadFormula:
        return False


def _nearness(recipe: Recipe, spot: Spot | None) -> float:
    """How much of a recipe happens at a spot, 0 to 3."""
    return 3 * sum(row.spot is spot for row in recipe.task) / len(recipe.task) if spot else 0.0
