"""Spare with one meaning, what drives, why a task lies where it does, and what must be done before a fixed time. By hand."""

from datetime import UTC, datetime, timedelta
from typing import Any

from rovask.core.explain.effects import effect_of
from rovask.core.explain.why import why_held
from rovask.core.plan.planner import plan_and_judge
from rovask.core.plan.verdict.verdict import before_this
from rovask.core.refit.model import Refit
from tests.builders import DAY_SHIFT, HAUL, LAUNCH, link, person, refit, task

YARD = {"name": "Yard", "time_zone": "Europe/Lisbon", "hours": DAY_SHIFT}  # Monday to Saturday, 08:00 to 18:00


def at(day: int, hour: int, minute: int = 0) -> datetime:
    """A time of May on the yard's clock, an hour ahead of UTC."""
    return datetime(2026, 5, day, hour - 1, minute, tzinfo=UTC)


def minutes(length: timedelta) -> int:
    return length // timedelta(minutes=1)


def test_no_spare_is_larger_than_the_time_to_what_a_task_serves() -> None:
    """Ashore to the launch, before the haul to the haul; what may be done either way by where it is planned."""
    now = HAUL - timedelta(days=3)
    made = refit(
        task("ashore", 2),
        task("either", 2, state="either"),
        task("paint", 2, state="afloat_before"),
        task("after", 2, state="afloat_after"),
        yard=YARD,
    )
    found = plan_and_judge(made, now)
    plan, spare = found.plan.by_task(), found.verdict.spare_by_task
    assert plan["either"].end < HAUL
    for key, serves in (("ashore", LAUNCH), ("either", HAUL), ("paint", HAUL)):
        assert 0 <= spare[key] <= minutes(serves - plan[key].end), key
    assert "after" not in spare  # it has no limit of its own
    late = plan_and_judge(made, HAUL + timedelta(hours=1)).verdict.spare_by_task
    assert late["either"] <= minutes(LAUNCH - HAUL)


def test_a_pin_drives_nothing_and_what_waits_for_it_does() -> None:
    made = refit(
        task("pinned", 2, pin=at(12, 9).isoformat()), task("then", 4), links=[link("pinned", "then")], yard=YARD
    )
    found = plan_and_judge(made, HAUL)
    assert found.plan.ready is not None and found.plan.ready.at == at(12, 15)
    assert found.verdict.driving == ("then",)


def why(made: Refit, key: str, now: datetime = HAUL) -> str:
    return " ".join(why_held(made, plan_and_judge(made, now).plan, key))


def trade(**more: Any) -> dict[str, Any]:
    return person("rig", role="trade", rate=4000, skills=["rigging"]) | more


def test_what_is_before_a_crane_only_by_chance_may_also_be_done_after_it() -> None:
    """One pair of hands, days of 10 h, a crane for 2 h on Wednesday 10:00: what isn't tied to it may slip past it.

    By hand, slot Monday 18th 10:00: 3 h are begun Saturday 16th 17:00 at the latest, 12 d 9 h after Monday 4th 08:00; of two
    such the first Saturday 14:00. What the crane waits for, and what finds no room between the crane and a slot at
    13:00 that day, is begun Tuesday 17:00: 1 d 9 h.
    """
    crane = task("crane", 2) | {"pin": (HAUL + timedelta(days=2, hours=2)).isoformat()}
    work, more = task("a", 3), task("b", 3)
    soon = (HAUL + timedelta(days=2, hours=5)).isoformat()
    for rows, ties, launch, days, hours in (
        ([work, crane], [], LAUNCH.isoformat(), 12, 9),
        ([work, more, crane], [link("a", "b")], LAUNCH.isoformat(), 12, 6),
        ([work, crane], [link("a", "crane")], LAUNCH.isoformat(), 1, 9),
        ([work, crane], [], soon, 1, 9),
    ):
        it = refit(*rows, links=ties, people=[person("ann")], launch_at=launch)
        made = plan_and_judge(it, HAUL)
        assert made.plan.by_task()["a"].start == HAUL
        assert made.verdict.spare_by_task["a"] == (24 * days + hours) * 60, rows
        assert made.verdict.spare_by_task["crane"] == 0


