"""A preview says just what happens when it is added; the same recipe twice, several at once, crews that lack hands."""

from __future__ import annotations

import time
from datetime import datetime

import pytest

from rovask.core.books.forecast import forecast
from rovask.core.explain.compare import compare
from rovask.core.explain.search import Search
from rovask.core.plain.faults import RefitFaults
from rovask.core.plan.planner import plan_and_judge
from rovask.core.plan.verify.check import verify
from rovask.core.recipes.adopt import adopted, in_order
from rovask.core.recipes.expand import expand
from rovask.core.recipes.preview import Pick, filled, preview
from rovask.core.refit.edits import rebuilt
from rovask.core.refit.givens.choices import Role, Spot
from rovask.core.refit.givens.kinds import Place
from rovask.core.refit.model import Refit
from rovask.formats.recipe_file import library
from tests.builders import HAUL, person, refit, task

LIBRARY = library()


def remove_all_work(refit: Refit) -> Refit:
    """The boat, the yard and the people, and nothing to do."""
    bare = dict.fromkeys(
        (
            "jobs",
            "links",
            "parts",
            "hours_log",
            "lost",
            "checks",
            "findings",
            "unknowns",
            "off_boat",
            "parked",
            "uses",
            "offers",
            "orders",
            "order_lines",
            "receipts",
            "entries",
            "agreements",
            "seized",
            "fits",
            "shapes",
            "traces",
            "covers",
        ),
        (),
    )
    return rebuilt(refit, **bare, inspections=())


def pick(key: str, **answers: float | str) -> Pick:
    return Pick(LIBRARY.recipes[key], answers)


@pytest.mark.parametrize("key", ["winches", "gas", "laminate", "chainplates", "bottom-coating", "mast-out"])
def test_a_preview_is_what_happens(demo: Refit, day_9, key: str) -> None:  # type: ignore[no-untyped-def]
    before = plan_and_judge(demo, day_9)
    basket = filled(LIBRARY, demo, [pick(key)])
    told = preview(demo, basket, before)
    real = plan_and_judge(basket.refit, day_9, before=before.plan)
    assert verify(basket.refit, real.plan) == []
    assert told.after.verdict == real.verdict
    assert told.money == forecast(basket.refit, real.plan).total - forecast(demo, before.plan).total
    at = real.plan.by_task()
    mine = [at[task.id] for one in basket.expansions for task in one.job.tasks if task.id in at]
    if mine:
        assert told.first == min(item.start for item in mine)
        assert told.last == max(item.end for item in mine)
    assert told.tasks == sum(len(one.job.tasks) for one in basket.expansions)
    assert {due.part.id for due in told.parts} == {part.id for one in basket.expansions for part in one.parts}
    assert bool(told.outages) == any(task.takes_out for one in basket.expansions for task in one.job.tasks)


@pytest.mark.parametrize("search", [None, Search(0.3, time.monotonic)])
def test_the_first_recipe_of_an_empty_refit_is_worked_out_with_and_without_a_search(
    demo: Refit, day_9: datetime, search: Search | None
) -> None:
    empty = remove_all_work(demo)
    told = preview(empty, filled(LIBRARY, empty, [pick("haul"), pick("winches")]), plan_and_judge(empty, day_9), search)
    assert told.told.settled is (search is not None)
    assert told.first is not None
    assert told.told.out == () and told.told.back == ()


def test_the_same_recipe_twice_makes_two_jobs_that_share_nothing(demo: Refit) -> None:
    basket = filled(LIBRARY, demo, [pick("canvas"), pick("canvas", metres=3)])
    one, other = basket.expansions
    assert one.job.id != other.job.id
    ids = [{task.id for task in job.job.tasks} | {part.id for part in job.parts} for job in (one, other)]
    assert not ids[0] & ids[1]
    assert len({link.id for link in basket.refit.links}) == len(basket.refit.links)


