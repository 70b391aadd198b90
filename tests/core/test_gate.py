"""The launch gate: what was opened must be looked at, whatever happened in which order; a ready gate has nothing open.

What belongs on the list is common practice; the table below says it recipe by recipe, apart from the recipes themselves.
"""

from __future__ import annotations

from collections import Counter
from datetime import datetime, timedelta
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from rovask.core.gate.gate import LET_GO, gate_of
from rovask.core.gate.state import Why
from rovask.core.readings.acceptance import acceptances
from rovask.core.readings.looks import ALWAYS, LOOKS
from rovask.core.readings.touched import touched
from rovask.core.recipes.expand import DoesNotFit, expand
from rovask.core.refit.launch.choices import Stage
from rovask.core.refit.model import Refit
from rovask.formats.recipe_file import library
from tests.boats import BOATS
from tests.builders import HAUL, LAUNCH, data, link, person, refit, task

NOW = HAUL + timedelta(days=3)

# What each recipe's work opens, as a sailor would list it; the rest open nothing that must be looked at again.
OPENED: dict[str, set[str]] = {
    "anodes": {"anode"},
    "barrier": {"hull skin"},
    "batteries": {"electric circuit"},
    "bilge-pumps": {"electric circuit", "hose", "through-hull"},
    "blisters": {"hull skin"},
    "bow-roller": {"deck opening", "rig"},
    "chainplates": {"deck opening", "rig"},
    "cold-plate": {"hose", "valve"},
    "cross-beam": {"deck opening", "rig"},
    "drive-leg": {"engine and shaft line", "plug", "propeller", "shaft seal"},
    "engine-mounts": {"engine and shaft line"},
    "engine-service": {"hose"},
    "escape-hatch": {"hull skin"},
    "exhaust": {"engine and shaft line", "hose"},
    "face-seal": {"engine and shaft line", "hose", "shaft seal"},
    "fuel-tank": {"hose", "tank"},
    "furler": {"rig"},
    "gas": {"gas line"},
    "hatches": {"deck opening"},
    "heads": {"hose", "tank", "valve"},
    "heater": {"deck opening"},
    "hull-deck-joint": {"deck opening"},
    "instruments": {"electric circuit", "plug", "rig", "through-hull"},
    "iron-keel": {"keel joint"},
    "isolator": {"electric circuit"},
    "keel-bolt": {"keel joint"},
    "keel-bonds": {"keel joint"},
    "keel-joint": {"keel joint"},
    "laminate": {"hull skin"},
    "mast-out": {"deck opening", "electric circuit", "rig"},
    "metal-valves": {"hose", "hull skin", "through-hull", "valve"},
    "nav-lights": {"electric circuit"},
    "outboard": {"deck opening"},
    "panel": {"electric circuit"},
    "pilot": {"electric circuit", "steering"},
    "portlights": {"deck opening"},
    "propeller": {"propeller"},
    "propeller-coating": {"propeller"},
    "raw-water": {"hose", "valve"},
    "rig-look": {"rig"},
    "rudder": {"hull skin", "rudder", "steering"},
    "running-rigging": {"rig"},
    "shaft-bearing": {"engine and shaft line", "propeller", "shaft seal"},
    "stanchions": {"deck opening"},
    "standing-rigging": {"rig"},
    "steel-plating": {"hull skin"},
    "steering-gear": {"deck opening", "steering"},
    "through-hull-move": {"hose", "through-hull", "valve"},
    "through-hulls": {"hose", "through-hull", "valve"},
    "valve-service": {"hose", "valve"},
    "void": {"hull skin", "keel joint", "plug"},
    "water-system": {"electric circuit", "hose", "tank"},
    "watermaker": {"hose"},
    "windlass": {"deck opening", "electric circuit"},
    "boards": {"keel joint"},
    "mast-post": {"rig"},
    "mizzen": {"rig"},
    "steel-deck": {"deck opening"},
    "steel-tank": {"tank"},
    "twin-rudders": {"steering"},
    "unlike-metals": {"deck opening"},
    "wood-deck": {"deck opening"},
    "wood-fastenings": {"hull skin"},
    "wood-plank": {"hull skin"},
    "wood-seams": {"hull skin"},
}
SOMETIMES = {"stanchions", "cross-beam", "steel-plating"}  # opened on some boats, or by some answers only


