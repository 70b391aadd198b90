"""Boat and ground are cleared for a lift, and closed fumes are nobody else's: own jobs too, planned and explained."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rovask.core.explain.why import why_held
from rovask.core.plan.planner import make_plan
from rovask.core.plan.verify.check import verify
from rovask.core.readings.kept_away import clears, kept_apart, lifts
from rovask.core.refit.model import Refit
from tests.builders import HAUL, person, refit, task

PLACES: list[dict[str, Any]] = [
    {"id": "deck", "name": "Deck", "spot": "deck", "capacity": 4, "outdoors": True},
    {"id": "saloon", "name": "Saloon", "spot": "saloon", "capacity": 4},
    {"id": "bilge", "name": "Bilge", "spot": "bilge", "capacity": 4, "opens_onto": ["saloon"]},
    {"id": "shed", "name": "Shed", "spot": "ashore", "capacity": 4},
]
PEOPLE = ["ann", "bo", "cy", "di"]


def made(*tasks: dict[str, Any], **more: Any) -> Refit:
    jobs = [{"id": "own", "title": "Own", "tasks": list(tasks)}]
    return refit(jobs=jobs, places=PLACES, people=[person(who) for who in PEOPLE], **more)


def apart(found: Refit, one: str, other: str) -> bool:
    at = make_plan(found, HAUL).by_task()
    return at[one].end <= at[other].start or at[other].end <= at[one].start


@pytest.mark.parametrize(
    ("row", "hangs"),
    [
        ({"title": "Engine out by crane"}, True),
        ({"title": "Yard lifts her for the rudder"}, True),
        ({"title": "Drop the keel"}, True),
        ({"title": "Mast out by crane", "does": ["opens"]}, True),
        ({"title": "Paint the crane's logo", "does": ["nothing of these"]}, False),
        ({"title": "Something", "does": ["lifts"]}, True),
        ({"title": "Something", "charge": "second lift"}, True),
        ({"title": "Something", "gear": ["hoist"]}, True),
        ({"title": "Wash the deck"}, False),
    ],
)
def test_what_hangs_is_known_by_what_is_said_or_by_its_words(row: dict[str, Any], hangs: bool) -> None:
    found = made(task("one", 1, place="deck") | row, gear=[{"id": "hoist", "name": "Mobile hoist", "count": 1}])
    assert lifts(found, found.tasks["one"]) is hangs


def test_nobody_is_aboard_while_the_mast_hangs_but_the_bench_ashore_goes_on() -> None:
    """By hand: four people and four tasks of 2 h from Monday 08:00. Bench and crane run at 08:00, saloon and deck from 10:00
    (or before it): aboard 2 + 2 h, not 2 h at once.
    """
    found = made(
        task("crane", 2, place="deck", title="Mast out by crane"),
        task("deck", 2, place="deck"),
        task("saloon", 2, place="saloon"),
        task("bench", 2, place="shed"),
    )
    plan = make_plan(found, HAUL)
    assert verify(found, plan) == []
    at = plan.by_task()
    first = min(item.start for item in plan.assignments)
    assert apart(found, "crane", "deck")
    assert apart(found, "crane", "saloon")
    assert at["bench"].start == first
    assert max(item.end for item in plan.assignments) == first + timedelta(hours=4)


def test_a_page_says_why_it_waits_for_the_crane() -> None:
    found = made(
        task("crane", 2, place="deck", title="Mast out by crane", pin="2026-05-04T08:00Z"),
        task("saloon", 10, place="saloon"),
    )
    plan = make_plan(found, HAUL)
    assert plan.by_task()["saloon"].start == plan.by_task()["crane"].end
    assert any("nobody is aboard or under her" in reason for reason in why_held(found, plan, "saloon"))


def test_what_is_under_way_steps_off_for_a_crane_that_comes_at_its_time() -> None:
    """A fact wins: begun on Monday, 20 h of work, and the crane stands fixed on Tuesday 10:00; neither is thrown out."""
    now = HAUL + timedelta(hours=6)
    found = made(
        task("crane", 2, place="deck", title="Mast out by crane", pin="2026-05-05T10:00Z"),
        task("long", 20, place="saloon", begun_at=HAUL.isoformat(), crew=["ann"]),
    )
    plan = make_plan(found, now)
    assert plan.collisions == ()
    assert verify(found, plan) == []
    assert list(kept_apart(found)) == []


def test_closed_fumes_are_nobody_elses_and_open_air_or_a_tent_is_no_matter() -> None:
    paint = task("paint", 3, place="bilge", emits=["fumes"])
    found = made(paint, task("saloon", 3, place="saloon"), task("deck", 3, place="deck"))
    assert apart(found, "paint", "saloon")
    assert not apart(found, "paint", "deck")
    tented = made(task("sheet", 1, place="bilge"), paint | {"contained_by": "sheet"}, task("saloon", 3, place="saloon"))
    assert {(one.id, other.id) for one, other, _ in kept_apart(tented)} == set()
    outside = made(task("coat", 3, place="deck", emits=["fumes"]), task("wipe", 3, place="deck"))
    assert list(kept_apart(outside)) == []


@settings(max_examples=40)
@given(
    st.lists(
        st.tuples(
            st.sampled_from(["deck", "saloon", "bilge", "shed"]),
            st.integers(1, 12),
            st.sampled_from([{}, {"does": ["lifts"]}, {"emits": ["fumes"]}]),
        ),
        min_size=2,
        max_size=8,
    )
)
def test_no_plan_has_anybody_under_what_hangs_or_in_the_fumes(rows: list[tuple[str, int, dict[str, Any]]]) -> None:
    """Asked of the times themselves, minute by minute, without the planner's or the verifier's own reading."""
    found = made(*[task(f"t{n}", hours / 2, place=place) | more for n, (place, hours, more) in enumerate(rows)])
    plan = make_plan(found, HAUL)
    assert verify(found, plan) == []
    indoors = {"saloon", "bilge"}
    at = plan.by_task()
    for one, (place, _, more) in enumerate(rows):
        for other, (there, _, _) in enumerate(rows):
            if one == other or there == "shed":
                continue
            bad = more.get("does") or (more.get("emits") and place in indoors and there in indoors)
            if bad:
                first, then = at[f"t{one}"], at[f"t{other}"]
                assert first.end <= then.start or then.end <= first.start


def test_morning_says_of_whom_a_lift_and_closed_fumes_clear_her() -> None:
    found = made(
        task("crane", 2, place="deck", title="Mast out by crane"),
        task("paint", 3, place="bilge", emits=["fumes"]),
        task("coat", 3, place="deck", emits=["fumes"]),
        task("bench", 3, place="shed", emits=["fumes"]),
    )
    said = {key: clears(found, one) for key, one in found.tasks.items()}
    assert "out from under" in said["crane"]
    assert said["paint"].startswith("fumes in Bilge")
    assert said["coat"] == said["bench"] == ""
