"""The questions of a recipe: their usual answers, what was answered, and whether the recipe fits a boat at all."""

from __future__ import annotations

import math
from collections.abc import Mapping
from contextlib import suppress

from rovask.core.plain.derived import derived
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.recipes.facts import facts_of
from rovask.core.recipes.formula import BadFormula, Value, holds, number, worked_out
from rovask.core.recipes.recipe import Ask, Recipe
from rovask.core.recipes.sides import ALL, SAID, WHICH, Each, chosen_of, divided, share_of, sides_of
from rovask.core.refit.givens.choices import Which
from rovask.core.refit.model import Job, Refit

Answers = Mapping[str, Value]
NOTHING: Answers = {}


def asked(recipe: Recipe, refit: Refit, facts: Answers | None = None) -> dict[str, Ask]:
    """The questions of a recipe for this boat: which of two first, then its own as far as they are asked of her. Raises BadFormula."""
    facts = facts_of(refit) if facts is None else facts
    there = sides_of(refit.boat, recipe.each) if recipe.each is not None else ()
    out: dict[str, Ask] = {}
    if there:
        every = "Both" if len(there) == 2 else "All of them"
        choices = {ALL: f"{every}: {', '.join(SAID[one] for one in there)}."}
        choices |= {one.value: f"{SAID[one].capitalize()} only." for one in there}
        out[WHICH] = Ask(label="Which", default=there[0].value if recipe.one else ALL, choices=choices)
    return out | {name: ask for name, ask in recipe.ask.items() if holds(ask.when, facts)}


def default_answers(
    recipe: Recipe, refit: Refit, given: Answers = NOTHING, facts: Answers | None = None
) -> dict[str, Value]:
    """What the recipe takes when the sailor says nothing; of what they did say (``given``) nothing, but for which side a share
    of the usual figures. Raises BadFormula.

    facts: the refit's, where they are worked out already.
    """
    facts = facts_of(refit) if facts is None else facts
    out: dict[str, Value] = {}
    both = asked(recipe, refit, facts) | {name: ask for name, ask in recipe.ask.items() if not holds(ask.when, facts)}
    if WHICH in both and recipe.each is not None:
        there = sides_of(refit.boat, recipe.each)
        some = chosen_of(there, given.get(WHICH, both[WHICH].default)) or there
        facts = share_of(facts, refit.boat, recipe.each, there, some)
    for name, ask in both.items():
        if name in given:
            continue
        if ask.choices:
            out[name] = ask.default if ask.default in ask.choices else str(worked_out(ask.default, facts))
        else:
            out[name] = min(max(number(ask.default, facts), ask.least), ask.most)
    return out


def checked_answers(recipe: Recipe, refit: Refit, given: Answers) -> dict[str, Value]:
    """The answers given, with defaults for the rest. Raises RefitFaults, one fault for each wrong answer."""
    asks, faults = asked(recipe, refit), []
    answers = default_answers(recipe, refit, {name: value for name, value in given.items() if name in asks})
    for name, value in given.items():
        ask = asks.get(name)
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
    names = dict(answers) if answers is not None else default_answers(recipe, refit, NOTHING, facts)
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


def sides_asked(recipe: Recipe, refit: Refit, answers: Answers) -> tuple[Which, ...]:
    """Which of her hulls, engines … the recipe is done for; empty where it is done once."""
    there = sides_of(refit.boat, recipe.each) if recipe.each is not None else ()
    return chosen_of(there, answers.get(WHICH, ALL))


def values_of(
    recipe: Recipe, refit: Refit, answers: Answers, facts: Answers | None = None, side: Which | None = None,
    each: Each | None = None,
) -> dict[str, Value]:  # fmt: skip
    """Everything a formula of the recipe may use: the boat, the answers, the recipe's own values. Raises BadFormula.

    Of two hulls (engines …) those that were chosen; side: for that one of them alone, with its share of what is asked in all.
    each: what it is one of, where not what the recipe is done for.
    """
    names = dict(facts_of(refit) if facts is None else facts) | dict(answers)
    each = each or recipe.each
    if each is not None:
        there = sides_of(refit.boat, each)
        some = sides_asked(recipe, refit, answers) if each is recipe.each else there
        if there:
            names = share_of(names, refit.boat, each, there, (side,) if side else some)
        if side is not None:
            for name, ask in recipe.ask.items():
                value = names[name]
                if ask.split and isinstance(value, int | float):
                    names[name] = divided(value, some.index(side), len(some))
    for name, text in recipe.values_in_order:
        names[name] = worked_out(text, names)
    return names


def answers_of(recipe: Recipe, refit: Refit, job: Job) -> dict[str, Value]:
    """What was answered when a job was made of the recipe, as the job says; where it doesn't say, the usual answer."""
    out = default_answers(recipe, refit)
    said = {choice.name: choice.value for choice in job.chosen}
    for name, ask in asked(recipe, refit).items():
        value = said.get(ask.label)
        if value is None:
            continue
        if ask.choices:
            out[name] = value if value in ask.choices else out[name]
            continue
        with suppress(ValueError):
            out[name] = float(value.removesuffix(ask.unit).strip())
    return out
