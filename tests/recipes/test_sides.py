"""Two of everything: which hull, engine, rudder, keel, head and mast each task is for, on six boats."""

from __future__ import annotations

import pytest

from rovask.core.plan.planner import make_plan
from rovask.core.plan.verify.check import verify
from rovask.core.recipes.adopt import adopted
from rovask.core.recipes.answers import asked, default_answers
from rovask.core.recipes.expand import COMPARE, expand
from rovask.core.recipes.facts import facts_of
from rovask.core.recipes.sides import EACH_OF, Each, apart, keels_of, rudders_of, sides_of, step_of_mast
from rovask.core.refit.givens.choices import MastStep, Which
from rovask.core.refit.model import Boat, Refit
from tests.boats import BOATS
from tests.recipes.crews import ALWAYS, LIBRARY, begun_of, fitting, with_recipes
from tests.recipes.where import FILE, SIX, table

# Acts that are done once though the boat has two of the part: she is lifted, blocked, moved or looked at as a whole, or one
# thing joins the two. By the recipe's step.
WHOLE = {
    "haul.lift", "haul.block", "haul.photo", "launch.lift", "launch.slings", "launch.last", "launch.plugs", "bottom-coating.pads",
    "rudder.height", "rudder.lower", "water-system.hot", "instruments.aerial",
}  # fmt: skip


def boat_of(name: str) -> Boat:
    return Boat.model_validate(BOATS[name])


def sided(refit: Refit, key: str) -> list[tuple[str, str, Which | None]]:
    """Each task of a recipe: its step, the place's side and its own."""
    out = []
    for task in expand(LIBRARY, LIBRARY.recipes[key], refit, {}).job.tasks:
        step, which = apart(task.id.removeprefix(f"{key}-"))
        out.append((f"{key}.{step}", refit.place_by_id[task.place].which or "", which))
    return out


def test_the_table_of_where_tasks_land_holds() -> None:
    assert FILE.read_text(encoding="utf-8") == table(), "run python -m tests.recipes.where and read what changed"


def test_which_of_them_a_boat_has() -> None:
    catamaran, ketch, motor = boat_of("catamaran"), boat_of("ketch"), boat_of("motor boat")
    port, starboard = Which.PORT, Which.STARBOARD
    for each in (Each.HULL, Each.ENGINE, Each.RUDDER, Each.KEEL, Each.HEAD):
        assert sides_of(catamaran, each) == (port, starboard)
    assert sides_of(ketch, Each.MAST) == (Which.MAIN, Which.MIZZEN)
    assert [sides_of(motor, each) for each in (Each.HULL, Each.ENGINE, Each.MAST)] == [(), (port, starboard), ()]
    assert (rudders_of(catamaran), rudders_of(ketch), keels_of(catamaran)) == (2, 1, 2)
    deck = ketch.model_copy(update={"mizzen_step": MastStep.DECK})
    assert (step_of_mast(deck, Which.MAIN), step_of_mast(deck, Which.MIZZEN)) == (MastStep.KEEL, MastStep.DECK)


@pytest.mark.parametrize("boat", SIX)
def test_what_is_done_in_a_part_there_are_two_of_is_done_on_a_side_or_is_an_act_of_the_whole_boat(boat: str) -> None:
    refit = begun_of(boat)
    for key in fitting(boat):
        recipe = LIBRARY.recipes[key]
        rows = {row.id: row for row in recipe.task}
        for step, place, which in sided(refit, key):
            row = rows[step.partition(".")[2]]
            each = EACH_OF.get(row.spot)
            if which is not None:
                assert not place or place == which or {place, which} & {"main", "mizzen"}, (boat, step)
            elif each is not None and sides_of(refit.boat, each):
                assert row.once or recipe.each is None or step in WHOLE, (
                    boat,
                    step,
                    "lands in one of two and nobody says which",
                )


