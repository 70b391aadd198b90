"""Stays, somebody who slips, ties to appointments, paid work that must be looked at: in the plan and by hand."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from typing import Any

import pytest

from rovask.core.explain.day_done import the_day
from rovask.core.explain.moves import moves
from rovask.core.explain.visits import calls, visit_view
from rovask.core.explain.why import why_held
from rovask.core.judged.leaps import doubts
from rovask.core.plain.faults import RefitFaults
from rovask.core.plan.planner import make_plan
from rovask.core.plan.verify.check import verify
from rovask.core.readings.acceptance import LEFT_CLEAN, SECOND_EYES, acceptances, covered_by
from rovask.core.refit.days.edits import look_at_work, slipped
from rovask.core.refit.model import Check, PlannedTask, Refit
from rovask.core.refit.work.choices import Opens
from tests.builders import HAUL, WEEK, link, person, refit, task

SUNDAY = date(2026, 5, 10)


def at(day: int, hour: int = 8) -> datetime:
    """An hour of a day of May by the yard's clock (an hour ahead of UTC)."""
    return datetime(2026, 5, day, hour - 1, tzinfo=UTC)


def helped(**more: Any) -> Refit:
    """Ann alone, and Lena, who stays from Friday 8 to Tuesday 12, over a Sunday; a task takes both."""
    rows = [task("both", 6, hands=2), task("before", 4), task("alone", 3)]
    return refit(
        *rows,
        links=[link("before", "both")],
        people=[person("ann"), person("lena", role="helper")],
        visits=[
            {"id": "v", "title": "Lena's days", "person": "lena", "first": "2026-05-08", "last": "2026-05-12"} | more
        ],
    )


def test_somebody_with_a_stay_is_here_in_it_and_at_no_other_time() -> None:
    made = helped()
    plan = make_plan(made, HAUL)
    both = plan.by_task()["both"]
    assert at(8) <= both.start
    assert both.end <= at(13)
    assert verify(made, plan) == []
    early = plan.model_copy(
        update={"assignments": tuple(
            one if one.task != "both" else one.model_copy(update={"start": at(6), "end": at(6, 14)})
            for one in plan.assignments
        )}
    )  # fmt: skip
    assert any(breach.task == "both" for breach in verify(made, early))
    view = visit_view(made, plan, made.visits[0])
    assert [one.id for one in view.only_then] == ["both"]  # nobody else makes the second pair of hands
    assert [(one.task.id, one.late) for one in view.before] == [("before", False)]
    hours = {one.day: one for one in view.days}
    assert (hours[SUNDAY].turns, hours[SUNDAY].free) == ((), 0)  # nobody works on a Sunday
    whole = sum(one.free for one in view.days) + sum(stint.hours for one in view.days for _, stint in one.turns)
    assert whole == 4 * 10  # Friday, Saturday, Monday, Tuesday, ten hours each


def test_a_stay_that_slips_moves_whole_or_with_what_is_left_of_it() -> None:
    made = helped()
    today = date(2026, 5, 6)
    later, key = slipped(made, "lena", today, date(2026, 5, 15), "ferry", "new")
    (stay,) = later.visits
    assert (key, stay.first, stay.last, stay.was) == ("v", date(2026, 5, 15), date(2026, 5, 19), date(2026, 5, 8))
    begun, key = slipped(made, "lena", date(2026, 5, 11), date(2026, 5, 20), "", "new")
    assert [(one.id, one.first, one.last) for one in begun.visits] == [
        ("v", date(2026, 5, 8), date(2026, 5, 10)),
        ("new", date(2026, 5, 20), date(2026, 5, 21)),  # two days were left: the 11th and the 12th
    ]
    away, key = slipped(made, "ann", today, date(2026, 5, 16), "ill", "x")
    assert key == ""
    assert [(one.first, one.last, one.reason) for one in away.persons["ann"].absences] == [
        (today, date(2026, 5, 15), "ill")
    ]
    for back in (today, today - timedelta(days=1), today + timedelta(days=400)):
        with pytest.raises(RefitFaults, match="Give a day after"):
            slipped(made, "lena", today, back, "", "x")
    with pytest.raises(RefitFaults, match="begins on Fri 8 May"):  # later than today, and yet no slip
        slipped(made, "lena", today, date(2026, 5, 7), "", "x")


def test_who_must_be_called_when_somebody_slips() -> None:
    """The rigger comes ten days later: his own task moves, and the engineer's, which waits for it, is called about."""
    people = [
        person("ann"),
        person("rig", role="trade", skills=["rigging"]),
        person("eng", role="trade", skills=["mechanics"]),
    ]
    rows = [task("mast", 4, skill="rigging"), task("cable", 4, skill="mechanics"), task("wash", 2)]
    made = refit(*rows, links=[link("mast", "cable")], people=people)
    plan = make_plan(made, HAUL)
    later, _ = slipped(made, "rig", HAUL.date(), HAUL.date() + timedelta(days=10), "", "v")
    after = make_plan(later, HAUL)
    assert after.by_task()["mast"].start >= at(14)
    told = calls(later, plan, moves(later, plan, after))
    assert {one.person.id for one in told} == {"rig", "eng"}
    assert next(one for one in told if one.person.id == "eng").task.id == "cable"
    assert after.by_task()["wash"].start == HAUL  # what need not wait doesn't


