"""Why a task lies where it does, what moved between two plans, and what would bring a late launch nearer."""

from datetime import datetime, timedelta
from typing import Any

import pytest

from rovask.core.explain.gains import gains
from rovask.core.explain.moves import moved_near, moves
from rovask.core.explain.remedies import remedies
from rovask.core.explain.why import why_held
from rovask.core.plan.planner import make_plan, plan_and_judge
from rovask.core.plan.verify.check import verify
from rovask.core.refit.model import Refit
from tests.builders import HAUL, LAUNCH, data, link, person, refit, task

ANN = [person("ann")]
TWO_PLACES = [
    {"id": "hull", "name": "Hull", "capacity": 2},
    {"id": "cabin", "name": "Cabin", "capacity": 1, "opens_onto": ["hull"]},
]


def why(made: Refit, key: str, now: datetime = HAUL) -> str:
    plan = make_plan(made, now)
    assert verify(made, plan) == []
    return " ".join(why_held(made, plan, key))


@pytest.mark.parametrize(
    ("made", "words"),
    [
        (
            refit(task("a", 2), task("b", 2), links=[link("a", "b", 20) | {"reason": "it cures"}]),
            "It comes 20 h after “Task a” (it cures).",
        ),
        (
            refit(task("a", 2), task("b", 2), links=[link("a", "b", 1, kind="SS")], people=[person("ann"), person("bo")]),
            "It comes 1 h after “Task a” begins.",
        ),
        (refit(task("a", 2), task("b", 2), links=[link("a", "b")], people=ANN), "Ann is at “Task a” until then."),
        (
            refit(
                task("a", 2, place="cabin", people=["ann"]),
                task("b", 2, place="cabin", people=["bo"]),
                places=TWO_PLACES,
            ),
            "Cabin is taken by “Task a” until then.",
        ),
        (
            refit(
                task("a", 2, place="cabin", people=["ann"], emits=["dust"]),
                task("b", 2, people=["bo"], shuns=["dust"], pin=None),
                links=[link("a", "b", 0, kind="SS")],
                places=TWO_PLACES,
            ),
            "“Task a” in Cabin gives off dust until then.",
        ),
        (
            refit(
                task("a", 2, people=["ann"], gear=["sander"]),
                task("b", 2, people=["bo"], gear=["sander"]),
                gear=[{"id": "sander", "name": "Sander"}],
            ),
            "Sander is in use at “Task a” until then.",
        ),
        (refit(task("b", 2, pin="2026-05-06T08:00Z")), "It is pinned to Wed 6 May 09:00."),
        (refit(task("b", 2, state="afloat_after")), "It needs the boat afloat."),
        (
            refit(
                task("b", 2, parts=["pump"]),
                parts=[{"id": "pump", "name": "the pump", "status": "ordered", "arrives": "2026-05-07T10:00Z"}],
            ),
            "It waits for the pump, Thu 7 May",
        ),
    ],
    ids=["cure", "begins", "person", "place", "dust", "equipment", "pin", "afloat", "part"],
)  # fmt: skip
def test_each_kind_of_hold_is_told(made: Refit, words: str) -> None:
    told = why(made, "b") + why(made, "a") if "Task a" in words and "taken" in words else why(made, "b")
    assert words in told


def test_rain_is_told_as_what_is_waited_for() -> None:
    rain = [5.0] * 30 + [0.0] * 200
    weather = {
        "start": HAUL.isoformat(), "fetched_at": HAUL.isoformat(), "temperature": [20.0] * 230, "humidity": [50.0] * 230, "rain": rain, "wind": [2.0] * 230,
    }  # fmt: skip
    made = refit(task("b", 2, weather={"dry": True}), weather=weather)
    assert "It waits for suitable weather: " in why(made, "b")


def test_what_begins_at_once_needs_no_excuse_and_facts_are_facts() -> None:
    begun = {"begun_at": HAUL.isoformat(), "crew": ["ann"]}
    made = refit(task("a", 2, **begun), task("c", 2, done_at="2026-05-04T08:00Z", **begun))
    later = HAUL + timedelta(hours=1)
    assert why(made, "a", later) == "It is under way."
    assert why(made, "c", later) == "It is done."


def longer(made: dict[str, Any], key: str, hours: float) -> Refit:
    for job in made["jobs"]:
        for one in job["tasks"]:
            if one["id"] == key:
                one["work"] = {"least": hours, "likely": hours, "most": hours}
    return Refit.model_validate(made)


