"""One day: what was planned for it beside what was done in it, task by task; who was there, and what was lost."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import date, datetime, time, timedelta

import numpy as np

from rovask.core.plan.problem.grid import grid_of
from rovask.core.plan.problem.hours import Hours
from rovask.core.refit.days.kinds import DayEntry, PlannedTask
from rovask.core.refit.givens.weather import HOUR, RAIN_FROM
from rovask.core.refit.model import Job, Refit, Task, Use


@dataclass(frozen=True, slots=True)
class DayRow:
    """One task in a day. planned: hours each person was to be at it; worked: hours each logged. Hours of one pair of hands.

    title, job: as it was called when it was planned; task: None when it is gone. began, done: in this day.
    uses: what it takes of which part, for saying what was used up. offered: who may have worked at it, of work that was
    neither planned nor logged and is only there to be ticked.
    """

    title: str
    job: str
    place: str
    task: Task | None
    planned: dict[str, float]
    worked: dict[str, float]
    began: bool
    done: bool
    uses: tuple[tuple[str, Use | None], ...] = ()
    offered: tuple[str, ...] = ()

    @property
    def people(self) -> list[str]:
        """Everybody who was planned, worked at it or may have."""
        return list(dict.fromkeys([*self.planned, *self.worked, *self.offered]))


@dataclass(frozen=True, slots=True)
class TheDay:
    """A whole day. entry: as it was written down, None where it wasn't. there: who worked, or was said to be there."""

    on: date
    entry: DayEntry | None
    rows: tuple[DayRow, ...]
    there: tuple[str, ...]

    @property
    def hours(self) -> dict[str, float]:
        """Hours each person worked in all."""
        out: dict[str, float] = defaultdict(float)
        for row in self.rows:
            for who, much in row.worked.items():
                out[who] += much
        return dict(out)


def bounds(refit: Refit, on: date) -> tuple[datetime, datetime]:
    """The first moment of a local day and of the next."""
    start = datetime.combine(on, time(0), tzinfo=refit.yard.zone)
    return start, datetime.combine(on + timedelta(days=1), time(0), tzinfo=refit.yard.zone)


def the_day(
    refit: Refit,
    on: date,
    planned: Iterable[PlannedTask],
    now: datetime,
    offered: Iterable[tuple[str, tuple[str, ...]]] = (),
) -> TheDay:
    """A day with what was ``planned`` for it and what happened in it. O(tasks + hours logged).

    offered: tasks, with who may have been at them, that stand behind these to be ticked, where they are not among them.
    """
    start, end = bounds(refit, on)
    worked: dict[str, dict[str, float]] = defaultdict(lambda: defaultdict(float))
    for entry in refit.hours_log:
        if start <= entry.at < end:
            worked[entry.task][entry.person] += entry.hours
    hoped = {row.task: row for row in planned if row.start < end and row.end > start}
    hours = Hours.of(refit, grid_of(refit, min(now, start)), closed=False) if hoped else None
    rows = []
    seen: set[str] = set()
    for job, task in refit.walk():
        began = task.begun_at is not None and start <= task.begun_at < end
        done = task.done_at is not None and start <= task.done_at < end
        if task.id in hoped or task.id in worked or began or done:
            mine = _planned_hours(refit, hours, task, hoped.get(task.id), start, end)
            if mine or task.id in worked or began or done:
                rows.append(_row(refit, job, task, mine, dict(worked.get(task.id, {})), began=began, done=done))
                seen.add(task.id)
    for key, row in hoped.items():
        if key not in refit.tasks:
            rows.append(
                DayRow(row.title, row.job, "", None, dict.fromkeys(row.people, 0.0), {}, began=False, done=False)
            )
    for key, people in offered:
        if key in refit.tasks and key not in seen:
            may = _row(refit, refit.job_of[key], refit.tasks[key], {}, {}, began=False, done=False)
            rows.append(replace(may, offered=people))
    written = next((one for one in refit.days if one.on == on), None)
    there = dict.fromkeys(written.here if written is not None else ())
    there |= dict.fromkeys(who for row in rows for who in row.worked)
    return TheDay(on, written, tuple(rows), tuple(who for who in there if who in refit.persons))


def _row(
    refit: Refit, job: Job, task: Task, planned: dict[str, float], worked: dict[str, float], *, began: bool, done: bool
) -> DayRow:
    uses = {(use.task, use.part): use for use in refit.uses}
    parts = tuple((key, uses.get((task.id, key))) for key in task.parts)
    place = refit.place_by_id[task.place].name
    return DayRow(task.title, job.title, place, task, planned, worked, began, done, parts)


def _planned_hours(
    refit: Refit, hours: Hours | None, task: Task, row: PlannedTask | None, start: datetime, end: datetime
) -> dict[str, float]:
    """Hours of the day that each of a planned task's people was to be at it, by the calendars the planner uses."""
    if row is None or hours is None:
        return {}
    people = tuple(who for who in row.people if who in refit.persons)
    (mask,) = hours.of_crews([people], task)
    low = max(hours.grid.ceil(max(row.start, start)), 0)
    high = max(hours.grid.ceil(min(row.end, end)), 0)
    much = int(np.count_nonzero(mask[low:high])) / 2
    return dict.fromkeys(people, much) if much else {}


def weather_as_forecast(refit: Refit, on: date) -> str:
    """The weather of a day as the forecast had it, in a line to be corrected; "" where it doesn't reach.

    It tells the hours between 6 and 22: the warmest, the hours of rain, the strongest wind.
    """
    weather, zone = refit.weather, refit.yard.zone
    if weather.start is None:
        return ""
    hours = [
        hour
        for hour in range(len(weather.rain))
        if (local := (weather.start + hour * HOUR).astimezone(zone)).date() == on and 6 <= local.hour < 22
    ]
    if not hours:
        return ""
    wet = sum(weather.rain[hour] >= RAIN_FROM for hour in hours)
    rain = f"{wet} h of rain" if wet else "dry"
    warm, wind = max(weather.temperature[hour] for hour in hours), max(weather.wind[hour] for hour in hours)
    return f"{rain}, up to {warm:.0f} °C, wind to {wind:.0f} m/s"
