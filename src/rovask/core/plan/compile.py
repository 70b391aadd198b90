"""Compile a refit to a Problem: calendars, crews, parts, states, pins, and what is done or under way.

What can't be planned at all (nobody with the skill, no room, a part that comes too late) is named in
``collisions`` and left out with everything that waits for it, so that the rest still gets a plan.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import datetime, timedelta

import numpy as np

from rovask.core.calendar import Mask, SlotGrid, slots_of
from rovask.core.choices import LinkKind, Need, PartStatus, Role, State
from rovask.core.model import Job, Link, Part, Refit, Task
from rovask.core.plan.crews import crews_for, may_do
from rovask.core.plan.problem import FIRST_TASK, FS, HAUL_NODE, LAUNCH_NODE, NO_MAX, Problem
from rovask.core.plan.result import Collision, CollisionKind
from rovask.core.references import HAUL, LAUNCH

OVERRUN_DAYS = 45
FIT_CHECK = timedelta(minutes=30)
_NEED = {Need.MUST: 0, Need.SHOULD: 1, Need.COULD: 2}
_VALUE = {Need.MUST: 0, Need.SHOULD: 30, Need.COULD: 10}
_KIND = {LinkKind.FS: 0, LinkKind.SS: 1, LinkKind.FF: 2, LinkKind.SF: 3}


def grid_of(refit: Refit, now: datetime) -> SlotGrid:
    """The half-hours a plan of ``refit`` may use: from haul or preparation to well past the launch."""
    zone = refit.yard.zone
    first = refit.haul_at.astimezone(zone).date()
    if refit.prepare_from:
        first = min(first, refit.prepare_from)
    begun = [task.begun_at for task in refit.tasks.values() if task.begun_at]
    if begun:
        first = min(first, min(begun).astimezone(zone).date())
    last = max(refit.launch_at, now).astimezone(zone).date() + timedelta(days=OVERRUN_DAYS)
    return SlotGrid(zone, first, last)


def ready_at(part: Part, now: datetime) -> datetime | None:
    """When a part is aboard and tried for fit; None if it already is.

    A parcel that is overdue is assumed to come a day from now, until somebody says otherwise; one that
    isn't ordered yet is assumed to be ordered now.
    """
    if part.status is PartStatus.CHECKED:
        return None
    if part.status is PartStatus.ABOARD:
        return now + FIT_CHECK
    if part.status is PartStatus.NEEDED:
        return now + timedelta(days=part.lead_days) + FIT_CHECK
    arrives = part.arrives or now
    return (arrives if arrives > now else now + timedelta(days=1)) + FIT_CHECK


def must_jobs(refit: Refit) -> set[str]:
    """Ids of the jobs that hold the launch: must-jobs, jobs begun (opened is to be closed), and what those wait for."""
    must = {job.id for job in refit.jobs if job.need is Need.MUST or any(task.begun_at for task in job.tasks)}
    job_of = {task: job.id for task, job in refit.job_of.items()}
    waits: dict[str, set[str]] = defaultdict(set)
    for link in refit.links:
        if link.first in job_of and link.then in job_of:
            waits[job_of[link.then]].add(job_of[link.first])
    todo = list(must)
    while todo:
        for before in waits[todo.pop()]:
            if before not in must:
                must.add(before)
                todo.append(before)
    return must


@dataclass
class _Calendars:
    """Calendars by content, so that crews with the same hours share one."""

    horizon: int
    index: dict[bytes, int] = field(default_factory=dict)
    masks: list[Mask] = field(default_factory=list)
    seen: dict[int, int] = field(default_factory=dict)

    def add(self, mask: Mask) -> int:
        """The number of a calendar; the masks of _Hours live as long as this, so their id() will do."""
        if id(mask) not in self.seen:
            self.seen[id(mask)] = self._by_content(mask)
        return self.seen[id(mask)]

    def _by_content(self, mask: Mask) -> int:
        key = mask.tobytes()
        if key not in self.index:
            self.index[key] = len(self.masks)
            self.masks.append(mask)
        return self.index[key]

    def arrays(self) -> tuple[np.ndarray, np.ndarray]:
        rank = np.zeros((len(self.masks), self.horizon + 1), dtype=np.int32)
        pos = np.full((len(self.masks), self.horizon + 1), self.horizon, dtype=np.int32)
        for row, mask in enumerate(self.masks):
            rank[row, 1:] = np.cumsum(mask)
            where = np.flatnonzero(mask)
            pos[row, : len(where)] = where
        return rank, pos


@dataclass
class _Hours:
    """Working half-hours of each person and of the yard."""

    person: dict[str, Mask]
    ashore: Mask
    fitting: dict[tuple[str | None, int, tuple[str, ...]], list[tuple[str, ...]]] = field(default_factory=dict)
    crews: dict[tuple[tuple[str, ...], bool], Mask] = field(default_factory=dict)

    @classmethod
    def of(cls, refit: Refit, grid: SlotGrid) -> _Hours:
        person = {who.id: grid.hours_of(who) for who in refit.people}
        for meeting in refit.appointments:
            lo = max(grid.floor(meeting.at), 0)
            hi = max(grid.ceil(meeting.at + timedelta(hours=meeting.hours)), 0)
            for who in meeting.people:
                person[who][lo:hi] = False
        ashore = grid.open_slots(refit.yard.hours) if refit.yard.hours else np.ones(grid.size, dtype=np.bool_)
        grid.close(ashore, refit.yard.closed)
        return cls(person, ashore)

    def crews_of(self, refit: Refit, task: Task) -> list[tuple[str, ...]]:
        """Crews for a task, worked out once for all tasks alike; one under way keeps the people who began it."""
        if task.is_under_way and task.crew:
            return [task.crew]
        key = (task.skill, task.hands, task.people)
        if key not in self.fitting:
            self.fitting[key] = crews_for(refit, task)
        return self.fitting[key]

    def of_crew(self, crew: tuple[str, ...], task: Task) -> Mask:
        """Half-hours in which all of ``crew`` work on ``task``; one array for all tasks alike."""
        key = (crew, task.state is State.ASHORE)
        if key not in self.crews:
            mask = self.ashore.copy() if key[1] else np.ones_like(self.ashore)
            for who in crew:
                mask &= self.person[who]
            self.crews[key] = mask
        return self.crews[key]


def _dependents(refit: Refit, lost: set[str]) -> set[str]:
    """``lost`` and every task that waits for one of them, through any tie."""
    after: dict[str, list[str]] = defaultdict(list)
    for link in refit.links:
        after[link.first].append(link.then)
    out, todo = set(lost), list(lost)
    while todo:
        for then in after[todo.pop()]:
            if then not in out and then not in (HAUL, LAUNCH) and refit.tasks[then].begun_at is None:
                out.add(then)
                todo.append(then)
    return out


def _nobody(refit: Refit, task: Task) -> str:
    fit = [who.name for who in refit.people if may_do(who, task)]
    wants = f"{task.hands} with the skill {task.skill!r}" if task.skill else f"{task.hands} pair(s) of hands"
    have = f"only {', '.join(fit)}" if fit else "nobody"
    return f"“{task.title}” needs {wants}, and {have} can do it"


def _enough(mask: Mask, refit: Refit, task: Task) -> bool:
    """Whether the working half-hours in ``mask`` hold what the task still takes."""
    slots = slots_of(refit.hours_to_do(task))
    if not task.unbroken or task.begun_at:
        return int(mask.sum()) >= slots
    edges = np.flatnonzero(np.diff(np.concatenate([[0], mask.astype(np.int8), [0]])))
    return bool((edges[1::2] - edges[::2] >= slots).any())


def _impossible(refit: Refit, grid: SlotGrid, hours: _Hours, now: datetime) -> list[Collision]:
    """Tasks that no plan can hold, whatever the rest does."""
    out = []
    for task in refit.tasks.values():
        if task.done_at:
            continue
        place = refit.place_by_id[task.place]
        crews = hours.crews_of(refit, task)
        kind, why = CollisionKind.HANDS, ""
        lo = max(grid.ceil(now), 0)
        if task.state is State.AFLOAT_AFTER:
            lo = max(lo, grid.ceil(refit.launch_at))
        if place.capacity < task.hands and not task.begun_at:
            kind = CollisionKind.PLACE
            why = f"“{task.title}” takes {task.hands} hands, and {place.name} has room for {place.capacity}"
        elif not crews:
            why = _nobody(refit, task)
        elif not any(_enough(hours.of_crew(crew, task)[lo:], refit, task) for crew in crews):
            names = ", ".join(sorted({refit.persons[who].name for crew in crews for who in crew}))
            why = (
                f"“{task.title}” takes {refit.hours_to_do(task):g} h{' in one go' * task.unbroken} "
                f"of {names}, and they have no such hours left"
            )
        else:
            late = [
                part
                for key in task.parts
                if (part := refit.part_by_id[key])
                and (ready := ready_at(part, now))
                and grid.ceil(ready) >= grid.size
                and not task.begun_at
            ]
            if late:
                kind = CollisionKind.PART
                why = f"“{task.title}” waits for {late[0].name}, which comes too late for any plan"
        if why:
            out.append(Collision(kind=kind, tasks=(task.id,), sentence=why + "."))
    return out


def compile_refit(refit: Refit, now: datetime, collisions: Iterable[Collision] = ()) -> Problem:
    """Compile ``refit`` as it stands at ``now`` (aware). O(tasks x crews x slots).

    collisions: what is already known to be impossible; those tasks and what waits for them are left out.
    """
    grid = grid_of(refit, now)
    hours = _Hours.of(refit, grid)
    horizon = grid.size
    found = [*collisions, *_impossible(refit, grid, hours, now)]
    lost = {task for item in found for task in item.tasks}
    unplanned = _dependents(refit, lost)

    tasks = [(job, task) for job, task in refit.walk() if task.id not in unplanned]
    ids = tuple(task.id for _, task in tasks)
    node = {HAUL: HAUL_NODE, LAUNCH: LAUNCH_NODE} | {key: n + FIRST_TASK for n, key in enumerate(ids)}
    n = len(tasks) + FIRST_TASK
    now_slot = max(grid.ceil(now), 0)
    haul, launch = grid.ceil(refit.haul_at), grid.ceil(refit.launch_at)

    work, hands, unbroken = (np.zeros(n, dtype=np.int64) for _ in range(3))
    release, deadline = np.zeros(n, dtype=np.int64), np.full(n, horizon, dtype=np.int64)
    fixed_start, fixed_end = np.full(n, -1, dtype=np.int64), np.full(n, -1, dtype=np.int64)
    need, job_at, place = (np.full(n, value, dtype=np.int64) for value in (0, -1, -1))
    must = must_jobs(refit)
    job_index = {job.id: at for at, job in enumerate(refit.jobs)}
    place_index = {item.id: at for at, item in enumerate(refit.places)}
    person_index = {who.id: at for at, who in enumerate(refit.people)}

    fixed_start[HAUL_NODE] = fixed_end[HAUL_NODE] = haul
    release[LAUNCH_NODE] = max(launch, now_slot) if now_slot > launch else launch
    if now_slot > launch:  # the slot has passed: afloat already, or the launch was missed
        release[LAUNCH_NODE] = launch if not _ashore_left(tasks) else now_slot

    calendars = _Calendars(horizon)
    every_hour = np.ones(horizon, dtype=np.bool_)
    always = calendars.add(every_hour)
    modes: list[tuple[int, tuple[str, ...], int]] = []
    mode_lo, mode_hi = np.zeros(n, dtype=np.int64), np.zeros(n, dtype=np.int64)
    for milestone in (HAUL_NODE, LAUNCH_NODE):
        mode_lo[milestone], mode_hi[milestone] = milestone, milestone + 1
        modes.append((always, (), 0))

    for job, task in tasks:
        at = node[task.id]
        work[at] = slots_of(refit.hours_to_do(task))
        hands[at] = task.hands
        unbroken[at] = task.unbroken and not task.begun_at  # once begun, its pause is a fact
        need[at] = 0 if job.id in must else _NEED[job.need]
        job_at[at], place[at] = job_index[job.id], place_index[task.place]
        release[at] = now_slot
        mode_lo[at] = len(modes)
        if task.done_at and task.begun_at:
            fixed_start[at] = grid.ceil(task.begun_at)
            fixed_end[at] = max(grid.ceil(task.done_at), fixed_start[at])
            modes.append((always, task.crew, 0))
        elif task.begun_at:
            fixed_start[at] = grid.ceil(task.begun_at)
            modes += _modes(refit, task, hours, calendars)
        else:
            release[at] = _release(refit, task, grid, now, now_slot, haul)
            if task.pin and grid.ceil(task.pin) >= now_slot:
                # A pin is where the sailor wants it; what else holds the task must hold it there too.
                release[at] = max(release[at], grid.ceil(task.pin))
                deadline[at] = grid.ceil(task.pin)
            modes += _modes(refit, task, hours, calendars)
        mode_hi[at] = len(modes)

    rank, pos = calendars.arrays()
    widest = max([1, *(len(crew) for _, crew, _ in modes)])
    people = np.full((len(modes), widest), -1, dtype=np.int64)
    for row, (_, crew, _) in enumerate(modes):
        people[row, : len(crew)] = [person_index[who] for who in crew]
    return Problem(
        grid=grid,
        now=now_slot,
        launch_at=launch,
        tasks=ids,
        jobs=tuple(job.id for job in refit.jobs),
        people=tuple(who.id for who in refit.people),
        work=work,
        unbroken=unbroken,
        release=release,
        deadline=deadline,
        fixed_start=fixed_start,
        fixed_end=fixed_end,
        need=need,
        job=job_at,
        place=place,
        hands=hands,
        value=_values(refit),
        mode_lo=mode_lo,
        mode_hi=mode_hi,
        mode_calendar=np.array([calendar for calendar, _, _ in modes], dtype=np.int64),
        mode_people=people,
        mode_penalty=np.array([penalty for _, _, penalty in modes], dtype=np.int64),
        rank=rank,
        pos=pos,
        arcs=_arcs(refit, tasks, node),
        place_capacity=np.array([item.capacity for item in refit.places], dtype=np.int64),
        horizon=horizon,
        unplanned=tuple(key for key in refit.tasks if key in unplanned),
        collisions=tuple(found),
    )


def _ashore_left(tasks: list[tuple[Job, Task]]) -> bool:
    return any(task.state is State.ASHORE and not task.done_at for _, task in tasks)


def _values(refit: Refit) -> np.ndarray:
    """What leaving each job out costs: its need, and a little for each task in it."""
    return np.array([_VALUE[job.need] + len(job.tasks) for job in refit.jobs] or [0], dtype=np.int64)


def _release(refit: Refit, task: Task, grid: SlotGrid, now: datetime, now_slot: int, haul: int) -> int:
    """The first slot a task may start in, by the clock, the haul and its parts."""
    earliest = max(now_slot, haul) if task.state is State.ASHORE else now_slot
    for key in task.parts:
        ready = ready_at(refit.part_by_id[key], now)
        if ready is not None:
            earliest = max(earliest, grid.ceil(ready))
    return earliest


def _modes(refit: Refit, task: Task, hours: _Hours, calendars: _Calendars) -> list[tuple[int, tuple[str, ...], int]]:
    """One mode for each crew. The penalty (slots) keeps paid and skilled people for what needs them."""
    out = []
    for crew in hours.crews_of(refit, task):
        penalty = 0
        for who in crew:
            person = refit.persons[who]
            penalty += 4 if person.role in (Role.TRADE, Role.YARD) else 0
            penalty += 1 if task.skill is None and person.skills else 0
        out.append((calendars.add(hours.of_crew(crew, task)), crew, penalty))
    return out


def _happened(refit: Refit, link: Link) -> bool:
    """Whether the later event of a tie lies in the past already."""
    if link.then == HAUL:
        return False
    task = refit.tasks.get(link.then)
    if task is None:
        return False
    to_start = link.kind in (LinkKind.FS, LinkKind.SS)
    return (task.begun_at if to_start else task.done_at) is not None


def _fact(refit: Refit, link: Link) -> datetime | None:
    """The moment of the earlier event of a tie, if it has happened."""
    task = refit.tasks.get(link.first)
    if task is None:
        return None
    return task.done_at if link.kind in (LinkKind.FS, LinkKind.FF) else task.begun_at


def _arcs(refit: Refit, tasks: list[tuple[Job, Task]], node: dict[str, int]) -> np.ndarray:
    """Ties between planned tasks, and what every state implies about the haul and the launch.

    A tie whose later event has happened already is a fact and left out. Facts are rounded up to the grid,
    so a maximum that runs from one off the grid loses a slot.
    """
    rows = []
    for link in refit.links:
        if link.first not in node or link.then not in node or _happened(refit, link):
            continue
        high = NO_MAX if link.max_lag is None else slots_of(link.max_lag)
        base = _fact(refit, link)
        if high > 0 and base is not None and base.minute % 30 + base.second + base.microsecond:
            high -= 1
        rows.append((node[link.first], node[link.then], _KIND[link.kind], slots_of(link.min_lag), high))
    for _, task in tasks:
        if task.done_at:
            continue
        if task.state is State.ASHORE:
            rows.append((node[task.id], LAUNCH_NODE, FS, 0, NO_MAX))
        elif task.state is State.AFLOAT_AFTER:
            rows.append((LAUNCH_NODE, node[task.id], FS, 0, NO_MAX))
        elif task.state is State.AFLOAT_BEFORE and not task.begun_at:
            rows.append((node[task.id], HAUL_NODE, FS, 0, NO_MAX))
    return np.array(rows, dtype=np.int64).reshape(-1, 5)
