"""Spare, short, left out: figures worked out by hand on refits small enough for it."""

from datetime import UTC, datetime, timedelta

from rovask.core.plan.planner import Planned, plan_and_judge
from rovask.core.plan.result import Outcome
from rovask.core.plan.verify.check import verify
from rovask.core.refit.model import Refit
from tests.builders import HAUL, link, person, refit, task

ROUND_THE_CLOCK = [{"days": ["mon", "tue", "wed", "thu", "fri", "sat", "sun"], "start": "00:00", "end": "23:30"}]


def judged(made: Refit, hours: float = 0) -> Planned:
    planned = plan_and_judge(made, HAUL + timedelta(hours=hours))
    assert verify(made, planned.plan) == []
    return planned


def test_spare_is_the_elapsed_time_until_the_latest_start() -> None:
    # Monday 08:00 to Thursday 18:00; 4 h of work, so it may start on Thursday at 14:00 at the latest.
    made = refit(task("a", 4), launch_at="2026-05-07T17:00Z", people=[person("ann")])
    verdict = judged(made).verdict
    assert verdict.outcome is Outcome.HELD
    assert verdict.spare_minutes == (3 * 24 + 6) * 60
    assert verdict.driving == ("a",)


def test_spare_looks_through_cures_people_and_the_launch_tie() -> None:
    # a 4 h, cure 20 h, b 4 h, then 24 h before the launch: launch Thu 18:00 makes b start by Wed 14:00 and
    # a end by Tue 18:00, the end of the day before it: a starts by Tue 14:00, 30 h after Monday 08:00.
    made = refit(
        task("a", 4),
        task("b", 4),
        links=[link("a", "b", 20), link("b", "launch", 24)],
        launch_at="2026-05-07T17:00Z",
        people=[person("ann")],
    )
    verdict = judged(made).verdict
    assert verdict.spare_by_task["a"] == 30 * 60
    assert verdict.spare_minutes == min(verdict.spare_by_task.values())


def test_one_person_in_two_jobs_makes_the_first_wait_for_the_second() -> None:
    # Two tasks of 10 h by one person in a day of 10 h and a launch on Wednesday 18:00: one day of spare for both.
    made = refit(task("a", 10), task("b", 10), launch_at="2026-05-06T17:00Z", people=[person("ann")])
    verdict = judged(made).verdict
    assert verdict.spare_by_task == {"a": 24 * 60, "b": 24 * 60}


def test_short_by_what_the_must_work_overruns() -> None:
    # 30 h of work, 10 h a day from Monday 08:00: done on Wednesday 18:00; the slot is on Tuesday at noon.
    made = refit(task("a", 30), launch_at="2026-05-05T11:00Z", people=[person("ann")])
    planned = judged(made)
    assert planned.verdict.outcome is Outcome.SHORT
    assert planned.plan.launch == datetime(2026, 5, 6, 17, tzinfo=UTC)
    assert planned.verdict.spare_minutes == -30 * 60


def test_a_could_job_is_left_out_rather_than_the_launch_moved() -> None:
    jobs = [
        {"id": "m", "title": "Must", "tasks": [task("a", 8)]},
        {"id": "s", "title": "Should", "need": "should", "tasks": [task("b", 8)]},
        {"id": "c", "title": "Could", "need": "could", "tasks": [task("c", 8)]},
    ]
    made = refit(jobs=jobs, launch_at="2026-05-05T17:00Z", people=[person("ann")])
    verdict = judged(made).verdict
    assert verdict.outcome is Outcome.HELD
    assert verdict.left_out == ("c",)


def test_a_job_that_is_begun_is_never_left_out() -> None:
    begun = {"begun_at": "2026-05-04T07:00Z", "crew": ["ann"]}
    jobs = [
        {"id": "m", "title": "Must", "tasks": [task("a", 8)]},
        {"id": "c", "title": "Could", "need": "could", "tasks": [task("c1", 4, **begun), task("c2", 20)]},
    ]
    made = refit(jobs=jobs, launch_at="2026-05-05T11:00Z", people=[person("ann")], links=[link("c1", "c2")])
    verdict = judged(made).verdict
    assert verdict.left_out == ()
    assert verdict.outcome is Outcome.SHORT


