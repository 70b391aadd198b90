"""Ready at: the earliest launch, searched for by itself; what it is on small refits, and what can't make it worse."""

import time
from datetime import datetime, timedelta
from typing import Any

import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from benches.generate import generated_refit
from rovask.core.plan.planner import Planned, draft_plan, plan_and_judge
from rovask.core.plan.ready import searched
from rovask.core.plan.result import Outcome
from rovask.core.plan.verify.check import verify
from rovask.core.refit.model import Refit
from rovask.core.refit.work.choices import Need, State
from tests.builders import HAUL, WEEK, data, link, person, refit, task
from tests.core.exhaustive import HALVES, better_than, late_half_hour
from tests.core.strategies import refits
from tests.core.tiny import tiny_refits

SLOW: dict[str, Any] = {"deadline": None, "suppress_health_check": [HealthCheck.too_slow, HealthCheck.filter_too_much]}
YARD = {
    "name": "Yard",
    "time_zone": "Europe/Lisbon",
    "lift_hours": 0,
    "block_hours": 0,
    "hours": [{"days": WEEK, "start": "08:00", "end": "18:00"}],
}


def judged(made: Refit, hours: float = 0, before: Planned | None = None) -> Planned:
    planned = plan_and_judge(made, HAUL + timedelta(hours=hours), before=before.plan if before else None)
    assert verify(made, planned.plan) == []
    return planned


@settings(max_examples=12, derandomize=True, **SLOW)
@given(tiny_refits())
def test_ready_at_on_tiny_refits_is_the_first_launch_at_which_trying_everything_finds_a_plan(made: Refit) -> None:
    must = [job for job in made.jobs if job.need is Need.MUST]
    small = [job.model_copy(update={"tasks": job.tasks[:3]}) for job in must]
    assume(small and sum(len(job.tasks) for job in small) <= 4)
    kept = {item.id for job in small for item in job.tasks}
    rows = [row for row in made.links if row.first in kept and row.then in kept]
    tasks = [
        {**job.model_dump(mode="json"), "tasks": [_loose(one.model_dump(mode="json"), kept) for one in job.tasks]}
        for job in small
    ]
    bare = Refit.model_validate(
        {name: getattr(made, name) for name in Refit.model_fields} | {"jobs": tasks, "links": rows, "findings": ()}
    )
    draft = draft_plan(bare, HAUL)
    assume(draft.plan.ready is not None and not draft.plan.unplanned)
    assert draft.plan.ready is not None
    ready = searched(draft.problem, draft.plan.ready, 20, time.monotonic, workers=1, deterministic=2)
    assume(ready.proven)
    until = ready.at + timedelta(days=3)
    launch = max(HAUL, ready.at - 5 * HALVES)
    while launch < ready.at:
        launch += HALVES
        slot = bare.model_copy(update={"launch_at": launch})
        found = better_than(slot, HAUL, late_half_hour(slot), until)
        if launch < ready.at:
            assert found is None, f"{found} launches at {launch}, before {ready.at}"
        else:
            assert found is not None


def _loose(row: dict[str, Any], kept: set[str]) -> dict[str, Any]:
    return row | {
        "until": row["until"] if row["until"] in kept else None,
        "takes_out": row["takes_out"] if row["until"] in kept else [],
    }


@settings(max_examples=40, derandomize=True, **SLOW)
@given(refits(), st.sampled_from(["later slot", "one more", "shorter", "earlier part", "much later slot"]))
def test_what_makes_nothing_harder_makes_her_ready_no_later(made: Refit, what: str) -> None:
    was = judged(made, 5)
    assume(was.plan.ready is not None and not was.plan.unplanned)
    # a wait across the launch lasts as long as the warmth of its season makes it: in July less than in May
    assume("slot" not in what or not _waits_across_the_launch(made))
    changed = _eased(made, what)
    is_ = judged(changed, 5, was)
    assert was.plan.ready is not None
    assert is_.plan.ready is not None
    assert is_.plan.ready.at <= was.plan.ready.at
    if "slot" in what:
        later = (changed.launch_at - made.launch_at) // timedelta(minutes=1)
        assert is_.verdict.spare_minutes >= was.verdict.spare_minutes
        if is_.verdict.outcome is was.verdict.outcome is Outcome.HELD:
            assert is_.verdict.spare_minutes == was.verdict.spare_minutes + later
        again = judged(changed, 5)  # and made anew, without knowing the plan before
        assert again.plan.ready is not None
        assert again.plan.ready.at == judged(made, 5).plan.ready.at  # type: ignore[union-attr]


