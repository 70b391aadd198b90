"""Every recipe of the library on seven boats: it loads, fits or refuses in a sentence, plans, warns, and its ties hold."""

from __future__ import annotations

import re
from itertools import pairwise
from pathlib import Path

import pytest

from rovask.core.bench.all_calculators import CALCULATORS, read_values, worked
from rovask.core.bench.calculator import AskedAt
from rovask.core.plain.faults import RefitFaults
from rovask.core.plan.planner import make_plan, plan_and_judge
from rovask.core.plan.verify.check import verify
from rovask.core.recipes.adopt import adopted
from rovask.core.recipes.answers import refusals
from rovask.core.recipes.expand import DoesNotFit, Expansion, expand
from rovask.core.recipes.facts import FACTS
from rovask.core.recipes.preview import missing_skills
from rovask.core.recipes.sides import apart
from rovask.core.refit.givens.choices import Which
from rovask.core.refit.model import Refit
from rovask.core.refit.seen.choices import UnknownState
from rovask.core.refit.work.choices import Emission
from rovask.formats.recipe_file import read_recipe
from tests.boats import BOATS
from tests.recipes.crews import ALWAYS, LIBRARY, begun_of, refit_of

MASTS = (Which.MAIN, Which.MIZZEN, Which.THIRD)
HURTS = {"grinder", "sander", "crane", "chair", "puller", "scaffold"}


def planned_soundly(refit: Refit, expansion: Expansion) -> None:
    plan = make_plan(refit, refit.haul_at, starts=1)
    assert plan.collisions == ()
    assert plan.unplanned == ()
    assert verify(refit, plan) == []
    assert {task.id for task in expansion.job.tasks} <= plan.by_task().keys()


@pytest.mark.parametrize("boat", BOATS)
@pytest.mark.parametrize("key", LIBRARY.recipes)
def test_a_recipe_fits_and_plans_or_refuses_in_a_sentence(key: str, boat: str) -> None:
    recipe, refit = LIBRARY.recipes[key], begun_of(boat) if key not in ALWAYS else refit_of(boat)
    if refusals(recipe, refit):
        with pytest.raises(DoesNotFit) as refused:
            expand(LIBRARY, recipe, refit, {})
        for fault in refused.value.faults:
            assert fault.message[0].isupper()
            assert fault.message.endswith(".")
        return
    expansion = expand(LIBRARY, recipe, refit, {})
    changed = adopted(refit, expansion)
    planned_soundly(changed, expansion)
    rows = {row.id: row for row in recipe.task}
    for task in expansion.job.tasks:
        step, side = apart(task.id.removeprefix(f"{expansion.job.id}-"))
        row, place = rows[step], changed.place_by_id[task.place]
        assert place.spot is row.spot
        assert place.which in (None, side) or side is None or (side in MASTS) != (place.which in MASTS)
        can_hurt = set(task.gear) & HURTS or {Emission.DUST, Emission.FUMES, Emission.SPARKS} & set(task.emits)
        can_hurt = can_hurt or task.skill in LIBRARY.common.reserved or (row.weather == "aloft" and "rig" in task.place)
        assert task.caution or not can_hurt, f"{key}.{row.id} can hurt and says nothing"
    assert expansion.places == (), "she has no such place"
    for told in (*expansion.inspections, *expansion.unknowns):
        if told.recipe and told.recipe != key:
            assert not refusals(LIBRARY.recipes[told.recipe], changed), f"{told.title} leads to what she can't have"
    steps = set(changed.tasks)
    assert all(one.task in steps and one.state is UnknownState.OPEN for one in expansion.unknowns)
    assert all({one.off_task, one.back_task} <= steps for one in expansion.off_boat)


@pytest.mark.parametrize(
    "key", [key for key, one in LIBRARY.recipes.items() if any(ask.choices for ask in one.ask.values())]
)
def test_every_answer_of_every_question_plans_or_is_refused(key: str) -> None:
    recipe, refit = LIBRARY.recipes[key], begun_of("cutter")
    if refusals(recipe, refit):
        refit = begun_of("catamaran")
    for name, ask in recipe.ask.items():
        for answer in ask.choices or {}:
            try:
                expansion = expand(LIBRARY, recipe, refit, {name: answer})
            except DoesNotFit:
                continue
            planned_soundly(adopted(refit, expansion), expansion)


