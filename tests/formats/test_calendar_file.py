"""Calendars read back by the icalendar library that wrote them and by another reader, vobject: RFC 5545."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from typing import Any

import icalendar
import vobject

from rovask.core.books.order_by import part_needs
from rovask.core.plan.planner import make_plan
from rovask.core.plan.verdict.verdict import judge
from rovask.core.refit.model import Refit
from rovask.formats.calendar_file import DELIVERIES, entries_of, write_calendar
from tests.builders import HAUL, person, refit, task

NOW = HAUL


def made(**more: Any) -> Refit:
    return refit(
        task("long", 25, caution="Mask, gloves; nobody under her.\nÖl ist Gift, ακόμη και σκόνη."),
        task("rig", 3, skill="rigging"),
        people=[person("ann"), person("rig", role="trade", skills=["rigging"])],
        appointments=[{"id": "survey", "title": "Surveyor, insurance; deck", "at": (HAUL + timedelta(days=2)).isoformat(), "hours": 2, "people": ["ann"]}],
        visits=[{"id": "v", "title": "Guests", "first": "2026-05-10", "last": "2026-05-12", "guests": 2}],
        parts=[{"id": "p", "name": "Valve", "status": "ordered", "arrives": (HAUL + timedelta(days=3)).isoformat()}],
        **more,
    )  # fmt: skip


def file_of(whole: Refit, who: str | None) -> bytes:
    plan = make_plan(whole, NOW)
    needs = part_needs(whole, plan, judge(whole, plan))
    return write_calendar("Hull: all", "refit-1.rovask", entries_of(whole, plan, needs, who), NOW)


def test_two_readers_read_the_same_work_fixed_times_stays_and_deliveries() -> None:
    whole = made()
    content = file_of(whole, None)
    first = {str(one["uid"]): one for one in icalendar.Calendar.from_ical(content).walk("VEVENT")}
    second = {one.uid.value: one for one in vobject.readOne(content.decode()).vevent_list}
    assert set(first) == set(second)
    for uid, one in first.items():
        assert str(one["summary"]) == second[uid].summary.value
        assert one.decoded("dtstart") == second[uid].dtstart.value
        assert one.decoded("dtend") == second[uid].dtend.value
    survey = first["appointment-survey@refit-1.rovask"]
    assert str(survey["summary"]) == "Surveyor, insurance; deck"  # commas and semicolons come back
    assert survey.decoded("dtstart") == HAUL + timedelta(days=2)
    guests = first["visit-v@refit-1.rovask"]
    assert (guests.decoded("dtstart"), guests.decoded("dtend")) == (date(2026, 5, 10), date(2026, 5, 13))
    assert first["part-p@refit-1.rovask"].decoded("dtstart") == date(2026, 5, 7)
    work = [one for uid, one in first.items() if uid.startswith("task-long")]
    assert len(work) == 3  # 25 h of ten a day: three days, each an event of its own, no night in any
    assert sum((one.decoded("dtend") - one.decoded("dtstart")).total_seconds() for one in work) == 25 * 3600
    assert str(work[0]["description"]).endswith("ακόμη και σκόνη.")


def test_one_person_has_their_own_and_no_deliveries() -> None:
    uids = {str(one["uid"]) for one in icalendar.Calendar.from_ical(file_of(made(), "rig")).walk("VEVENT")}
    assert {uid.partition("@")[0].partition("-")[0] for uid in uids} == {"haul", "launch", "task"}
    assert not any("long" in uid or "survey" in uid for uid in uids)


def test_the_deliveries_alone_are_whole_days_of_what_is_due() -> None:
    rows = icalendar.Calendar.from_ical(file_of(made(), DELIVERIES)).walk("VEVENT")
    assert [(str(one["uid"]), one.decoded("dtstart"), one.decoded("dtend")) for one in rows] == [
        ("part-p@refit-1.rovask", date(2026, 5, 7), date(2026, 5, 8))
    ]


def test_long_lines_are_folded_and_end_as_the_standard_asks() -> None:
    """RFC 5545, 3.1: no line longer than 75 octets, CRLF, a folded line goes on after one blank."""
    content = file_of(made(), None)
    lines = content.split(b"\r\n")
    assert all(len(line) <= 75 for line in lines)
    assert b"\n" not in content.replace(b"\r\n", b"")
    assert any(line.startswith(b" ") for line in lines)


def test_times_are_right_over_a_change_of_the_clock() -> None:
    """Lisbon puts its clock forward on 28 March 2027 at one: eight in the morning is 08:00 UTC before and 07:00 after."""
    haul = datetime(2027, 3, 27, 8, tzinfo=UTC)
    hours = [{"days": ["sat", "sun", "mon"], "start": "08:00", "end": "12:00"}]
    whole = refit(
        task("a", 12),
        people=[person("ann", hours=hours)],
        haul_at=haul.isoformat(),
        launch_at=(haul + timedelta(days=20)).isoformat(),
    )
    plan = make_plan(whole, haul)
    rows = [one for one in entries_of(whole, plan, [], None) if one.uid.startswith("task-")]
    assert [one.begins for one in rows] == [
        datetime(2027, 3, 27, 8, tzinfo=UTC),
        datetime(2027, 3, 28, 7, tzinfo=UTC),
        datetime(2027, 3, 29, 7, tzinfo=UTC),
    ]
    back = icalendar.Calendar.from_ical(write_calendar("x", "y", rows, haul)).walk("VEVENT")
    assert [one.decoded("dtstart") for one in back] == [one.begins for one in rows]


def test_an_event_keeps_its_name_when_it_moves() -> None:
    """Its name held its date, so that a calendar that is fetched showed a task that moved as one gone and another new."""
    whole = refit(task("a", 12), people=[person("ann")])
    soon, late = (make_plan(whole, HAUL + timedelta(days=days)) for days in (0, 3))
    before, after = (entries_of(whole, plan, [], None) for plan in (soon, late))
    work = [one for one in before if one.uid.startswith("task-")]
    assert len(work) > 1
    assert [one.uid for one in work] == [one.uid for one in after if one.uid.startswith("task-")]
    assert all(x.begins != y.begins for x, y in zip(before, after, strict=True) if x.uid.startswith("task-"))
    uids = [
        str(one["uid"]) for one in icalendar.Calendar.from_ical(write_calendar("x", "home", before, NOW)).walk("VEVENT")
    ]
    assert len(set(uids)) == len(uids)
    assert all(uid.endswith("@home") for uid in uids)
