"""Refits to try recipes in: a boat, a crew that knows every skill of the library, and what every haul-out has."""

from __future__ import annotations

from functools import cache

from rovask.core.recipes.adopt import adopted
from rovask.core.recipes.answers import Answers, refusals
from rovask.core.recipes.expand import expand
from rovask.core.recipes.places import places_of
from rovask.core.refit.model import Refit
from rovask.formats.recipe_file import library
from tests.boats import BOATS

LIBRARY = library()
ALWAYS = ("haul", "look", "ready", "launch", "proving")
SKILLS = sorted(
    {skill for one in LIBRARY.recipes.values() for row in one.task for skill in (row.skill, *row.skilled) if skill}
)
DAYS = ["mon", "tue", "wed", "thu", "fri", "sat"]


@cache
def refit_of(boat: str) -> Refit:
    """An empty refit of a boat with one crew that knows every skill of the library."""
    shift = [{"days": DAYS, "start": "08:00", "end": "18:00"}]
    people = [{"id": f"p{n}", "name": f"Hand {n}", "role": "owner", "skills": SKILLS, "hours": shift} for n in range(4)]
    empty = {
        "name": "Library",
        "haul_at": "2026-05-04T08:00:00+01:00",
        "launch_at": "2026-08-17T10:00:00+01:00",
        "boat": BOATS[boat],
        "yard": {"name": "Yard", "time_zone": "Europe/Lisbon"},
        "people": people,
    }
    refit = Refit.model_validate(empty)
    return refit.model_copy(update={"places": places_of(refit.boat, LIBRARY.common)})


def with_recipes(refit: Refit, *picks: str | tuple[str, Answers]) -> Refit:
    """The refit with recipes in it, one after the other; a pick may bring its answers."""
    for pick in picks:
        key, given = (pick, {}) if isinstance(pick, str) else pick
        refit = adopted(refit, expand(LIBRARY, LIBRARY.recipes[key], refit, given))
    return refit


@cache
def begun_of(boat: str) -> Refit:
    """The refit of a boat with what every haul-out has."""
    return with_recipes(refit_of(boat), *ALWAYS)


def fitting(boat: str) -> list[str]:
    """The recipes that a boat takes as they stand, without what every haul-out has."""
    refit = begun_of(boat)
    return [key for key, one in LIBRARY.recipes.items() if key not in ALWAYS and not refusals(one, refit)]
