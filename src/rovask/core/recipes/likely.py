"""Which recipes may answer a finding: what the first look says it leads to, where it was found, and its words."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable

from rovask.core.recipes.answers import refusals
from rovask.core.recipes.formula import BadFormula
from rovask.core.recipes.recipe import Group, Recipe
from rovask.core.refit.givens.choices import Spot
from rovask.core.refit.model import Finding, Refit

MOST = 6
LED_TO, EACH_WORD = 20.0, 2.0  # weights are a judgement: what was led to comes first, then words, then place
IN_TITLE, IN_PARTS, IN_STEPS = (
    3.0,
    2.5,
    1.5,
)  # a word that names the job or what is renewed says more than one of a step or a remark
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
    texts = {recipe.id: _weighed(recipe) for recipe in fitting}
    found = telling_words(f"{finding.title} {finding.note}")
    scored = []
    for recipe in fitting:
        near, said = _nearness(recipe, spot), texts[recipe.id]
        common = found & said.keys()
        if recipe.id not in led and near < NEARLY_ALL and (not common or (spot is not None and not near)):
            continue
        rare = sum(
            said[word] * math.log(len(fitting) / sum(word in text for text in texts.values())) for word in common
        )
        score = LED_TO * (recipe.id in led) + near + EACH_WORD * rare
        scored.append((-score, recipe.title, recipe))
    return [recipe for _, _, recipe in sorted(scored, key=lambda row: row[:2])[:most]]


def _weighed(recipe: Recipe) -> dict[str, float]:
    """The words of a recipe, each with what it weighs by where it stands."""
    steps, parts = (" ".join(one) for one in ([row.title for row in recipe.task], [row.name for row in recipe.part]))
    remarks = " ".join([recipe.about, *(one.title for one in recipe.unknown)])
    weighed = dict.fromkeys(telling_words(remarks), 1.0) | dict.fromkeys(telling_words(steps), IN_STEPS)
    weighed |= dict.fromkeys(telling_words(parts), IN_PARTS)
    return weighed | dict.fromkeys(telling_words(recipe.title), IN_TITLE)


def telling_words(text: str) -> set[str]:
    """The words of a text that say something, without endings: a hose is found among hoses."""
    found = re.findall(r"[a-z]{4,}", text.lower())
    return {re.sub(r"(ing|ed|es|s|e)$", "", word) for word in found if word not in EMPTY}


def _fits(recipe: Recipe, refit: Refit) -> bool:
    try:
        return not refusals(recipe, refit)
    except BadFormula:
        return False


def _nearness(recipe: Recipe, spot: Spot | None) -> float:
    """How much of a recipe happens at a spot, 0 to 1."""
    return sum(row.spot is spot for row in recipe.task) / len(recipe.task) if spot else 0.0