@pytest.mark.parametrize("key", sorted(library().recipes))
def test_what_a_recipes_tasks_open_stands_on_the_gate(key: str) -> None:
    """On every boat it fits: begun, each thing it opens is on the list before the slings, and those that leak afloat too."""
    at_hand, fits = library(), 0
    for boat in BOATS.values():
        made = Refit.model_validate(data(jobs=[], boat=boat))
        try:
            found = expand(at_hand, at_hand.recipes[key], made, {})
        except DoesNotFit:
            continue
        fits += 1
        job = found.job.model_dump(mode="json")
        for row in job["tasks"]:
            row |= {"begun_at": NOW.isoformat(), "crew": ["ann"]}
        places = [*made.model_dump(mode="json")["places"], *[one.model_dump(mode="json") for one in found.places]]
        whole = Refit.model_validate(
            data(jobs=[{**job, "tasks": [row | {"parts": [], "gear": []} for row in job["tasks"]]}], boat=boat)
            | {"places": places}
        )
        opened = {one.what.value for one in touched(whole)}
        wanted = OPENED.get(key, set())
        if key in OPENED:
            assert opened or key in SOMETIMES, key
            assert opened <= wanted, key
        else:
            assert opened == set(), key
        items = {item.key for item in gate_of(whole, NOW).stages[Stage.BEFORE].items}
        assert {f"{what}:{job['id']}:{Stage.BEFORE.value}" for what in opened} <= items
    assert fits, key


def test_on_the_boat_that_has_everything_each_recipe_opens_all_of_its_list() -> None:
    """Over all boats together nothing of the table is left out."""
    at_hand = library()
    for key, wanted in OPENED.items():
        seen: set[str] = set()
        recipe = at_hand.recipes[key]
        for step in recipe.task:
            seen |= {what.value for what in step.opens}
        assert seen == wanted, key


def test_every_thing_has_looks_before_the_slings_and_what_leaks_afloat_as_well() -> None:
    wet = ("through-hull", "valve", "hose", "shaft seal", "plug", "keel joint", "hull skin", "rudder")
    for what, looks in LOOKS.items():
        stages = {stage for stage, _ in looks}
        assert Stage.BEFORE in stages, what
        if what.value in wet:
            assert Stage.SLINGS in stages, what
    assert {one.stage for one in ALWAYS} == set(Stage)


# Properties

THINGS = [
    {"id": "prop", "what": "Propeller", "off_task": "pull", "back_task": "on"},
    {"id": "bung", "what": "Bung", "sort": "open"},
    {"id": "meter", "what": "Meter", "sort": "borrowed"},
]


def begin_with() -> dict[str, Any]:
    """Two jobs that open things, a trade's work among them, a third that opens nothing."""
    return data(
        jobs=[
            {
                "id": "shaft",
                "title": "Shaft",
                "tasks": [
                    task("pull", 2, opens=["propeller"]),
                    task("draw", 2, opens=["shaft seal"]),
                    task("on", 2, check="Nut locked."),
                ],
            },
            {
                "id": "valves",
                "title": "Valves",
                "need": "should",
                "tasks": [task("out", 2, opens=["valve", "hose"], people=["rig"]), task("in", 2, people=["rig"])],
            },
            {"id": "varnish", "title": "Varnish", "need": "could", "tasks": [task("coat", 2)]},
        ],
        links=[link("pull", "on"), link("out", "in")],
        people=[person("ann"), person("bo"), person("rig", role="trade")],
        off_boat=[dict(one) for one in THINGS],
        findings=[{"id": "drain", "title": "Drain moves", "severity": "dangerous", "at": HAUL.isoformat()}],
        yard={"name": "Yard", "time_zone": "Europe/Lisbon", "lift_hours": 0, "block_hours": 0},
    )


