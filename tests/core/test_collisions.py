"""An impossible refit gets an answer that names what collides, and the rest of it still gets a plan."""

from datetime import timedelta
from typing import Any

import pytest

from benches.broken_refits import ONE_BY_ONE, broken_refits
from rovask.core.explain.broken import broken_waits
from rovask.core.plan.planner import plan_and_judge
from rovask.core.plan.result import CollisionKind, Outcome, Plan
from rovask.core.plan.verify.check import verify
from rovask.core.refit.model import Refit
from tests.builders import DAY_SHIFT, HAUL, link, person, refit, task


def impossible(made: Refit, hours: float = 0) -> tuple[Plan, str]:
    planned = plan_and_judge(made, HAUL + timedelta(hours=hours))
    assert planned.verdict.outcome is Outcome.IMPOSSIBLE
    assert verify(made, planned.plan) == []
    for collision in planned.plan.collisions:
        assert len(collision.sentence.split()) <= 30
    return planned.plan, " ".join(f"{item.sentence} {item.detail}" for item in planned.plan.collisions)


def test_an_11_hour_window_cannot_hold_overnight_in_a_10_hour_day() -> None:
    coats = [
        task("one", 6, unbroken=True, title="First coat"),
        task("two", 6, unbroken=True, title="Second coat"),
        task("other", 3),
    ]
    plan, told = impossible(refit(*coats, links=[link("one", "two", 4, 11)]))
    assert plan.collisions[0].kind is CollisionKind.TIES
    assert set(plan.unplanned) == {"one", "two"}
    for words in ("First coat", "Second coat", "11 h", "08:00-18:00"):
        assert words in told
    assert "other" in plan.by_task()  # what does not depend on it is planned all the same


def test_the_same_window_holds_when_the_coats_are_short_enough_for_one_day() -> None:
    made = refit(task("one", 3, unbroken=True), task("two", 3, unbroken=True), links=[link("one", "two", 4, 11)])
    assert plan_and_judge(made, HAUL).verdict.outcome is Outcome.HELD


@pytest.mark.parametrize(
    ("made", "kind", "words"),
    [
        (refit(task("a", skill="rigging")), CollisionKind.HANDS, ["rigging", "nobody"]),
        (
            refit(task("a", hands=3, place="hull"), places=[{"id": "hull", "name": "Hull", "capacity": 4}]),
            CollisionKind.HANDS,
            ["3 pair", "Ann, Bo"],
        ),
        (
            refit(task("a", hands=2), places=[{"id": "hull", "name": "The bay", "capacity": 1}]),
            CollisionKind.PLACE,
            ["The bay", "room for 1"],
        ),
        (refit(task("a"), places=[{"id": "hull", "name": "Tank", "capacity": 0}]), CollisionKind.PLACE, ["room for 0"]),
        (refit(task("a"), people=[person("ann", hours=[])]), CollisionKind.HANDS, ["4 h", "Ann"]),
        (refit(task("a", 12, unbroken=True)), CollisionKind.HANDS, ["12 h in one go"]),
        (
            refit(
                task("a", parts=["p"]),
                parts=[{"id": "p", "name": "Casting", "status": "ordered", "arrives": "2028-01-01T00:00Z"}],
            ),
            CollisionKind.PART,
            ["Casting", "too late"],
        ),
        (refit(task("a", pin="2026-05-10T09:00Z")), CollisionKind.PIN, ["pinned to Sun 10 May", "is at work then"]),
        (
            refit(task("a", 6), task("b", pin="2026-05-04T09:00Z"), links=[link("a", "b", 24)]),
            CollisionKind.PIN,
            ["pinned", "24 h after", "Task a"],
        ),
        (
            refit(task("a"), task("b"), links=[link("a", "b"), link("b", "a", 2)]),
            CollisionKind.TIES,
            ["can't all hold", "Task a", "Task b"],
        ),
    ],
)
def test_what_collides_is_named(made: Refit, kind: CollisionKind, words: list[str]) -> None:
    plan, told = impossible(made)
    assert plan.collisions[0].kind is kind
    assert "a" in plan.unplanned or "b" in plan.unplanned
    for word in words:
        assert word in told


def test_a_missed_overcoating_window_asks_for_the_work_that_makes_it_good() -> None:
    coat: dict[str, Any] = {"begun_at": "2026-05-04T08:00Z", "done_at": "2026-05-04T10:00Z", "crew": ["ann"]}
    made = refit(
        task("one", 2, title="Coat one", **coat), task("two", 2, title="Coat two"), links=[link("one", "two", 4, 20)]
    )
    planned = plan_and_judge(made, HAUL + timedelta(hours=40))
    assert planned.verdict.outcome is Outcome.HELD  # what happened is a fact: the plan goes on from it
    assert verify(made, planned.plan) == []
    (broken,) = broken_waits(made, planned.plan)
    assert broken.task == "two"
    for word in ("Coat two", "Coat one", "Tue 5 May 07:00", "washed, abraded and wiped"):
        assert word in broken.words


def test_everything_that_waits_for_the_impossible_is_left_out_too() -> None:
    made = refit(task("a", skill="magic"), task("b"), task("c"), task("d"), links=[link("a", "b"), link("b", "c")])
    plan, _ = impossible(made)
    assert set(plan.unplanned) == {"a", "b", "c"}


def test_several_collisions_are_all_told() -> None:
    made = refit(
        task("a", skill="magic"),
        task("b", hands=5),
        task("c", 6, unbroken=True),
        task("d", 6, unbroken=True),
        links=[link("c", "d", 4, 11)],
    )
    plan, _ = impossible(made)
    assert {collision.kind for collision in plan.collisions} == {
        CollisionKind.HANDS,
        CollisionKind.PLACE,
        CollisionKind.TIES,
    }


def test_a_launch_slot_that_has_passed_is_told_as_short() -> None:
    made = refit(task("a"), people=[person("ann", hours=DAY_SHIFT)])
    planned = plan_and_judge(made, made.launch_at + timedelta(days=2))
    assert planned.verdict.outcome is Outcome.SHORT
    assert planned.plan.launch > made.launch_at
    assert verify(made, planned.plan) == []


def test_a_thousand_tasks_are_planned() -> None:
    rows = [task(f"t{at}", 0.5) for at in range(1000)]
    made = refit(*rows, places=[{"id": "hull", "name": "Hull", "capacity": 9}], launch_at="2026-09-01T09:00Z")
    planned = plan_and_judge(made, HAUL, starts=1)
    assert planned.verdict.outcome is Outcome.HELD
    assert verify(made, planned.plan) == []


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_what_cannot_be_costs_its_own_job_alone_and_no_wait_is_given_up_for_it(seed: int) -> None:
    for broken in broken_refits(90, seed):
        plan = plan_and_judge(broken.refit, broken.now).plan
        assert verify(broken.refit, plan) == []
        assert all(len(one.sentence.split()) <= 30 for one in plan.collisions), broken.name
        named = {broken.refit.job_of[key].id for one in plan.collisions for key in one.lost or one.tasks}
        assert {broken.refit.job_of[key].id for key in plan.unplanned} <= named, broken.name
        assert len(named) <= (5 if broken.name == "all five at once" else 1), broken.name
        if broken.name in ONE_BY_ONE:
            # the fault makes no coat late: without it no wait was missed either
            assert plan.made_good == (), broken.name
