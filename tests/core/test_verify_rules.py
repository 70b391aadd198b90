"""The verifier rejects each kind of broken plan: a valid plan is damaged in one way for each rule."""

from collections.abc import Callable
from datetime import timedelta
from typing import Any

import pytest

from rovask.core.plan.planner import make_plan
from rovask.core.plan.result import Plan
from rovask.core.plan.verify.check import Rule, verify
from rovask.core.refit.model import Refit
from tests.builders import HAUL, WEEK, link, person, refit, task

HOUR = timedelta(hours=1)
NOW = HAUL + timedelta(days=1, hours=1)
SKY = {
    "source": "test",
    "fetched_at": HAUL.isoformat(),
    "start": HAUL.isoformat(),
    "temperature": [15.0] * 336,
    "humidity": [60.0] * 336,
    "rain": [2.0 if 100 <= hour < 110 else 0.0 for hour in range(336)],  # Friday noon to late evening
    "wind": [3.0] * 336,
}
SPECIAL = {
    "id": "opt",
    "title": "Optional",
    "need": "could",
    "tasks": [task("o", 2), task("p", 2, place="rig", does=["coats"])],
}


def whole() -> Refit:
    jobs: list[dict[str, Any]] = [
        {
            "id": "job",
            "title": "Job",
            "tasks": [
                task("done", 3, begun_at="2026-05-04T08:00Z", done_at="2026-05-04T11:00Z", crew=["ann"]),
                task("bonded", 3, place="rig", begun_at="2026-05-04T08:00Z", done_at="2026-05-04T11:00Z", crew=["rig"]),
                task("closed", 2, place="rig", does=["sands"]),
                task("doing", 4, begun_at="2026-05-05T07:00Z", crew=["ann"]),
                task("coat1", 4, unbroken=True),
                task("coat2", 4, unbroken=True),
                task("skilled", 2, skill="rigging", place="rig"),
                task("both", 6, hands=2),
                task("fit", 2, parts=["bearing"]),
                task("long", 14),
                task("pinned", 2, pin="2026-05-13T08:00Z", people=["bo"]),
                task("afloat", 2, state="afloat_after"),
                task("sand", 3, place="deck", emits=["dust"], gear=["sander"]),
                task("sand2", 3, place="rig", gear=["sander"]),
                task("varnish", 2, place="deck", shuns=["dust"], tender=6, weather={"dry": True}, unbroken=True),
                task("toilet", 2, place="deck", takes_out=["heads"], until="toilet2"),
                task("toilet2", 2, place="deck"),
                task("crew2", 2, hands=2, skilled=["rigging"], place="rig"),
                task("slung", 1, state="slings"),
                task("hose", 2, opens=["hose"]),
                task("hoist", 2, place="hull", does=["lifts"]),
                task("glue", 2, place="hold", emits=["fumes"]),
                task("desk", 2, place="hold"),
            ],
        },
        SPECIAL,
    ]
    return refit(
        jobs=jobs,
        links=[link("coat1", "coat2", 6, 20), link("bonded", "closed")],
        gear=[{"id": "sander", "name": "Sander", "count": 1}],
        weather=SKY,
        people=[
            person("ann", longest_run=4),
            person("bo"),
            person(
                "rig",
                role="trade",
                skills=["rigging"],
                hours=[{"days": ["wed", "fri"], "start": "09:00", "end": "16:00"}],
            ),
        ],
        places=[
            {"id": "hull", "name": "Hull", "capacity": 2},
            {"id": "rig", "name": "Rig", "capacity": 2},
            {"id": "deck", "name": "Deck", "capacity": 2},
            {"id": "hold", "name": "Hold", "capacity": 2},
        ],
        parts=[{"id": "bearing", "name": "Bearing", "status": "ordered", "arrives": "2026-05-07T09:00Z"}],
        yard={
            "name": "Yard",
            "time_zone": "Europe/Lisbon",
            "hours": [{"days": WEEK, "start": "07:00", "end": "20:00"}],
        },
    )


