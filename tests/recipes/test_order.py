"""The table of order: every row names steps there are, ties both ways round, and is held by the plans of pairs and triples.

By default every row is tried on the boats that take both its recipes, and some pairs and triples that share a place, chosen
by a fixed seed. ``./rovask test --long tests/recipes/test_order.py`` tries every pair and every triple that shares a place.
"""

from __future__ import annotations

import random
from collections import defaultdict
from collections.abc import Iterable
from datetime import datetime
from functools import cache
from itertools import combinations, permutations

import pytest

from rovask.core.plan.planner import make_plan
from rovask.core.plan.result import Assignment
from rovask.core.plan.verify.check import verify
from rovask.core.readings.kept_away import is_of_the_boat, lifts
from rovask.core.readings.order_of_work import ROWS, Row
from rovask.core.readings.trade_order import leads
from rovask.core.recipes.answers import answers_of, values_of
from rovask.core.recipes.expand import DoesNotFit
from rovask.core.recipes.formula import holds
from rovask.core.refit.model import Job, Refit, Task
from rovask.core.refit.work.choices import Deed
from tests.boats import BOATS
from tests.recipes.crews import ALWAYS, LIBRARY, begun_of, fitting, with_recipes

PAIRS, TRIPLES = 3, 3  # of each boat, by default
# From which step to which a mast is not fully stayed, of each recipe that undoes a stay or a plate.
UNSTAYED = {
    "mast-out": (("ready",), ("boom",)),
    "chainplates": (("jury", "out", "rust"), ("load", "paint")),
    "standing-rigging": (("support", "swap"), ("tune",)),
    "bow-roller": (("support",), ("stay",)),
}


def recipe_of(end: str) -> str:
    return end.rpartition(".")[0]


def tasks_of(refit: Refit, end: str) -> list[str]:
    """The tasks an end of a row stands for: of several steps the first that is kept."""
    recipe, _, steps = end.rpartition(".")
    for step in steps.split("|"):
        found = [f"{job.id}-{step}" for job in refit.jobs if job.recipe == recipe and f"{job.id}-{step}" in refit.tasks]
        if found:
            return found
    return []


def job_from(refit: Refit, recipe: str) -> Job | None:
    return next((job for job in refit.jobs if job.recipe == recipe), None)


def rows_for(refit: Refit) -> list[tuple[Row, str, str]]:
    """The rows of the table that hold in a refit, with the tasks at their ends."""
    out = []
    for row in ROWS:
        says = recipe_of(row.then if row.by_then else row.first)
        job = job_from(refit, says)
        if job is None or job_from(refit, recipe_of(row.first)) is None or job_from(refit, recipe_of(row.then)) is None:
            continue
        recipe = LIBRARY.recipes[says]
        if holds(row.when, values_of(recipe, refit, answers_of(recipe, refit, job))):
            out += [(row, one, other) for one in tasks_of(refit, row.first) for other in tasks_of(refit, row.then)]
    return out


def ties_by_step(refit: Refit) -> set[tuple[str, str]]:
    return {(link.first, link.then) for link in refit.links}


def paths(refit: Refit) -> dict[str, set[str]]:
    after: dict[str, set[str]] = defaultdict(set)
    for link in refit.links:
        after[link.first].add(link.then)
    return after


@cache
def spots(key: str) -> frozenset[str]:
    """Where a recipe works on the boat, and the recipes a row ties it to."""
    return frozenset(row.spot for row in LIBRARY.recipes[key].task if row.spot != "ashore")


TABLED = {frozenset((recipe_of(row.first), recipe_of(row.then))) for row in ROWS}


def near(one: str, other: str) -> bool:
    return bool(spots(one) & spots(other)) or frozenset((one, other)) in TABLED


def added(boat: str, keys: Iterable[str]) -> Refit | None:
    """The refit of a boat with recipes in it; None where one refuses beside the others."""
    try:
        return with_recipes(begun_of(boat), *keys)
    except DoesNotFit:
        return None


def held_by_ties(refit: Refit) -> None:
    """Each row is a tie, or follows from ties, unless ties of the recipes themselves say the other way round."""
    after = paths(refit)
    for row, first, then in rows_for(refit):
        if first != then and not leads(after, then, first):
            assert then in after[first] or leads(after, first, then), f"{row.first} → {row.then} is no tie"
    assert not [key for key in after if key in after[key] or leads(after, key, key)], "the ties go round in a ring"


def held_by_plan(refit: Refit) -> None:
    """The plan is sound, keeps each row, and nobody is hurt by it."""
    plan = make_plan(refit, refit.haul_at, starts=2)
    named = [job.title for job in refit.jobs]
    assert plan.collisions == (), (named, plan.collisions)
    assert verify(refit, plan) == [], named
    at = plan.by_task()
    after = paths(refit)
    for row, first, then in rows_for(refit):
        if first in at and then in at and not leads(after, then, first):
            assert at[first].end <= at[then].start, f"{row.first} ends after {row.then} begins: {row.why}"
    nobody_under_what_hangs(refit, at)
    nobody_aloft_unstayed(refit, at)
    nothing_under_a_coat(refit, at)