def test_a_skill_nobody_has_brings_a_trade_or_the_crew_takes_it_over(demo: Refit) -> None:
    hired = filled(LIBRARY, demo, [pick("bow-roller")])
    assert set(hired.missing) == {"welding"}
    new = [one for one in hired.refit.people if one not in demo.people]
    assert [(one.role, one.skills) for one in new] == [(Role.TRADE, ("welding",))]
    own = filled(LIBRARY, demo, [pick("bow-roller")], own=frozenset({"welding"}))
    assert own.refit.people == demo.people
    assert own.missing == hired.missing  # still told, so that the choice can be taken back
    twice = filled(LIBRARY, demo, [pick("bow-roller"), pick("bow-roller")])
    assert len([one for one in twice.refit.people if one not in demo.people]) == 1


def test_faults_of_several_recipes_name_each(demo: Refit) -> None:
    with pytest.raises(RefitFaults) as told:
        filled(LIBRARY, demo, [pick("drive-leg"), pick("canvas"), pick("laminate", ratio=2)])
    words = [fault.message for fault in told.value.faults]
    assert words[0].startswith("Aluminium drive leg: She has no drive leg")
    assert words[1].startswith("Tapered laminate repair: must lie between 10 and 20")


def test_a_place_that_is_missing_is_made_where_it_stands_on_the_boat(demo: Refit) -> None:
    assert all(place.spot is not Spot.BILGE for place in demo.places)
    changed = adopted(demo, expand(LIBRARY, LIBRARY.recipes["floors"], demo, {}))
    order = [place.spot for place in changed.places]
    assert Spot.BILGE in order
    assert [place for place in changed.places if place in demo.places] == list(demo.places)
    spots = list(Spot)
    assert order == sorted(order, key=lambda spot: spots.index(spot))  # type: ignore[arg-type]


def test_places_of_ones_own_stay_behind_what_they_stood_behind() -> None:
    rows = [
        Place(id="rig", name="Rig", spot=Spot.RIG),
        Place(id="crow", name="Crow's nest"),
        Place(id="keel", name="Keel", spot=Spot.KEEL),
        Place(id="saloon", name="Saloon", spot=Spot.SALOON),
    ]
    assert [place.id for place in in_order(rows)] == ["rig", "crow", "saloon", "keel"]


def test_more_boat_takes_more_paint_and_more_coats_take_more(demo: Refit) -> None:
    def litres(refit: Refit, **answers: float | str) -> float:
        one = expand(LIBRARY, LIBRARY.recipes["bottom-coating"], refit, answers)
        return next(part.quantity for part in one.parts if part.unit == "L")

    large = demo.model_copy(update={"boat": demo.boat.model_copy(update={"bottom_area_m2": 60.0})})
    assert litres(demo) < litres(demo, coats=3) < litres(large, coats=3)
    hours = [expand(LIBRARY, LIBRARY.recipes["bottom-coating"], one, {}).hours for one in (demo, large)]
    assert hours[0] < hours[1]


def test_who_does_it_is_the_plans_answer_and_no_part_of_what_a_thing_costs() -> None:
    # two hours that Ann does for nothing or Rig for 50 each: of itself the job costs nothing, whoever has time for it
    trade = {"role": "trade", "skills": ["rigging"], "rate": 5000}
    people = [
        person("ann", skills=["rigging"], absences=[{"first": "2026-05-04", "last": "2026-05-17"}]),
        person("rig", **trade),
    ]
    one = refit(task("a", people=["rig"]), people=people)
    more = refit(task("a", people=["rig"]), people=people, jobs=[
        {"id": "job", "title": "Job", "tasks": [task("a", people=["rig"])]},
        {"id": "new", "title": "New", "tasks": [task("b", 2, skill="rigging")]},
    ])  # fmt: skip
    told = compare(one, more, HAUL, None)
    assert told.after.plan.by_task()["b"].people == ("rig",)
    assert (told.own.minor, told.answer.minor) == (0, 10000)
    alone = refit(jobs=more.jobs, people=[people[1]])
    assert compare(refit(task("a", people=["rig"]), people=[people[1]]), alone, HAUL, None).own.minor == 10000