def moved(plan: Plan, key: str, by: timedelta = timedelta(0), **more: Any) -> Plan:
    """The plan with one assignment shifted or changed."""
    items = tuple(
        item.model_copy(update={"start": item.start + by, "end": item.end + by} | more) if item.task == key else item
        for item in plan.assignments
    )
    return plan.model_copy(update={"assignments": items})


def without(plan: Plan, key: str, **more: Any) -> Plan:
    items = tuple(item for item in plan.assignments if item.task != key)
    return plan.model_copy(update={"assignments": items} | more)


def to(plan: Plan, key: str, other: str) -> Plan:
    """One task laid right on another's time."""
    at = plan.by_task()
    return moved(plan, key, at[other].start - at[key].start)


def after(plan: Plan, key: str, other: str, by: timedelta) -> Plan:
    """One task laid some time after another's end."""
    at = plan.by_task()
    return moved(plan, key, at[other].end + by - at[key].start)


def all_week(plan: Plan) -> Plan:
    """Everything for Ann, one task each day."""
    keys = ["long", "coat1", "coat2", "fit", "sand", "sand2"]
    for day, key in enumerate(keys):
        start = HAUL + timedelta(days=day + 1, hours=3)
        plan = moved(plan, key, start=start, end=start + HOUR, people=("ann",))
    return plan