@pytest.mark.parametrize(
    ("tie", "bound"),
    [
        (link("survey", "a"), lambda item: item.start >= at(6, 11)),
        (link("survey", "a", 0, None, "SS"), lambda item: item.start >= at(6, 9)),
        (link("survey", "a", 24), lambda item: item.start >= at(7, 11)),
        (link("survey", "a", 0, 24), lambda item: at(6, 11) <= item.start <= at(7, 11)),
        (link("a", "survey"), lambda item: item.end <= at(6, 9)),
        (link("a", "survey", 24), lambda item: item.end <= at(5, 9)),
        (link("a", "survey", 0, 24), lambda item: at(5, 9) <= item.end <= at(6, 9)),
        (link("a", "survey", 0, None, "SS"), lambda item: item.start <= at(6, 9)),
    ],
)
def test_a_task_keeps_a_tie_to_an_appointment(tie: dict[str, Any], bound: Any) -> None:
    """The surveyor is aboard on Wednesday from nine to eleven; the haul-out was on Monday at eight."""
    meeting = {"id": "survey", "title": "Surveyor", "at": at(6, 9).isoformat(), "hours": 2}
    made = refit(task("a", 3), links=[tie], appointments=[meeting])
    plan = make_plan(made, HAUL)
    assert bound(plan.by_task()["a"])
    assert verify(made, plan) == []
    if tie["first"] == "survey" and not tie["max_lag"]:
        assert "“Surveyor”" in " ".join(why_held(made, plan, "a"))


def test_a_tie_to_an_appointment_that_cannot_hold_names_it_and_one_that_is_past_holds_no_more() -> None:
    meeting = {"id": "survey", "title": "Surveyor", "at": at(5, 9).isoformat(), "hours": 2}
    made = refit(task("a", 30), task("free", 2), links=[link("a", "survey")], appointments=[meeting])
    plan = make_plan(made, HAUL)
    assert "free" in plan.by_task()
    assert plan.collisions[0].tasks == ("a",)
    assert "“Task a” must come before “Surveyor”, Tue 5 May 09:00, and it can't" in plan.collisions[0].sentence
    past = make_plan(made, at(6))
    assert "a" in past.by_task()  # late is late: it is planned all the same
    assert verify(made, past) == []
    before = {"id": "trial", "title": "Trial", "at": (HAUL - timedelta(days=2)).isoformat(), "hours": 2}
    rows = [task("tune", 2, state="afloat_before")]
    afloat = refit(*rows, links=[link("tune", "trial")], appointments=[before], prepare_from="2026-04-27")
    plan = make_plan(afloat, HAUL - timedelta(days=6))
    assert plan.by_task()["tune"].end <= HAUL - timedelta(days=2)
    assert verify(afloat, plan) == []


# Acceptance

BONDED = {"begun_at": at(4).isoformat(), "done_at": at(4, 12).isoformat(), "crew": ["rig"]}
PEOPLE = [person("ann"), person("bo"), person("rig", role="trade", skills=["laminating"])]


def bonded(*more: dict[str, Any], **also: Any) -> Refit:
    """A trade laminated on Monday morning; a panel closes it in, something elsewhere does not."""
    rows = [
        task("bond", 4, skill="laminating", opens=["hull skin"], check="No daylight.") | BONDED,
        task("panel", 2),
        *more,
    ]
    return refit(*rows, links=[link("bond", "panel")], people=PEOPLE, **also)


def test_paid_work_ends_in_checks_and_what_would_cover_it_waits() -> None:
    made = bonded()
    (found,) = acceptances(made).values()
    assert found.paid
    assert [one.title for one in found.wanted] == [
        "No daylight.",
        "No daylight, no bubbles, the finish as agreed",
        LEFT_CLEAN,
    ]
    now = at(5, 9)
    plan = make_plan(made, now)
    assert plan.by_task()["panel"].start == at(6)  # somebody looks first: tomorrow at the earliest
    assert verify(made, plan) == []
    told = doubts(made, made.tasks["panel"], now, begins=True, ends=False)
    assert told == ["“Task bond” by Rig isn't accepted: nobody has looked at it, and this would cover it."]
    checks = [
        {"id": f"c{at_}", "task": "bond", "title": one.title, "at": at(5).isoformat(), "person": "ann", "passed": True}
        for at_, one in enumerate(found.wanted)
    ]
    seen = bonded(checks=checks)
    assert acceptances(seen)["bond"].accepted
    assert make_plan(seen, now).by_task()["panel"].start == now
    assert list(covered_by(seen, seen.tasks["panel"])) == []
    undone_ = bonded(checks=[row | {"at": at(3).isoformat()} for row in checks])
    assert not acceptances(undone_)["bond"].accepted  # looked at before it was done: that counts not


