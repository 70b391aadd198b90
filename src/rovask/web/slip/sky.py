"""Round the work: days and weather above, services out, people, the quay below."""

from __future__ import annotations

from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

from rovask.core.plain.words import day_and_time
from rovask.core.plan.result import Plan
from rovask.core.readings.readiness import ready_at
from rovask.core.readings.stock import stocks
from rovask.core.refit.givens.weather import HOUR, RAIN_FROM, Weather
from rovask.core.refit.model import Refit
from rovask.core.refit.stores.choices import PartStatus
from rovask.web.slip.ghosts import Ends
from rovask.web.slip.marks import Chart, DayMark, OutageMark, Parcel, PersonDay, Rain, Sky
from rovask.web.slip.scale import TimeScale
from rovask.web.slip.view import View

PERSON_ROW = 11.0


QUAY_HEIGHT = 20.0


SKY_HEIGHT = 18.0


OUTAGE_ROW = 12.0


def days_of(refit: Refit, scale: TimeScale, chart: Chart, view: View, now: datetime) -> None:
    """The days counted down, with what is quiet and where she floats."""
    zone = refit.yard.zone
    launch, today = refit.launch_at.astimezone(zone).date(), now.astimezone(zone).date()
    open_days = {day.number for shift in refit.yard.hours for day in shift.days} or set(range(7))
    day = view.first
    while day <= view.last:
        x = scale.x(datetime(day.year, day.month, day.day, tzinfo=zone))
        following = day + timedelta(days=1)
        end = scale.x(datetime(following.year, following.month, following.day, tzinfo=zone))
        left = (launch - day).days
        closed = any(span.first <= day <= span.last for span in refit.yard.closed)
        number = str(left) if left > 0 else "0" if left == 0 else f"+{-left}"
        wide = end - x > 60
        chart.days.append(
            DayMark(
                x,
                end - x,
                number,
                f"{day:%a %d %b}" if wide else f"{day.day}",
                day == today,
                closed or day.weekday() not in open_days,
            )
        )
        day = following


def weather_of(weather: Weather, scale: TimeScale, chart: Chart, zone: ZoneInfo) -> None:
    """The ribbon over the bands: rain as rain, the coldest and warmest hour of each day, and where knowledge ends."""
    if weather.start is None or weather.end is None or weather.end <= scale.first or weather.start >= scale.last:
        return
    chart.sky_y, chart.top = chart.top, chart.top + SKY_HEIGHT
    chart.sky_from = scale.x(weather.start)
    if scale.first < weather.end < scale.last:
        chart.sky_end = scale.x(weather.end)
    spell: tuple[datetime, float] | None = None
    for hour in range(len(weather.rain) + 1):
        at = weather.start + hour * HOUR
        amount = weather.rain[hour] if hour < len(weather.rain) else 0.0
        if amount >= RAIN_FROM:
            spell = (spell[0], max(spell[1], amount)) if spell else (at, amount)
        elif spell:
            x0, x1 = scale.x(spell[0]), scale.x(at)
            if x1 > x0:
                chart.rain.append(Rain(x0, x1 - x0, min(spell[1] / 4, 1.0)))
            spell = None
    by_day: dict[date, list[float]] = {}
    for hour, air in enumerate(weather.temperature):
        by_day.setdefault((weather.start + hour * HOUR).astimezone(zone).date(), []).append(air)
    for mark, day in zip(chart.days, _dates(scale, zone), strict=False):
        if len(by_day.get(day, ())) >= 12 and mark.width > 24:
            low, high = min(by_day[day]), max(by_day[day])
            chart.sky.append(
                Sky(mark.x + mark.width / 2, f"{low:.0f}–{high:.0f}°" if mark.width > 44 else f"{high:.0f}°")
            )


def _dates(scale: TimeScale, zone: ZoneInfo) -> list[date]:
    return [moment.astimezone(zone).date() for moment, _ in scale.knots[:-1:3]]


