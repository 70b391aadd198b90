"""What is seen, not known, parked and off: how it becomes work, and what it says before it does."""

from __future__ import annotations

from datetime import timedelta

import pytest

from rovask.core.books.forecast import forecast
from rovask.core.explain.afloat import afloat_instead
from rovask.core.explain.first_look import inspect_by, looks, most_pressing
from rovask.core.plain.faults import RefitFaults
from rovask.core.plain.money import Money
from rovask.core.plan.planner import plan_and_judge
from rovask.core.refit.model import Refit
from rovask.core.refit.seen.choices import Severity, UnknownState
from rovask.core.refit.seen.edits import job_came_of, look_again, look_at, place_parked, real_finding, real_work
from rovask.core.refit.seen.kinds import ReadingTaken, is_flat
from rovask.core.refit.work.choices import State
from rovask.core.refit.work.edits import finish_task, remove_job, remove_task
from rovask.web.spark import spark
from tests.builders import HAUL, LAUNCH, link, refit, task

LOOK = {"id": "i", "title": "Bearing", "place": "hull", "task": "a", "unit": "mm", "good_to": 1, "bad_from": 2}


def seen(**more) -> Refit:  # type: ignore[no-untyped-def]
    rows = [task("a", 2), task("b", 4), task("c", 4)]
    return refit(*rows, links=[link("a", "b"), link("b", "c")], **more)


def look(one: Refit, **more) -> Refit:  # type: ignore[no-untyped-def]
    given = {"verdict": None, "reading": None, "note": "", "finding_id": "look-i"} | more
    return look_at(one, "i", HAUL, **given)


def test_inspect_by_is_launch_less_repair_less_lead_and_late_is_told() -> None:
    one = seen(inspections=[LOOK | {"repair_hours": 48, "lead_days": 7}])
    assert inspect_by(one, one.inspections[0]) == LAUNCH - timedelta(hours=48) - timedelta(days=7)
    plan = plan_and_judge(one, HAUL).plan
    row = looks(one, plan)[0]
    assert not row.late
    assert row.planned == plan.by_task()["a"].end
    hurried = seen(inspections=[LOOK | {"repair_hours": 48, "lead_days": 13}])
    late = looks(hurried, plan_and_judge(hurried, HAUL).plan)[0]
    assert late.late
    assert most_pressing([row, late]) is late
    assert most_pressing(looks(look(hurried, verdict=Severity.GOOD), plan)) is None


@pytest.mark.parametrize(
    ("reading", "said"), [(0.5, Severity.GOOD), (1.0, Severity.GOOD), (1.5, Severity.WATCH), (2.0, Severity.BAD)]
)
def test_a_reading_judges_by_its_limits_and_what_is_bad_becomes_a_finding(reading: float, said: Severity) -> None:
    one = look(seen(inspections=[LOOK]), reading=reading, note="aft")
    assert one.inspections[0].verdict is said
    assert [(f.severity, f.note) for f in one.findings] == (
        [(Severity.BAD, f"{reading:g} mm. aft")] if said is Severity.BAD else []
    )


def test_a_better_reading_is_added_to_the_series_and_settles_nothing_by_itself() -> None:
    one = job_came_of(look(seen(inspections=[LOOK]), reading=3.0), "look-i", "job")
    again = look(look_again(one, "i"), reading=0.5)
    assert [row.value for row in again.inspections[0].readings] == [3.0, 0.5]
    assert again.inspections[0].verdict is Severity.GOOD
    assert not again.findings[0].settled  # the wear of before may be hidden, not mended
    worse = look(look_again(again, "i"), reading=4.0)
    assert worse.findings[0].jobs == ("job",)
    assert [row.value for row in worse.inspections[0].readings] == [3.0, 0.5, 4.0]
    with pytest.raises(RefitFaults, match="good, watch or bad"):
        look(one)


@pytest.mark.parametrize(
    ("values", "flat"),
    [
        ([28, 20, 14], False),  # still falling
        ([28, 14, 14, 13.5], True),
        ([14, 14], False),  # two are no series
        ([28, 14, 14, 20], False),  # rising is not flat
        ([0, 0, 0], True),
    ],
)
def test_drying_ends_when_the_last_three_readings_are_flat(values: list[float], flat: bool) -> None:
    series = tuple(ReadingTaken(at=HAUL + timedelta(days=n), value=float(v)) for n, v in enumerate(values))
    assert is_flat(series) is flat


