"""The table of danger laid over a recipe: what a step that can hurt somebody lacks of hands, cautions and clearing.

The rows are data in ``recipes/_common.toml``. Common practice; a data sheet, the yard and local codes ask for more.
"""

from __future__ import annotations

import re
from collections.abc import Iterator

from rovask.core.recipes.common import Common, Danger
from rovask.core.recipes.recipe import Recipe, StepLine
from rovask.core.refit.work.choices import State


def is_of(danger: Danger, step: StepLine) -> bool:
    """Whether a step is of a kind of danger: by where, with what, by whom it is done, or by the words of its title."""
    skills = {*step.skilled, step.skill}
    told = bool(danger.words) and re.search(danger.words, step.title, re.IGNORECASE) is not None
    if told and danger.but and re.search(danger.but, step.title, re.IGNORECASE):
        told = False
    states = (State.AFLOAT_BEFORE, State.AFLOAT_AFTER, State.EITHER) if danger.afloat else (State.ASHORE,)
    return bool(
        (step.spot in danger.spots and step.state in states)
        or set(step.gear) & set(danger.gear)
        or skills & set(danger.skills)
        or (danger.does is not None and danger.does in step.does)
        or set(step.cautions) & set(danger.cautions)
        or told
    )


def lacking(recipe: Recipe, common: Common) -> Iterator[str]:
    """What the steps of a recipe lack by the table, a sentence each. O(steps x rows)."""
    for step in recipe.task:
        for name, danger in common.danger.items():
            if is_of(danger, step):
                for what in _missing(danger, step):
                    yield f"“{step.title}” is work with danger ({name.replace('_', ' ')}) and lacks {what}."


def _missing(danger: Danger, step: StepLine) -> Iterator[str]:
    if danger.has and not set(danger.has) & set(step.cautions):
        yield f"its caution ({' or '.join(danger.has)})"
    hands = step.hands if not step.hands.isdigit() else int(step.hands)
    if isinstance(hands, int) and hands < danger.hands:
        yield f"{danger.hands} hands"
    if danger.emits and not set(danger.emits) & set(step.emits):
        yield f"what it gives off ({' or '.join(one.value for one in danger.emits)})"
    if danger.with_gear and not set(danger.with_gear) & set(step.gear):
        yield f"its equipment ({' or '.join(danger.with_gear)})"
    if danger.deed is not None and danger.deed not in step.does:
        yield f"the word that it {danger.deed.value}, so that the boat is cleared"
    if danger.skill is not None and danger.skill not in (step.skill, *step.skilled):
        yield f"the skill {danger.skill}"
