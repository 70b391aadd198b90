"""What fits a helper's very hours, a day that is closed early, a crane with its task, hours to midnight, progress netted."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from itertools import count

import pytest

from rovask.core.explain.visits import stay_done, visit_view
from rovask.core.judged.leaps import at_once, doubts
from rovask.core.plain.faults import RefitFaults
from rovask.core.plan.planner import make_plan
from rovask.core.plan.result import Plan
from rovask.core.plan.same_work import same_work
from rovask.core.plan.verify.check import verify
from rovask.core.refit.days.kinds import PlannedTask
from rovask.core.refit.edits import put, rebuilt
from rovask.core.refit.givens.comes import comes
from rovask.core.refit.givens.kinds import Appointment
from rovask.core.refit.model import DayEntry, HoursEntry, Refit
from rovask.core.refit.work.edits import finish_task, update_task
from rovask.web.spelling import read_shifts, shifts_text
from tests.builders import HAUL, link, person, refit, task


def at(day: int, hour: int = 8, minute: int = 0) -> datetime:
    """A time of May by the yard's clock (an hour ahead of UTC)."""
    return datetime(2026, 5, day, hour - 1, minute, tzinfo=UTC)


def helped(*rows: dict[str, object], **more: object) -> Refit:
    """Ann at work every day, Lena from Wednesday 6 to Friday 8, away on the Thursday."""
    away = [{"first": "2026-05-07", "last": "2026-05-07"}]
    return refit(
        *rows,
        people=[person("ann"), person("lena", role="helper", absences=away)],
        places=[{"id": "hull", "name": "Hull", "capacity": 4}],
        visits=[{"id": "v", "title": "Lena", "person": "lena", "first": "2026-05-06", "last": "2026-05-08"}],
        **more,
    )


def planned_alone(made: Refit, key: str) -> Plan:
    """The plan of one task, the job of all the others left out: a season too full for it."""
    jobs = tuple(job for job in made.jobs if any(task.id == key for task in job.tasks))
    plan = make_plan(rebuilt(made, jobs=jobs, links=()), HAUL)
    return plan.model_copy(update={"left_out": tuple(job.id for job in made.jobs if job not in jobs)})


def test_what_fits_a_stay_is_what_nobody_has_planned_then_hardest_alone_first_and_when() -> None:
    # two jobs: the must one fills Ann's hours; the could one is left out, since its part never comes before the launch
    made = helped(
        task("long", 60, people=["ann"]),  # Mon to Sat: what somebody else has planned in these days
        jobs=[
            {"id": "job", "title": "Job", "tasks": [task("long", 60, people=["ann"])]},
            {
                "id": "later",
                "title": "Later",
                "tasks": [task("heavy", 5, hands=2), task("light", 3), task("waits", 2), task("part", 2, parts=["p"])],
            },
        ],
        parts=[{"id": "p", "name": "Part", "lead_days": 5}],
        links=[link("long", "waits")],
    )
    plan = planned_alone(made, "long")
    fits = visit_view(made, plan, made.visits[0]).fits
    # heavy needs Ann too, and Ann has nothing free until Saturday evening; light is Lena's alone, on Wednesday 8 to 11;
    # waits follows the long one, which ends after she has gone; part lacks its part
    assert [(one.task.id, one.begins, one.ends, one.left) for one in fits] == [("light", at(6), at(6, 11), True)]
    short = update_task(made, "long", work={"least": 20, "likely": 20, "most": 20})
    plan = planned_alone(short, "long")
    fits = visit_view(short, plan, short.visits[0]).fits
    # Ann is done on Tuesday evening: heavy first, both hands, Wednesday 8 to 13; then the rest in turn on the same day
    assert [(one.task.id, one.begins, one.ends) for one in fits] == [
        ("heavy", at(6), at(6, 13)),
        ("light", at(6, 13), at(6, 16)),
        ("waits", at(6, 16), at(6, 18)),
    ]
    taken = frozenset({"heavy"})
    assert [one.task.id for one in visit_view(short, plan, short.visits[0], taken).fits] == ["light", "waits"]


def test_a_stay_is_told_planned_against_worked_day_by_day() -> None:
    made = helped(task("a", 12), hours_log=[])
    entry = HoursEntry(id="h", task="a", person="lena", at=at(6, 17), hours=5)
    made = rebuilt(made, hours_log=(entry,))
    row = PlannedTask(task="a", title="Task a", people=("lena",), start=at(6), end=at(8, 10), hours=12)
    days = stay_done(made, made.visits[0], lambda _: (row,), at(8, 12))
    # Wednesday 8 to 18 planned, 5 h worked; Thursday she is away; Friday 8 to 10
    assert [(one.day, one.planned, one.worked) for one in days] == [
        (date(2026, 5, 6), 10, 5),
        (date(2026, 5, 7), 0, 0),
        (date(2026, 5, 8), 2, 0),
    ]


