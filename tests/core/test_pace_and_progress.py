"""Pace learned from logs, days gained and lost, work left: worked out by hand, and by property."""

from __future__ import annotations

import math
import random
from datetime import date, timedelta
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rovask.core.books.earned_value import earned_value
from rovask.core.books.pace import at_pace, drawn_in, paces, with_paces
from rovask.core.plan.baseline import baseline_of
from rovask.core.plan.planner import Planned, make_plan
from rovask.core.plan.progress import planned_share, progress, ready_of, work_left
from rovask.core.plan.verdict.verdict import judge
from rovask.core.refit.days.choices import LostTo
from rovask.core.refit.model import Baseline, Refit
from tests.builders import HAUL, data, link, person, refit, task
from tests.core.tiny import tiny_refits

DONE: dict[str, Any] = {"begun_at": HAUL.isoformat(), "crew": ["ann"]}


def planned(made: Refit, now=HAUL) -> Planned:  # type: ignore[no-untyped-def]
    plan = make_plan(made, now)
    return Planned(plan, judge(made, plan))


def kept(made: Refit) -> Baseline:
    return baseline_of(made, planned(made), "b", "Plan", "", HAUL)


# Pace


@pytest.mark.parametrize("pace", [0.6, 0.8, 1.0, 1.5, 2.0])
def test_a_known_pace_is_found_within_a_tenth_after_ten_tasks(pace: float) -> None:
    """Simulated logs: each task takes the pace, with a spread of 15 % from task to task; over 200 of such logs on the
    average within 5 %, and nine in ten of them within 10 %.
    """
    rng = random.Random(7)
    found = [drawn_in([(pace * math.exp(rng.gauss(0, 0.15)), 1.0) for _ in range(10)])[0] for _ in range(200)]
    assert abs(sum(found) / len(found) / pace - 1) < 0.05
    assert sum(abs(one / pace - 1) <= 0.10 for one in found) >= 180


@given(st.floats(0.001, 1000))
def test_one_task_never_runs_off_and_few_stay_nearer_to_one_than_they_say(ratio: float) -> None:
    one, plain = drawn_in([(ratio, 1.0)])
    assert 1 / 1.6 < one < 1.6
    assert abs(math.log(one)) <= abs(math.log(plain)) + 1e-9
    two = drawn_in([(ratio, 1.0)] * 2)[0]
    assert abs(math.log(one)) <= abs(math.log(two)) + 1e-9  # more of the same is believed more


def test_pace_by_hand_with_two_people_and_a_task_without_hours() -> None:
    """Ann alone took 6 h for 4; Ann and Bo together 8 person-hours for 2 x 2 = 4; one task has no hours logged."""
    ends = (HAUL + timedelta(hours=8)).isoformat()
    rows = [
        task("a", 4, skill="paint") | DONE | {"done_at": ends},
        task("b", 2, hands=2, skill="paint") | DONE | {"done_at": ends, "crew": ["ann", "bo"]},
        task("c", 3, skill="paint") | DONE | {"done_at": ends},
        task("d", 2, skill="paint"),
    ]
    log = [("a", "ann", 6), ("b", "ann", 6), ("b", "bo", 2)]
    hours = [
        {"id": f"h{at}", "task": key, "person": who, "at": ends, "hours": much}
        for at, (key, who, much) in enumerate(log)
    ]
    people = [person("ann", skills=["paint"]), person("bo", skills=["paint"])]
    made = refit(*rows, hours_log=hours, people=people)
    ann, bo = paces(made)
    x = (1.0 * math.log(1.5) + 0.75 * math.log(2)) / 1.75
    assert (ann.person, ann.work, ann.tasks, ann.hours) == ("ann", "paint", 2, 12)
    assert ann.plain == pytest.approx(math.exp(x))
    assert 1 < ann.factor < ann.plain
    assert (bo.tasks, bo.hours) == (1, 2)
    plan = make_plan(made, HAUL + timedelta(days=1))
    who = plan.by_task()["d"].people[0]
    chosen = {("ann", "paint"): ann.factor, ("bo", "paint"): bo.factor}
    (row,) = with_paces(made, plan, chosen)
    assert row.task.id == "d"
    assert row.then == max(math.floor(2 * chosen[who, "paint"] * 2 + 0.5) / 2, 0.5)
    again = at_pace(row.task, row.factor)
    assert (again.work.likely, again.paced) == (row.then, row.factor)
    assert at_pace(again, 1).work.likely == 2  # and back to what was first thought


def test_a_pace_of_before_counts_like_a_few_tasks_and_no_more() -> None:
    people = [person("ann", paces=[{"work": "other", "factor": 1.5, "tasks": 50}]), person("bo")]
    (only,) = paces(refit(task("a", 2), people=people))
    assert (only.tasks, only.hours) == (4, 0)
    assert 1.2 < only.factor < 1.5


# Days gained and lost