def test_what_moved_is_told_with_its_reason_and_nothing_else() -> None:
    chain = data(task("a", 4), task("b", 4), task("c", 2), links=[link("a", "b")], people=[person("ann"), person("bo")])
    before_refit = Refit.model_validate(chain)
    before = make_plan(before_refit, HAUL)
    after_refit = longer(chain, "a", 8)
    after = make_plan(after_refit, HAUL, before=before)
    found = {move.task: move for move in moves(after_refit, before, after)}
    assert "b" in found
    assert found["b"].was is not None
    assert found["b"].now == found["b"].was + timedelta(hours=4)
    assert "a" not in found  # it is longer, but it lies where it lay
    assert "Task a" in found["b"].why
    moved, near = moved_near(after_refit, before, after)
    assert (moved, near) == (len(found), 3)


def test_a_job_that_a_longer_task_pushes_a_little_stays_in_the_plan() -> None:
    """Optional work keeps its place when the plan is made again, rather than yield it to must-work that comes later."""
    jobs = [
        {"id": "m", "title": "Must", "tasks": [task("a", 4), task("late", 4)]},
        {"id": "s", "title": "Should", "need": "should", "tasks": [task("b", 4)]},
    ]
    made = data(jobs=jobs, links=[link("late", "launch", 24)], people=ANN)
    before = make_plan(Refit.model_validate(made), HAUL)
    assert before.left_out == ()
    grown = longer(made, "a", 6)
    after = make_plan(grown, HAUL, before=before)
    assert after.left_out == ()
    order = sorted(before.assignments, key=lambda item: item.start)
    assert [item.task for item in order] == [item.task for item in sorted(after.assignments, key=lambda i: i.start)]


def late_refit() -> Refit:
    """Sixty hours of must-work by one person in five days of ten hours, a part that comes late, a pin, one sander."""
    jobs = [
        {"id": "m", "title": "Keel", "tasks": [task("a", 20, gear=["sander"], people=["ann"]), task("b", 20, people=["ann"])]},
        {"id": "n", "title": "Rudder", "tasks": [task("c", 10, people=["ann"])]},
    ]  # fmt: skip
    return refit(
        jobs=jobs,
        links=[link("a", "b"), link("b", "c")],
        people=ANN,
        gear=[{"id": "sander", "name": "Sander"}],
        launch_at=(HAUL + timedelta(days=3, hours=10)).isoformat(),
    )


def test_what_would_help_is_tried_and_sorted_by_what_it_costs() -> None:
    made = late_refit()
    planned = plan_and_judge(made, HAUL)
    late = planned.plan.launch - made.launch_at
    assert late > timedelta(0)
    found = remedies(made, planned.plan, planned.verdict, most=20)
    assert found
    assert all(one.late_minutes < late / timedelta(minutes=1) for one in found)
    told = [one.words for one in found]
    assert any(words.startswith("Leave “Rudder”") for words in told)
    assert "Everybody of the crew works two hours longer" in told
    holding = [one for one in found if one.late_minutes == 0]
    assert found[: len(holding)] == holding  # what holds the launch comes first
    assert [one.money for one in holding] == sorted(one.money for one in holding)
    assert len(remedies(made, planned.plan, planned.verdict)) <= 3


def test_nothing_is_offered_that_does_not_help() -> None:
    made = refit(task("a", 8, pin=(LAUNCH - timedelta(hours=2)).isoformat()), links=[link("a", "launch")], people=ANN)
    planned = plan_and_judge(made, HAUL)
    told = [one.words for one in remedies(made, planned.plan, planned.verdict, most=20)]
    assert "Take the pin out of “Task a”" in told
    assert not any("helper" in words for words in told)


def test_what_a_better_plan_gains_is_told_in_words() -> None:
    paid = person("rig", role="trade", skills=["rigging"], rate=5000)
    tasks = [task("a", 2, skill="rigging"), task("b", 2, skill="rigging"), task("c", 4, takes_out=["heads"])]
    made = refit(*tasks, people=[*ANN, paid])
    plan = make_plan(made, HAUL)
    later = [
        item.model_copy(update={"start": item.start + shift, "end": item.end + shift})
        for item in plan.assignments
        for shift in [timedelta(days=2) if item.task == "b" else timedelta(0)]
    ]
    worse = plan.model_copy(update={"assignments": tuple(later)})
    told = {(gain.words, gain.better) for gain in gains(made, worse, plan)}
    assert ("1 day less of paid people", True) in told
    assert any(words.startswith("must-work ends ") for words, _ in told)
    assert {gain.better for gain in gains(made, plan, worse)} == {False}
    assert gains(made, plan, plan) == []
