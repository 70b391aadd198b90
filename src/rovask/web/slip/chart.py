"""What the Slip shows and where: bands of the boat, ribbons of jobs, blocks of tasks, the quay, the people, the water.

Pixels from the top left. Nothing here knows colours or HTML; the template draws what it is given.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from rovask.core.plain.words import day_and_time
from rovask.core.plan.result import Assignment, Plan, Verdict
from rovask.core.readings.stock import stocks
from rovask.core.refit.model import Job, Refit, Task
from rovask.web.slip.chances import MayFall, chances_of
from rovask.web.slip.ghosts import Ends, cures_of, ghosts_of
from rovask.web.slip.marks import Band, Block, Chart, Ribbon
from rovask.web.slip.scale import TimeScale
from rovask.web.slip.sky import days_of, outages_of, people_of, quay_of, weather_of
from rovask.web.slip.view import View

LABEL_HEIGHT = 10.0


HAND_HEIGHT = 6.0


LEAST_BLOCK = 5.0


ROW_GAP = 2.0


BREAK = timedelta(days=3.5)  # a job that rests longer in a place is drawn as two stretches


LETTER = 5.0


NAMED_DAY = 75.0


NAMED = 1.7  # blocks are taller where their names are shown


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


def draw(
    refit: Refit, plan: Plan, verdict: Verdict, now: datetime, view: View, before: Plan | None = None, falls: tuple[MayFall, ...] = ()
) -> Chart:  # fmt: skip
    """Lay the whole chart out. before: the plan before the last change, for ghosts; falls: what may fall when.

    O(tasks + jobs x places).
    """
    zone = refit.yard.zone
    chart = Chart(view.width, left=view.label_width, right=view.width - 6, top=38.0)
    scale = TimeScale.over(view.first, view.last, chart.left, chart.right, zone)
    chart.knots = [(moment.isoformat(), round(x, 1)) for moment, x in scale.knots]
    days_of(refit, scale, chart, view, now)
    weather_of(refit.weather, scale, chart, zone)
    chances_of(refit, falls, scale, chart)
    ends = _bands(refit, plan, verdict, now, view, scale, chart)
    cures_of(refit, plan, scale, chart, ends)
    if before is not None:
        ghosts_of(plan, before, scale, chart, ends)
    chart.bands_bottom = chart.quay_y = chart.height
    quay_of(refit, plan, scale, chart, ends)
    outages_of(refit, plan, scale, chart)
    people_of(refit, plan, scale, chart, view)
    chart.height += 16
    if scale.first < plan.launch < scale.last:
        chart.water_x = scale.x(plan.launch)
    if plan.launch > refit.launch_at and scale.first < refit.launch_at < scale.last:
        chart.slot_x = scale.x(refit.launch_at)
    chart.launch_told = day_and_time(plan.launch, zone)
    if scale.first < now < scale.last:
        chart.now_x, chart.now_told = scale.x(now), f"{now.astimezone(zone):%a %H:%M}"
    return chart


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
