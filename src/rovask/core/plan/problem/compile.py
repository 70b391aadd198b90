"""Compile a refit to a Problem, in two steps: its structure (structure.py), then its numbers.

The numbers, a Realisation, are how long everything takes, from when it may begin, when whom the calendars let work,
which lags hold and how long it stays dry. ``realised`` puts others into a problem without compiling again.

What can't be planned at all (nobody with the skill, no room, a part that comes too late) is named in
``collisions`` and left out with everything that waits for it, so that the rest still gets a plan.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import replace
from datetime import datetime
from functools import cached_property
from typing import Any

import numpy as np

from rovask.core.plain.half_hours import floored
from rovask.core.plan.problem.arrays import (
    FIRST_TASK,
    FOREVER,
    HAUL_NODE,
    LAUNCH_NODE,
    LIFT_NODE,
    NO_MAX,
    Arrays,
    Ints,
    Problem,
)
from rovask.core.plan.problem.calendar import slots_of
from rovask.core.plan.problem.curing import cure_table, yard_days
from rovask.core.plan.problem.grid import grid_of
from rovask.core.plan.problem.hours import Calendars, Hours
from rovask.core.plan.problem.impossible import impossible
from rovask.core.plan.problem.realisation import Realisation
from rovask.core.plan.problem.rivals import Rivalry, rivalries
from rovask.core.plan.problem.sky import dry_run
from rovask.core.plan.problem.structure import Structure, must_jobs, structure_of
from rovask.core.plan.problem.ties import Tie, ties_of
from rovask.core.plan.problem.value import weights_of, with_weights
from rovask.core.plan.problem.windows import hanging_on_launch
from rovask.core.plan.result import Collision, Plan
from rovask.core.readings.acceptance import looked_at_from, waits_for_look
from rovask.core.readings.ashore import adds_outage
from rovask.core.readings.prices import VALUE_UNIT, call_out, prices_of
from rovask.core.readings.readiness import Ready, ready_times
from rovask.core.refit.givens.slot import ashore_from
from rovask.core.refit.model import Job, Refit, Task
from rovask.core.refit.work.choices import LinkKind, State
from rovask.core.refit.work.kinds import HAUL
from rovask.core.refit.work.make_good import with_make_good


def _dependents(refit: Refit, ties: Iterable[Tie], lost: set[str], must: set[str]) -> set[str]:
    """``lost`` and what goes with it: of the same job whatever waits for it, and what it would have contained.

    Other jobs go on without it. Of a job that may be left out all goes; what takes a service out goes with its undoing.
    """
    job_of = {key: job.id for key, job in refit.job_of.items()}
    after: dict[str, list[str]] = defaultdict(list)
    for tie in ties:
        if tie.soft:
            continue
        if tie.then in job_of and (not tie.link or job_of.get(tie.first) == job_of[tie.then]):
            after[tie.first].append(tie.then)
    for task in refit.tasks.values():
        if task.until:
            after[task.until].append(task.id)
    out, todo = set(lost), list(lost)
    while todo:
        key = todo.pop()
        along = after[key]
        if key in job_of and job_of[key] not in must:
            along = [*along, *(task.id for task in refit.job_of[key].tasks)]
        for then in along:
            if then not in out and refit.tasks[then].begun_at is None:
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
    ready: Ready | None = None,
    broken: Iterable[str] = (),
) -> Problem:
    """Compile ``refit`` as it stands at ``now`` (aware). O(tasks x crews x slots).

    collisions: what is already known to be impossible; those tasks and what waits for them are left out.
    missed: links whose longest wait is given up for their make-good work, which is planned as a task of its own.
    broken: links whose longest wait can't be held any more, for what happened is a fact.
    before: the plan so far, whose places near tasks should keep; still: whether leaving them costs anything.
    ready: from when each part can be used; by default as the parts say of themselves.
    """
    return Compiler(refit, now, missed, ready).problem(collisions, before, still, broken)


class Compiler:
    """What every problem of one refit at one moment shares, whatever turns out to collide in it."""

    def __init__(
        self,
        refit: Refit,
        now: datetime,
        missed: Iterable[str] = (),
        ready: Ready | None = None,
        like: Compiler | None = None,
    ) -> None:
        """like: of the same refit and moment with other missed waits; hours, parts and warmth are the same."""
        self.missed, self.broken = tuple(missed), frozenset[str]()
        self.refit, self.now = with_make_good(refit, self.missed), now
        refit = self.refit
        self.ties = ties_of(refit)
        self.ready: Ready
        if like is None:
            self.ready = ready_times(refit, now) if ready is None else ready
            self.grid = grid_of(refit, now)
            self.hours = Hours.of(refit, self.grid)
            warmth = cure_table(self.grid, refit.weather, refit.yard.temperature)
            self.cure = np.stack([warmth, yard_days(self.grid, self.hours.ashore)])
        else:
            self.ready, self.grid, self.hours, self.cure = like.ready, like.grid, like.hours, like.cure
        self.now_slot = max(self.grid.ceil(now), 0)
        self.haul, self.launch = self.grid.ceil(refit.haul_at), self.grid.ceil(refit.launch_at)
        self.ashore = self.grid.ceil(ashore_from(refit))
        self.people = {who.id: at for at, who in enumerate(refit.people)}

    @cached_property
    def impossible(self) -> list[Collision]:
        """The tasks that no plan can hold, whatever the rest does."""
        return impossible(self.refit, self.grid, self.hours, self.now, self.ready)

    @cached_property
    def covering(self) -> frozenset[str]:
        """The tasks that would close in paid work nobody has accepted: somebody looks at it first, tomorrow at the earliest."""
        return frozenset(link.then for link in self.refit.links if waits_for_look(self.refit, link) is not None)

    @cached_property
    def rivals(self) -> list[Rivalry]:
        """What can't stand each other."""
        return rivalries(self.refit)

    def problem(
        self,
        collisions: Iterable[Collision] = (),
        before: Plan | None = None,
        still: bool = True,
        broken: Iterable[str] = (),
    ) -> Problem:
        """One problem; as ``compile_refit``."""
        refit = self.refit
        given_up = tuple(broken)
        self.broken = frozenset(given_up)
        found = [*collisions, *self.impossible]
        lost = {task for item in found for task in item.lost or item.tasks}
        unplanned = _dependents(refit, self.ties, lost, must_jobs(refit, self.ties)) if lost else set()
        made = structure_of(refit, self.now, self.ties, self.hours, self.rivals, unplanned)
        nodes, numbers = self._nodes(made)
        arrays = Arrays(
            **nodes,
            work=numbers.work,
            release=numbers.release,
            need=made.need,
            job=made.job,
            value=made.value,
            mode_lo=made.mode_lo,
            mode_hi=made.mode_hi,
            mode_people=made.mode_people,
            mode_penalty=made.mode_penalty,
            rank=numbers.rank,
            pos=numbers.pos,
            use_ptr=made.use_ptr,
            use_what=made.use_what,
            use_amount=made.use_amount,
            capacity=self._capacity(),
            rival_ptr=made.rival_ptr,
            rival=made.rival,
            rival_mine=made.rival_mine,
            rival_theirs=made.rival_theirs,
            **self._days(),
            **self._anchors(made, before),
            arcs=np.column_stack([made.ends, numbers.low, numbers.high, *_clocks(made.tie)]),
            cure=self.cure,
            before=made.before,
            urgent=made.urgent,
            arc_ptr=made.arc_ptr,
            arc_idx=made.arc_idx,
            sky_run=numbers.sky_run,
            outages=made.outages,
            weights=with_weights(weights_of(prices_of(refit)), still=still),
            now=self.now_slot,
            launch_at=self.launch,
        )
        problem = Problem(
            grid=self.grid,
            arrays=arrays,
            tasks=made.ids,
            jobs=tuple(job.id for job in refit.jobs),
            people=tuple(self.people),
            resources=made.resources,
            arc_link=tuple(tie.link if tie is not None else "" for tie in made.tie),
            crews=made.crews,
            missed=self.missed,
            broken=given_up,
            unplanned=tuple(key for key in refit.tasks if key in unplanned),
            collisions=tuple(found),
        )
        # what lies where the launch puts it doesn't say when the must-work ends
        waiting = np.where(hanging_on_launch(problem), 0, made.before)
        return replace(problem, arrays=arrays._replace(before=waiting))

    def _nodes(self, made: Structure) -> tuple[dict[str, Any], Realisation]:
        """Everything with a number for each node or mode."""
        refit, grid, horizon = self.refit, self.grid, self.grid.size
        limits = {limit.service: slots_of(limit.hours) for limit in refit.outage_limits}
        slot = self.launch  # once it has passed: afloat already, or the launch was missed
        if self.now_slot > self.launch and _ashore_left(made.tasks):
            slot = self.now_slot
        # lists, for single numbers are slow to write into arrays
        size = made.size
        work, release, sky, tender, whole = ([0] * size for _ in range(5))
        longest, deadline, fixed_start, fixed_end = [FOREVER] * size, [horizon] * size, [-1] * size, [-1] * size
        fixed_start[HAUL_NODE] = fixed_end[HAUL_NODE] = self.haul
        release[LAUNCH_NODE] = slot
        release[LIFT_NODE] = self.ashore  # nor does she go back before she stands, with nothing to do there either
        calendars = Calendars(horizon)
        always = calendars.add(np.ones(horizon, dtype=np.bool_))
        mode_calendar = [always] * FIRST_TASK
        mode_calendar[LAUNCH_NODE] = calendars.add(self.hours.launching())
        for at, (_, task) in enumerate(made.tasks, FIRST_TASK):
            work[at] = slots_of(refit.hours_to_do(task))
            release[at] = self.now_slot
            if not task.begun_at:  # of what is begun, the pause is a fact
                outage = [limits[one] for one in adds_outage(refit, task) if one in limits and not task.until]
                unbroken = [work[at]] if task.unbroken else []
                longest[at] = min([FOREVER, *outage, *unbroken])
            if task.weather is not None and task.weather.dry and not task.done_at:
                sky[at], tender[at] = 1, slots_of(task.tender)
                whole[at] = int(not task.weather.coverable and not task.begun_at)
            if task.done_at and task.begun_at:
                fixed_start[at] = grid.ceil(task.begun_at)
                fixed_end[at] = max(grid.ceil(task.done_at), fixed_start[at])
                mode_calendar.append(always)
                continue
            if task.begun_at:
                fixed_start[at] = grid.ceil(task.begun_at)
            else:
                release[at] = self.release_of(task, self.ready)
                if task.pin and grid.ceil(task.pin) >= self.now_slot:
                    # A pin is where the sailor wants it; what else holds the task must hold it there too.
                    release[at] = max(release[at], grid.ceil(task.pin))
                    deadline[at] = grid.ceil(task.pin)
            mode_calendar += calendars.add_all(self.hours.masks_of(task))
        rank, pos = calendars.arrays()
        low, high = self._lags(made)
        columns = {
            "longest": longest,
            "deadline": deadline,
            "fixed_start": fixed_start,
            "fixed_end": fixed_end,
            "sky": sky,
            "tender": tender,
            "whole": whole,
            "mode_calendar": mode_calendar,
        }
        nodes = {name: np.array(values, dtype=np.int64) for name, values in columns.items()}
        numbers = Realisation(
            np.array(work, dtype=np.int64), np.array(release, dtype=np.int64), low, high, rank, pos, self._sky()
        )
        return nodes, numbers

    def release_of(self, task: Task, ready_by_part: Ready) -> int:
        """The first slot a task may start in, by the clock, the haul and when each of its parts is at hand."""
        earliest = self.now_slot
        if task.state in (State.ASHORE, State.SLINGS):
            earliest = max(earliest, self.ashore)
        elif task.state is State.LIFTING:
            earliest = max(earliest, self.haul)
        if task.id in self.covering:
            earliest = max(earliest, self.grid.ceil(looked_at_from(self.now, self.refit.yard.zone)))
        for key in task.parts:
            ready = ready_by_part[task.id, key]
            if ready is not None:
                earliest = max(earliest, self.grid.ceil(ready))
        return earliest

    def _capacity(self) -> Ints:
        """How much there is of each place and piece of equipment."""
        counts = [place.capacity for place in self.refit.places] + [item.count for item in self.refit.gear]
        return np.array(counts, dtype=np.int64)

    def _lags(self, made: Structure) -> tuple[Ints, Ints]:
        """Least and longest lag of each arc. A maximum that runs from a fact off the grid loses a slot."""
        low, high = [], []
        slings = slots_of(self.refit.yard.slings_hours) if made.lifted else NO_MAX
        for tie in made.tie:
            if tie is None:
                low.append(0)
                high.append(NO_MAX)
                continue
            if tie.fixed and self._is_past(tie):
                low.append(-FOREVER)
                high.append(NO_MAX)
                continue
            longest = NO_MAX if tie.high is None or tie.link in self.broken else tie.high
            base = self._fact(tie)
            if longest > 0 and base is not None and floored(base, self.grid.zone) != base:
                at = max(self.grid.ceil(base), 1)
                longest = max(longest - (int(self.cure[0, at] - self.cure[0, at - 1]) if tie.cures else 1), 0)
            low.append(tie.low)
            high.append(longest)
        high[-1] = slings  # the last arc is from the lift to the launch
        return np.array(low, dtype=np.int64), np.array(high, dtype=np.int64)

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
        paid = [call_out(person) * VALUE_UNIT for person in refit.people]
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

    def _anchors(self, made: Structure, before: Plan | None) -> dict[str, Any]:
        """Where the plan before had each node, and the mode of the people it had."""
        anchor = np.full(made.size, -1, dtype=np.int64)
        people = anchor.copy()
        for item in before.assignments if before else ():
            at = made.node.get(item.task)
            begin = item.resume or item.start  # of what is under way: when its people go on with it
            if at is None or begin < self.now:
                continue
            anchor[at] = self.grid.ceil(begin)
            crew = set(item.people)
            modes = range(int(made.mode_lo[at]), int(made.mode_hi[at]))
            people[at] = next((mode for mode in modes if set(made.crews[mode]) == crew), -1)
        return {"anchor": anchor, "anchor_mode": people}

    def _is_past(self, tie: Tie) -> bool:
        """Whether an appointment by which something was to happen is over: late is late, and it is planned all the same."""
        by = -tie.low if tie.then == HAUL else tie.high
        return by is not None and self.haul + by <= self.now_slot

    def _fact(self, tie: Tie) -> datetime | None:
        """The moment of the earlier event of a tie, if it has happened."""
        task = self.refit.tasks.get(tie.first)
        if task is None:
            return None
        return task.done_at if tie.kind in (LinkKind.FS, LinkKind.FF) else task.begun_at


def _clocks(ties: Iterable[Tie | None]) -> tuple[list[int], list[int]]:
    """What the lags of each arc are counted on, and which arcs take nobody along."""
    rows = [(0, 0) if tie is None else (tie.clock, int(tie.soft)) for tie in ties]
    return [clock for clock, _ in rows], [soft for _, soft in rows]


def _ashore_left(tasks: Iterable[tuple[Job, Task]]) -> bool:
    return any(task.state in (State.ASHORE, State.LIFTING, State.SLINGS) and not task.done_at for _, task in tasks)