def _waits_across_the_launch(made: Refit) -> bool:
    after = {task.id for task in made.tasks.values() if task.state is State.AFLOAT_AFTER}
    return any(one.max_lag is not None and (one.first in after) != (one.then in after) for one in made.links)


def _eased(made: Refit, what: str) -> Refit:
    rows: dict[str, Any] = made.model_dump(mode="json")
    if what == "later slot":
        rows["launch_at"] = (made.launch_at + timedelta(days=2)).isoformat()
    elif what == "much later slot":
        rows["launch_at"] = (made.launch_at + timedelta(days=63)).isoformat()
    elif what == "one more":
        rows["people"].append(person("cy", skills=["engine"], longest_run=9))
    elif what == "earlier part":
        for part in rows["parts"]:
            part |= {"status": "checked", "arrives": None}
    else:
        loose = [one for job in rows["jobs"] for one in job["tasks"] if not one["begun_at"]]
        bound = {key for row in rows["links"] if row["max_lag"] is not None for key in (row["first"], row["then"])}
        for one in loose:
            if one["id"] not in bound and one["work"]["likely"] >= 1:
                one["work"] = {"least": 0, "likely": one["work"]["likely"] - 0.5, "most": one["work"]["most"]}
                break
    return Refit.model_validate(rows)


def test_moving_the_slot_moves_the_spare_and_nothing_else() -> None:
    # Ann has 30 h of work in days of 10 h from Monday 4 May 08:00: ready Wednesday 18:00 (17:00 UTC).
    for launch, minutes in (
        ("2026-05-06T11:00Z", -6 * 60),
        ("2026-05-06T17:00Z", 0),
        ("2026-05-07T17:00Z", 24 * 60),
        ("2026-08-03T09:00Z", (89 * 24 - 8) * 60),
    ):
        made = refit(task("a", 30), launch_at=launch, people=[person("ann")])
        verdict = judged(made).verdict
        assert verdict.spare_minutes == minutes
        assert verdict.outcome is (Outcome.SHORT if minutes < 0 else Outcome.HELD)
        assert verdict.proven
        assert verdict.driving == ("a",)


def test_a_slot_outside_the_yards_hours_is_named_and_the_launch_waits_for_them() -> None:
    # The slot is on Sunday 17 May 10:00; the yard works Monday to Saturday 08-18: she floats on Monday at 08:00.
    made = refit(task("a", 4), launch_at="2026-05-17T09:00Z", yard=YARD)
    planned = judged(made)
    assert planned.plan.launch == datetime.fromisoformat("2026-05-18T07:00Z")
    assert planned.verdict.outcome is Outcome.SLOT
    assert planned.verdict.spare_minutes == (13 * 24 - 2) * 60  # she is ready on Monday the 4th at noon
    assert not planned.verdict.slot_open
    # late by work, too: 12 h from Saturday noon end on Monday at noon, never "afloat Saturday 22:30"
    late = refit(task("a", 66), launch_at="2026-05-09T11:00Z", yard=YARD, people=[person("ann")])
    assert judged(late).plan.launch == datetime.fromisoformat("2026-05-11T13:00Z")


def test_a_slot_too_early_in_its_day_for_what_is_done_in_the_slings_is_named() -> None:
    # 3 h in the slings, held 4 h at most, yard from 08:00: at 10:00 she can't float, at 11:00 she can.
    for launch, outcome in (("2026-05-12T09:00Z", Outcome.SLOT), ("2026-05-12T10:00Z", Outcome.HELD)):
        made = refit(task("a", 4), task("pads", 3, state="slings"), launch_at=launch, yard=YARD | {"slings_hours": 4})
        planned = judged(made)
        assert planned.verdict.outcome is outcome
        assert planned.verdict.slot_open
        assert planned.plan.launch == datetime.fromisoformat("2026-05-12T10:00Z")