def test_a_catamaran_gets_each_job_twice_with_half_of_it_each_and_ties_run_on_their_own_side() -> None:
    refit = with_recipes(begun_of("catamaran"), "bottom-coating")
    tasks = {key: task for key, task in refit.tasks.items() if key.startswith("bottom-coating-coat1")}
    assert set(tasks) == {"bottom-coating-coat1-p", "bottom-coating-coat1-s"}
    port, starboard = tasks["bottom-coating-coat1-p"], tasks["bottom-coating-coat1-s"]
    assert port.title.endswith(", port")
    assert port.work == starboard.work
    assert {refit.place_by_id[one.place].which for one in tasks.values()} == {Which.PORT, Which.STARBOARD}
    area = facts_of(refit)["bottom_area"]
    assert isinstance(area, float)
    assert abs(port.work.likely - area / 2 * 0.09) <= 0.5  # half the bottom, rounded up to the half-hour
    ends = {(one.first, one.then) for one in refit.links}
    assert ("bottom-coating-coat1-p", "bottom-coating-coat2-p") in ends
    assert not any(a.endswith("-p") and b.endswith("-s") and "coat" in a + b for a, b in ends)
    plan = make_plan(refit, refit.haul_at, starts=1)
    assert verify(refit, plan) == []


def test_one_side_only_is_asked_and_halves_what_it_takes() -> None:
    refit = begun_of("catamaran")
    recipe = LIBRARY.recipes["drive-leg"]
    assert "which" in dict(asked(recipe, refit))
    both = expand(LIBRARY, recipe, refit, {})
    one = expand(LIBRARY, recipe, refit, {"which": "port"})
    assert all(apart(task.id)[1] in (None, Which.PORT) for task in one.job.tasks)
    assert len(one.job.tasks) * 2 == len(both.job.tasks)
    quantity = {part.name: part.quantity for part in both.parts}
    assert all(part.quantity <= quantity[part.name] for part in one.parts)
    assert "which" not in dict(asked(recipe, begun_of("cutter")))
    assert default_answers(recipe, refit)["which"]


def test_a_port_and_a_starboard_job_taken_in_turn_are_tied_to_their_own_side() -> None:
    refit = begun_of("catamaran")
    for which in ("port", "starboard"):
        refit = adopted(refit, expand(LIBRARY, LIBRARY.recipes["engine-service"], refit, {"which": which}))
    refit = adopted(refit, expand(LIBRARY, LIBRARY.recipes["raw-water"], refit, {}))
    for one in refit.links:
        first, then = apart(one.first)[1], apart(one.then)[1]
        if {first, then} <= {Which.PORT, Which.STARBOARD}:
            assert first is then, (one.first, one.then)


def test_the_look_has_a_line_for_each_and_says_to_compare() -> None:
    rows = {row.title: row for row in begun_of("catamaran").inspections}
    legs = [title for title in rows if "leg" in title.lower()]
    assert len(legs) >= 2
    assert len([title for title in legs if title.endswith("port")]) == len(
        [title for title in legs if title.endswith("starboard")]
    )
    assert all(COMPARE in rows[title].how for title in legs if title.endswith(("port", "starboard")))
    single = [row.how for row in begun_of("cutter").inspections]
    assert not any(COMPARE in how for how in single)


def test_two_masts_stand_on_what_each_stands_on() -> None:
    ketch = begun_of("ketch")
    mixed = ketch.model_copy(update={"boat": ketch.boat.model_copy(update={"mizzen_step": MastStep.DECK})})
    made = adopted(mixed, expand(LIBRARY, LIBRARY.recipes["mast-out"], mixed, {"how": "crane"}))
    steps = {key.removeprefix("mast-out-") for key in made.tasks if key.startswith("mast-out-")}
    assert "step-m" in steps  # opened at the keel
    assert "step-z" not in steps
    assert "rust-z" in steps  # a steel deck under the mizzen
    assert "wedge-z" not in steps


def test_always_there_whatever_she_has() -> None:
    for boat in BOATS:
        assert {job.recipe for job in begun_of(boat).jobs} == set(ALWAYS)


def test_there_are_recipes_enough_and_own_ones_for_steel_wood_two_hulls_and_two_masts() -> None:
    assert len(LIBRARY.recipes) >= 75
    for fact, least in (("material != 'steel'", 4), ("material != 'wood'", 4), ("hulls < 2", 3), ("masts < 2", 1)):
        there = [one.id for one in LIBRARY.recipes.values() if any(row.when.startswith(fact) for row in one.refuse)]
        assert len(there) >= least, (fact, there)
