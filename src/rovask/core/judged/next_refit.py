"""The next haul-out's refit, made of the one before: what stays hers, what was left, what is still open, what lies aboard."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from rovask.core.plain.money import Money
from rovask.core.readings.stock import stocks
from rovask.core.refit.givens.kinds import KnownPace
from rovask.core.refit.model import Finding, Parked, Refit
from rovask.core.refit.seen.choices import Severity
from rovask.core.refit.seen.edits import parked_from
from rovask.core.refit.stores.choices import PartStatus
from rovask.core.refit.work.choices import State
from rovask.core.refit.work.kinds import Job, Part, Task, WorkTime

NewId = Callable[[str], str]
NEVER_LEFT = ("haul", "look", "ready", "launch", "proving")  # recipes that every haul-out has of its own


@dataclass(frozen=True, slots=True)
class NextGivens:
    """When the next haul-out and launch are thought to be, and what it is called."""

    name: str
    haul_at: datetime
    launch_at: datetime
    budget: int


def next_refit(
    refit: Refit, given: NextGivens, paces: Mapping[str, list[tuple[str, float, int]]], new_id: NewId, now: datetime
) -> Refit:
    """The next haul-out's refit: the same boat, places, people and yard; parked is what was left, put off and not proved.

    Shapes, where metals meet and what is in the way are hers and come along without their work. What was found and isn't
    settled comes along as such, what of a dangerous finding isn't done as a job, and what lies
    aboard with how much there is of it, counted ``now``. paces: for each person what was learned of them, as (kind of work,
    pace, tasks). Stays, absences, money and all that happened stay behind. Raises ValidationError for dates that can't be.
    """
    people = tuple(
        person.model_copy(
            update={
                "arrives": None,
                "leaves": None,
                "absences": (),
                "paces": tuple(
                    KnownPace(work=work, factor=factor, tasks=tasks) for work, factor, tasks in paces.get(person.id, [])
                ),
            }
        ).model_dump()
        for person in refit.people
    )
    jobs = tuple(_dangerous(refit))
    tasks = {task.id for job in jobs for task in job.tasks}
    parts = tuple(_aboard(refit, jobs, now))
    kept = {part.id for part in parts}
    data: dict[str, Any] = {
        "name": given.name,
        "currency": refit.currency,
        "budget": given.budget,
        "haul_at": given.haul_at,
        "launch_at": given.launch_at,
        "outage_limits": refit.outage_limits,
        "margins": refit.margins,
        "nobody_without": refit.nobody_without,
        "ask_first": refit.ask_first,
        "certainty": refit.certainty,
        "boat": refit.boat,
        "yard": refit.yard.model_copy(update={"closed": (), "meter": ()}),
        "places": refit.places,
        "people": people,
        "gear": refit.gear,
        "suppliers": refit.suppliers,
        "budget_lines": refit.budget_lines,
        "jobs": jobs,
        "links": tuple(link for link in refit.links if link.first in tasks and link.then in tasks),
        "findings": tuple(_open_findings(refit, {job.id for job in jobs})),
        "parts": parts,
        "uses": tuple(
            use.model_copy(update={"used": None}) for use in refit.uses if use.task in tasks and use.part in kept
        ),
        "parked": tuple(_left(refit, {job.id for job in jobs}, new_id)),
        "shapes": tuple(one.model_copy(update={"task": None}) for one in refit.shapes),
        "contacts": tuple(one.model_copy(update={"job": None}) for one in refit.contacts),
        "covers": tuple(one.model_copy(update={"open_task": None, "close_task": None}) for one in refit.covers),
    }
    return Refit.model_validate({key: _plain(value) for key, value in data.items()})


def _plain(value: Any) -> Any:
    if hasattr(value, "model_dump"):
        return value.model_dump()
    if isinstance(value, tuple):
        return tuple(_plain(one) for one in value)
    return value


def _dangerous(refit: Refit) -> list[Job]:
    """Jobs of what was found dangerous and isn't settled, with what is left of them, as if nothing of it were begun."""
    keys = {key for one in refit.findings if one.blocks for key in one.jobs}
    out = []
    for job in refit.jobs:
        left = {task.id for task in job.tasks if task.done_at is None}
        if job.id in keys and left:
            tasks = tuple(_afresh(refit, task, left) for task in job.tasks if task.id in left)
            out.append(job.model_copy(update={"tasks": tasks, "under": None, "late_because": ""}))
    return out


def _afresh(refit: Refit, task: Task, left: set[str]) -> Task:
    """A task with the hours that are left of it, nothing of it begun, and no tie to what stays behind."""
    hours = refit.hours_to_do(task)
    changes: dict[str, Any] = {
        "begun_at": None,
        "done_at": None,
        "crew": (),
        "remaining": None,
        "pin": None,
        "units": 1,
        "units_done": 0,
        "work": WorkTime(least=min(task.work.least, hours), likely=hours, most=max(task.work.most, hours)),
        "contained_by": task.contained_by if task.contained_by in left else None,
        "until": task.until if task.until in left else None,
    }
    return task.model_copy(update=changes)


def _open_findings(refit: Refit, jobs: set[str]) -> list[Finding]:
    """What was found and isn't settled, with those of its jobs that come along. Its photos stay with the haul-out before."""
    return [
        one.model_copy(update={"jobs": tuple(key for key in one.jobs if key in jobs), "photos": ()})
        for one in refit.findings
        if not one.settled and one.severity is not Severity.GOOD
    ]


def _aboard(refit: Refit, jobs: tuple[Job, ...], now: datetime) -> list[Part]:
    """What there is of each part, counted; and what the jobs that come along need, whether there is any or not."""
    needed = {key for job in jobs for task in job.tasks for key in task.parts}
    lines = {line.id for line in refit.budget_lines}
    out = []
    for part in refit.parts:
        there = stocks(refit)[part.id].there_is
        if not there and part.id not in needed:
            continue
        price = (
            Money(part.price, refit.currency).times(there / part.quantity).minor
            if part.id not in needed
            else part.price
        )
        changes: dict[str, Any] = {
            "quantity": part.quantity if part.id in needed else there,
            "price": price,
            "price_least": None,
            "price_most": None,
            "status": PartStatus.NEEDED,
            "arrives": None,
            "counted": there,
            "counted_at": now,
            "fetch": None,
            "line": part.line if part.line in lines else None,
        }
        out.append(part.model_copy(update=changes))
    return out


def _left(refit: Refit, along: set[str], new_id: NewId) -> list[Parked]:
    """What the next haul-out's list begins with: what was parked for it, and jobs that are not done and don't come along."""
    rows = [one.model_copy(update={"next_time": False}) for one in refit.parked]
    for job in refit.jobs:
        left = [task for task in job.tasks if task.done_at is None]
        if left and job.recipe not in NEVER_LEFT and job.id not in along:
            rows.append(_parked(refit, job, left, new_id))
    return rows


def _parked(refit: Refit, job: Job, left: list[Task], new_id: NewId) -> Parked:
    whole = len(left) == len(job.tasks)
    note = job.note if whole else f"Left of it: {'; '.join(task.title for task in left)}. {job.note}".strip()
    state = left[0].state if left[0].state is not State.SLINGS else State.ASHORE
    return parked_from(refit, job, left, new_id("parked")).model_copy(
        update={
            "state": State.AFLOAT_BEFORE if state is State.AFLOAT_AFTER else state,
            "recipe": job.recipe if whole else None,
            "note": note[:4000],
        }
    )