def test_the_slip_by_hand_with_a_sunday_rain_found_work_and_a_late_part() -> None:
    """Three tasks of Ann's in a chain, 8 h each, Monday to Wednesday. Said: rain took Monday; on Tuesday work was found.

    Planned ready: Wednesday evening. The first ends on Tuesday instead of Monday, a day late; found work takes
    Wednesday; the second lies on Thursday, the third on Friday: two days in all, a day each to rain and to found work.
    """
    shift = [{"days": ["mon", "tue", "wed", "thu", "fri", "sat"], "start": "08:00", "end": "16:00"}]
    people = [person("ann", hours=shift)]
    chain = [link("a", "b"), link("b", "c")]
    first = refit(task("a", 8), task("b", 8), task("c", 8), links=chain, people=people)
    base = kept(first)
    assert base.ready_at == HAUL + timedelta(days=2, hours=8)
    day = timedelta(days=1)
    done = DONE | {"begun_at": (HAUL + day).isoformat(), "done_at": (HAUL + day + timedelta(hours=8)).isoformat()}
    now = HAUL + 2 * day
    lost = [{"id": "w", "on": "2026-05-04", "reason": "rain", "hours": 8, "job": "job"}]
    made = refit(
        task("a", 8) | done,
        task("found", 8),
        task("b", 8),
        task("c", 8),
        links=[link("a", "found"), link("found", "b"), link("b", "c")],
        people=people,
        lost=lost,
    )
    told = progress(made, planned(made, now), base)
    assert told.slip == 2 * 24 * 60
    assert [(one.task, one.reason, one.minutes) for one in told.shares if one.minutes] == [
        ("a", LostTo.RAIN, 24 * 60),
        ("found", LostTo.FOUND, 24 * 60),
    ]
    assert told.by("reason") == [("found work", 1440), ("rain", 1440)]
    assert told.by("person") == [("ann", 2880)]
    assert [one.id for one in told.added] == ["found"]


def happened(made: Refit, rng: random.Random) -> Refit:
    """The same refit some hours later: some tasks done, late or early, some removed, one come in."""
    raw = made.model_dump(mode="json")
    plan = make_plan(made, HAUL)
    at = plan.by_task()
    for job in raw["jobs"]:
        for row in job["tasks"]:
            item = at.get(row["id"])
            if item is None or item.end > HAUL + timedelta(days=2) or rng.random() < 0.3:
                continue
            late = timedelta(minutes=30 * rng.randrange(-1, 12))
            begun = max(item.start + late, HAUL)
            row |= {
                "begun_at": begun.isoformat(),
                "done_at": (begun + (item.end - item.start)).isoformat(),
                "crew": list(item.people),
            }
            if rng.random() < 0.5:
                raw["hours_log"].append(
                    {
                        "id": f"h{len(raw['hours_log'])}",
                        "task": row["id"],
                        "person": item.people[0],
                        "at": begun.isoformat(),
                        "hours": 2,
                    }
                )
    raw["jobs"][0]["tasks"].append(task("new", 1, place="deck"))
    return Refit.model_validate(raw)


@settings(max_examples=40)
@given(tiny_refits(), st.integers(0, 10**6))
def test_the_shares_add_up_to_the_whole_slip_to_the_minute(made: Refit, seed: int) -> None:
    base = kept(made)
    later = happened(made, random.Random(seed))
    now = HAUL + timedelta(days=2, hours=12)
    state = planned(later, now)
    told = progress(later, state, base)
    assert sum(one.minutes for one in told.shares) == told.slip
    was = base.ready_at or base.launch_at
    assert told.slip == round((ready_of(state) - was).total_seconds() / 60)
    for what in ("job", "reason"):
        assert sum(minutes for _, minutes in told.by(what)) == told.slip
    assert abs(sum(minutes for _, minutes in told.by("person")) - told.slip) <= 3  # each person's is rounded


# Work left


def test_work_left_by_hand() -> None:
    """12 h of Ann's and 2 x 2 of both: 4 h done on Monday, the rest over Tuesday and Wednesday; a job left out counts not."""
    done = DONE | {"done_at": (HAUL + timedelta(hours=4)).isoformat()}
    log = [{"id": "h", "task": "a", "person": "ann", "at": (HAUL + timedelta(hours=4)).isoformat(), "hours": 4}]
    made = refit(task("a", 4) | done, task("b", 8), task("c", 2, hands=2), hours_log=log)
    now = HAUL + timedelta(days=1)
    rows = {
        row.day: row
        for row in work_left(made, planned(made, now), kept(refit(task("a", 4), task("b", 8), task("c", 2, hands=2))))
    }
    monday, tuesday = date(2026, 5, 4), date(2026, 5, 5)
    assert rows[monday].past
    assert rows[monday].left == 12  # 8 + 2 x 2: what was done on Monday is gone by its evening
    assert rows[max(rows)].left == 0
    assert rows[tuesday].left < 12
    assert rows[monday].hoped is not None
    assert rows[max(rows)].hoped == 0


def test_planned_value_by_a_baseline_is_what_was_to_be_done_by_now() -> None:
    """Two jobs: one of 100 EUR planned for Monday, one of 300 EUR for the week after. On Tuesday 100 were to be earned."""
    jobs = [
        {"id": "x", "title": "X", "tasks": [task("a", 4, parts=["p"])]},
        {"id": "y", "title": "Y", "tasks": [task("b", 4, parts=["q"], pin=(HAUL + timedelta(days=7)).isoformat())]},
    ]
    parts = [
        {
            "id": "p",
            "name": "P",
            "price": 10000,
            "status": "ordered",
            "arrives": "2026-05-04T07:30Z",
            "must_fit": False,
        },
        {
            "id": "q",
            "name": "Q",
            "price": 30000,
            "status": "ordered",
            "arrives": "2026-05-04T07:30Z",
            "must_fit": False,
        },
    ]
    made = Refit.model_validate(data(jobs=jobs, parts=parts))
    base = kept(made)
    now = HAUL + timedelta(days=1)
    plan = make_plan(made, now)
    value = earned_value(made, plan, base)
    assert (value.bac, value.planned, value.earned) == (40000, 10000, 0)
    assert planned_share(base, {"a"}, now) == 1
    assert planned_share(base, {"b"}, now) == 0
    assert earned_value(made, plan).planned == round(40000 / 14.0833333 * 1)  # without one: the share of time gone
