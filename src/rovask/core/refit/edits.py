"""Every change a sailor makes to a refit, as functions from refit to refit.

All return a new, validated refit and raise pydantic.ValidationError (from the model) or RefitFaults (from
here) when the change can't be made. Ids of new things are handed in.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from datetime import datetime, timedelta
from typing import Any, TypeVar

from rovask.core.refit.choices import LinkKind
from rovask.core.refit.faults import Fault, RefitFaults
from rovask.core.refit.model import Frozen, HoursEntry, Job, Link, Refit, Task
from rovask.core.refit.records import LISTS, Kind

Row = TypeVar("Row", bound=Frozen)


def _refuse(message: str, path: str = "") -> RefitFaults:
    return RefitFaults([Fault(path, message)])


def rebuilt(refit: Refit, **changes: Any) -> Refit:
    """A validated copy with some fields replaced."""
    data = {name: getattr(refit, name) for name in Refit.model_fields} | changes
    return Refit.model_validate(data)


def _jobs(refit: Refit, edit: Callable[[Job], Job]) -> Refit:
    return rebuilt(refit, jobs=tuple(edit(job) for job in refit.jobs))


def _with_tasks(job: Job, tasks: Iterable[Task]) -> Job:
    return job.model_copy(update={"tasks": tuple(tasks)})


def task_of(refit: Refit, key: str) -> Task:
    """The task with that id. Raises RefitFaults if it is gone."""
    if key not in refit.tasks:
        raise _refuse("This task is gone; somebody removed it meanwhile.")
    return refit.tasks[key]


def put_task(refit: Refit, task: Task) -> Refit:
    """Replace the task of the same id."""
    task_of(refit, task.id)
    return _jobs(refit, lambda job: _with_tasks(job, (task if old.id == task.id else old for old in job.tasks)))


def update_task(refit: Refit, key: str, **changes: Any) -> Refit:
    """Replace some fields of a task, validated."""
    data = task_of(refit, key).model_dump() | changes
    return put_task(refit, Task.model_validate(data))


def add_task(refit: Refit, job_id: str, task: Task, link_id: str, after: str | None = None) -> Refit:
    """Add a task to a job, at its end or after another of its tasks; tied to the one before, finish to start.

    What followed that one now follows the new task, so that the order of the job stays one chain.
    """
    job = next((job for job in refit.jobs if job.id == job_id), None)
    if job is None:
        raise _refuse("This job is gone; somebody removed it meanwhile.")
    keys = [old.id for old in job.tasks]
    at = keys.index(after) + 1 if after in keys else len(keys)
    tasks = (*job.tasks[:at], task, *job.tasks[at:])
    links = refit.links
    if at > 0:
        before = keys[at - 1]
        later = set(keys[at:])
        links = (
            *tuple(
                link.model_copy(update={"first": task.id})
                if link.first == before and link.then in later and link.kind is LinkKind.FS and not link.max_lag
                else link
                for link in links
            ),
            Link(id=link_id, first=before, then=task.id),
        )
    jobs = tuple(_with_tasks(old, tasks) if old.id == job_id else old for old in refit.jobs)
    return rebuilt(refit, jobs=jobs, links=links)


def remove_task(refit: Refit, key: str, new_id: Callable[[], str]) -> Refit:
    """Remove a task with its ties and logged hours; what came before it is tied to what came after."""
    task_of(refit, key)
    before = [link for link in refit.links if link.then == key and link.kind is LinkKind.FS]
    after = [link for link in refit.links if link.first == key and link.kind is LinkKind.FS]
    rest = tuple(link for link in refit.links if key not in (link.first, link.then))
    known = {(link.first, link.then) for link in rest}
    bridges = []
    for one in before:
        for other in after:
            if (one.first, other.then) not in known and one.first != other.then and other.then != "haul":
                known.add((one.first, other.then))
                lag = max(one.min_lag, other.min_lag)
                bridges.append(Link(id=new_id(), first=one.first, then=other.then, min_lag=lag))
    return rebuilt(
        refit,
        jobs=tuple(
            _with_tasks(job, (_forgetting(old, {key}) for old in job.tasks if old.id != key)) for job in refit.jobs
        ),
        links=(*rest, *bridges),
        hours_log=tuple(entry for entry in refit.hours_log if entry.task != key),
        **_seen_without(refit, {key}),
    )


def split_task(refit: Refit, key: str, hours: float, new_id: Callable[[], str]) -> Refit:
    """Split a task after ``hours`` of its work; what waited for its end waits for the second half."""
    task = task_of(refit, key)
    if task.begun_at:
        raise _refuse("A task that is begun can't be split; log its hours and add a new task for the rest.")
    if task.units > 1:
        raise _refuse(f"It is {task.units} units; tick them off one by one instead of splitting it.")
    if not 0 < hours < task.work.likely:
        raise _refuse(f"Split it somewhere between 0.5 and {task.work.likely - 0.5:g} h.", "hours")
    share = hours / task.work.likely

    def part(fraction: float, likely: float) -> dict[str, float]:
        least = min(max(round(task.work.least * fraction * 2) / 2, 0), likely)
        return {"least": least, "likely": likely, "most": max(round(task.work.most * fraction * 2) / 2, likely)}

    second_id = new_id()
    first = Task.model_validate(task.model_dump() | {"work": part(share, hours)})
    second = Task.model_validate(
        task.model_dump()
        | {
            "id": second_id,
            "title": f"{task.title}, second part"[:120],
            "work": part(1 - share, task.work.likely - hours),
            "parts": (),
            "pin": None,
            "takes_out": (),
            "until": None,
        }
    )
    first = first.model_copy(update={"until": task.until or (second_id if task.takes_out else None)})
    links = tuple(
        link.model_copy(update={"first": second_id})
        if link.first == key and link.kind in (LinkKind.FS, LinkKind.FF)
        else link.model_copy(update={"then": second_id})
        if link.then == key and link.kind in (LinkKind.FF, LinkKind.SF)
        else link
        for link in refit.links
    )

    def halves(job: Job) -> Job:
        tasks: list[Task] = []
        for old in job.tasks:
            ends = {field: second_id for field in ("contained_by", "until") if getattr(old, field) == key}
            tasks += [first, second] if old.id == key else [old.model_copy(update=ends)]
        return _with_tasks(job, tasks)

    return rebuilt(
        refit,
        jobs=tuple(halves(job) for job in refit.jobs),
        links=(*links, Link(id=new_id(), first=key, then=second_id)),
    )


def _forgetting(task: Task, gone: set[str]) -> Task:
    """A task that no longer names tasks which are gone as its containment or its undoing."""
    lost = {field: None for field in ("contained_by", "until") if getattr(task, field) in gone}
    return task.model_copy(update=lost) if lost else task


def _seen_without(refit: Refit, tasks: set[str], jobs: frozenset[str] = frozenset()) -> dict[str, Any]:
    """What was seen, is not known or lies off the boat, no longer naming tasks and jobs that are gone."""

    def less(row: Row, *fields: str) -> Row:
        lost = {field: None for field in fields if getattr(row, field) in tasks | jobs}
        return row.model_copy(update=lost) if lost else row

    return {
        "inspections": tuple(less(row, "task") for row in refit.inspections),
        "unknowns": tuple(less(row, "task") for row in refit.unknowns),
        "off_boat": tuple(less(row, "off_task", "back_task") for row in refit.off_boat),
        "decisions": tuple(less(row, "job") for row in refit.decisions),
        "findings": tuple(
            row.model_copy(update={"jobs": tuple(key for key in row.jobs if key not in jobs)}) for row in refit.findings
        ),
    }


def _moved(rows: tuple[Row, ...], key: str, steps: int) -> tuple[Row, ...]:
    out = list(rows)
    at = next((at for at, row in enumerate(rows) if row.id == key), None)  # type: ignore[attr-defined]
    if at is None:
        raise _refuse("It is gone; somebody removed it meanwhile.")
    row = out.pop(at)
    out.insert(min(max(at + steps, 0), len(out)), row)
    return tuple(out)


def move_task(refit: Refit, key: str, steps: int) -> Refit:
    """Move a task up (negative) or down the list of its job. Ties stay as they are."""
    home = refit.job_of.get(key)
    if home is None:
        raise _refuse("This task is gone; somebody removed it meanwhile.")
    return _jobs(refit, lambda job: _with_tasks(job, _moved(job.tasks, key, steps)) if job.id == home.id else job)


def move(refit: Refit, kind: Kind, key: str, steps: int) -> Refit:
    """Move a thing up (negative) or down its list. Not for tasks."""
    field = LISTS[kind]
    return rebuilt(refit, **{field: _moved(getattr(refit, field), key, steps)})


def remove_job(refit: Refit, key: str) -> Refit:
    """Remove a job with its tasks, their ties, logged hours and unknowns; what is off the boat stays in the register."""
    gone = {task.id for job in refit.jobs if job.id == key for task in job.tasks}
    return rebuilt(
        refit,
        jobs=tuple(
            _with_tasks(job, (_forgetting(task, gone) for task in job.tasks)) for job in refit.jobs if job.id != key
        ),
        links=tuple(link for link in refit.links if not {link.first, link.then} & gone),
        hours_log=tuple(entry for entry in refit.hours_log if entry.task not in gone),
        **_seen_without(
            refit.model_copy(
                update={
                    "unknowns": tuple(row for row in refit.unknowns if row.task not in gone),
                    "off_boat": tuple(row for row in refit.off_boat if row.off_at or row.off_task not in gone),
                }
            ),
            gone,
            frozenset({key}),
        ),
    )


def put(refit: Refit, kind: Kind, item: Frozen) -> Refit:
    """Replace the thing of the same id in its list, or add it at the end. Not for tasks."""
    field = LISTS[kind]
    rows = getattr(refit, field)
    key = item.id  # type: ignore[attr-defined]
    if any(row.id == key for row in rows):
        return rebuilt(refit, **{field: tuple(item if row.id == key else row for row in rows)})
    return rebuilt(refit, **{field: (*rows, item)})


def remove(refit: Refit, kind: Kind, key: str) -> Refit:
    """Remove a thing from its list. Raises ValidationError, naming who still needs it."""
    field = LISTS[kind]
    return rebuilt(refit, **{field: tuple(row for row in getattr(refit, field) if row.id != key)})


def begin_task(refit: Refit, key: str, at: datetime, crew: tuple[str, ...]) -> Refit:
    """Mark a task begun by ``crew`` at ``at``."""
    if task_of(refit, key).begun_at:
        raise _refuse("It is begun already.")
    return update_task(refit, key, begun_at=at, crew=crew, pin=None)


def finish_task(refit: Refit, key: str, at: datetime, crew: tuple[str, ...]) -> Refit:
    """Mark a task done at ``at``; one that was never begun is taken to have begun its likely hours before."""
    task = task_of(refit, key)
    if task.done_at:
        raise _refuse("It is done already.")
    return update_task(
        refit,
        key,
        begun_at=task.begun_at or at - timedelta(hours=task.work.likely),
        done_at=at,
        crew=task.crew or crew,
        remaining=None,
        units_done=task.units if task.units > 1 else task.units_done,
        pin=None,
    )


def finish_unit(refit: Refit, key: str, at: datetime, crew: tuple[str, ...]) -> Refit:
    """One more unit of a task is done; the last one finishes the task, the first begins it."""
    task = task_of(refit, key)
    if task.done_at or task.units_done >= task.units:
        raise _refuse("All of it is done already.")
    if task.begun_at is None:
        refit = update_task(refit, key, begun_at=at - timedelta(hours=task.work.likely), crew=crew, pin=None)
    refit = update_task(refit, key, units_done=task.units_done + 1, remaining=None)
    return finish_task(refit, key, at, crew) if task.units_done + 1 == task.units else refit


def reopen_task(refit: Refit, key: str) -> Refit:
    """Take back the last tick: done becomes under way, under way becomes not begun."""
    task = task_of(refit, key)
    if task.done_at:
        return update_task(refit, key, done_at=None)
    return update_task(refit, key, begun_at=None, crew=(), remaining=None)


def log_hours(refit: Refit, entry: HoursEntry, remaining: float | None) -> Refit:
    """Log hours on a task; ``remaining`` is what the sailor judges is left, None to work it out."""
    out = rebuilt(refit, hours_log=(*refit.hours_log, entry))
    task = task_of(out, entry.task)
    if task.begun_at is None:
        out = begin_task(out, task.id, entry.at, (entry.person,))
    return update_task(out, task.id, remaining=remaining) if remaining is not None else out
