"""Ways laid side by side: the money of each is that of its preview, one's own stand beside the recipe's, what is put off is kept."""

from __future__ import annotations

from datetime import timedelta
from itertools import count

import pytest

from rovask.core.plain.faults import RefitFaults
from rovask.core.plan.planner import Planned, plan_and_judge
from rovask.core.recipes.likely import likely_recipes
from rovask.core.recipes.own_way import OwnWay
from rovask.core.recipes.preview import Pick, filled, preview
from rovask.core.recipes.ways import adopted_way, ways_of_finding, ways_of_recipe
from rovask.core.refit.edits import put, rebuilt
from rovask.core.refit.givens.choices import Charge
from rovask.core.refit.givens.kinds import TariffLine
from rovask.core.refit.model import Finding, Refit
from rovask.formats.recipe_file import library
from tests.recipes.test_preview import remove_all_work

BOOKS = library()
RUDDER = BOOKS.recipes["rudder"]
PIT = OwnWay("Dig a pit", 3, hands=3, money=0, further=(("Fill it again", 1.0),))
TRESTLE = OwnWay("Two trestles", 3, hands=2, money=6000, wait_days=4, part="trestles", misfit=0.2, step="height")


@pytest.fixture(scope="module")
def yard(demo: Refit) -> Refit:
    """The demo's boat, yard and people with a price for a second lift, and nothing to do."""
    bare = remove_all_work(demo)
    lift = TariffLine(charge=Charge.SECOND_LIFT, price=26000)
    return rebuilt(bare, yard=bare.yard.model_copy(update={"tariff": (*bare.yard.tariff, lift)}))


@pytest.fixture(scope="module")
def planned(yard: Refit) -> Planned:
    return plan_and_judge(yard, yard.haul_at + timedelta(days=2))


def test_money_in_all_of_a_way_is_that_of_its_preview_with_the_answers_given(yard: Refit, planned: Planned) -> None:
    answers = {"height": "lift"}
    ways = {way.value: way for way in ways_of_recipe(BOOKS, yard, planned, RUDDER, "height", answers=answers)}
    for value in ("lift", "pit"):
        look = preview(yard, filled(BOOKS, yard, [Pick(RUDDER, {"height": value})]), planned)
        told = ways[value].told
        assert told is not None
        assert ways[value].worked.money == look.told.money.minor == (told.own + told.answer).minor
    # what the yard asks for the lift is the lift's own: 260, and its hands by the hour
    lift, pit = ways["lift"].told, ways["pit"].told
    assert lift is not None
    assert pit is not None
    assert lift.own.minor - pit.own.minor >= 26000


def test_ways_of_ones_own_stand_for_the_job_or_for_one_step(yard: Refit, planned: Planned) -> None:
    ways = ways_of_recipe(BOOKS, yard, planned, RUDDER, "height", own=(PIT, TRESTLE))
    whole, step = (way for way in ways if way.own is not None)
    assert whole.worked.hours == (3 + 1) * 3
    by_recipe = next(way for way in ways if way.value == "lift")
    # 3 h of two yard hands, with blocking and props, give way to 3 h of two of one's own
    assert step.worked.hours == pytest.approx(by_recipe.worked.hours - 3 * 2 + 3 * 2, abs=0.5)
    assert step.told is not None
    assert by_recipe.told is not None
    assert step.told.own.minor < by_recipe.told.own.minor  # no lift is paid for
    (risk,) = step.risks
    assert "20 %" in risk.title
    assert risk.told.money.minor >= 6000 - 1  # another pair of trestles, at least
    ids = count(1)
    made, job = adopted_way(
        BOOKS, yard, planned.plan.now, "Rudder", ways, step.value, "no crane free", None, lambda kind: f"{kind[:3]}-{next(ids)}"
    )  # fmt: skip
    tasks = {task.title: task for one in made.refit.jobs if one.id == job for task in one.tasks}
    assert tasks["Two trestles"].hands == 2
    assert tasks["Two trestles"].skill is None
    assert tasks["Two trestles"].charge is None
    assert "Yard lifts her for clearance" not in tasks
    assert len(tasks) > 5
    with pytest.raises(RefitFaults, match="no such step"):
        ways_of_recipe(BOOKS, yard, planned, RUDDER, "height", own=(OwnWay("X", 1, step="nothing"),))


def test_what_is_put_off_is_parked_as_the_way_that_was_chosen_with_its_trades(yard: Refit, planned: Planned) -> None:
    hose = Finding(id="f", title="Raw-water hose worn", place="engine", at=planned.plan.now)
    found = put(yard, hose)
    ways = ways_of_finding(BOOKS, found, planned, hose, (1.0, 0))
    proper = [way for way in ways if way.picks]
    assert len(proper) > 1
    ids = count(1)
    for way in proper:
        edited, job = adopted_way(
            BOOKS, found, planned.plan.now, hose.title, ways, "-next-time", "no money", hose,
            lambda kind: f"{kind[:3]}-{next(ids)}", then=way.value,
        )  # fmt: skip
        (row,) = [one for one in edited.refit.parked if one.title == hose.title]
        assert job == ""
        assert row.recipe == way.value
        assert row.hours == pytest.approx(way.worked.hours, abs=0.5)
        assert way.told is not None
        if way.told.own.minor > 0:
            assert "Properly it was reckoned at" in row.note


@pytest.mark.parametrize(
    ("title", "place", "wanted"),
    [
        ("Raw-water hose chafed through", "engine", "raw-water"),
        ("Sheared stud on an engine mount", "engine", "engine-mounts"),
        ("Deck plate leaks", "deck", "chainplates"),
        ("Valve stuck", "open", "through-hulls"),
        ("Play in the rudder", "rudder", "rudder"),
    ],
)
def test_a_finding_proposes_by_its_words_and_its_place(demo: Refit, title: str, place: str, wanted: str) -> None:
    found = likely_recipes(BOOKS.recipes.values(), demo, Finding(id="f", title=title, place=place, at=demo.haul_at))
    assert wanted in [recipe.id for recipe in found[:2]]
