"""The questions of a recipe: their usual answers, what was answered, and whether the recipe fits a boat at all."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping
from contextlib import suppress

from rovask.core.plain.derived import derived
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.recipes.facts import facts_of
from rovask.core.recipes.formula import BadFormula, Value, holds, number, worked_out
from rovask.core.recipes.recipe import Recipe
from rovask.core.refit.model import Job, Refit

Answers = Mapping[str, Value]


def default_answers(
    recipe: Recipe, refit: Refit, given: Collection[str] = (), facts: Answers | None = None
) -> dict[str, Value]:
    """What the recipe takes when the sailor says nothing; of what they did say (``given``) nothing. Raises BadFormula.

    facts: the refit's, where they are worked out already.
    """
    facts = facts_of(refit) if facts is None else facts
    out: dict[str, Value] = {}
    for name, ask in recipe.ask.items():
        if name in given:
            continue
        if ask.choices:
            out[name] = ask.default if ask.default in ask.choices else str(worked_out(ask.default, facts))
        else:
            out[name] = min(max(number(ask.default, facts), ask.least), ask.most)
    return out


def checked_answers(recipe: Recipe, refit: Refit, given: Answers) -> dict[str, Value]:
    """The answers given, with defaults for the rest. Raises RefitFaults, one fault for each wrong answer."""
    answers, faults = default_answers(recipe, refit, given.keys()), []
    for name, value in given.items():
        ask = recipe.ask.get(name)
        if ask is None:
            continue
        if ask.choices:
            if value not in ask.choices:
                faults.append(Fault(name, f"{value!r} is not one of {', '.join(ask.choices)}"))
        elif isinstance(value, str | bool) or not math.isfinite(value):
            faults.append(Fault(name, "must be a number"))
        elif not ask.least <= value <= ask.most:
            faults.append(Fault(name, f"must lie between {ask.least:g} and {ask.most:g} {ask.unit}".rstrip()))
        answers[name] = value
    if faults:
        raise RefitFaults(faults)
    return answers


def refusals(recipe: Recipe, refit: Refit, answers: Answers | None = None, facts: Answers | None = None) -> list[str]:
    """Why the recipe doesn't fit this boat with these answers (default: its own), in sentences. Raises BadFormula."""
    facts = facts_of(refit) if facts is None else facts
    names = dict(answers) if answers is not None else default_answers(recipe, refit, (), facts)
    values = values_of(recipe, refit, names, facts)
    return [one.because for one in recipe.refuse if holds(one.when, values)]


@derived(lambda refit, recipes: (facts_of(refit), recipes))
def refused(refit: Refit, recipes: tuple[Recipe, ...]) -> dict[str, str]:
    """By recipe, why it doesn't fit this boat, a formula that comes to nothing on it among it; "" where it does."""
    facts = facts_of(refit)

    def told(recipe: Recipe) -> str:
        try:
            return " ".join(refusals(recipe, refit, facts=facts))
        except BadFormula as error:
            return f"It can't be worked out for this boat: {error}."

    return {recipe.id: told(recipe) for recipe in recipes}


def values_of(recipe: Recipe, refit: Refit, answers: Answers, facts: Answers | None = None) -> dict[str, Value]:
    """Everything a formula of the recipe may use: the boat, the answers, the recipe's own values. Raises BadFormula."""
    names = dict(facts_of(refit) if facts is None else facts) | dict(answers)
    for name, text in recipe.values_in_order:
        names[name] = worked_out(text, names)
    return names


def answers_of(recipe: Recipe, refit: Refit, job: Job) -> dict[str, Value]:
    """What was answered when a job was made of the recipe, as the job says; where it doesn't say, the usual answer."""
    out = default_answers(recipe, refit)
    said = {choice.name: choice.value for choice in job.chosen}
    for name, ask in recipe.ask.items():
        value = said.get(ask.label)
        if value is None:
            continue
        if ask.choices:
            out[name] = value if value in ask.choices else out[name]
            continue
        with suppress(ValueError):
            out[name] = float(value.removesuffix(ask.unit).strip())
    return out
