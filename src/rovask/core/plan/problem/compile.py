"""Compile a refit to a Problem: calendars, crews, parts, states, pins, and what is done or under way.

What can't be planned at all (nobody with the skill, no room, a part that comes too late) is named in
``collisions`` and left out with everything that waits for it, so that the rest still gets a plan.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any

import numpy as np

from rovask.core.plan.problem.arrays import (
    FIRST_TASK,
    FOREVER,
    FS,
    HAUL_NODE,
    LAUNCH_NODE,
    LIFT_NODE,
    NO_MAX,
    Arrays,
    Ints,
    Problem,
    by_node,
)
from rovask.core.plan.problem.calendar import SlotGrid, slots_of
from rovask.core.plan.problem.hours import Calendars, Hours
from rovask.core.plan.problem.impossible import impossible
from rovask.core.plan.problem.rivals import rivalries
from rovask.core.plan.problem.sky import dry_run
from rovask.core.plan.problem.ties import Tie, ties_of
from rovask.core.plan.problem.value import CALL_OUT_DAY, REFIT_WEIGHTS, with_weights
from rovask.core.plan.problem.windows import hanging_on_launch
from rovask.core.plan.result import Collision, Plan
from rovask.core.refit.choices import LinkKind, Need, PartStatus, Role, State
from rovask.core.refit.jobs import HAUL, LAUNCH
from rovask.core.refit.model import Job, Part, Refit, Task

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


def must_jobs(refit: Refit, ties: Iterable[Tie]) -> set[str]:
    """Ids of the jobs that hold the launch: must-jobs, jobs begun (opened is to be closed), and what those wait for."""
    must = {job.id for job in refit.jobs if job.need is Need.MUST or any(task.begun_at for task in job.tasks)}
    job_of = {task: job.id for task, job in refit.job_of.items()}
    waits: dict[str, set[str]] = defaultdict(set)
    for tie in ties:
        if tie.first in job_of and tie.then in job_of:
            waits[job_of[tie.then]].add(job_of[tie.first])
    todo = list(must)
    while todo:
        for before in waits[todo.pop()]:
            if before not in must:
                must.add(before)
                todo.append(before)
    return must


def _dependents(refit: Refit, ties: Iterable[Tie], lost: set[str]) -> set[str]:
    """``lost`` and every task that waits for one of them, through any tie; what takes a service out goes with its undoing."""
    after: dict[str, list[str]] = defaultdict(list)
    for tie in ties:
        after[tie.first].append(tie.then)
    for task in refit.tasks.values():
        if task.until:
            after[task.until].append(task.id)
    out, todo = set(lost), list(lost)
    while todo:
        for then in after[todo.pop()]:
            if then not in out and then not in (HAUL, LAUNCH) and refit.tasks[then].begun_at is None:
                out.add(then)
                todo.append(then)
    return out


def compile_refit(
    refit: Refit,
    now: datetime,
    collisions: Iterable[Collision] = (),
    missed: Iterable[str] = (),
    before: Plan | None = None,
    still: bool = True,
) -> Problem:
    """Compile ``refit`` as it stands at ``now`` (aware). O(tasks x crews x slots).

    collisions: what is already known to be impossible; those tasks and what waits for them are left out.
    missed: links whose longest wait is given up for their make-good work.
    before: the plan so far, whose places near tasks should keep; still: whether leaving them costs anything.
    """
    return _Compiler(refit, now, tuple(missed)).problem(collisions, before, still)


class _Compiler:
    """One compilation; its parts fill the arrays of one Problem."""

    def __init__(self, refit: Refit, now: datetime, missed: tuple[str, ...]) -> None:
        self.refit, self.now, self.missed = refit, now, missed
        self.grid = grid_of(refit, now)
        self.hours = Hours.of(refit, self.grid)
        self.ties = ties_of(refit, now)
        self.must = must_jobs(refit, self.ties)
        self.now_slot = max(self.grid.ceil(now), 0)
        self.haul, self.launch = self.grid.ceil(refit.haul_at), self.grid.ceil(refit.launch_at)
        self.people = {who.id: at for at, who in enumerate(refit.people)}
        self.dear = {who.id: 4 if who.role in (Role.TRADE, Role.YARD) else 0 for who in refit.people}
        self.skilled = {who.id: bool(who.skills) for who in refit.people}

    def problem(self, collisions: Iterable[Collision], before: Plan | None, still: bool) -> Problem:
        refit, grid = self.refit, self.grid
        found = [*collisions, *impossible(refit, grid, self.hours, self.now, ready_at)]
        lost = {task for item in found for task in item.tasks}
        unplanned = _dependents(refit, self.ties, lost)
        tasks = [(job, task) for job, task in refit.walk() if task.id not in unplanned]
        ids = tuple(task.id for _, task in tasks)
        node = {HAUL: HAUL_NODE, LAUNCH: LAUNCH_NODE} | {key: n + FIRST_TASK for n, key in enumerate(ids)}
        arcs, arc_link = self._arcs(tasks, node)
        before_launch = np.zeros(len(tasks) + FIRST_TASK, dtype=np.int64)
        for first, then, kind, *_ in arcs.tolist():
            before_launch[first] |= then in (LAUNCH_NODE, LIFT_NODE) and kind == FS
        before_launch[[node[task.id] for _, task in tasks if task.state is State.SLINGS]] = 0
        pointer, index = by_node(len(tasks) + FIRST_TASK, arcs)
        columns, crews = self._nodes(tasks, node)
        resources, uses = self._uses(tasks)
        arrays = Arrays(
            **columns,
            **uses,
            **self._rivals(node),
            **self._days(),
            **self._anchors(node, crews, columns["mode_lo"], before),
            arcs=arcs,
            before=before_launch,
            arc_ptr=pointer,
            arc_idx=index,
            sky_run=self._sky(),
            outages=self._outages(node),
            weights=with_weights(REFIT_WEIGHTS, still=still),
            now=self.now_slot,
            launch_at=self.launch,
        )
        made = Problem(
            grid=grid,
            arrays=arrays,
            tasks=ids,
            jobs=tuple(job.id for job in refit.jobs),
            people=tuple(self.people),
            resources=resources,
            arc_link=arc_link,
            missed=self.missed,
            unplanned=tuple(key for key in refit.tasks if key in unplanned),
            collisions=tuple(found),
        )
        # what lies where the launch puts it doesn't say when the must-work ends
        waiting = np.where(hanging_on_launch(made), 0, before_launch)
        return replace(made, arrays=arrays._replace(before=waiting))

    def _nodes(
        self, tasks: list[tuple[Job, Task]], node: dict[str, int]
    ) -> tuple[dict[str, Any], list[tuple[str, ...]]]:
        """Everything with a value for each node or mode, by name; and the crew of each mode."""
        refit, grid = self.refit, self.grid
        n, horizon = len(tasks) + FIRST_TASK, grid.size
        zeros = ("work", "release", "need", "sky", "tender", "whole", "mode_lo", "mode_hi")
        out: dict[str, Any] = {name: np.zeros(n, dtype=np.int64) for name in zeros}
        for name, value in (
            ("longest", FOREVER),
            ("deadline", horizon),
            ("fixed_start", -1),
            ("fixed_end", -1),
            ("job", -1),
        ):
            out[name] = np.full(n, value, dtype=np.int64)
        job_index = {job.id: at for at, job in enumerate(refit.jobs)}
        limits = {limit.service: slots_of(limit.hours) for limit in refit.outage_limits}
        more: dict[str, int] = defaultdict(int)
        for tie in self.ties:
            if tie.link in self.missed:
                more[tie.then] += tie.make_good
        out["fixed_start"][HAUL_NODE] = out["fixed_end"][HAUL_NODE] = self.haul
        slot = self.launch  # once it has passed: afloat already, or the launch was missed
        if self.now_slot > self.launch and _ashore_left(tasks):
            slot = self.now_slot
        out["release"][LAUNCH_NODE] = slot

        calendars = Calendars(horizon)
        always = calendars.add(np.ones(horizon, dtype=np.bool_))
        modes: list[tuple[int, tuple[str, ...], int]] = []
        for milestone in range(FIRST_TASK):
            out["mode_lo"][milestone], out["mode_hi"][milestone] = milestone, milestone + 1
            modes.append((always, (), 0))
        # lists, for single numbers are slow to write into arrays
        columns = {name: array.tolist() for name, array in out.items()}
        work, need, jobs, release = columns["work"], columns["need"], columns["job"], columns["release"]
        longest, sky, tender, whole = columns["longest"], columns["sky"], columns["tender"], columns["whole"]
        fixed_start, fixed_end, deadline = columns["fixed_start"], columns["fixed_end"], columns["deadline"]
        mode_lo, mode_hi = columns["mode_lo"], columns["mode_hi"]
        for job, task in tasks:
            at = node[task.id]
            work[at] = slots_of(self.refit.hours_to_do(task)) + (more[task.id] if not task.begun_at else 0)
            need[at] = 0 if job.id in self.must else _NEED[job.need]
            jobs[at] = job_index[job.id]
            release[at] = self.now_slot
            mode_lo[at] = len(modes)
            if not task.begun_at:  # of what is begun, the pause is a fact
                outage = [limits[service] for service in task.takes_out if service in limits and not task.until]
                unbroken = [work[at]] if task.unbroken else []
                longest[at] = min([FOREVER, *outage, *unbroken])
            if task.weather is not None and task.weather.dry and not task.done_at:
                sky[at], tender[at] = 1, slots_of(task.tender)
                whole[at] = int(not task.weather.coverable and not task.begun_at)
            if task.done_at and task.begun_at:
                fixed_start[at] = grid.ceil(task.begun_at)
                fixed_end[at] = max(grid.ceil(task.done_at), fixed_start[at])
                modes.append((always, task.crew, 0))
            elif task.begun_at:
                fixed_start[at] = grid.ceil(task.begun_at)
                modes += self._modes(task, calendars)
            else:
                release[at] = self._release(task)
                if task.pin and grid.ceil(task.pin) >= self.now_slot:
                    # A pin is where the sailor wants it; what else holds the task must hold it there too.
                    release[at] = max(release[at], grid.ceil(task.pin))
                    deadline[at] = grid.ceil(task.pin)
                modes += self._modes(task, calendars)
            mode_hi[at] = len(modes)
        out = {name: np.array(values, dtype=np.int64) for name, values in columns.items()}
        out["rank"], out["pos"] = calendars.arrays()
        widest = max([1, *(len(crew) for _, crew, _ in modes)])
        out["mode_people"] = np.full((len(modes), widest), -1, dtype=np.int64)
        for row, (_, crew, _) in enumerate(modes):
            out["mode_people"][row, : len(crew)] = [self.people[who] for who in crew]
        out["mode_calendar"] = np.array([calendar for calendar, _, _ in modes], dtype=np.int64)
        out["mode_penalty"] = np.array([penalty for _, _, penalty in modes], dtype=np.int64)
        out["value"] = _values(refit)
        return out, [crew for _, crew, _ in modes]

    def _release(self, task: Task) -> int:
        """The first slot a task may start in, by the clock, the haul and its parts."""
        ashore = task.state in (State.ASHORE, State.SLINGS)
        earliest = max(self.now_slot, self.haul) if ashore else self.now_slot
        for key in task.parts:
            ready = ready_at(self.refit.part_by_id[key], self.now)
            if ready is not None:
                earliest = max(earliest, self.grid.ceil(ready))
        return earliest

    def _modes(self, task: Task, calendars: Calendars) -> list[tuple[int, tuple[str, ...], int]]:
        """One mode for each crew. The penalty (slots) keeps paid and skilled people for what needs them."""
        plain = task.skill is None and not task.skilled
        crews = self.hours.crews_of(task)
        return [
            (calendars.add(mask), crew, sum(self.dear[who] + (plain and self.skilled[who]) for who in crew))
            for crew, mask in zip(crews, self.hours.of_crews(crews, task), strict=True)
        ]

    def _uses(self, tasks: list[tuple[Job, Task]]) -> tuple[tuple[str, ...], dict[str, Any]]:
        """Places and equipment: what there is, and what each node takes of it."""
        resources = [(place.id, place.capacity) for place in self.refit.places]
        resources += [(item.id, item.count) for item in self.refit.gear]
        places = {place.id: at for at, place in enumerate(self.refit.places)}
        gear = {item.id: at + len(places) for at, item in enumerate(self.refit.gear)}
        pointer, what, amount = [0] * (FIRST_TASK + 1), [], []
        for _, task in tasks:
            what += [places[task.place], *(gear[key] for key in dict.fromkeys(task.gear))]
            amount += [task.hands, *(1 for _ in dict.fromkeys(task.gear))]
            pointer.append(len(what))
        return tuple(key for key, _ in resources), {
            "use_ptr": np.array(pointer, dtype=np.int64),
            "use_what": np.array(what, dtype=np.int64),
            "use_amount": np.array(amount, dtype=np.int64),
            "capacity": np.array([count for _, count in resources], dtype=np.int64),
        }

    def _rivals(self, node: dict[str, int]) -> dict[str, Any]:
        """What must not overlap, both ways round; of two that are done nothing is left to say."""
        rows: list[list[tuple[int, int, int]]] = [[] for _ in range(len(node) + 1)]
        for pair in rivalries(self.refit):
            if pair.first not in node or pair.then not in node:
                continue
            first, then = node[pair.first], node[pair.then]
            rows[first].append((then, pair.first_after, pair.then_after))
            rows[then].append((first, pair.then_after, pair.first_after))
        flat = np.array([row for found in rows for row in found], dtype=np.int64).reshape(-1, 3)
        return {
            "rival_ptr": np.cumsum([0, *(len(found) for found in rows)], dtype=np.int64),
            "rival": flat[:, 0].copy(),
            "rival_mine": flat[:, 1].copy(),
            "rival_theirs": flat[:, 2].copy(),
        }

    def _days(self) -> dict[str, Any]:
        """Local days, who has worked on them, and who must not work too many on end."""
        refit, grid = self.refit, self.grid
        days = grid.days()
        starts = grid.day_starts()
        worked = np.zeros((max(len(refit.people), 1), len(days)), dtype=np.int64)
        index = {day: at for at, day in enumerate(days)}
        zone = refit.yard.zone
        facts = [(entry.person, entry.at) for entry in refit.hours_log]
        for task in refit.tasks.values():
            facts += [(who, at) for who in task.crew for at in (task.begun_at, task.done_at) if at]
        for who, at in facts:
            day = index.get(at.astimezone(zone).date())
            if day is not None:
                worked[self.people[who], day] = 1
        rested = [self.hours.longest_run(person) for person in refit.people]
        paid = [CALL_OUT_DAY if person.rate else 0 for person in refit.people]
        return {
            "longest_run": np.array(rested or [0], dtype=np.int64),
            "worked": worked,
            "day_of": np.searchsorted(starts, np.arange(grid.size + 1), side="right").astype(np.int64) - 1,
            "day_slot": starts,
            "day_cost": np.array(paid or [0], dtype=np.int64),
        }

    def _sky(self) -> np.ndarray:
        """Row 0 for what needs no weather, row 1 for what must stay dry."""
        wide = np.full(self.grid.size + 1, FOREVER, dtype=np.int32)
        return np.array([wide, dry_run(self.grid, self.refit.weather)])

    def _outages(self, node: dict[str, int]) -> Ints:
        """What takes a service out, and what gives it back."""
        rows = [
            (node[task.id], node[task.until or task.id], len(task.takes_out))
            for task in self.refit.tasks.values()
            if task.takes_out and not task.done_at and task.id in node and (task.until or task.id) in node
        ]
        return np.array(rows, dtype=np.int64).reshape(-1, 3)

    def _anchors(
        self, node: dict[str, int], crews: list[tuple[str, ...]], mode_lo: Ints, before: Plan | None
    ) -> dict[str, Any]:
        """Where the plan before had each node, and the mode of the people it had."""
        anchor = np.full(len(node) + 1, -1, dtype=np.int64)
        people = anchor.copy()
        for item in before.assignments if before else ():
            at = node.get(item.task)
            if at is None or item.start < self.now:
                continue
            anchor[at] = self.grid.ceil(item.start)
            crew = set(item.people)
            for mode in range(int(mode_lo[at]), len(crews)):
                if at + 1 < len(mode_lo) and mode >= mode_lo[at + 1]:
                    break
                if set(crews[mode]) == crew:
                    people[at] = mode
                    break
        return {"anchor": anchor, "anchor_mode": people}

    def _arcs(self, tasks: list[tuple[Job, Task]], node: dict[str, int]) -> tuple[Ints, tuple[str, ...]]:
        """Ties between planned tasks, and what every state implies about the haul, the lift and the launch.

        A tie whose later event has happened already is a fact and left out. Facts are rounded up to the grid,
        so a maximum that runs from one off the grid loses a slot.
        """
        rows, links = [], []
        for tie in self.ties:
            if tie.first not in node or tie.then not in node or self._happened(tie):
                continue
            high = NO_MAX if tie.high is None or tie.link in self.missed else tie.high
            base = self._fact(tie)
            if high > 0 and base is not None and base.minute % 30 + base.second + base.microsecond:
                high -= 1
            rows.append((node[tie.first], node[tie.then], _KIND[tie.kind], tie.low, high))
            links.append(tie.link)
        lifted = [task for _, task in tasks if task.state is State.SLINGS and not task.done_at]
        for _, task in tasks:
            at = node[task.id]
            if task.done_at:
                continue
            if task.state is State.ASHORE:
                rows.append((at, LIFT_NODE if lifted else LAUNCH_NODE, FS, 0, NO_MAX))
            elif task.state is State.SLINGS:
                rows.append((at, LAUNCH_NODE, FS, 0, NO_MAX))
                if not task.begun_at:
                    rows.append((LIFT_NODE, at, FS, 0, NO_MAX))
            elif task.state is State.AFLOAT_AFTER:
                rows.append((LAUNCH_NODE, at, FS, 0, NO_MAX))
            elif task.state is State.AFLOAT_BEFORE and not task.begun_at:
                rows.append((at, HAUL_NODE, FS, 0, NO_MAX))
        rows.append((LIFT_NODE, LAUNCH_NODE, FS, 0, slots_of(self.refit.yard.slings_hours) if lifted else NO_MAX))
        return np.array(rows, dtype=np.int64).reshape(-1, 5), (*links, *("" for _ in range(len(rows) - len(links))))

    def _happened(self, tie: Tie) -> bool:
        """Whether the later event of a tie lies in the past already."""
        if tie.then == HAUL:
            return False
        task = self.refit.tasks.get(tie.then)
        if task is None:
            return False
        to_start = tie.kind in (LinkKind.FS, LinkKind.SS)
        return (task.begun_at if to_start else task.done_at) is not None

    def _fact(self, tie: Tie) -> datetime | None:
        """The moment of the earlier event of a tie, if it has happened."""
        task = self.refit.tasks.get(tie.first)
        if task is None:
            return None
        return task.done_at if tie.kind in (LinkKind.FS, LinkKind.FF) else task.begun_at


def _ashore_left(tasks: list[tuple[Job, Task]]) -> bool:
    return any(task.state in (State.ASHORE, State.SLINGS) and not task.done_at for _, task in tasks)


def _values(refit: Refit) -> Ints:
    """What leaving each job out costs: its need, and a little for each task in it."""
    return np.array([_VALUE[job.need] + len(job.tasks) for job in refit.jobs] or [0], dtype=np.int64)
