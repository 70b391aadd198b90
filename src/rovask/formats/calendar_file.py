"""Calendars as iCalendar (RFC 5545): somebody's work and stays, what is fixed, and what is to be delivered.

Times are written in UTC, which every reader turns into its own clock, over changes of the clock too; whole days are dates.
An event keeps its UID as long as what it is of lives, so that a reader moves it instead of adding a second one.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta

from icalendar import Calendar, Event

from rovask.core.books.order_by import PartNeed
from rovask.core.plain.half_hours import HALF_HOUR
from rovask.core.plan.result import Plan
from rovask.core.plan.verdict.worked import worked
from rovask.core.refit.model import Refit

PRODUCT = "-//Rovask//Refit//EN"
REFRESH = timedelta(hours=1)
DELIVERIES = ".deliveries"  # whose calendar it is when it is nobody's but the parcels'; no id begins with a dot


@dataclass(frozen=True, slots=True)
class Entry:
    """One event: a moment with an end, or whole days with the last one included."""

    uid: str
    title: str
    begins: datetime | date
    ends: datetime | date
    where: str = ""
    words: str = ""


def entries_of(refit: Refit, plan: Plan, needs: Iterable[PartNeed], person: str | None) -> list[Entry]:
    """The events of somebody; of everybody, with the deliveries, for None; for DELIVERIES these alone.

    Work is told day by day, pauses left out.
    """
    if person == DELIVERIES:
        return _deliveries(refit, needs)
    out = [*_fixed(refit, person), *_stays(refit, person), *_work(refit, plan, person)]
    if person is None:
        out += _deliveries(refit, needs)
    return out


def _fixed(refit: Refit, person: str | None) -> list[Entry]:
    rows = [
        Entry(
            f"appointment-{one.id}",
            one.title,
            one.at,
            one.at + timedelta(hours=one.hours),
            refit.yard.name,
            ", ".join(refit.persons[who].name for who in one.people),
        )
        for one in refit.appointments
        if person is None or person in one.people
    ]
    rows.append(Entry("haul", f"Haul-out of {refit.boat.name}", refit.haul_at, refit.haul_at + timedelta(hours=1)))
    rows.append(Entry("launch", f"Launch of {refit.boat.name}", refit.launch_at, refit.launch_at + timedelta(hours=1)))
    return rows


def _stays(refit: Refit, person: str | None) -> list[Entry]:
    return [
        Entry(f"visit-{one.id}", one.title, one.first, one.last, refit.yard.name, one.ready)
        for one in refit.visits
        if person is None or one.person == person
    ]


def _work(refit: Refit, plan: Plan, person: str | None) -> list[Entry]:
    """A task's work on each day it is worked at, from its first to its last half-hour of that day."""
    zone = refit.yard.zone
    out = []
    for one in worked(refit, plan, lambda item: person is None or person in item.people):
        by_day: dict[date, list[int]] = {}
        for slot in one.slots.tolist():
            by_day.setdefault(one.grid.moment(slot).astimezone(zone).date(), []).append(slot)
        task = one.task
        people = ", ".join(refit.persons[who].name for who in one.item.people)
        words = "\n".join(part for part in (refit.job_of[task.id].title, people, task.caution) if part)
        where = f"{refit.place_by_id[task.place].name}, {refit.yard.name}"
        for number, (_, slots) in enumerate(sorted(by_day.items()), 1):
            ends = one.grid.moment(slots[-1]) + HALF_HOUR
            uid = f"task-{task.id}-{number}"  # not by its date: when the task moves, its events move and stay the same
            out.append(Entry(uid, task.title, one.grid.moment(slots[0]), ends, where, words))
    return out


def _deliveries(refit: Refit, needs: Iterable[PartNeed]) -> list[Entry]:
    zone = refit.yard.zone
    return [
        Entry(
            f"part-{need.part.id}",
            f"Due: {need.part.name}",
            need.due.astimezone(zone).date(),
            need.due.astimezone(zone).date(),
            refit.yard.name,
            need.part.supplier,
        )
        for need in needs
        if need.due is not None
    ]


def write_calendar(name: str, home: str, entries: Iterable[Entry], now: datetime) -> bytes:
    """A calendar file. home: what makes UIDs this refit's own; now: when it was made (aware)."""
    calendar = Calendar()
    calendar.add("prodid", PRODUCT)
    calendar.add("version", "2.0")
    calendar.add("x-wr-calname", name)
    calendar.add("refresh-interval", REFRESH, parameters={"VALUE": "DURATION"})
    for entry in entries:
        event = Event()
        event.add("uid", f"{entry.uid}@{home}")
        event.add("dtstamp", now.astimezone(UTC))
        event.add("summary", entry.title)
        if isinstance(entry.begins, datetime) and isinstance(entry.ends, datetime):
            event.add("dtstart", entry.begins.astimezone(UTC))
            event.add("dtend", entry.ends.astimezone(UTC))
        else:
            event.add("dtstart", entry.begins)
            event.add("dtend", entry.ends + timedelta(days=1))  # RFC 5545: a date's end is the day after the last
        if entry.where:
            event.add("location", entry.where)
        if entry.words:
            event.add("description", entry.words)
        calendar.add_component(event)
    return bytes(calendar.to_ical())
