"""What is missing stops only what needs it, flat readings end a drying, and a day on Morning holds the hours worked in it."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from rovask.core.books.forecast import forecast
from rovask.core.books.order_by import part_needs
from rovask.core.judged.leaps import doubts
from rovask.core.judged.part_edits import missed, moved_on
from rovask.core.plan.planner import plan_and_judge
from rovask.core.plan.verdict.worked import stints
from rovask.core.plan.verify.check import verify
from rovask.core.recipes.adopt import bought_for
from rovask.core.recipes.answers import default_answers
from rovask.core.recipes.expand import expand
from rovask.core.refit.model import Refit
from rovask.core.refit.records import RecordKey
from rovask.core.refit.removal import removed
from rovask.core.refit.seen.edits import moved_off
from rovask.core.refit.stores.choices import PartStatus
from rovask.formats.recipe_file import library
from tests.builders import HAUL, data, link, person, refit, task

COLLARS = {
    "id": "collars",
    "name": "Split collars",
    "quantity": 4,
    "status": "checked",
    "arrives": HAUL.isoformat(),
    "price": 9500,
    "lead_days": 3,
}


def planned(one: Refit, now: datetime = HAUL) -> dict[str, datetime]:
    """When each task begins; the plan is verified besides."""
    plan = plan_and_judge(one, now).plan
    assert verify(one, plan) == []
    return {item.task: item.start for item in plan.assignments}


def test_a_part_that_cannot_be_found_is_planned_as_ordered_now_until_it_is_found_or_comes_again() -> None:
    one = refit(
        task("fit", parts=["collars"]), task("after"), task("other"), links=[link("fit", "after")], parts=[COLLARS]
    )
    assert set(planned(one)) == {"fit", "after", "other"}
    lost = missed(one, "collars", HAUL + timedelta(days=1))
    # ordered now, on Monday at eight, it is there on Thursday and tried for half an hour; nothing falls out for it
    assert planned(lost)["fit"] == HAUL + timedelta(days=3, minutes=30)
    told = plan_and_judge(lost, HAUL)
    (need,) = part_needs(lost, told.plan, told.verdict)
    spare = timedelta(minutes=told.verdict.spare_by_task["fit"])
    assert need.order_by == HAUL + spare  # one order-by, and now is in time
    assert forecast(lost, told.plan).total.minor - forecast(one, told.plan).total.minor == 9500
    assert any(
        "Split collars is missing since" in why
        for why in doubts(lost, lost.tasks["fit"], HAUL, begins=True, ends=False)
    )
    assert missed(lost, "collars", None) == one
    again = moved_on(lost, "collars", PartStatus.ORDERED, HAUL, lambda kind: kind)
    assert again.parts[0].missing_since is None
    assert planned(again)["fit"] >= HAUL


def test_what_came_off_and_is_lost_stops_what_puts_it_back() -> None:
    off = {"id": "shaft", "what": "Shaft", "off_task": "off", "back_task": "on", "off_at": HAUL.isoformat()}
    one = refit(task("off"), task("on"), links=[link("off", "on")], off_boat=[off])
    lost = moved_off(one, "shaft", "missing", HAUL, lies_at=None, note=None)
    assert set(planned(lost)) == {"off"}
    assert set(planned(moved_off(lost, "shaft", "found", HAUL, lies_at=None, note=None))) == {"off", "on"}
    assert set(planned(moved_off(lost, "shaft", "back", HAUL, lies_at=None, note=None))) == {"off", "on"}


def drying(values: list[float], since: float = 1) -> Refit:
    """A fortnight's drying after an opening done on the first day, and readings a day apart, ``since`` days after the haul."""
    done = task("open", 2, begun_at=HAUL.isoformat(), done_at=(HAUL + timedelta(hours=2)).isoformat())
    rows = [{"at": (HAUL + timedelta(days=since + at)).isoformat(), "value": value} for at, value in enumerate(values)]
    look = {"id": "damp", "title": "Moisture", "unit": "%", "readings": rows}
    tie = link("open", "close", 200) | {"reading": "damp", "least_lag": 120, "most_lag": 300}
    return refit(done, task("close"), links=[tie], inspections=[look])


@pytest.mark.parametrize(
    ("values", "since", "over"),
    [
        ([], 1, False),
        ([28, 20, 14], 1, False),  # still falling
        ([14, 13.8], 1, False),  # two are too few
        ([20, 14, 14, 13.5], 1, True),  # the last three within 5 %
        ([14, 14, 13.9, 14], -5, False),  # three of them from before it was opened
    ],
)  # fmt: skip
def test_flat_readings_taken_since_it_began_end_a_drying(values: list[float], since: float, over: bool) -> None:
    one, now = drying(values, since), HAUL + timedelta(days=5)
    begins = planned(one, now)["close"]
    assert begins == now if over else begins >= HAUL + timedelta(hours=2 + 200)