def test_ties_between_recipes_hold_whichever_is_added_first() -> None:
    pairs = [("through-hulls", "bottom-coating"), ("engine-mounts", "raw-water"), ("topsides", "boot-top")]
    for one, other in pairs:
        ends = []
        for order in ((one, other), (other, one)):
            refit = begun_of("cutter")
            for key in order:
                given = {"barrier": "spot"} if key == "bottom-coating" else {}
                refit = adopted(refit, expand(LIBRARY, LIBRARY.recipes[key], refit, given))
            ends.append({(link.first, link.then) for link in refit.links})
        assert ends[0] == ends[1]
        assert any(first.startswith(f"{one}-") and then.startswith(f"{other}-") for first, then in ends[0]) or any(
            first.startswith(f"{other}-") and then.startswith(f"{one}-") for first, then in ends[0]
        )


def test_the_whole_library_is_one_refit_that_plans() -> None:
    refit = begun_of("cutter")
    for key, recipe in LIBRARY.recipes.items():
        if key not in ALWAYS and not refusals(recipe, refit):
            refit = adopted(refit, expand(LIBRARY, recipe, refit, {}))
    planned = plan_and_judge(refit, refit.haul_at, starts=3)
    assert planned.plan.collisions == ()
    assert verify(refit, planned.plan) == []
    assert len(refit.tasks) > 200


def test_own_hands_take_over_a_trade_but_never_what_is_reserved() -> None:
    refit = begun_of("cutter")
    few = refit.model_copy(update={"people": tuple(one.model_copy(update={"skills": ()}) for one in refit.people)})
    recipe = LIBRARY.recipes["gas"]
    assert set(missing_skills(LIBRARY, few, expand(LIBRARY, recipe, few, {}))) == {"gas"}
    assert "gas" in expand(LIBRARY, recipe, few, {}, own=frozenset({"gas"})).skills
    mounts = expand(LIBRARY, LIBRARY.recipes["engine-mounts"], few, {}, own=frozenset({"mechanics", "alignment"}))
    assert mounts.skills == frozenset()


def test_a_wrong_answer_is_told_by_its_field() -> None:
    with pytest.raises(RefitFaults) as told:
        expand(LIBRARY, LIBRARY.recipes["laminate"], begun_of("cutter"), {"ratio": 8, "order": "sideways", "hole": 150})
    assert {fault.path for fault in told.value.faults} == {"ratio", "order"}


def test_recipe_and_bench_cut_the_same_plies_and_mix_the_same_resin() -> None:
    """One default for both, and one formula: seven plies of 1.31 mm in 9 mm, stepped over 108 mm."""
    refit = begun_of("cutter")
    place = AskedAt(refit, plan_and_judge(refit, refit.haul_at).plan, refit.haul_at)
    for typed in ({}, {"hole": 100}, {"hole": 320, "skin": 12}, {"mass": 600, "share": 50, "skin": 8}):
        made = expand(LIBRARY, LIBRARY.recipes["laminate"], refit, dict(typed))
        named = {name: str(value) for name, value in typed.items()}
        bench = worked(CALCULATORS["taper"], read_values(CALCULATORS["taper"], named, place), place)
        bought = {part.name: part.quantity for part in made.parts}
        for line in bench.parts[:2]:
            assert bought[line.name] == pytest.approx(line.quantity, abs=0.101 if line.unit == "m²" else 1e-9), typed
        assert sum(task.work.likely for task in made.job.tasks if task.title.startswith("Lay up")) == bench.hours
    # a patch of 34 cm across: a hole of 100 in 10 mm; by hand eight plies, 0.35 m² of glass in all, in two goes
    small = expand(LIBRARY, LIBRARY.recipes["laminate"], refit, {"hole": 100, "skin": 10})
    assert [task.work.likely for task in small.job.tasks if task.title.startswith("Lay up")] == [1.0, 1.0]


SMALLEST = """
id = "own"
title = "A job of my own"
group = "deck"
about = "Mine."
figures = "Mine."
task = [{id = "one", title = "First", spot = "deck", hours = 1}]
"""


@pytest.mark.parametrize(
    ("more", "told"),
    [
        ('[values]\na = "b + 1"\nb = "c"\nc = "a"', "loop: a → b → c → a"),
        ('[values]\na = "().__class__"', "nobody knows|can't"),
        ("[values]\na = \"open('x')\"", "nobody knows open"),
        ('[values]\na = "9 ** 9 ** 9"', ""),
        ('[values]\na = "' + "(" * 150 + "1" + ")" * 150 + '"', ""),
        ('[values]\na = "' + "1+" * 150 + '1"', "at most 200"),
        ('[values]\na = "lenght"', "nobody knows lenght"),
        ('[[tie]]\nfirst = "one"\nthen = "two"', "no task 'two'"),
        ("shoe = 1", "not a field"),
        ("[[tie", "is not TOML"),
        ('[values]\na = "1 / (days_ashore - days_ashore)"', "divides by nothing"),
        ("[values]\na = \"'x' * 99999999\"", "can't be worked out"),
        ('[values]\na = "sqrt(0 - 1)"', "can't be worked out"),
        ('[ask.n]\nlabel = "N"\ndefault = "1 / 0"', "divides by nothing"),
    ],
)
def test_an_unsound_or_hostile_recipe_is_refused_with_its_reason(more: str, told: str) -> None:
    try:
        recipe = read_recipe((SMALLEST + more).encode(), LIBRARY.common)
        expand(LIBRARY, recipe, begun_of("cutter"), {})
    except RefitFaults as error:
        assert error.faults
        assert re.search(told, str(error))
    else:
        raise AssertionError("it was taken")


