"""What a trade must know of its work and nothing else: tasks with place, times, what must be ready, what others keep off."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from rovask.core.plan.problem.rivals import reaches
from rovask.core.plan.result import Plan
from rovask.core.readings.stock import stocks
from rovask.core.refit.model import Job, Part, Refit, Task
from rovask.core.refit.work.choices import LinkKind

DONE_SHOWN = timedelta(days=14)


@dataclass(frozen=True, slots=True)
class ReadyFor:
    """Something that must be ready before a trade's task: in words, whether it is, and when it will be."""

    words: str
    ready: bool
    by: datetime | None = None


@dataclass(frozen=True, slots=True)
class TradeTask:
    """One task of a trade's. begins, ends: as planned or as it was. parts: with the task's own
    share of each. keep_off: what others must keep away from it."""

    job: Job
    task: Task
    place: str
    begins: datetime | None
    ends: datetime | None
    ready: tuple[ReadyFor, ...]
    keep_off: tuple[str, ...]
    parts: tuple[tuple[Part, float | None], ...]
    photos: tuple[str, ...]
    found: tuple[str, ...]


def is_theirs(plan: Plan, person: str, task: Task) -> bool:
    """Whether a task is somebody's: they did it or do it, it is for them alone, or the plan has them for it."""
    if task.begun_at is not None:
        return person in task.crew
    if task.people == (person,):
        return True
    return any(item.task == task.id and person in item.people for item in plan.assignments)


def trade_sheet(refit: Refit, plan: Plan, person: str, job: str = "") -> list[TradeTask]:
    """The tasks of somebody in order of time, of one job or of all; what they did lately at the end. O(tasks x ties)."""
    at = plan.by_task()
    rows = []
    for home, task in refit.walk():
        if (job and home.id != job) or not is_theirs(plan, person, task):
            continue
        if task.done_at is not None and task.done_at < plan.now - DONE_SHOWN:
            continue
        item = at.get(task.id)
        begins = task.begun_at or (item.start if item is not None else None)
        ends = task.done_at or (item.end if item is not None else None)
        findings = [one for one in refit.findings if home.id in one.jobs]
        rows.append(
            TradeTask(
                home,
                task,
                refit.place_by_id[task.place].name,
                begins,
                ends,
                tuple(_ready(refit, plan, task)) if task.done_at is None else (),
                tuple(_keep_off(refit, task)) if task.done_at is None else (),
                tuple((refit.part_by_id[key], share_of(refit, task.id, key)) for key in task.parts),
                tuple(dict.fromkeys(photo for one in findings for photo in one.photos)),
                tuple(f"{one.title}. {one.note}".strip() for one in findings),
            )
        )
    far = plan.now + timedelta(days=9999)
    return sorted(rows, key=lambda row: (row.task.done_at is not None, row.begins or far, row.task.id))


def share_of(refit: Refit, task: str, part: str) -> float | None:
    """So much of a part a task takes, or took; None where nobody said and it isn't known: it has what it needs at hand."""
    cover = stocks(refit)[part].by_task.get(task)
    if cover is not None and cover.taken:
        return cover.taken
    use = next((one for one in refit.uses if (one.task, one.part) == (task, part)), None)
    return (use.used if use.used is not None else use.amount) if use is not None else None


def _ready(refit: Refit, plan: Plan, task: Task) -> list[ReadyFor]:
    """What it waits for: tasks before it, and parts."""
    at = plan.by_task()
    out = []
    for link in refit.links:
        first = refit.tasks.get(link.first)
        if link.then != task.id or first is None or link.kind not in (LinkKind.FS, LinkKind.FF):
            continue
        by = at[first.id].end if first.id in at else None
        out.append(ReadyFor(first.title, first.done_at is not None, by))
    for key in task.parts:
        part, stock = refit.part_by_id[key], stocks(refit)[key]
        cover = stock.by_task.get(task.id)
        missing = cover is not None and bool(cover.short or cover.coming or cover.away)
        due = max((one.at for one in cover.coming if one.at is not None), default=None) if cover is not None else None
        out.append(ReadyFor(part.name, not missing and part.missing_since is None, due))
    return out


def _keep_off(refit: Refit, task: Task) -> list[str]:
    """What others must not do near it while it lasts and for its tender hours."""
    near = sorted(refit.place_by_id[key].name for key in reaches(refit)[task.place])
    where = f" in {', '.join(near[:4])}{' and elsewhere outdoors' if len(near) > 4 else ''}" if near else ""
    after = f", and for {task.tender:g} h after" if task.tender else ""
    out = [f"No {what.value}{where} while it lasts{after}" for what in task.shuns]
    gives = [what.value for what in task.emits]
    if gives and not task.contained_by:
        out.append(f"It gives off {' and '.join(gives)}: wet coats and clean bearings near it must be covered")
    if task.takes_out:
        out.append(f"No {' and '.join(one.value for one in task.takes_out)} aboard from its beginning")
    return out
