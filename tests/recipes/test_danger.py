"""The table of danger: each shipped step that can hurt has its hands, its clearing, its caution; a new one without is told."""

from __future__ import annotations

import pytest

from rovask.core.recipes.danger import is_of, lacking
from rovask.core.recipes.recipe import Recipe
from rovask.core.refit.work.choices import State
from rovask.formats.recipe_file import read_recipe
from tests.boats import BOATS
from tests.recipes.crews import LIBRARY, begun_of, fitting, with_recipes

KINDS = {  # what the table must know at least (common practice)
    "aloft",
    "lift",
    "unstayed_mast",
    "closed_space",
    "isocyanate",
    "solvent",
    "toxic_dust",
    "hot_work",
    "gas",
    "mains",
    "pressure",
    "under_the_hull",
}
STEP = """
id = "own"
title = "A job of my own"
group = "deck"
about = "Mine."
figures = "Mine."
task = [{{id = "one", {step}}}]
"""


def own(step: str) -> Recipe:
    return read_recipe(STEP.format(step=step).encode(), LIBRARY.common)


def test_no_step_of_the_library_lacks_what_its_danger_asks_for() -> None:
    assert [told for one in LIBRARY.recipes.values() for told in lacking(one, LIBRARY.common)] == []


def test_every_kind_of_danger_is_known_and_is_met_in_the_library() -> None:
    assert set(LIBRARY.common.danger) >= KINDS
    steps = [step for one in LIBRARY.recipes.values() for step in one.task]
    for name, danger in LIBRARY.common.danger.items():
        assert any(is_of(danger, step) for step in steps), name
        assert set(danger.has) <= set(LIBRARY.common.cautions), name


@pytest.mark.parametrize(
    ("step", "lacks"),
    [
        ('title = "Wind vane aloft", spot = "rig", hours = 1', ["caution (aloft)", "2 hands", "equipment (chair)"]),
        ('title = "Fog horn", spot = "deck", hours = 1, gear = ["chair"]', ["caution (aloft)", "2 hands"]),
        ('title = "Engine out by crane", spot = "engine", hours = 1', ["caution (cleared)", "that it lifts"]),
        ('title = "Frame welded", spot = "bilge", hours = 1', ["caution (hot)", "gives off (sparks)"]),
        ('title = "Wet-sand the keel", spot = "keel", hours = 1', ["caution (poison", "caution (hull"]),
        ('title = "Foam in", spot = "bilge", hours = 1', ["caution (isocyanate)", "gives off (fumes)"]),
        ('title = "Tank looked into", spot = "tanks", hours = 1', ["caution (confined"]),
        ('title = "New cooker", spot = "galley", skill = "gas", hours = 1', ["caution (gas)"]),
        ('title = "Socket", spot = "galley", skill = "mains", hours = 1', ["caution (mains)"]),
        ('title = "Tank tried with air", spot = "saloon", hours = 1', ["caution (pressure"]),
        ('title = "Forestay off, mast held by a line", spot = "foredeck", hours = 1', ["2 hands", "skill rigging"]),
        ('title = "Wipe with solvent", spot = "deck", hours = 1', ["caution (solvent)", "gives off (fumes)"]),
    ],
)
def test_a_new_step_without_its_caution_is_told(step: str, lacks: list[str]) -> None:
    told = " ".join(lacking(own(step), LIBRARY.common))
    for what in lacks:
        assert what in told, told


def test_a_harmless_step_lacks_nothing() -> None:
    assert list(lacking(own('title = "Curtains sewn", spot = "saloon", hours = 1'), LIBRARY.common)) == []


def test_nothing_is_worked_at_under_her_while_she_hangs_but_by_the_lift_itself() -> None:
    """In the slings she is lifted and looked at; nothing is sanded, painted or mended (the recipes of every boat)."""
    for boat in BOATS:
        refit = with_recipes(begun_of(boat), *[key for key in fitting(boat) if key != "cross-beam"])
        hanging = {task.title for task in refit.tasks.values() if task.state is State.SLINGS}
        assert all("slings" in title or "look" in title for title in hanging), hanging