def test_the_recipe_of_the_manual_is_sound_and_its_boat_words_are_all_told() -> None:
    manual = (Path(__file__).parents[2] / "docs/recipes.md").read_text()
    example = manual.split("```toml\n")[1].split("```")[0]
    recipe = read_recipe(example.encode(), LIBRARY.common)
    assert len(expand(LIBRARY, recipe, begun_of("cutter"), {}).job.tasks) == 2
    words = set(re.findall(r"[a-z_]+", manual))
    assert {name for name in FACTS if not name.startswith("has_")} <= words


def test_tasks_that_wait_for_each_other_are_told() -> None:
    ring = SMALLEST.replace(
        'task = [{id = "one", title = "First", spot = "deck", hours = 1}]',
        'task = [{id = "one", title = "A", spot = "deck", hours = 1, after = ["two"]},'
        ' {id = "two", title = "B", spot = "deck", hours = 1, after = ["one"]}]',
    )
    with pytest.raises(RefitFaults, match="one → two → one"):
        read_recipe(ring.encode(), LIBRARY.common)


def test_places_come_from_what_the_boat_is() -> None:
    spots = {name: [place.id for place in refit_of(name).places] for name in BOATS}
    assert "engine" not in spots["sloop"]
    assert "heads" not in spots["sloop"]
    assert {"keel", "keel-2", "engine-2"} <= set(spots["catamaran"])
    assert {"rig", "rig-2"} <= set(spots["ketch"])
    for refit in map(refit_of, BOATS):
        order = [list(type(place.spot)).index(place.spot) for place in refit.places if place.spot]  # type: ignore[arg-type]
        assert all(one <= other for one, other in pairwise(order))


def test_the_propeller_comes_off_once_whichever_of_two_jobs_is_added_first() -> None:
    for first, then in (("propeller", "shaft-bearing"), ("shaft-bearing", "propeller")):
        refit = begun_of("cruiser") if "cruiser" in BOATS else begun_of(next(iter(BOATS)))
        for key in (first, then):
            refit = adopted(refit, expand(LIBRARY, LIBRARY.recipes[key], refit, {}))
        titles = [task.title.lower() for task in refit.tasks.values()]
        assert sum("pull the propeller" in title for title in titles) == 1, titles
        assert sum("nut, lock and pin" in title or "on and pinned" in title for title in titles) == 1
        assert len([thing for thing in refit.off_boat if thing.what.startswith("Propeller")]) == 1
        planned = plan_and_judge(refit, refit.haul_at)
        assert verify(refit, planned.plan) == []
        at = planned.plan.by_task()
        off, on = (
            ("propeller-off", "propeller-on") if first == "propeller" else ("shaft-bearing-pull", "shaft-bearing-prop")
        )
        assert at[off].end <= at["shaft-bearing-draw"].start
        assert at["shaft-bearing-in"].end <= at[on].start
        assert at[off].end <= at["propeller-clean"].start
        assert at["propeller-clean"].end <= at[on].start


def test_a_raft_that_is_sent_away_is_back_when_its_station_is_done_with_it() -> None:
    refit = begun_of(next(key for key, boat in BOATS.items() if "life raft" in boat.get("fitted", ())))
    refit = adopted(refit, expand(LIBRARY, LIBRARY.recipes["life-raft"], refit, {"station": 9}))
    at = plan_and_judge(refit, refit.haul_at).plan.by_task()
    away = at["life-raft-fetch"].start - at["life-raft-off"].end
    assert away.days >= 9
    assert at["life-raft-on"].start >= at["life-raft-fetch"].end
    tie = next(link for link in refit.links if link.then == "life-raft-fetch" and link.min_lag)
    assert (tie.least_lag, tie.min_lag, tie.most_lag) == (5 * 24, 9 * 24, 18 * 24)  # half of it, rounded up; twice
