"""Work that can't go on for the moment: what was done of it is done, the rest waits for something that comes between."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from itertools import pairwise
from typing import Any

from rovask.core.plain.faults import refused
from rovask.core.plain.half_hours import half_hours
from rovask.core.refit.edits import rebuilt
from rovask.core.refit.model import Link, Refit, Task
from rovask.core.refit.work.choices import LinkKind
from rovask.core.refit.work.edits import put_task, task_of, update_task
from rovask.core.refit.work.kinds import WorkTime

REST = ", the rest"


def interrupted(refit: Refit, key: str, at: datetime, rest_id: str, link_id: str) -> Refit:
    """A task under way is done as far as it came; the rest of its hours is a task of its own after it.

    What waited for its end, gave back what it took out, was to show an unknown, puts back what it took off, or was to use up a
    part, goes by the rest.
    One that isn't under way stays as it is.
    """
    task = task_of(refit, key)
    if not task.is_under_way or task.begun_at is None:
        return refit
    left = half_hours(refit.hours_to_do(task))
    rest = Task.model_validate(
        task.model_dump()
        | {
            "id": rest_id, "title": f"{task.title[: 119 - len(REST)]}{REST}", "begun_at": None, "done_at": None, "crew": (),
            "remaining": None, "units": 1, "units_done": 0, "pin": None, "charge": None, "takes_out": (), "until": None,
            "work": WorkTime(least=min(task.work.least, left), likely=left, most=max(left, min(task.work.most, left * 2))).model_dump(),
        }
    )  # fmt: skip
    changes = {
        "check": "",
        "parts": (),
        "remaining": None,
        "done_at": max(at, task.begun_at),
        "work": _came(task, left),
        "units": 1,
        "units_done": 0,
    }
    refit = update_task(refit, key, **changes, until=task.until or (rest_id if task.takes_out else None))
    refit = inserted(refit, key, rest, after=True)
    links = [
        link.model_copy(update={"first": rest_id}) if link.first == key and link.kind in (LinkKind.FS, LinkKind.FF) else link
        for link in refit.links
    ]  # fmt: skip
    for other in refit.tasks.values():
        ends = {
            field: rest_id for field in ("contained_by", "until") if getattr(other, field) == key and other.id != key
        }
        if ends:
            refit = put_task(refit, other.model_copy(update=ends))

    def later(row: Any, *fields: str) -> Any:
        """A record that goes by the rest where it went by the task."""
        changes = {name: rest_id for name in fields if getattr(row, name) == key}
        return row.model_copy(update=changes) if changes else row

    return rebuilt(
        refit,
        links=(*links, Link(id=link_id, first=key, then=rest_id, reason="the rest of it")),
        unknowns=tuple(later(row, "task") for row in refit.unknowns),
        inspections=tuple(later(row, "task") if row.at is None else row for row in refit.inspections),
        off_boat=tuple(
            later(row, *(["off_task"] if row.off_at is None else []), *(["back_task"] if row.back_at is None else []))
            for row in refit.off_boat
        ),
        uses=tuple(later(row, "task") if row.used is None else row for row in refit.uses),
        parts=tuple(later(row, "fetch") for row in refit.parts),
        fits=tuple(later(row, "task") for row in refit.fits),
        shapes=tuple(later(row, "task") for row in refit.shapes),
        covers=tuple(later(row, "open_task", "close_task") for row in refit.covers),
        traces=tuple(
            row.model_copy(update={"waits": tuple(rest_id if one == key else one for one in row.waits)})
            if key in row.waits
            else row
            for row in refit.traces
        ),
    )


def _came(task: Task, left: float) -> WorkTime:
    """The hours of what was done of a task: all of it less what is left, so that the two together are what it was."""
    whole = task.work.likely * task.units
    done = max(round((whole - left) * 2) / 2, 0.5)
    return WorkTime(least=min(task.work.least * task.units, done), likely=done, most=done)


def inserted(refit: Refit, near: str, task: Task, *, after: bool) -> Refit:
    """The refit with a task in the job of another, right after or before it; no ties."""
    job = refit.job_of[near]
    tasks = list(job.tasks)
    tasks.insert([one.id for one in tasks].index(near) + after, task)
    changed = job.model_copy(update={"tasks": tuple(tasks)})
    return rebuilt(refit, jobs=tuple(changed if one.id == job.id else one for one in refit.jobs))


def put_between(
    refit: Refit,
    before: str | None,
    chain: Sequence[Task],
    waits: Sequence[float],
    then: Sequence[str],
    reason: str,
    wait: float = 0,
) -> Refit:
    """Tasks one after the other between one task and others: behind ``before`` in its job, or ahead of the first of ``then``.

    waits: elapsed hours between each task of the chain and the next; wait: ahead of the first. What comes between nothing and
    work that isn't begun follows all that this work follows: nobody tries a nut before one can get at it. A tie that is there
    already is not made twice.
    """
    at = before or then[0]
    for task in chain:
        refit = inserted(refit, at, task, after=at != then[0] if then else True)
        at = task.id
    links = {(link.first, link.then, link.kind) for link in refit.links}
    made: list[Link] = []
    ends = [(before, chain[0].id, wait)] if before else _as_they_follow(refit, then, chain[0].id)
    ends += [(one.id, other.id, lag) for (one, other), lag in zip(pairwise(chain), waits, strict=True)]
    ends += [(chain[-1].id, one, 0.0) for one in then]
    for first, second, lag in ends:
        if (first, second, LinkKind.FS) not in links:
            made.append(
                Link(id=f"{chain[0].id[:34]}-t{len(made)}", first=first, then=second, min_lag=lag, reason=reason)
            )
    return rebuilt(refit, links=(*refit.links, *made))


def _as_they_follow(refit: Refit, then: Sequence[str], first: str) -> list[tuple[str, str, float]]:
    """Ends of ties to a task from what others wait for, with the same waits."""
    kept = [link for link in refit.links if link.then in then and link.kind is LinkKind.FS and link.first not in then]
    return [(one, first, lag) for one, lag in {link.first: link.min_lag for link in kept}.items()]


def some_place(refit: Refit) -> str:
    """Where work is done that nobody gave a place: her first. Raises RefitFaults where she has none."""
    if not refit.places:
        raise refused("She has no places yet: take the usual ones in under Yard first.")
    return refit.places[0].id


def not_begun_after(refit: Refit, key: str) -> list[str]:
    """What waits for a task's end and isn't begun."""
    return [
        link.then
        for link in refit.links
        if link.first == key
        and link.kind is LinkKind.FS
        and link.then in refit.tasks
        and not refit.tasks[link.then].begun_at
    ]
