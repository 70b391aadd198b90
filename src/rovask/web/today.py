"""What Morning shows: each person's day in order, deliveries, orders, calls. Read off the plan, nothing decided here."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

from rovask.core.books.order_by import PartNeed
from rovask.core.plan.result import Assignment, Plan
from rovask.core.plan.verdict.services import Outage, outages
from rovask.core.plan.verdict.worked import Stint, stints
from rovask.core.refit.givens.choices import Role
from rovask.core.refit.givens.weather import HOUR, RAIN_FROM, Weather
from rovask.core.refit.model import Job, Part, Person, Refit, Task
from rovask.web.sky_words import DAY_HOURS

ORDER_SOON = timedelta(days=2)
FIRST_HOUR, LAST_HOUR = 6, 22


@dataclass(frozen=True, slots=True)
class Turn:
    """One task in somebody's day: its first and last moment of work in it, and its hours of that day."""

    task: Task
    job: Job
    item: Assignment
    begins: datetime
    ends: datetime
    hours: float
    with_: tuple[Person, ...]
    parts: tuple[Part, ...]
    place: str


@dataclass(frozen=True, slots=True)
class Day:
    """One person's day: turns in order; ``away`` says why there are none."""

    person: Person
    turns: tuple[Turn, ...]
    away: str


@dataclass(frozen=True, slots=True)
class SkyHour:
    """An hour of today's forecast: local clock, air in °C, whether it rains."""

    clock: str
    air: int
    wet: bool


@dataclass(frozen=True, slots=True)
class Morning:
    """One day: people, what is due in and to be ordered, whom to call, what is out, the weather hour by hour."""

    day: date
    days: tuple[Day, ...]
    due: tuple[PartNeed, ...]
    overdue: tuple[PartNeed, ...]
    order: tuple[PartNeed, ...]
    to_try: tuple[PartNeed, ...]
    calls: tuple[str, ...]
    appointments: tuple[tuple[datetime, str, tuple[str, ...]], ...]
    out: tuple[Outage, ...] = ()
    hours: tuple[SkyHour, ...] = ()

    @property
    def hours_told(self) -> str:
        """The dry hours in words."""
        dry = sum(not hour.wet for hour in self.hours)
        damp = [hour.clock for hour in self.hours if hour.wet]
        return f"{dry} of {len(self.hours)} hours dry" + (f"; rain at {', '.join(damp)} h" if damp else "")


def morning_of(refit: Refit, plan: Plan, needs: list[PartNeed], day: date) -> Morning:
    """Everything of one local day, in the order it is wanted. O(tasks)."""
    zone = refit.yard.zone
    start = datetime(day.year, day.month, day.day, tzinfo=zone)
    end = start + timedelta(days=1)
    work = stints(refit, plan, start, end)
    people = tuple(made for person in refit.people if (made := _day(refit, plan, person, day, work)) is not None)
    due = tuple(
        need
        for need in needs
        if need.stock.coming and need.due and need.due.astimezone(zone).date() == day and not need.overdue
    )
    return Morning(
        day=day,
        days=people,
        due=due,
        overdue=tuple(need for need in needs if need.overdue),
        order=tuple(need for need in needs if need.order_by and need.order_by < end + ORDER_SOON),
        to_try=tuple(need for need in needs if need.stock.untried),
        calls=_calls(refit, plan, day),
        appointments=tuple(
            (meeting.at, meeting.title, tuple(refit.persons[who].name for who in meeting.people))
            for meeting in sorted(refit.appointments, key=lambda row: row.at)
            if meeting.at.astimezone(zone).date() == day
        ),
        out=_out(refit, plan, start, end),
        hours=_sky(refit.weather, day, zone),
    )


def _out(refit: Refit, plan: Plan, start: datetime, end: datetime) -> tuple[Outage, ...]:
    """Services that are out at some time of the day, and for how long in all."""
    return tuple(one for one in outages(refit, plan) if one.begins < end and (one.ends is None or one.ends > start))


def _sky(weather: Weather, day: date, zone: ZoneInfo) -> tuple[SkyHour, ...]:
    """The hours of the day between 6 and 22 that the forecast knows."""
    rows: list[SkyHour] = []
    if weather.start is None:
        return ()
    first = max((datetime(day.year, day.month, day.day, tzinfo=zone) - weather.start) // HOUR, 0)
    for hour in range(first, min(first + DAY_HOURS, len(weather.rain))):
        local = (weather.start + hour * HOUR).astimezone(zone)
        if local.date() == day and FIRST_HOUR <= local.hour < LAST_HOUR:
            rows.append(SkyHour(f"{local:%H}", round(weather.temperature[hour]), weather.rain[hour] >= RAIN_FROM))
    return tuple(rows)


def _day(refit: Refit, plan: Plan, person: Person, day: date, work: dict[str, Stint]) -> Day | None:
    """Somebody's day; None for trades and yard crew with nothing to do and people who aren't there at all."""
    turns = [
        _turn(refit, item, person, work[item.task])
        for item in plan.assignments
        if person.id in item.people and item.task in work
    ]
    turns.sort(key=lambda turn: (turn.begins, turn.task.id))
    away = ""
    if (person.arrives and day < person.arrives) or (person.leaves and day > person.leaves):
        return None
    stays = [visit for visit in refit.visits if visit.person == person.id]
    if stays and not any(visit.first <= day <= visit.last for visit in stays):
        return None
    for span in person.absences:
        if span.first <= day <= span.last:
            away = f"away{': ' + span.reason if span.reason else ''}, back {span.last + timedelta(days=1):%a %d %b}"
    works = any(day.weekday() in {name.number for name in shift.days} for shift in person.hours)
    if not away and not works:
        away = "day off"
    if not turns and (away == "day off" or person.role in (Role.TRADE, Role.YARD)):
        return None
    return Day(person, tuple(turns), away)


def _turn(refit: Refit, item: Assignment, person: Person, stint: Stint) -> Turn:
    task = refit.tasks[item.task]
    return Turn(
        task=task,
        job=refit.job_of[item.task],
        item=item,
        begins=stint.begins,
        ends=stint.ends,
        hours=stint.hours,
        with_=tuple(refit.persons[who] for who in item.people if who != person.id),
        parts=tuple(refit.part_by_id[key] for key in task.parts),
        place=refit.place_by_id[task.place].name,
    )


def _calls(refit: Refit, plan: Plan, day: date) -> tuple[str, ...]:
    """Trades and yard crew who are wanted tomorrow or the day after: better told today."""
    zone = refit.yard.zone
    out = []
    for person in refit.people:
        if person.role not in (Role.TRADE, Role.YARD):
            continue
        first = min(
            (
                item.start.astimezone(zone)
                for item in plan.assignments
                if person.id in item.people
                and not refit.tasks[item.task].begun_at
                and day < item.start.astimezone(zone).date() <= day + timedelta(days=2)
            ),
            default=None,
        )
        if first:
            out.append(f"{person.name}: wanted {first:%a %d %b} at {first:%H:%M}")
    return tuple(out)
