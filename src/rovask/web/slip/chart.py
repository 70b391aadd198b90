"""What the Slip shows and where: bands of the boat, ribbons of jobs, blocks of tasks, the quay, the people, the water.

Pixels from the top left. Nothing here knows colours or HTML; the template draws what it is given.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

from rovask.core.plain.words import day_and_time
from rovask.core.plan.result import Assignment, Plan, Verdict
from rovask.core.readings.curing import CureClock
from rovask.core.readings.readiness import ready_at
from rovask.core.readings.stock import stocks
from rovask.core.refit.givens.weather import HOUR, RAIN_FROM, Weather
from rovask.core.refit.model import Job, Refit, Task
from rovask.core.refit.stores.choices import PartStatus
from rovask.core.refit.work.choices import LinkKind
from rovask.web.slip.marks import (
    Band,
    Block,
    Bracket,
    Chart,
    DayMark,
    Ghost,
    OutageMark,
    Parcel,
    PersonDay,
    Rain,
    Ribbon,
    Sky,
    Tail,
)
from rovask.web.slip.scale import TimeScale

LABEL_HEIGHT = 10.0
HAND_HEIGHT = 6.0
LEAST_BLOCK = 5.0
ROW_GAP = 2.0
BREAK = timedelta(days=3.5)  # a job that rests longer in a place is drawn as two stretches
LETTER = 5.0
NAMED_DAY = 75.0
NAMED = 1.7  # blocks are taller where their names are shown
PERSON_ROW = 11.0
QUAY_HEIGHT = 20.0
SKY_HEIGHT = 18.0
OUTAGE_ROW = 12.0


@dataclass(frozen=True, slots=True)
class View:
    """What part of the plan is shown and how large; names of tasks appear when a day is wide enough."""

    first: date
    last: date
    width: float = 1240.0
    label_width: float = 118.0
    person: str = ""
    job: str = ""
    place: str = ""


def whole_view(refit: Refit, plan: Plan, width: float = 1240.0) -> View:
    """From the haul-out to the last task afloat."""
    zone = refit.yard.zone
    begins = [item.start for item in plan.assignments] + [refit.haul_at]
    ends = [item.end for item in plan.assignments] + [plan.launch, refit.launch_at]
    return View(min(begins).astimezone(zone).date(), max(ends).astimezone(zone).date(), width)


def _tone(task: Task) -> str:
    return "done" if task.done_at else "doing" if task.begun_at else "todo"


def _told(refit: Refit, job: Job, task: Task, item: Assignment, verdict: Verdict) -> str:
    """What a screen reader, a hover and a focus say of a block."""
    zone = refit.yard.zone
    people = ", ".join(refit.persons[who].name for who in item.people) or "nobody"
    spare = verdict.spare_by_task.get(task.id)
    words = {"done": "done", "doing": "under way", "todo": "planned"}[_tone(task)]
    told = f"{job.title}: {task.title}. {words}, {day_and_time(item.start, zone)} to {day_and_time(item.end, zone)}, {people}."
    return told + (f" Spare {spare / 60:g} h." if spare is not None else "")


@dataclass(slots=True)
class _Stretch:
    """The blocks of one job in one place."""

    job: Job
    items: list[tuple[Task, Assignment]]
    x0: float = 0
    x1: float = 0
    label: str = ""
    label_x: float = 0
    anchor: str = "start"
    row: int = 0


def _by_place(refit: Refit, plan: Plan, view: View, scale: TimeScale) -> dict[str, list[_Stretch]]:
    """What is shown, by place."""
    at = plan.by_task()
    first, last = scale.first, scale.last
    items: dict[tuple[str, str], list[tuple[Task, Assignment]]] = {}
    for job, task in refit.walk():
        item = at.get(task.id)
        if item is not None and item.end > first and item.start < last and _shown(view, job, item):
            items.setdefault((task.place, job.id), []).append((task, item))
    jobs = {job.id: job for job in refit.jobs}
    out: dict[str, list[_Stretch]] = {}
    for (place, key), found in items.items():
        out.setdefault(place, []).extend(_Stretch(jobs[key], run) for run in _runs(found))
    return out


def _in_rows(out: list[_Stretch], scale: TimeScale, right: float) -> int:
    """Sort the jobs of a place into rows: two whose ribbons or labels would touch get different ones. Returns how many."""
    for stretch in out:
        stretch.x0 = scale.x(min(item.start for _, item in stretch.items))
        stretch.x1 = max(scale.x(max(item.end for _, item in stretch.items)), stretch.x0 + 3)
        text = stretch.job.title
        room = right - stretch.x0
        if len(text) * LETTER <= room:
            stretch.label, stretch.label_x = text, stretch.x0
        else:
            fits = int((stretch.x1 - scale.knots[0][1]) / LETTER)
            stretch.label = text if len(text) <= fits else text[: max(fits - 1, 1)] + "…"
            stretch.label_x, stretch.anchor = stretch.x1, "end"
    out.sort(key=lambda stretch: (stretch.x0, stretch.job.id))
    edges: list[float] = []
    for stretch in out:
        length = len(stretch.label) * LETTER
        begin = min(stretch.x0, stretch.label_x - (length if stretch.anchor == "end" else 0))
        end = max(stretch.x1, stretch.label_x + (length if stretch.anchor == "start" else 0)) + 4
        row = next((row for row, edge in enumerate(edges) if edge <= begin), len(edges))
        if row == len(edges):
            edges.append(end)
        else:
            edges[row] = end
        stretch.row = row
    return len(edges)


def _runs(items: list[tuple[Task, Assignment]]) -> list[list[tuple[Task, Assignment]]]:
    """The blocks of a job in one place, apart where it rests for long, so that others find room beside it."""
    out: list[list[tuple[Task, Assignment]]] = []
    for pair in sorted(items, key=lambda pair: (pair[1].start, pair[0].id)):
        if not out or pair[1].start - max(item.end for _, item in out[-1]) > BREAK:
            out.append([])
        out[-1].append(pair)
    return out


def _shown(view: View, job: Job, item: Assignment) -> bool:
    return (not view.job or job.id == view.job) and (not view.person or view.person in item.people)


def _height(hands: int, scale: TimeScale) -> float:
    """Height of a block by its hands, three at most."""
    plain = LEAST_BLOCK + HAND_HEIGHT * min(hands, 3) - 3
    return plain * NAMED if _named(scale) else plain


def _named(scale: TimeScale) -> bool:
    """Whether a day is wide enough for the names of tasks."""
    return (scale.knots[-1][1] - scale.knots[0][1]) / (len(scale.knots) // 3) > NAMED_DAY


def _waits_for(refit: Refit, key: str, task: str) -> bool:
    """Whether a task waits for a part that is not here and tried."""
    cover = stocks(refit)[key].by_task.get(task)
    return cover is not None and bool(cover.untried or cover.away or cover.coming or cover.short)


def _block(
    refit: Refit, stretch: _Stretch, task: Task, item: Assignment, verdict: Verdict, scale: TimeScale, base: float
) -> Block:
    x0, x1 = scale.x(item.start), scale.x(item.end)
    width = max(x1 - x0, 2.0)
    height = _height(task.hands, scale)
    fill = 1.0 if task.done_at else 0.0
    if task.is_under_way:
        left = refit.hours_to_do(task)
        fill = max(0.1, 1 - left / max(task.work.likely, left))
    waits = not task.begun_at and any(_waits_for(refit, key, task.id) for key in task.parts)
    fits = int((width - 4) / LETTER)
    name = task.title if len(task.title) <= fits else task.title[: fits - 1] + "…" if fits > 5 else ""
    return Block(
        task.id,
        task.title,
        _told(refit, stretch.job, task, item, verdict),
        x0,
        base - height,
        width,
        height,
        _tone(task),
        fill,
        task.id in verdict.driving and not task.done_at,
        waits,
        task.pin is not None,
        stretch.job.need.value != "must",
        name if _named(scale) and not task.begun_at else "",
        task.weather is not None and not task.done_at,
    )


def draw(refit: Refit, plan: Plan, verdict: Verdict, now: datetime, view: View, before: Plan | None = None) -> Chart:
    """Lay the whole chart out. ``before``: the plan before the last change, for ghosts. O(tasks + jobs x places)."""
    zone = refit.yard.zone
    chart = Chart(view.width, left=view.label_width, right=view.width - 6, top=38.0)
    scale = TimeScale.over(view.first, view.last, chart.left, chart.right, zone)
    chart.knots = [(moment.isoformat(), round(x, 1)) for moment, x in scale.knots]
    _days(refit, scale, chart, view, now)
    _weather(refit.weather, scale, chart, zone)
    ends = _bands(refit, plan, verdict, now, view, scale, chart)
    _cures(refit, plan, scale, chart, ends)
    if before is not None:
        _ghosts(plan, before, scale, chart, ends)
    chart.bands_bottom = chart.quay_y = chart.height
    _quay(refit, plan, scale, chart, ends)
    _outages(refit, plan, scale, chart)
    _people(refit, plan, scale, chart, view)
    chart.height += 16
    if scale.first < plan.launch < scale.last:
        chart.water_x = scale.x(plan.launch)
    if plan.launch > refit.launch_at and scale.first < refit.launch_at < scale.last:
        chart.slot_x = scale.x(refit.launch_at)
    chart.launch_told = day_and_time(plan.launch, zone)
    if scale.first < now < scale.last:
        chart.now_x, chart.now_told = scale.x(now), f"{now.astimezone(zone):%a %H:%M}"
    return chart


def _days(refit: Refit, scale: TimeScale, chart: Chart, view: View, now: datetime) -> None:
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


def _weather(weather: Weather, scale: TimeScale, chart: Chart, zone: ZoneInfo) -> None:
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


def _outages(refit: Refit, plan: Plan, scale: TimeScale, chart: Chart) -> None:
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


Ends = dict[str, Block]


def _bands(
    refit: Refit, plan: Plan, verdict: Verdict, now: datetime, view: View, scale: TimeScale, chart: Chart
) -> Ends:
    """Bands with their ribbons and blocks; returns the block of each task."""
    y = chart.top
    found: Ends = {}
    shown = _by_place(refit, plan, view, scale)
    empty = 0  # places one after the other with nothing in what is shown: folded into one band
    for place in refit.places:
        if view.place and place.id != view.place:
            continue
        stretches = shown.get(place.id, [])
        empty = 0 if stretches else empty + 1
        if empty > 1:
            first = chart.bands.pop()
            name = first.name.partition(" and ")[0] if empty > 2 else first.name
            chart.bands.append(Band(f"{name} and {empty - 1} more", first.y, first.height))
            continue
        rows = _in_rows(stretches, scale, chart.right)
        tallest = max((task.hands for stretch in stretches for task, _ in stretch.items), default=1)
        block = _height(tallest, scale)
        row_height = LABEL_HEIGHT + block + ROW_GAP
        height = max(rows * row_height + 2, 15.0)
        chart.bands.append(Band(place.name, y, height))
        for stretch in stretches:
            top = y + 1 + stretch.row * row_height
            base = top + LABEL_HEIGHT + block
            chart.ribbons.append(
                Ribbon(
                    stretch.x0,
                    top + LABEL_HEIGHT,
                    stretch.x1 - stretch.x0,
                    block,
                    stretch.label,
                    stretch.label_x,
                    stretch.anchor,
                    all(task.done_at for task in stretch.job.tasks),
                )
            )
            for task, item in stretch.items:
                made = _block(refit, stretch, task, item, verdict, scale, base)
                chart.blocks.append(made)
                found[task.id] = made
        y += height
    chart.height = y
    return found


def _cures(refit: Refit, plan: Plan, scale: TimeScale, chart: Chart, ends: Ends) -> None:
    at = plan.by_task()
    clock = CureClock.of(refit)
    for link in refit.waits:
        block, item = ends.get(link.first), at.get(link.first)
        if block is None or item is None or link.kind is not LinkKind.FS or not link.min_lag:
            continue
        cured, closes = clock.ready_after(link, item.end), clock.closes_after(link, item.end)
        x, x1 = scale.x(item.end), scale.x(cured)
        height = min(block.height * 0.55, 6.0)
        if x1 > x:
            chart.tails.append(Tail(x, block.y + block.height - height, x1 - x, height))
        then = refit.tasks.get(link.then)
        if closes is not None and then is not None and not then.begun_at and link.id not in plan.made_good:
            close = scale.x(closes)
            if close > x1:
                chart.brackets.append(Bracket(x1, block.y + block.height + 1.5, close - x1))


def _ghosts(plan: Plan, before: Plan, scale: TimeScale, chart: Chart, ends: Ends) -> None:
    was = before.by_task()
    for item in plan.assignments:
        old, block = was.get(item.task), ends.get(item.task)
        if old is None or block is None or block.tone != "todo":
            continue
        if abs(old.start - item.start) >= timedelta(hours=1):
            x = scale.x(old.start)
            chart.ghosts.append(Ghost(x, block.y, max(scale.x(old.end) - x, 2.0), block.height))


def _quay(refit: Refit, plan: Plan, scale: TimeScale, chart: Chart, ends: Ends) -> None:
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


def _people(refit: Refit, plan: Plan, scale: TimeScale, chart: Chart, view: View) -> None:
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
