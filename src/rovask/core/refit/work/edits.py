"""Changes to the work: tasks and jobs made, split, moved, begun, done, taken back; hours logged."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from datetime import datetime, timedelta
from typing import Any

from rovask.core.plain.faults import refused
from rovask.core.refit.edits import moved_in, rebuilt
from rovask.core.refit.model import HoursEntry, Job, Link, Refit, Task
from rovask.core.refit.records import RecordKey
from rovask.core.refit.removal import removed
from rovask.core.refit.work.choices import LinkKind
from rovask.core.refit.work.rings import ring_of, ring_told


def _with_tasks(job: Job, tasks: Iterable[Task]) -> Job:
    return job.model_copy(update={"tasks": tuple(tasks)})


def task_of(refit: Refit, key: str) -> Task:
    """The task with that id. Raises RefitFaults if it is gone."""
    if key not in refit.tasks:
        raise refused("This task is gone; somebody removed it meanwhile.")
    return refit.tasks[key]


def put_task(refit: Refit, task: Task) -> Refit:
    """Replace the task of the same id."""
    task_of(refit, task.id)
    home = refit.job_of[task.id]
    job = _with_tasks(home, (task if old.id == task.id else old for old in home.tasks))
    return rebuilt(refit, jobs=tuple(job if old is home else old for old in refit.jobs))


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
        raise refused("This job is gone; somebody removed it meanwhile.")
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
    without = removed(rebuilt(refit, links=rest), RecordKey("task", key))
    return rebuilt(without, links=(*rest, *bridges))


def split_task(refit: Refit, key: str, hours: float, new_id: Callable[[], str]) -> Refit:
    """Split a task after ``hours`` of its work; what waited for its end waits for the second half."""
    task = task_of(refit, key)
    if task.begun_at:
        raise refused("A task that is begun can't be split; log its hours and add a new task for the rest.")
    if task.units > 1:
        raise refused(f"It is {task.units} units; tick them off one by one instead of splitting it.")
    if not 0 < hours < task.work.likely:
        raise refused(f"Split it somewhere between 0.5 and {task.work.likely - 0.5:g} h.", "hours")
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
            tasks += [first, second] if old.id == key else [old.model_copy(update=ends) if ends else old]
        return _with_tasks(job, tasks)

    return rebuilt(
        refit,
        jobs=tuple(halves(job) for job in refit.jobs),
        links=(*links, Link(id=new_id(), first=key, then=second_id)),
    )


def move_task(refit: Refit, key: str, steps: int) -> Refit:
    """Move a task up (negative) or down the list of its job. Ties stay as they are."""
    home = refit.job_of.get(key)
    if home is None:
        raise refused("This task is gone; somebody removed it meanwhile.")
    job = _with_tasks(home, moved_in(home.tasks, key, steps))
    return rebuilt(refit, jobs=tuple(job if old is home else old for old in refit.jobs))


def move_with_ties(refit: Refit, key: str, steps: int) -> Refit:
    """Swap a task with its neighbour in the job, and the plain ties of the job with them: a chain stays a chain.

    A tie between the two that carries a wait is not turned round: a cure belongs to what cures. Raises RefitFaults.
    """
    home = refit.job_of[task_of(refit, key).id]
    keys = [task.id for task in home.tasks]
    at = keys.index(key)
    if not 0 <= at + steps < len(keys) or steps not in (-1, 1):
        return refit
    upper, lower = (keys[at - 1], key) if steps < 0 else (key, keys[at + 1])
    mine = set(keys)
    links = []
    for link in refit.links:
        inside = link.first in mine and link.then in mine
        plain = link.kind is LinkKind.FS and not link.min_lag and link.max_lag is None and not link.cures
        if not inside:
            links.append(link)
        elif (link.first, link.then) == (upper, lower):
            if not plain:
                first, then = refit.tasks[upper].title, refit.tasks[lower].title
                raise refused(f"“{then}” waits for “{first}” with a wait of its own; change that tie by hand.")
            links.append(link.model_copy(update={"first": lower, "then": upper}))
        elif plain and link.then == upper:
            links.append(link.model_copy(update={"then": lower}))
        elif plain and link.first == lower:
            links.append(link.model_copy(update={"first": upper}))
        else:
            links.append(link)
    once = {(link.first, link.then, link.kind): link for link in reversed(links)}
    moved = rebuilt(move_task(refit, key, steps), links=tuple(link for link in links if link in once.values()))
    ring = ring_of(moved)
    if ring:
        raise refused(ring_told(moved, ring))
    return moved


def remove_job(refit: Refit, key: str) -> Refit:
    """Remove a job with its tasks, their ties, logged hours and unknowns; what is off the boat stays in the register."""
    gone = {task.id for job in refit.jobs if job.id == key for task in job.tasks}
    refit = rebuilt(
        refit,
        unknowns=tuple(row for row in refit.unknowns if row.task not in gone),
        off_boat=tuple(row for row in refit.off_boat if row.off_at or row.off_task not in gone),
    )
    return removed(refit, RecordKey("job", key))


def begin_task(refit: Refit, key: str, at: datetime, crew: tuple[str, ...]) -> Refit:
    """Mark a task begun by ``crew`` at ``at``."""
    if task_of(refit, key).begun_at:
        raise refused("It is begun already.")
    return update_task(refit, key, begun_at=at, crew=crew, pin=None)


def finish_task(refit: Refit, key: str, at: datetime, crew: tuple[str, ...], begun: datetime | None = None) -> Refit:
    """Mark a task done at ``at``; one that was never begun is taken to have begun its likely hours before.

    begun: when it was, where that is known better.
    """
    task = task_of(refit, key)
    if task.done_at:
        raise refused("It is done already.")
    started = begun or begun_then(refit, task, at)
    return update_task(
        refit,
        key,
        begun_at=min(started, at),
        done_at=at,
        crew=crew if task.begun_at is None or not task.crew else task.crew,
        remaining=None,
        units_done=task.units if task.units > 1 else task.units_done,
        pin=None,
    )


def begun_then(refit: Refit, task: Task, done: datetime) -> datetime:
    """When a task that was done then was begun: as said, else its likely hours before, yet not before what it waits for ended."""
    if task.begun_at is not None:
        return task.begun_at
    ends = [
        first.done_at
        for link in refit.links
        if link.then == task.id and link.kind is LinkKind.FS and (first := refit.tasks.get(link.first)) is not None
        if first.done_at is not None
    ]
    return min(max([done - timedelta(hours=task.work.likely * task.units), *ends]), done)


def set_right(refit: Refit, key: str, begun: datetime, done: datetime | None, crew: tuple[str, ...]) -> Refit:
    """Say when a task was begun and done, and by whom, where that was noted wrongly."""
    task = task_of(refit, key)
    if task.begun_at is None:
        raise refused("It isn't begun, so there is nothing to set right.")
    if done is not None and done < begun:
        raise refused("It can't be done before it was begun.", "done")
    return update_task(refit, key, begun_at=begun, done_at=done if task.done_at else None, crew=crew or task.crew)


def finish_unit(refit: Refit, key: str, at: datetime, crew: tuple[str, ...]) -> Refit:
    """One more unit of a task is done; the last one finishes the task, the first begins it."""
    task = task_of(refit, key)
    if task.done_at or task.units_done >= task.units:
        raise refused("All of it is done already.")
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
    """Log hours on a task; ``remaining`` is what the sailor judges is left, None to work it out.

    Nothing left, said or since all its hours are logged, is done.
    """
    task = task_of(refit, entry.task)
    changes: dict[str, Any] = {}
    if task.begun_at is None:
        changes |= {"begun_at": entry.at - timedelta(hours=entry.hours), "crew": (entry.person,), "pin": None}
    if remaining:
        changes["remaining"] = remaining
    worked = (refit.logged.get(task.id, 0.0) + entry.hours) / task.hands
    known = task.remaining - entry.hours / task.hands if task.remaining is not None else None
    if remaining is None and known is not None:
        changes["remaining"] = max(known, 0.0)
    all_of_it = known <= 0 if known is not None else worked >= task.work.likely * task.units
    counted = task.units_done and task.units_done < task.units
    if remaining == 0 or (remaining is None and all_of_it and not counted):
        changes |= {"done_at": entry.at, "remaining": None}
        if task.units > 1:
            changes["units_done"] = task.units
    jobs = refit.jobs
    if changes:
        changed, home = Task.model_validate(task.model_dump() | changes), refit.job_of[task.id]
        job = _with_tasks(home, (changed if old.id == task.id else old for old in home.tasks))
        jobs = tuple(job if old is home else old for old in jobs)
    return rebuilt(refit, jobs=jobs, hours_log=(*refit.hours_log, entry))