TASKS = ["pull", "draw", "on", "out", "in", "coat"]
ACTS = st.lists(
    st.one_of(
        st.tuples(st.sampled_from(["begin", "finish", "reopen"]), st.sampled_from(TASKS)),
        st.tuples(st.sampled_from(["off", "back"]), st.sampled_from([str(one["id"]) for one in THINGS])),
        st.tuples(st.sampled_from(["settle", "open"]), st.just("drain")),
        st.tuples(st.sampled_from(["tick", "tick", "fail", "overrule"]), st.integers(0, 60)),
        st.tuples(st.sampled_from(["look", "reject"]), st.sampled_from(TASKS)),
        st.tuples(st.just("tick all"), st.just("")),
        st.tuples(st.just("close all"), st.just("")),
        st.tuples(st.just("look all"), st.just("")),
    ),
    max_size=25,
)


def after(raw: dict[str, Any], act: str, what: Any, at: datetime) -> dict[str, Any]:
    """One act on the plain data: what the sailor says has happened, whatever the order."""
    rows = {row["id"]: row for job in raw["jobs"] for row in job["tasks"]}
    stamp = at.isoformat()
    if act in ("begin", "finish", "reopen") and what in rows:
        row = rows[what]
        if act == "begin" and not row.get("begun_at"):
            row |= {"begun_at": stamp, "crew": row.get("people") or ["ann"]}
        elif act == "finish" and not row.get("done_at"):
            row |= {"begun_at": row.get("begun_at") or stamp, "done_at": stamp}
            row["crew"] = row.get("crew") or row.get("people") or ["ann"]
        elif act == "reopen":
            row["done_at"] = None
    elif act in ("off", "back"):
        thing = next(one for one in raw["off_boat"] if one["id"] == what)
        thing |= {"off_at": stamp, "back_at": None} if act == "off" else {"off_at": stamp, "back_at": stamp}
    elif act in ("settle", "open"):
        raw["findings"][0]["settled"] = act == "settle"
    elif act in ("tick", "fail", "overrule", "tick all"):
        gate = gate_of(Refit.model_validate(raw), at)
        keys = [item.key for state in gate.stages.values() for item in state.items] + [one.key for one in gate.blocks]
        for key in keys if act == "tick all" else [keys[what % len(keys)]]:
            raw["gate_ticks"].append(
                {
                    "id": f"g{len(raw['gate_ticks'])}",
                    "item": key,
                    "at": stamp,
                    "person": "ann",
                    "passed": act in ("tick", "tick all"),
                    "overruled": act == "overrule",
                    "seen": "I take it on" if act == "overrule" else "",
                }
            )
    elif act in ("look", "reject"):
        raw["checks"].append(
            {"id": f"c{len(raw['checks'])}", "task": what, "title": "Nut locked.", "at": stamp, "passed": act == "look"}
        )
    elif act == "look all":
        for one in acceptances(Refit.model_validate(raw)).values():
            for row in one.wanted:
                check = {
                    "id": f"c{len(raw['checks'])}",
                    "task": one.task.id,
                    "title": row.title,
                    "at": stamp,
                    "passed": True,
                }
                raw["checks"].append(check)
    elif act == "close all":
        for key in TASKS:
            raw = after(raw, "finish", key, at)
        for thing in raw["off_boat"]:
            raw = after(raw, "back", thing["id"], at)
        raw["findings"][0]["settled"] = True
    return raw


ALL_DONE = [("close all", ""), ("look all", ""), ("tick all", "")]