def test_the_spread_of_a_wait_and_of_a_lead_time_holds_the_likely_one() -> None:
    for tie in ({"least_lag": 30.0}, {"most_lag": 10.0}):
        with pytest.raises(ValidationError, match="between its shortest and its longest"):
            refit(task("a"), task("b"), links=[link("a", "b", 24) | tie])
    part = {"id": "p", "name": "P", "lead_days": 4, "lead_least": 2, "lead_most": 9}
    with pytest.raises(ValidationError, match="between its shortest and its longest"):
        refit(task("a"), parts=[part | {"lead_least": 5}])
    one = refit(task("a", parts=["p"]), parts=[part])
    told = plan_and_judge(one, HAUL)
    need = part_needs(one, told.plan, told.verdict)[0]
    assert need.order_by is not None
    assert need.surely_by == need.order_by - timedelta(days=5)


def test_a_job_is_part_of_one_that_is_no_part_itself_and_outlives_it() -> None:
    jobs: list[dict[str, Any]] = [
        {"id": "keel", "title": "Keel", "tasks": [task("a")]},
        {"id": "bolts", "title": "Bolts", "under": "keel", "tasks": [task("b")]},
    ]
    one = refit(jobs=jobs)
    assert removed(one, RecordKey("job", "keel")).jobs[0].under is None
    for key, under, why in (
        ("keel", "keel", "part of itself"),
        ("x", "bolts", "itself part of another"),
        ("x", "mast", "there is no job"),
    ):
        with pytest.raises(ValidationError, match=why):
            refit(jobs=[*(job for job in jobs if job["id"] != key), {"id": key, "title": "X", "under": under}])


@given(st.integers(0, 10**9), st.sampled_from(["bilge-pumps", "shaft-bearing", "boot-top", "keel-joint"]))
def test_an_offer_is_shared_out_to_the_last_cent(demo: Refit, total: int, key: str) -> None:
    at_hand = library()
    made = expand(at_hand, at_hand.recipes[key], demo, default_answers(at_hand.recipes[key], demo))
    offered = bought_for(made, total, set())
    assert sum(part.price for part in offered.parts) == total
    assert [part.id for part in offered.parts] == [part.id for part in made.parts] or not made.parts


def test_each_day_holds_what_is_worked_in_it_and_all_days_the_whole(demo: Refit, day_9: datetime) -> None:
    plan = plan_and_judge(demo, day_9).plan
    zone, hours = demo.yard.zone, dict.fromkeys((item.task for item in plan.assignments), 0.0)
    for at in range(60):
        day = day_9.astimezone(zone).date() + timedelta(days=at)
        start = datetime(day.year, day.month, day.day, tzinfo=zone)
        for key, stint in stints(demo, plan, start, start + timedelta(days=1)).items():
            hours[key] += stint.hours
            assert start < stint.begins < stint.ends < start + timedelta(days=1)
            assert stint.hours <= (stint.ends - stint.begins) / timedelta(hours=1)
    open_ = {item.task for item in plan.assignments if not demo.tasks[item.task].done_at}
    assert len(open_) > 100
    assert {key: hours[key] for key in open_} == {key: demo.hours_to_do(demo.tasks[key]) for key in open_}


def test_a_task_that_lies_over_a_sunday_and_an_absence_is_in_nobodys_day_then() -> None:
    # 50 h from Saturday 16 May 08:00, ten a day: Sat 10, Mon 10, Tue away, Wed 10, Thu 10, Fri 10
    away = [{"first": "2026-05-19", "last": "2026-05-19", "reason": "dentist"}]
    one = refit(
        task("a", 50, people=["ann"]),
        people=[person("ann", absences=away), person("bo")],
        launch_at="2026-06-01T09:00:00Z",
        haul_at="2026-05-16T07:00:00Z",
    )
    now = datetime(2026, 5, 16, 7, tzinfo=UTC)
    plan = plan_and_judge(one, now).plan
    found = {}
    for day in range(16, 24):
        start = datetime.combine(date(2026, 5, day), datetime.min.time(), one.yard.zone)
        for stint in stints(one, plan, start, start + timedelta(days=1)).values():
            found[day] = (f"{stint.begins.astimezone(one.yard.zone):%H:%M}", stint.hours)
    assert found == dict.fromkeys((16, 18, 20, 21, 22), ("08:00", 10.0))


def test_plain_data_with_a_spread_reads_and_writes_the_same() -> None:
    tie = link("a", "b", 24) | {"least_lag": 12.0, "most_lag": 48.0}
    one = Refit.model_validate(data(task("a"), task("b"), links=[tie]))
    assert Refit.model_validate(one.model_dump(mode="json")) == one