def test_the_line_of_readings_goes_down_as_they_fall() -> None:
    series = tuple(ReadingTaken(at=HAUL + timedelta(days=n), value=float(v)) for n, v in enumerate([28, 20, 14]))
    drawn = spark(series)
    assert drawn is not None
    heights = [float(point.split()[1]) for point in drawn.path[1:].split("L")]
    assert heights == sorted(heights)  # down the page
    assert (drawn.x, drawn.y) == (117.0, heights[-1])
    assert drawn.told == "3 readings, from 28 to 14"
    assert spark(series[:1]) is None


def test_an_unknown_that_is_real_becomes_work_between_what_found_it_and_what_waited() -> None:
    one = seen(unknowns=[{"id": "u", "title": "Worn shaft", "chance": 0.3, "hours": 6, "task": "a"}])
    real = real_work(one, "u", "x", "y")
    assert real.unknowns[0].state is UnknownState.REAL
    assert [row.id for row in real.jobs[0].tasks] == ["a", "x", "b", "c"]
    at = plan_and_judge(real, HAUL).plan.by_task()
    assert at["a"].end <= at["x"].start
    assert at["x"].end <= at["b"].start
    assert real.tasks["x"].work.likely == 6


def test_what_a_real_unknown_costs_is_in_the_forecast_and_its_part_is_waited_for() -> None:
    row = {"id": "u", "title": "Worn shaft", "chance": 0.3, "hours": 6, "lead_days": 4, "money": 85000, "task": "a"}
    one = seen(unknowns=[row])
    real = real_work(one, "u", "x", "y")
    plans = [plan_and_judge(refit_, HAUL).plan for refit_ in (one, real)]
    assert forecast(real, plans[1]).total - forecast(one, plans[0]).total == Money(85000 - 25500, "EUR")
    assert forecast(one, plans[0]).expected == Money(25500, "EUR")  # three in ten
    assert plans[1].by_task()["x"].start >= HAUL + timedelta(days=4)
    by_recipe = real_finding(one, "u", "f", HAUL)  # a recipe brings the work, so nothing is counted here
    assert by_recipe.findings[0].title == "Worn shaft"
    assert by_recipe.parts == one.parts
    assert by_recipe.tasks == one.tasks


def test_a_parked_job_gets_its_state_or_waits_for_the_next_haul_out() -> None:
    one = seen(parked=[{"id": "k", "title": "Varnish", "place": "hull", "hours": 5}])
    placed = place_parked(one, "k", State.AFLOAT_AFTER, "j2", "t2")
    assert placed.parked == ()
    assert placed.tasks["t2"].state is State.AFLOAT_AFTER
    at = plan_and_judge(placed, HAUL).plan.by_task()
    assert at["t2"].start >= LAUNCH
    later = place_parked(one, "k", None, "j2", "t2")
    assert later.parked[0].next_time
    assert later.jobs == one.jobs


def test_what_could_be_done_afloat_is_pointed_out_and_what_others_ashore_wait_for_is_not() -> None:
    places = [{"id": "hull", "name": "Hull", "spot": "bottom"}, {"id": "sal", "name": "Saloon", "spot": "saloon"}]
    jobs = [
        {"id": "dry", "title": "Bottom", "tasks": [task("a", place="hull")]},
        {"id": "in", "title": "Panels", "tasks": [task("b", 3, place="sal")]},
        {"id": "needed", "title": "Cables", "tasks": [task("c", place="sal")]},
    ]
    one = refit(jobs=jobs, places=places, links=[link("c", "a")])
    assert [(job.id, hours) for job, hours in afloat_instead(one)] == [("in", 3)]


def test_removing_work_leaves_nothing_that_names_it() -> None:
    more = {
        "inspections": [LOOK],
        "unknowns": [{"id": "u", "title": "U", "chance": 0.5, "hours": 2, "task": "a"}],
        "off_boat": [{"id": "o", "what": "Propeller", "off_task": "a", "back_task": "c", "off_at": HAUL.isoformat()}],
        "findings": [{"id": "f", "title": "F", "at": HAUL.isoformat(), "jobs": ["job"]}],
    }
    one = remove_task(seen(**more), "a", iter("xyz").__next__)
    assert one.inspections[0].task is None
    assert one.unknowns[0].task is None
    assert one.off_boat[0].off_task is None
    none = remove_job(seen(**more), "job")
    assert none.unknowns == ()
    assert none.off_boat[0].what == "Propeller"  # it is off the boat: that stays known
    assert none.findings[0].jobs == ()


def test_a_done_task_does_not_make_an_unknown_vanish_by_itself() -> None:
    one = finish_task(
        seen(unknowns=[{"id": "u", "title": "U", "chance": 0.5, "hours": 2, "task": "a"}]),
        "a",
        HAUL + timedelta(hours=3),
        ("ann",),
    )
    assert one.unknowns[0].state is UnknownState.OPEN
