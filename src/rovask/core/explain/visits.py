"""A stay of somebody: what only then can be done, what must be ready before, their hours, and what else fits in.

And, when somebody slips: all it moves, and whom to call.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import date, datetime, timedelta

import numpy as np

from rovask.core.explain.day_done import bounds, the_day
from rovask.core.explain.moves import Move
from rovask.core.plain.half_hours import HALF_HOUR
from rovask.core.plan.problem.calendar import SlotGrid
from rovask.core.plan.problem.crews import crews_for
from rovask.core.plan.problem.grid import grid_of
from rovask.core.plan.problem.hours import Hours
from rovask.core.plan.result import Plan
from rovask.core.plan.verdict.worked import Stint, stints, worked
from rovask.core.readings.stock import stocks
from rovask.core.refit.days.edits import is_paid_person
from rovask.core.refit.days.kinds import PlannedTask
from rovask.core.refit.givens.choices import Role
from rovask.core.refit.givens.slot import ashore_from
from rovask.core.refit.model import Link, Person, Refit, Task, Visit
from rovask.core.refit.work.choices import LinkKind, State

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
    """Something that could be done in the hours left, and when. alone: whether others could do it without them.

    left: nothing else is planned for it, since its job is left out or does not fit.
    """

    task: Task
    alone: bool
    hours: float
    begins: datetime
    ends: datetime
    left: bool


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


def visit_view(refit: Refit, plan: Plan, visit: Visit, taken: frozenset[str] = frozenset()) -> VisitView:
    """Everything of a stay. taken: tasks that were proposed for another stay already. O(tasks x crews)."""
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
        _fitting(refit, plan, visit, person, taken),
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


def _fitting(refit: Refit, plan: Plan, visit: Visit, person: Person, taken: frozenset[str]) -> tuple[Fits, ...]:
    """What else they could do in those very hours, the hardest to do alone first, and when.

    Not what somebody has planned in these days; work that lies later, and what is left out, where what it waits for is
    done by then, its parts are here, and its place has room.
    """
    grid = grid_of(refit, plan.now)
    room = _Room(refit, plan, grid)
    start, end = bounds(refit, visit.first)[0], bounds(refit, visit.last)[1]
    low, high = max(grid.ceil(max(start, plan.now)), 0), max(grid.ceil(end), 0)
    at = plan.by_task()
    rows = []
    for task in refit.tasks.values():
        lies_in = task.id in at and at[task.id].start < end
        if task.id in taken or task.begun_at is not None or lies_in or refit.job_of[task.id].recipe in LAST:
            continue
        crews = crews_for(refit, task)
        mine = [crew for crew in crews if person.id in crew]
        if mine:
            alone = any(person.id not in crew for crew in crews)
            rows.append((alone, -task.hands, -refit.hours_to_do(task), task, mine))
    out: list[Fits] = []
    for alone, _, _, task, crews in sorted(rows, key=lambda row: (*row[:3], row[3].id)):
        found = room.first(task, crews, low, high)
        if found is not None:
            hours = refit.hours_to_do(task)
            out.append(Fits(task, alone, hours, *found, task.id not in at))
        if len(out) == MOST_FITTING:
            break
    return tuple(out)


LAST = ("haul", "launch", "proving")


class _Room:
    """Whose half-hours are free, and which places have room, beside what is planned; what is put in takes its own."""

    def __init__(self, refit: Refit, plan: Plan, grid: SlotGrid) -> None:
        self.refit, self.plan, self.grid = refit, plan, grid
        self.at, self.hours, self.stocks = plan.by_task(), Hours.of(refit, grid), stocks(refit, plan)
        self.busy: dict[str, set[int]] = defaultdict(set)
        self.hands: dict[tuple[str, int], int] = defaultdict(int)
        for one in worked(refit, plan, lambda item: bool(item.people)):
            self._put(one.task, one.item.people, one.slots.tolist())
        self.waits: dict[str, list[Link]] = defaultdict(list)
        for link in refit.waits:
            self.waits[link.then].append(link)

    def _put(self, task: Task, people: tuple[str, ...], slots: list[int]) -> None:
        for slot in slots:
            self.hands[task.place, slot] += task.hands
        for who in people:
            self.busy[who].update(slots)

    def first(self, task: Task, crews: list[tuple[str, ...]], low: int, high: int) -> tuple[datetime, datetime] | None:
        """When the task fits first between two slots, which are then taken; None where it does not."""
        ready = self._ready(task)
        if ready is None:
            return None
        low, need = max(low, self.grid.ceil(ready)), max(round(self.refit.hours_to_do(task) * 2), 1)
        most = self.refit.place_by_id[task.place].capacity - task.hands
        best: tuple[list[int], tuple[str, ...]] | None = None
        for crew, mask in zip(crews, self.hours.of_crews(crews, task), strict=True):
            free = [
                int(slot)
                for slot in np.flatnonzero(mask[low:high]) + low
                if self.hands[task.place, int(slot)] <= most and all(int(slot) not in self.busy[who] for who in crew)
            ]
            run = _run(free, need, whole=task.unbroken)
            if run and (best is None or run[-1] < best[0][-1]):
                best = run, crew
        if best is None:
            return None
        self._put(task, best[1], best[0])
        return self.grid.moment(best[0][0]), self.grid.moment(best[0][-1]) + HALF_HOUR

    def _ready(self, task: Task) -> datetime | None:
        """From when nothing that it waits for, its state and its parts keep it; None while something of that isn't known."""
        ashore, launch = ashore_from(self.refit), self.plan.launch
        ready = {
            State.ASHORE: ashore,
            State.AFLOAT_BEFORE: self.plan.now,
            State.EITHER: self.plan.now,
            State.AFLOAT_AFTER: launch,
        }.get(task.state)
        covers = (self.stocks[key].by_task.get(task.id) for key in task.parts)
        if ready is None or any(one is not None and (one.short or one.coming or one.away) for one in covers):
            return None
        for link in self.waits[task.id]:
            first = self.refit.tasks.get(link.first)
            if first is None or link.kind not in (LinkKind.FS, LinkKind.SS):
                continue
            ends = first.done_at or (self.at[first.id].end if first.id in self.at else None)
            if ends is None:
                return None
            ready = max(ready, ends + timedelta(hours=link.min_lag))
        return ready


def _run(free: list[int], need: int, *, whole: bool) -> list[int]:
    """The first ``need`` of some slots; without a gap between them where it is done in one go. Empty where there is none."""
    if not whole:
        return free[:need] if len(free) >= need else []
    for at in range(len(free) - need + 1):
        if free[at + need - 1] - free[at] == need - 1:
            return free[at : at + need]
    return []


@dataclass(frozen=True, slots=True)
class StayDay:
    """One past day of a stay: hours that were planned for them, and that they logged."""

    day: date
    planned: float
    worked: float


def stay_done(
    refit: Refit, visit: Visit, planned: Callable[[date], Iterable[PlannedTask]], now: datetime
) -> list[StayDay]:
    """What a stay came to, day by day until now: planned against worked. planned: what was planned for a day."""
    today = now.astimezone(refit.yard.zone).date()
    out = []
    for n in range((min(visit.last, today) - visit.first).days + 1):
        day = visit.first + timedelta(days=n)
        rows = the_day(refit, day, planned(day), now).rows
        hoped = sum(row.planned.get(visit.person or "", 0.0) for row in rows)
        out.append(StayDay(day, hoped, sum(row.worked.get(visit.person or "", 0.0) for row in rows)))
    return out


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