def test_a_could_job_that_a_must_waits_for_gives_way_all_the_same() -> None:
    # c takes 20 h and a 8 h in days of 10 h, launch on Tuesday noon: a alone fits, so c is left out and a goes on.
    jobs = [
        {"id": "c", "title": "Could", "need": "could", "tasks": [task("c", 20)]},
        {"id": "m", "title": "Must", "tasks": [task("a", 8)]},
    ]
    made = refit(jobs=jobs, launch_at="2026-05-05T11:00Z", people=[person("ann")], links=[link("c", "a")])
    planned = judged(made)
    assert planned.verdict.left_out == ("c",)
    assert planned.verdict.outcome is Outcome.HELD
    assert "a" in planned.plan.by_task()
    longer = made.model_copy(update={"launch_at": datetime(2026, 5, 8, 11, tzinfo=UTC)})
    later = judged(longer)
    assert later.verdict.left_out == ()  # and where there is time for both, it is done in its place
    assert later.plan.by_task()["c"].end <= later.plan.by_task()["a"].start
    assert later.verdict.driving == ("a",)


def test_work_that_hangs_on_the_launch_lies_before_it_and_eats_no_spare() -> None:
    made = refit(task("a", 4), task("slings", 1), links=[link("slings", "launch", 0, 2)])
    planned = judged(made)
    assert planned.plan.by_task()["slings"].end >= made.launch_at - timedelta(hours=2)
    assert planned.verdict.spare_minutes > 10 * 24 * 60
    assert "slings" not in planned.verdict.driving


def test_afloat_work_follows_a_late_launch() -> None:
    made = refit(
        task("a", 30), task("sea", 2, state="afloat_after"), launch_at="2026-05-05T11:00Z", people=[person("ann")]
    )
    planned = judged(made)
    assert planned.plan.by_task()["sea"].start >= planned.plan.launch > made.launch_at


def test_a_cure_that_ends_at_midnight_lets_work_begin_next_morning() -> None:
    made = refit(task("a", 8), task("b", 2), links=[link("a", "b", 8)], people=[person("ann")])
    at = judged(made).plan.by_task()
    assert at["a"].end == datetime(2026, 5, 4, 15, tzinfo=UTC)  # 16:00 by the clock; cured at midnight
    assert at["b"].start == datetime(2026, 5, 5, 7, tzinfo=UTC)


def test_a_cure_through_the_night_the_clocks_change_is_elapsed_time() -> None:
    # Sat 28 March 2026, Lisbon goes forward at 01:00 on Sunday. 12 h after Sat 18:00 is Sun 07:00 by the clock.
    made = refit(
        task("a", 10),
        task("b", 1),
        links=[link("a", "b", 12)],
        haul_at="2026-03-28T08:00Z",
        launch_at="2026-04-20T09:00Z",
        people=[person("ann", hours=[*ROUND_THE_CLOCK])],
    )
    planned = plan_and_judge(made, datetime(2026, 3, 28, 8, tzinfo=UTC))
    at = planned.plan.by_task()
    assert verify(made, planned.plan) == []
    assert at["b"].start - at["a"].end == timedelta(hours=12)
    assert at["b"].start.astimezone(made.yard.zone).hour == 7


def test_nothing_is_planned_on_31_sundays() -> None:
    sundays = [{"days": ["sun"], "start": "08:00", "end": "18:00"}]
    made = refit(task("a", 310), people=[person("ann", hours=sundays)], launch_at="2026-08-30T17:00Z")
    assert judged(made).verdict.outcome is Outcome.IMPOSSIBLE  # 17 Sundays to the launch and 6 after it