def test_a_day_that_is_closed_at_half_past_ten_leaves_nobody_at_work_after() -> None:
    made = refit(task("a", 9), people=[person("ann")])
    now = at(4, 10, 30)
    assert make_plan(made, now).by_task()["a"].start == now
    closed = put(made, DayEntry(id="d", on=date(2026, 5, 4), closed_at=at(4, 10, 29)))
    assert not same_work(made, closed)
    plan = make_plan(closed, now)
    assert plan.by_task()["a"].start == at(5)  # Tuesday morning: the day is written down
    assert verify(closed, plan) == []
    early = plan.assignments[0].model_copy(update={"start": now, "end": at(5, 9, 30)})
    assert verify(closed, plan.model_copy(update={"assignments": (early,)}))
    # written down in its evening or the day after, it takes nothing away
    late = put(made, DayEntry(id="d", on=date(2026, 5, 3), closed_at=at(4, 9)))
    assert make_plan(late, now).by_task()["a"].start == now


def test_a_crane_comes_with_its_people_and_its_task_moves_with_it() -> None:
    made = refit(task("rig", 4), task("step", 2, hands=2), task("other", 3), links=[link("rig", "step")])
    ids = count(1)
    after, key = comes(
        made, "The crane", at(6, 10), 2, ("ann", "bo"), "", "step", lambda kind: f"{kind[:3]}-{next(ids)}"
    )
    assert key == "step"
    plan = make_plan(after, HAUL)
    assert plan.by_task()["step"].start == at(6, 10)  # held: the appointment shuts nobody out of its own task
    assert set(plan.by_task()["step"].people) == {"ann", "bo"}
    assert verify(after, plan) == []
    (meeting,) = after.appointments
    moved = put(after, Appointment.model_validate(meeting.model_dump() | {"at": at(7, 14)}))
    assert make_plan(moved, HAUL).by_task()["step"].start == at(7, 14)
    own, key = comes(made, "Surveyor", at(5, 9), 1.5, ("bo",), "hull", "", lambda kind: f"{kind[:3]}-{next(ids)}")
    item = make_plan(own, HAUL).by_task()[key]
    assert (item.start, item.end, item.people) == (at(5, 9), at(5, 10, 30), ("bo",))
    with pytest.raises(RefitFaults, match="2 hands"):
        comes(made, "The crane", at(6, 10), 2, ("ann",), "", "step", lambda kind: kind)


def test_hours_may_run_to_midnight() -> None:
    rows = read_shifts("mon-sat 00:00-24:00")
    made = refit(task("a", 30), people=[person("ann", hours=rows)], yard={"hours": rows})
    assert shifts_text(made.people[0].hours) == "mon-sat 00:00-24:00"
    item = make_plan(made, HAUL).by_task()["a"]
    assert (item.start, item.end) == (HAUL, HAUL + timedelta(hours=30))  # through the night, no half-hour lost at 24:00
    assert verify(made, make_plan(made, HAUL)) == []
    with pytest.raises(ValueError, match="time of day"):
        read_shifts("mon 08:00-24:30")


def test_hours_of_one_person_that_overlap_are_asked_about_and_mending_begins_after_the_work() -> None:
    made = refit(task("a", 4), task("b", 3), task("mend", 2), links=[link("a", "mend")])
    made = update_task(made, "a", begun_at=at(4, 13), done_at=at(4, 17), crew=("ann",))
    # b was ticked at 17:00 with 3 h: it would run from 14:00, and Ann was at a from 13:00
    (told,) = at_once(made, made.tasks["b"], ("ann",), at(4, 14), at(4, 17))
    assert "Mon 4 May 14:00" in told
    assert "“Task a”" in told
    assert at_once(made, made.tasks["b"], ("bo",), at(4, 14), at(4, 17)) == []
    assert at_once(made, made.tasks["b"], ("ann",), at(4, 16, 30), at(4, 19)) == []  # half an hour is no matter
    mended = finish_task(made, "mend", at(4, 18), ("ann",))
    assert mended.tasks["mend"].begun_at == at(4, 17)  # thought to take 2 h, but not before what it mends was done


def test_a_cure_says_to_the_minute_how_long_it_has_to_go() -> None:
    made = refit(task("coat", 2), task("next", 2), links=[link("coat", "next", 12)])
    made = update_task(made, "coat", begun_at=at(4, 8), done_at=at(4, 10, 30), crew=("ann",))
    told = doubts(made, made.tasks["next"], at(4, 17, 25), begins=True, ends=False)
    assert any("until Mon 4 May 22:30: 5 h 5 min to go" in one for one in told)