def whatever_happens(reached: Counter[bool]) -> None:
    """Asks the gate after any acts, some of which end with all of it done, accepted and seen; counts how often she is ready."""

    @settings(max_examples=120, suppress_health_check=[HealthCheck.too_slow])
    @given(st.one_of(ACTS, ACTS.map(lambda acts: [*acts, *ALL_DONE])))
    def holds(acts: list[Any]) -> None:
        after_acts(reached, acts)

    holds()


def after_acts(reached: Counter[bool], acts: list[Any]) -> None:
    raw, at = begin_with() | {"gate_ticks": [], "checks": []}, HAUL + timedelta(hours=1)
    for act, what in acts:
        at += timedelta(minutes=17)
        raw = after(raw, act, what, at)
    made = Refit.model_validate(raw)
    gate = gate_of(made, at)
    items = {item.key: item for state in gate.stages.values() for item in state.items}
    for job in made.jobs:
        for one in job.tasks:
            for what in one.opens if one.begun_at else ():
                item = items[f"{what.value}:{job.id}:{Stage.BEFORE.value}"]
                last = max(moment for moment in (one.begun_at, one.done_at) if moment is not None)
                if item.passed:  # what was seen before it was touched last counts no more
                    assert item.tick is not None
                    assert item.tick.at >= last
    blocked = {one.record for one in gate.blocks}
    for thing in made.off_boat:
        off = thing.back_at is None and (thing.off_at is not None or thing.sort.value == "borrowed")
        by_task = thing.off_task is not None and made.tasks[thing.off_task].done_at is not None
        back = thing.back_task is not None and made.tasks[thing.back_task].done_at is not None
        if off or (by_task and not back and thing.back_at is None):
            assert thing.id in blocked
    dangers = [one for one in gate.blocks if one.why is Why.DANGEROUS]
    assert bool(dangers) == (not made.findings[0].settled)
    assert all(one.holds for one in dangers)  # never overruled, whatever was ticked
    for stage in (Stage.BEFORE, Stage.SLINGS):
        reached[gate.ready(stage)] += 1
        if gate.ready(stage):
            assert not dangers
            named = {tick.item for tick in made.gate_ticks if tick.overruled}
            for one in gate.blocks:
                assert one.key in named
            for item in gate.stages[stage].items:
                assert item.passed or (item.tick is not None and item.tick.overruled)
            assert gate.next_act(stage) is None
        else:
            assert gate.next_act(stage) is not None


def test_nothing_opened_off_or_dangerous_is_missing_and_a_ready_gate_has_nothing_open() -> None:
    reached = Counter[bool]()
    whatever_happens(reached)
    assert reached[True] >= 3  # a gate that is never ready would show nothing
    assert reached[False] >= 60


def whole(**more: Any) -> Refit:
    """One job that is done, with what it opened."""
    done = {"begun_at": HAUL.isoformat(), "done_at": (HAUL + timedelta(hours=2)).isoformat(), "crew": ["ann"]}
    jobs = [{"id": "valves", "title": "Valves", "tasks": [task("in", 2, opens=["valve"]) | done]}]
    return refit(jobs=jobs, **more)