Damage = Callable[[Plan], Plan]
DAMAGES: dict[Rule, list[tuple[str, Damage]]] = {
    Rule.COMPLETE: [
        ("a task is missing", lambda plan: without(plan, "long")),
        (
            "a task is planned twice",
            lambda plan: plan.model_copy(update={"assignments": (*plan.assignments, plan.by_task()["long"])}),
        ),
        ("a task nobody knows", lambda plan: moved(plan, "long", task="ghost")),
        ("missing without a reason", lambda plan: without(plan, "long", unplanned=("long",))),
    ],
    Rule.FACT: [
        ("what is done is moved", lambda plan: moved(plan, "done", HOUR)),
        ("what is under way begins later", lambda plan: moved(plan, "doing", HOUR)),
        ("what is under way changes hands", lambda plan: moved(plan, "doing", people=("bo",))),
    ],
    Rule.PAST: [
        ("starts yesterday", lambda plan: moved(plan, "long", NOW - timedelta(days=1) - plan.by_task()["long"].start))
    ],
    Rule.ACCEPTED: [
        ("closed in before anybody looked", lambda plan: moved(plan, "closed", NOW - plan.by_task()["closed"].start))
    ],
    Rule.GRID: [("a quarter past", lambda plan: moved(plan, "fit", timedelta(minutes=15)))],
    Rule.WORK: [
        ("cut short", lambda plan: moved(plan, "fit", end=plan.by_task()["fit"].start + HOUR)),
        ("given too long", lambda plan: moved(plan, "coat1", end=plan.by_task()["coat1"].end + HOUR)),
    ],
    Rule.UNBROKEN: [
        (
            "a coat over the night",
            lambda plan: moved(plan, "coat1", start=plan.by_task()["coat1"].start - timedelta(hours=15)),
        )
    ],
    Rule.HOURS: [("at night", lambda plan: moved(plan, "fit", timedelta(hours=13)))],
    Rule.HANDS: [
        ("one for two", lambda plan: moved(plan, "both", people=("ann",))),
        ("the same twice", lambda plan: moved(plan, "both", people=("ann", "ann"))),
        ("somebody unknown", lambda plan: moved(plan, "fit", people=("zoe",))),
    ],
    Rule.SKILL: [
        ("without the skill", lambda plan: moved(plan, "skilled", people=("ann",))),
        ("a trade on plain work", lambda plan: moved(plan, "fit", people=("rig",))),
        ("not the one named", lambda plan: moved(plan, "pinned", people=("ann",))),
    ],
    Rule.PERSON_TWICE: [
        (
            "two tasks at once",
            lambda plan: moved(to(plan, "coat2", "coat1"), "coat2", people=plan.by_task()["coat1"].people),
        )
    ],
    Rule.PLACE: [("three hands where two fit", lambda plan: to(plan, "fit", "both"))],
    Rule.TIE: [
        (
            "before the cure is over",
            lambda plan: moved(plan, "coat2", plan.by_task()["coat1"].end - plan.by_task()["coat2"].start),
        )
    ],
    Rule.WINDOW: [("after the overcoating window", lambda plan: moved(plan, "coat2", timedelta(days=2)))],
    Rule.PART: [
        (
            "before the part",
            lambda plan: moved(plan, "fit", HAUL + timedelta(days=1, hours=2) - plan.by_task()["fit"].start),
        )
    ],
    Rule.STATE: [("afloat before the launch", lambda plan: moved(plan, "afloat", -timedelta(days=3)))],
    Rule.LAUNCH: [
        ("launched early", lambda plan: plan.model_copy(update={"launch": plan.launch - HOUR})),
        ("ashore work after it", lambda plan: moved(plan, "fit", timedelta(days=14))),
    ],
    Rule.WEATHER: [
        (
            "rained on while it dries",
            lambda plan: moved(plan, "varnish", HAUL + timedelta(hours=97) - plan.by_task()["varnish"].start),
        )
    ],
    Rule.GEAR: [("one sander for two", lambda plan: to(plan, "sand2", "sand"))],
    Rule.RIVAL: [
        ("dust on varnish", lambda plan: to(plan, "sand", "varnish")),
        ("dust while it is tacky", lambda plan: after(plan, "sand", "varnish", HOUR)),
    ],
    Rule.CLEARED: [
        ("somebody aboard while she hangs", lambda plan: to(plan, "fit", "hoist")),
        ("somebody in the fumes", lambda plan: to(plan, "desk", "glue")),
    ],
    Rule.OUTAGE: [("three days without heads", lambda plan: after(plan, "toilet2", "toilet", timedelta(days=3)))],
    Rule.SLINGS: [
        ("in the slings for a day", lambda plan: moved(plan, "slung", -timedelta(days=1))),
        ("work ashore while she hangs", lambda plan: to(plan, "long", "slung")),
    ],
    Rule.ORDER: [("coated before it is sanded", lambda plan: to(plan, "p", "closed"))],
    Rule.MARGIN: [
        ("a hose still open on the last day", lambda plan: after(plan, "hose", "slung", -timedelta(hours=6)))
    ],
    Rule.REST: [("a week without a day off", all_week)],
    Rule.PIN: [("beside its pin", lambda plan: moved(plan, "pinned", HOUR))],
    Rule.LEFT_OUT: [
        ("a must-job left out", lambda plan: plan.model_copy(update={"left_out": ("job",)})),
        ("planned all the same", lambda plan: plan.model_copy(update={"left_out": ("opt",)})),
    ],
}


def test_the_undamaged_plan_is_valid() -> None:
    made = whole()
    plan = make_plan(made, NOW)
    assert not plan.collisions
    assert verify(made, plan) == []


@pytest.mark.parametrize(
    ("rule", "name", "damage"), [(rule, name, damage) for rule, rows in DAMAGES.items() for name, damage in rows]
)
def test_each_rule_catches_its_damage(rule: Rule, name: str, damage: Damage) -> None:
    made = whole()
    broken = damage(make_plan(made, NOW))
    assert rule in {breach.rule for breach in verify(made, broken)}, name


def test_every_rule_has_a_damage() -> None:
    assert set(DAMAGES) == set(Rule)


def test_an_optional_job_left_out_takes_along_what_waits_for_it() -> None:
    made = refit(
        jobs=[
            {"id": "a", "title": "A", "need": "could", "tasks": [task("x", 2)]},
            {"id": "b", "title": "B", "need": "could", "tasks": [task("y", 2)]},
        ],
        links=[link("x", "y")],
    )
    broken = without(make_plan(made, HAUL), "x", left_out=("a",))
    assert {breach.rule for breach in verify(made, broken)} == {Rule.LEFT_OUT}