def nobody_under_what_hangs(refit: Refit, at: dict[str, Assignment]) -> None:
    hanging = [task for task in refit.tasks.values() if lifts(refit, task) and task.id in at]
    aboard = [task for task in refit.tasks.values() if is_of_the_boat(refit.place_by_id[task.place]) and task.id in at]
    for one in hanging:
        for other in aboard:
            apart = one.id == other.id or at[one.id].end <= at[other.id].start or at[other.id].end <= at[one.id].start
            assert apart, f"{other.title} while “{one.title}”"


def nobody_aloft_unstayed(refit: Refit, at: dict[str, Assignment]) -> None:
    spans: list[tuple[str, datetime, datetime]] = []
    for job in refit.jobs:
        firsts, lasts = UNSTAYED.get(job.recipe or "", ((), ()))
        begin = [at[f"{job.id}-{step}"].start for step in firsts if f"{job.id}-{step}" in at]
        end = [at[f"{job.id}-{step}"].end for step in lasts if f"{job.id}-{step}" in at]
        if begin and end:
            spans.append((job.id, min(begin), max(end)))
    for job, task in refit.walk():
        if "chair" in task.gear and task.id in at:
            for key, begin, end in spans:
                own = key == job.id or {key, job.id} == {"standing-rigging", "mast-out"}
                assert own or at[task.id].end <= begin or end <= at[task.id].start, f"aloft during {key}: {task.title}"


def nothing_under_a_coat(refit: Refit, at: dict[str, Assignment]) -> None:
    """Where one job coats a place, no other opens, sands or seals it after the first of its coats has begun."""
    rows: list[tuple[Job, Task]] = list(refit.walk())
    rough = [
        (job, task)
        for job, task in rows
        if {Deed.SEALS, Deed.OPENS} & set(task.does) and Deed.COATS not in task.does and task.id in at
    ]
    after = paths(refit)
    for job, coat in rows:
        if Deed.COATS not in coat.does or coat.id not in at:
            continue
        for other_job, other in rough:
            mine = [task for task in other_job.tasks if Deed.COATS in task.does and task.place == coat.place]
            if other_job.id == job.id or other.place != coat.place or mine:
                continue
            if leads(after, coat.id, other.id):
                continue  # said by a tie: fittings bedded on the barrier
            assert at[other.id].end <= at[coat.id].start, f"“{other.title}” under “{coat.title}”"


def test_every_row_names_steps_that_are_and_gives_its_reason() -> None:
    for row in ROWS:
        assert row.why
        for end in (row.first, row.then):
            recipe, _, steps = end.rpartition(".")
            known = {step.id for step in LIBRARY.recipes[recipe].task}
            assert set(steps.split("|")) <= known, end
    assert len({(row.first, row.then, row.when) for row in ROWS}) == len(ROWS)


def test_ties_between_jobs_stand_in_the_table_and_not_in_recipes() -> None:
    """But for those with what every haul-out has."""
    for key, recipe in LIBRARY.recipes.items():
        named = {recipe_of(end) for tie in recipe.tie for end in (tie.first, tie.then)} - {""}
        assert named <= set(ALWAYS), (key, named)


def some(rows: list[tuple[str, ...]], count: int, request: pytest.FixtureRequest, seed: str) -> list[tuple[str, ...]]:
    if request.config.getoption("--long"):
        return rows
    return random.Random(seed).sample(rows, min(count, len(rows)))


@pytest.mark.parametrize("boat", BOATS)
def test_pairs_in_one_place_are_tied_alike_whichever_comes_first(boat: str, request: pytest.FixtureRequest) -> None:
    pairs: list[tuple[str, ...]] = [pair for pair in combinations(fitting(boat), 2) if near(*pair)]
    for pair in some(pairs, 12, request, boat):
        refits = [refit for order in permutations(pair) if (refit := added(boat, order)) is not None]
        for refit in refits:
            held_by_ties(refit)
    tabled: list[tuple[str, ...]] = sorted(
        {(one, other) for row in ROWS for one, other in [(recipe_of(row.first), recipe_of(row.then))]}
        & set(permutations(fitting(boat), 2))
    )
    for first, then in some(tabled, 30, request, boat):
        for order in ((first, then), (then, first)):
            refit = added(boat, order)
            if refit is not None:
                held_by_ties(refit)


@pytest.mark.parametrize("boat", BOATS)
def test_pairs_and_triples_in_one_place_are_planned_in_order(boat: str, request: pytest.FixtureRequest) -> None:
    keys = fitting(boat)
    pairs: list[tuple[str, ...]] = [pair for pair in combinations(keys, 2) if near(*pair)]
    triples: list[tuple[str, ...]] = [
        three for three in combinations(keys, 3) if all(near(*pair) for pair in combinations(three, 2))
    ]
    for group in [*some(pairs, PAIRS, request, boat), *some(triples, TRIPLES, request, boat)]:
        refit = added(boat, group)
        if refit is not None:
            held_by_plan(refit)


@pytest.mark.parametrize("boat", BOATS)
def test_the_whole_library_on_one_boat_is_planned_in_order(boat: str) -> None:
    refit = added(boat, [key for key in fitting(boat) if key != "cross-beam"])
    assert refit is not None
    held_by_ties(refit)
    held_by_plan(refit)