def test_the_gate_by_hand_from_not_ready_to_let_go() -> None:
    """One valve in a sloop: its two looks before the slings and in them, and what every launch needs."""
    check = {
        "id": "c",
        "task": "in",
        "title": "Looked at by somebody who didn't do it",
        "at": NOW.isoformat(),
        "passed": True,
    }
    gate = gate_of(whole(), NOW)
    assert [one.words for one in gate.blocks] == ["Nobody has looked: Task in: Looked at by somebody who didn't do it"]
    assert (gate.next_act(Stage.BEFORE) is gate.blocks[0]) and not gate.ready(Stage.BEFORE)
    seen = whole(checks=[check])
    before = gate_of(seen, NOW).stages[Stage.BEFORE]
    ticks = [
        {"id": f"t{at}", "item": item.key, "at": NOW.isoformat(), "person": "ann", "passed": True}
        for at, item in enumerate(before.items)
    ]
    ready = gate_of(whole(checks=[check], gate_ticks=ticks), NOW)
    assert ready.ready(Stage.BEFORE) and not ready.ready(Stage.SLINGS)
    later = (NOW + timedelta(minutes=5)).isoformat()
    two = [
        *ticks,
        {"id": "x", "item": before.items[0].key, "at": later, "person": "bo", "passed": False, "seen": "stiff"},
    ]
    two_gate = gate_of(whole(checks=[check], gate_ticks=two), NOW)
    assert len(two_gate.stages[Stage.BEFORE].items[0].versions) == 2  # said by two within minutes: both are shown
    assert two_gate.blocks[0].words.startswith("Two people say different things of it: Valve: Valves")
    agreed = [*two, {"id": "y", "item": before.items[0].key, "at": later, "person": "bo", "passed": True}]
    assert gate_of(whole(checks=[check], gate_ticks=agreed), NOW).ready(Stage.BEFORE)
    gone = whole(
        checks=[check], gate_ticks=[*ticks, {"id": "z", "item": LET_GO, "at": later, "person": "ann", "passed": True}]
    )
    afloat = gate_of(gone, NOW)
    assert afloat.let_go is not None
    assert afloat.stages[Stage.DAY].due == NOW + timedelta(
        minutes=5, days=1
    )  # a day after she was let go, not after the slot


def test_what_is_uncured_unpaid_or_put_off_holds_her_or_not() -> None:
    wet = {"begun_at": HAUL.isoformat(), "done_at": NOW.isoformat(), "crew": ["ann"], "tender": 12}
    jobs = [{"id": "paint", "title": "Paint", "tasks": [task("coat", 2, place="hull") | wet]}]
    places = [{"id": "hull", "name": "Hull", "capacity": 2, "spot": "bottom"}]
    made = refit(jobs=jobs, places=places)
    assert [one.why for one in gate_of(made, NOW).blocks] == [Why.CURING]
    assert gate_of(made, NOW).blocks[0].until == NOW + timedelta(hours=12)
    assert gate_of(made, NOW + timedelta(hours=12)).blocks == ()
    bill = {
        "id": "e",
        "title": "Lift",
        "at": HAUL.isoformat(),
        "currency": "EUR",
        "rate": "1",
        "amount": 60000,
        "charge": "lift",
    }
    yard = {"name": "Yard", "time_zone": "Europe/Lisbon", "holds_unpaid": True}
    owed = refit(task("a", 1), entries=[bill], yard=yard, launch_at=LAUNCH.isoformat())
    assert "600 EUR owed to Yard, who holds her for it" in {one.words for one in gate_of(owed, NOW).blocks}
    free = refit(task("a", 1), entries=[bill])
    assert not [one for one in gate_of(free, NOW).blocks if one.why is Why.UNPAID]
    optional = refit(jobs=[{"id": "j", "title": "J", "need": "could", "tasks": [task("a", 1)]}])
    assert gate_of(optional, NOW).blocks == ()  # nothing was begun: it is left out, and leaves nothing open


def test_what_was_taken_on_by_name_is_that_and_not_what_it_becomes() -> None:
    """One borrowed ladder was overruled; that there are two of them, or another thing in the bag, is asked again."""
    ladder = {"id": "l", "what": "Ladder", "sort": "borrowed", "count": 1}
    block = next(one for one in gate_of(whole(off_boat=[ladder]), NOW).blocks if one.record == "l")
    named = {
        "id": "g",
        "item": block.key,
        "at": NOW.isoformat(),
        "person": "ann",
        "passed": False,
        "overruled": True,
        "seen": "the yard knows",
    }

    def holds(**more: Any) -> bool:
        made = whole(off_boat=[ladder | more], gate_ticks=[named])
        return next(one for one in gate_of(made, NOW).blocks if one.record == "l").holds

    assert not holds()
    assert holds(count=2)
    assert holds(missing_since=NOW.isoformat())