def test_spare_is_told_with_and_without_the_jobs_that_may_be_left_out() -> None:
    # Must 10 h, should 10 h, one person, days of 10 h, launch Thursday 18:00: ready Monday 18:00 or Tuesday 18:00.
    jobs = [
        {"id": "m", "title": "Must", "tasks": [task("a", 10)]},
        {"id": "s", "title": "Should", "need": "should", "tasks": [task("b", 10)]},
    ]
    made = refit(jobs=jobs, launch_at="2026-05-07T17:00Z", people=[person("ann")])
    verdict = judged(made).verdict
    assert verdict.spare_minutes == 72 * 60
    assert verdict.spare_with_optional == 48 * 60


def test_work_afloat_before_the_haul_has_the_haul_as_its_limit() -> None:
    # Haul on Monday 21 December 08:00, launch 8 January; on the 14th there is a 4 h task to do afloat before.
    made = refit(
        task("bolt", 4, state="afloat_before"),
        task("a", 8),
        haul_at="2026-12-21T08:00Z",
        launch_at="2027-01-08T10:00Z",
        people=[person("ann")],
    )
    planned = plan_and_judge(made, datetime.fromisoformat("2026-12-14T08:00Z"))
    assert verify(made, planned.plan) == []
    assert planned.plan.by_task()["bolt"].end <= made.haul_at  # planned from today, though no *Plan from* was typed
    # it may start on Saturday 19 December at 14:00 at the latest: 5 days and 6 h after Monday the 14th, 08:00
    assert planned.verdict.spare_by_task["bolt"] == (5 * 24 + 6) * 60
    late = plan_and_judge(made, datetime.fromisoformat("2026-12-21T09:00Z"))
    assert verify(made, late.plan) == []
    assert "haul-out, which is past" in late.plan.collisions[0].sentence
    assert "a" in late.plan.by_task()


def test_nothing_is_begun_under_her_before_she_stands() -> None:
    yard = {"name": "Yard", "time_zone": "Europe/Lisbon"}  # lifting 1 h and blocking 1.5 h, as yards do by default
    made = Refit.model_validate(data(task("own", 2)) | {"yard": yard})
    planned = plan_and_judge(made, HAUL)
    assert verify(made, planned.plan) == []
    assert planned.plan.by_task()["own"].start == HAUL + timedelta(hours=2.5)
    # where tasks are the lifting and blocking, they say it: 2 h and 1 h by the yard
    crane = person("crane", role="yard", skills=["lifting"])
    rows = [
        task("up", 2, state="lifting", skill="lifting"),
        task("block", 1, state="lifting", skill="lifting"),
        task("own", 2),
    ]
    made = Refit.model_validate(
        data(*rows, links=[link("up", "block")], people=[person("ann"), crane]) | {"yard": yard}
    )
    planned = plan_and_judge(made, HAUL)
    assert verify(made, planned.plan) == []
    assert planned.plan.by_task()["up"].start == HAUL
    assert planned.plan.by_task()["own"].start == HAUL + timedelta(hours=3)


def test_ready_of_generated_refits_is_shown_by_a_plan_that_launches_then() -> None:
    for seed in (1, 2, 3):
        made = generated_refit(60, seed)
        planned = plan_and_judge(made, made.haul_at)
        assert planned.plan.ready is not None
        tight = made.model_copy(update={"launch_at": planned.plan.ready.at})
        again = plan_and_judge(tight, made.haul_at, before=planned.plan)
        assert verify(tight, again.plan) == []
        assert again.plan.launch == planned.plan.ready.at
        assert again.verdict.spare_minutes >= 0


@pytest.mark.parametrize("need", ["must", "should"])
def test_she_is_never_ready_before_she_stands(need: str) -> None:
    """Before the haul-out, with no must-work at all: hauled at 08:00, lifted in one hour and blocked in two."""
    jobs = [{"id": "polish", "title": "Polish", "need": need, "tasks": [task("a", 2)]}]
    made = refit(jobs=jobs, yard={"lift_hours": 1, "block_hours": 2})
    for now in (HAUL - timedelta(days=1), HAUL - timedelta(minutes=88)):
        ready = plan_and_judge(made, now).plan.ready
        assert ready is not None
        stands = HAUL + timedelta(hours=3)
        assert ready.at == stands + timedelta(hours=2 if need == "must" else 0)
        assert (ready.with_optional or ready.at) == stands + timedelta(hours=2)