def test_what_does_not_pass_is_put_right_by_name_and_looked_at_again() -> None:
    made, title = bonded(), LEFT_CLEAN
    check = Check(id="c", task="bond", title=title, at=at(5), person="ann", passed=False, seen="resin on the sole")
    with pytest.raises(RefitFaults, match="Say who puts it right"):
        look_at_work(made, check, who=None, hours=1, snag_id="s", link_id="l", opens=())
    after = look_at_work(made, check, who="rig", hours=2, snag_id="s", link_id="l", opens=(Opens.SKIN,))
    assert [one.id for one in after.jobs[0].tasks] == ["bond", "s", "panel"]
    assert after.tasks["s"].people == ("rig",)
    assert after.tasks["s"].work.likely == 2
    alone = look_at_work(
        refit(task("bond", 4, skill="laminating") | BONDED, people=PEOPLE),
        check,
        who="rig",
        hours=1,
        snag_id="s",
        link_id="l",
        opens=(),
    )
    assert acceptances(alone)["bond"].failed  # also where what puts it right is now the last of its job
    plan = make_plan(after, at(5, 9))
    assert plan.by_task()["panel"].start >= plan.by_task()["s"].end  # what follows waits for it too
    assert acceptances(after)["bond"].failed
    again = look_at_work(
        after, check.model_copy(update={"id": "d"}), who="rig", hours=2, snag_id="x", link_id="y", opens=()
    )
    assert "x" not in again.tasks  # the same snag, not a second one
    passed = look_at_work(after, check.model_copy(update={"id": "e", "at": at(6), "passed": True}), who=None, hours=1, snag_id="z", link_id="z", opens=())  # fmt: skip
    assert next(one for one in acceptances(passed)["bond"].wanted if one.title == title).passed


def test_own_work_is_looked_at_only_where_it_lets_water_in() -> None:
    own = {"begun_at": at(4).isoformat(), "done_at": at(4, 12).isoformat(), "crew": ["ann"]}
    valve = refit(task("valve", 2, opens=["valve"]) | own)
    assert [one.title for one in acceptances(valve)["valve"].wanted] == [SECOND_EYES]
    assert not acceptances(valve)["valve"].paid
    assert acceptances(refit(task("varnish", 2) | own)) == {}
    half = refit(task("out", 2, opens=["valve"]) | own, task("in", 2))
    assert acceptances(half) == {}  # taken out and not back: there is nothing to accept yet


# A day


def test_a_day_by_hand_planned_beside_done() -> None:
    """Thursday: Ann 4 h planned and 3 done; Bo was planned for 2 and did something else; a third task is gone since."""
    day = date(2026, 5, 7)
    hours = [
        {"id": "h1", "task": "a", "person": "ann", "at": at(7, 12).isoformat(), "hours": 3},
        {"id": "h2", "task": "c", "person": "bo", "at": at(7, 15).isoformat(), "hours": 2.5},
    ]
    begun = {"begun_at": at(7).isoformat(), "crew": ["ann"]}
    made = refit(task("a", 4) | begun, task("b", 2), task("c", 6), hours_log=hours)
    rows = [
        PlannedTask(task="a", title="Task a", people=("ann",), start=at(7), end=at(7, 12)),
        PlannedTask(
            task="b", title="Task b", people=("bo",), start=at(7, 16), end=at(8, 9)
        ),  # two hours of it that day
        PlannedTask(task="gone", title="Was removed", job="Old job", people=("bo",), start=at(7), end=at(7, 9)),
        PlannedTask(task="c", title="Task c", people=("bo",), start=at(8), end=at(8, 14)),
    ]
    told = the_day(made, day, rows, at(8))
    by = {row.title: row for row in told.rows}
    assert (by["Task a"].planned, by["Task a"].worked, by["Task a"].began) == ({"ann": 4}, {"ann": 3}, True)
    assert (by["Task b"].planned, by["Task b"].worked) == ({"bo": 2}, {})
    assert (by["Task c"].planned, by["Task c"].worked) == ({}, {"bo": 2.5})
    assert (by["Was removed"].task, by["Was removed"].job) == (None, "Old job")
    assert told.hours == {"ann": 3, "bo": 2.5}
    sunday = the_day(
        made, SUNDAY, [PlannedTask(task="a", title="A", people=("ann",), start=at(9, 17), end=at(11, 9))], at(12)
    )
    assert sunday.rows == ()  # it lay open over the Sunday, and nobody was to work
    assert WEEK[-1] == "sat"
