"""A stay of somebody: what only then can be done, what must be ready before, their hours, and what else fits in.

And, when somebody slips: all it moves, and whom to call.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from datetime import date, datetime, timedelta

import numpy as np

from rovask.core.plan.explain.day_done import bounds
from rovask.core.plan.explain.moves import Move
from rovask.core.plan.explain.worked import Stint, stints
from rovask.core.plan.problem.compile import grid_of
from rovask.core.plan.problem.crews import crews_for
from rovask.core.plan.problem.hours import Hours
from rovask.core.plan.result import Plan
from rovask.core.refit.choices import LinkKind, Role
from rovask.core.refit.day_edits import is_paid_person
from rovask.core.refit.model import Person, Refit, Task, Visit

MOST_FITTING = 8


@dataclass(frozen=True, slots=True)
class Before:
    """Work that theirs waits for: the task, its planned end (None: not planned), and for which of their tasks.

    late: it isn't done when theirs is to begin. during: it is in time, but only while they are here.
    """

    task: Task
    ends: datetime | None
    late: bool
    during: bool
    wanted_for: Task


@dataclass(frozen=True, slots=True)
class VisitDay:
    """One day of a stay: the person's turns in order, and the hours of it that nothing is planned for."""

    day: date
    turns: tuple[tuple[Task, Stint], ...]
    free: float


@dataclass(frozen=True, slots=True)
class Fits:
    """Something that could be done in the hours left. alone: whether others could do it without them."""

    task: Task
    alone: bool
    hours: float


@dataclass(frozen=True, slots=True)
class VisitView:
    """A stay as its page shows it. done: what was finished in it by them."""

    visit: Visit
    person: Person | None
    only_then: tuple[Task, ...]
    before: tuple[Before, ...]
    days: tuple[VisitDay, ...]
    fits: tuple[Fits, ...]
    done: tuple[Task, ...]

    @property
    def free(self) -> float:
        """Hours of the stay that nothing is planned for."""
        return sum(one.free for one in self.days)


def visit_view(refit: Refit, plan: Plan, visit: Visit) -> VisitView:
    """Everything of a stay. O(tasks x crews)."""
    person = refit.persons.get(visit.person or "")
    if person is None:
        return VisitView(visit, None, (), (), (), (), ())
    start, _ = bounds(refit, visit.first)
    _, end = bounds(refit, visit.last)
    planned = {
        item.task: item
        for item in plan.assignments
        if person.id in item.people and item.start < end and item.end > start and not refit.tasks[item.task].done_at
    }
    only = tuple(
        task
        for task in refit.tasks.values()
        if task.done_at is None and (crews := crews_for(refit, task)) and all(person.id in crew for crew in crews)
    )
    days = _days(refit, plan, visit, person)
    left = sum(one.free for one in days)
    done = tuple(
        task
        for task in refit.tasks.values()
        if task.done_at is not None and start <= task.done_at < end and person.id in task.crew
    )
    wanted = [refit.tasks[key] for key in planned]
    return VisitView(
        visit,
        person,
        only,
        _before(refit, plan, wanted, start),
        days,
        _fitting(refit, plan, person, set(planned), left, end),
        done,
    )


def _days(refit: Refit, plan: Plan, visit: Visit, person: Person) -> tuple[VisitDay, ...]:
    hours = Hours.of(refit, grid_of(refit, plan.now))
    mask = hours.person[person.id]
    out = []
    for n in range((visit.last - visit.first).days + 1):
        day = visit.first + timedelta(days=n)
        begins, ends = bounds(refit, day)
        work = stints(refit, plan, begins, ends)
        turns = sorted(
            (
                (refit.tasks[item.task], work[item.task])
                for item in plan.assignments
                if person.id in item.people and item.task in work
            ),
            key=lambda turn: turn[1].begins,
        )
        low, high = max(hours.grid.ceil(max(begins, plan.now)), 0), max(hours.grid.ceil(ends), 0)
        free = float(np.count_nonzero(mask[low:high])) / 2 - sum(stint.hours for _, stint in turns)
        out.append(VisitDay(day, tuple(turns), max(free, 0.0)))
    return tuple(out)


def _before(refit: Refit, plan: Plan, wanted: list[Task], start: datetime) -> tuple[Before, ...]:
    """What their work waits for and isn't done, theirs left out; each once, the latest last."""
    first: dict[str, list[str]] = defaultdict(list)
    for link in refit.links:
        if link.kind is LinkKind.FS and link.first in refit.tasks:
            first[link.then].append(link.first)
    at, mine = plan.by_task(), {task.id for task in wanted}
    rows: dict[str, Before] = {}
    for goal in wanted:
        todo = list(first[goal.id])
        while todo:
            key = todo.pop()
            task = refit.tasks[key]
            if key in rows or key in mine or task.done_at is not None:
                continue
            ends = at[key].end if key in at else None
            late = ends is None or ends > at[goal.id].start
            rows[key] = Before(task, ends, late, not late and ends is not None and ends > start, goal)
            todo += first[key]
    far = start + timedelta(days=9999)
    return tuple(sorted(rows.values(), key=lambda row: (row.ends or far, row.task.id)))


def _fitting(
    refit: Refit, plan: Plan, person: Person, planned: set[str], left: float, end: datetime
) -> tuple[Fits, ...]:
    """What else they could do, the hardest to do alone first, as far as their free hours go."""
    at = plan.by_task()
    rows = []
    for task in refit.tasks.values():
        if task.id in planned or task.begun_at is not None or task.id not in at or at[task.id].start >= end:
            continue  # what lies after they have gone may wait for something that isn't ready before
        crews = crews_for(refit, task)
        if any(person.id in crew for crew in crews):
            rows.append(Fits(task, any(person.id not in crew for crew in crews), refit.hours_to_do(task)))
    rows.sort(key=lambda row: (row.alone, -row.task.hands, -row.hours, row.task.id))
    out: list[Fits] = []
    hours = left
    for row in rows:
        if row.hours <= hours and len(out) < MOST_FITTING:
            out.append(row)
            hours -= row.hours
    return tuple(out)


@dataclass(frozen=True, slots=True)
class Call:
    """Somebody to be told that their work lies elsewhere now: from when to when (None: not planned any more, or before)."""

    person: Person
    was: datetime | None
    now: datetime | None
    task: Task


def calls(refit: Refit, before: Plan, moved: list[Move]) -> list[Call]:
    """Trades, the yard's people and helpers whose first task of those that moved lies elsewhere, one call each."""
    old = before.by_task()
    out: dict[str, Call] = {}
    for move in moved:
        task = refit.tasks[move.task]
        people = set(old[move.task].people) if move.task in old else set()
        for key in sorted(people):
            who = refit.persons.get(key)
            if who is None or key in out or not (is_paid_person(who) or who.role is Role.HELPER):
                continue
            out[key] = Call(who, move.was, move.now, task)
    return list(out.values())