def outages_of(refit: Refit, plan: Plan, scale: TimeScale, chart: Chart) -> None:
    """When life aboard is without something: a row for each service, bars from the task that takes it out to its return."""
    at = plan.by_task()
    rows: dict[str, list[tuple[datetime, datetime, str]]] = {}
    for task in refit.tasks.values():
        begins, ends = at.get(task.id), at.get(task.until or task.id)
        if (
            not task.takes_out
            or begins is None
            or ends is None
            or ends.end <= scale.first
            or begins.start >= scale.last
        ):
            continue
        for service in task.takes_out:
            rows.setdefault(service.value, []).append((begins.start, ends.end, task.title))
    chart.outage_y = chart.height
    for name, spans in rows.items():
        for first, last, title in spans:
            x = scale.x(first)
            told = (
                f"no {name}, {day_and_time(first, refit.yard.zone)} to {day_and_time(last, refit.yard.zone)}: {title}"
            )
            chart.outages.append(OutageMark(x, max(scale.x(last) - x, 2.0), chart.height + 2, told, name))
        chart.height += OUTAGE_ROW


def quay_of(refit: Refit, plan: Plan, scale: TimeScale, chart: Chart, ends: Ends) -> None:
    """What comes along the quay, tied to what waits for it."""
    waiting: dict[str, list[str]] = {}
    for task in refit.tasks.values():
        if not task.begun_at:
            for key in task.parts:
                waiting.setdefault(key, []).append(task.id)
    for part in refit.parts:
        stock = stocks(refit)[part.id]
        if stock.status not in (PartStatus.ORDERED, PartStatus.NEEDED) or part.id not in waiting:
            continue
        times = [ready_at(refit, part.id, key, plan.now) for key in waiting[part.id]]
        ready = max((one for one in times if one is not None), default=None)
        if ready is None or not scale.first < ready < scale.last:
            continue
        x = scale.x(ready)
        late = stock.status is PartStatus.ORDERED and stock.arrives is not None and stock.arrives <= plan.now
        blocks = [ends[key] for key in waiting[part.id] if key in ends]
        first = min(blocks, key=lambda block: block.x, default=None)
        how = "overdue" if late else "if ordered now" if stock.status is PartStatus.NEEDED else "expected"
        told = f"{part.name}, {how}, {day_and_time(ready, refit.yard.zone)}"
        chart.parcels.append(Parcel(x, told, late, (first.x, first.y + first.height) if first else None))
    chart.height += QUAY_HEIGHT


def people_of(refit: Refit, plan: Plan, scale: TimeScale, chart: Chart, view: View) -> None:
    """Who works how long on which day."""
    zone = refit.yard.zone
    hours: dict[tuple[str, date], float] = {}
    for item in plan.assignments:
        moment = max(item.start, scale.first)
        while moment < min(item.end, scale.last):
            local = moment.astimezone(zone)
            midnight = datetime(local.year, local.month, local.day, tzinfo=zone) + timedelta(days=1)
            end = min(item.end, midnight)
            for who in item.people:
                key = (who, local.date())
                hours[key] = hours.get(key, 0.0) + min((end - moment) / timedelta(hours=1), 9.0)
            moment = end.astimezone(moment.tzinfo)
    y = chart.height + 3
    for person in refit.people:
        chart.people.append((person.name.partition(",")[0], y + PERSON_ROW - 3))
        for at, mark in enumerate(chart.days):
            day = view.first + timedelta(days=at)
            away = any(span.first <= day <= span.last for span in person.absences)
            worked = min(hours.get((person.id, day), 0.0), 9.0)
            if away or worked:
                height = PERSON_ROW - 3 if away else max(2.0, (PERSON_ROW - 3) * worked / 9)
                chart.person_days.append(
                    PersonDay(mark.x + 1.5, y + PERSON_ROW - 2 - height, mark.width - 3, height, away)
                )
        y += PERSON_ROW
    chart.height = y