def test_the_reason_names_who_is_not_there_and_never_hours_that_are_false() -> None:
    only = [{"days": ["thu"], "start": "09:00", "end": "12:00"}]
    stays = {"arrives": "2026-05-04", "leaves": "2026-05-10"}
    made = refit(task("stay", 2, skill="rigging"), people=[trade(hours=only, **stays)], yard=YARD)
    assert "the only day on which Rig works: Thu 7 May" in why(made, "stay")
    away = trade(absences=[{"first": "2026-05-04", "last": "2026-05-05"}])
    assert "Rig isn't at work before: again Wed 6 May 08:00" in why(
        refit(task("a", 2, skill="rigging"), people=[away], yard=YARD), "a"
    )
    busy = {"id": "s", "title": "Survey next door", "at": HAUL.isoformat(), "hours": 3, "people": ["rig"]}
    made = refit(task("a", 2, skill="rigging"), people=[trade()], appointments=[busy], yard=YARD)
    assert "Rig is at “Survey next door” until then" in why(made, "a")
    shut = {**YARD, "closed": [{"first": "2026-05-04", "last": "2026-05-04"}]}
    assert "The yard is shut until then, Tue 5 May 08:00" in why(refit(task("a", 2), yard=shut), "a")


def test_who_is_free_is_not_said_to_be_waited_for() -> None:
    """Two coats, the second a day after the first; he is free all the while, and it is the wait that holds it."""
    made = refit(task("a", 2), task("b", 2), links=[link("a", "b", 24)], yard=YARD)
    told = why(made, "b")
    assert "24 h after" in told
    assert "isn't at work" not in told and "waits for hours" not in told


def test_a_pin_that_cannot_be_says_which_part_and_by_how_much() -> None:
    part = {"id": "p", "name": "Bearing", "lead_days": 3}
    made = refit(task("fit", 2, parts=["p"], pin=at(6, 9).isoformat()), parts=[part], yard=YARD)
    (told,) = plan_and_judge(made, HAUL).plan.collisions
    # ordered on Monday at eight it is there on Thursday, tried by half past: a day wanting half an hour after nine on Wednesday
    assert "Bearing is at hand Thu 7 May 08:30, 23 h 30 min later" in told.detail


def crane(hour: int = 10) -> Refit:
    fixed = {"id": "crane", "title": "Crane", "at": at(6, hour).isoformat(), "hours": 1}
    rows = [task("strip", 6), task("lash", 2), task("aside", 9)]
    ties = [link("strip", "lash"), link("lash", "crane", 1)]
    return refit(*rows, links=ties, appointments=[fixed], people=[person("ann")], yard=YARD)


def test_before_an_appointment_each_latest_end_is_told() -> None:
    """The crane comes on Wednesday at ten; lashing ends by nine, so it begins by Tuesday's 17:00 or on Wednesday at eight."""
    made = crane()
    rows = {row.task: row for row in before_this(made, plan_and_judge(made, HAUL).plan, "crane")}
    assert set(rows) == {"strip", "lash"}
    assert rows["lash"].latest == at(6, 9)
    assert not any(row.late for row in rows.values())


def test_before_a_pin_that_cannot_be_held_what_is_first_too_late_is_told() -> None:
    made = refit(
        task("strip", 9), task("lash", 6), task("step", 1, pin=at(5, 9).isoformat()),
        links=[link("strip", "lash"), link("lash", "step")], people=[person("ann")], yard=YARD,
    )  # fmt: skip
    plan = plan_and_judge(made, HAUL).plan
    assert "step" in plan.unplanned
    rows = before_this(made, plan, "step")
    # Monday 08:00 to 17:00 and an hour more, then five on Tuesday until 13:00: four hours after the pin at nine
    assert rows[0].late and {row.task for row in rows} == {"strip", "lash"}
    lash = next(row for row in rows if row.task == "lash")
    assert lash.latest == at(5, 9)


def test_before_there_is_a_task_there_is_no_spare_to_speak_of() -> None:
    none, some = plan_and_judge(refit(jobs=[]), HAUL).verdict, plan_and_judge(refit(task("a", 3)), HAUL).verdict
    assert effect_of(none, none)[0] == "no tasks yet"
    # 3 h from Monday 08:00: ready 11:00, the slot a fortnight later at 10:00
    assert effect_of(none, some)[0] == "no tasks yet → spare 13 d 23 h"
