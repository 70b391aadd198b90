"""The structure of a problem: which tasks, whose crews, what they share and what ties them. No duration, date or weather.

It is what stays the same when things turn out otherwise. The numbers are the other step (compile.py): thousands of
trials may draw their own for one structure.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from typing import Any

import numpy as np

from rovask.core.plan.problem.arrays import FIRST_TASK, FS, HAUL_NODE, LAUNCH_NODE, LIFT_NODE, Ints, by_node
from rovask.core.plan.problem.hours import Hours
from rovask.core.plan.problem.rivals import Rivalry
from rovask.core.plan.problem.ties import Tie, margin_ties
from rovask.core.readings.ashore import adds_outage, out_ashore
from rovask.core.readings.prices import prices_of
from rovask.core.refit.givens.choices import Role
from rovask.core.refit.model import Job, Refit, Task
from rovask.core.refit.work.choices import LinkKind, Need, State
from rovask.core.refit.work.kinds import HAUL, LAUNCH

_NEED = {Need.MUST: 0, Need.SHOULD: 1, Need.COULD: 2}
_KIND = {LinkKind.FS: 0, LinkKind.SS: 1, LinkKind.FF: 2, LinkKind.SF: 3}
DEAR = 4  # slots later that a task would rather be, than have paid people for what others can do

Mode = tuple[str, ...]


@dataclass(frozen=True)
class Structure:
    """What is to be scheduled, in the order of the nodes; arrays as problem.Arrays names them.

    crews: the people of each mode. ends: first node, then node, kind of each arc; tie: what it comes from, None for
    what a state implies.
    """

    tasks: tuple[tuple[Job, Task], ...]
    node: dict[str, int]
    must: frozenset[str]
    job: Ints
    need: Ints
    value: Ints
    mode_lo: Ints
    mode_hi: Ints
    crews: tuple[Mode, ...]
    mode_people: Ints
    mode_penalty: Ints
    resources: tuple[str, ...]
    use_ptr: Ints
    use_what: Ints
    use_amount: Ints
    rival_ptr: Ints
    rival: Ints
    rival_mine: Ints
    rival_theirs: Ints
    ends: Ints
    tie: tuple[Tie | None, ...]
    arc_ptr: Ints
    arc_idx: Ints
    before: Ints
    urgent: Ints
    outages: Ints

    @property
    def size(self) -> int:
        """Nodes, the milestones included."""
        return len(self.tasks) + FIRST_TASK

    @property
    def ids(self) -> tuple[str, ...]:
        """Ids of the tasks, in the order of their nodes."""
        return tuple(task.id for _, task in self.tasks)

    @property
    def lifted(self) -> bool:
        """Whether anything is still to be done in the slings."""
        return any(task.state is State.SLINGS and not task.done_at for _, task in self.tasks)


def structure_of(
    refit: Refit, now: datetime, ties: list[Tie], hours: Hours, rivals: list[Rivalry], unplanned: set[str]
) -> Structure:
    """The structure of all tasks but ``unplanned``. O(tasks x crews + ties)."""
    return _Builder(refit, now, ties, hours, rivals, unplanned).built()


def must_jobs(refit: Refit, ties: Iterable[Tie]) -> set[str]:
    """Ids of the jobs that hold the launch: must-jobs, jobs begun (opened is to be closed), and what contains their work.

    A job that may be left out and that one of these merely waits for is not among them: it gives way, and then what
    waited goes without it.
    """
    must = {job.id for job in refit.jobs if job.need is Need.MUST or any(task.begun_at for task in job.tasks)}
    job_of = {task: job.id for task, job in refit.job_of.items()}
    waits: dict[str, set[str]] = defaultdict(set)
    for tie in ties:
        if not tie.link and not tie.soft and tie.first in job_of and tie.then in job_of:
            waits[job_of[tie.then]].add(job_of[tie.first])
    todo = list(must)
    while todo:
        for before in waits[todo.pop()]:
            if before not in must:
                must.add(before)
                todo.append(before)
    return must


class _Builder:
    """Puts one Structure together."""

    def __init__(
        self, refit: Refit, now: datetime, ties: list[Tie], hours: Hours, rivals: list[Rivalry], unplanned: set[str]
    ) -> None:
        self.refit, self.now, self.ties, self.hours, self.rivals = refit, now, ties, hours, rivals
        self.tasks = [(job, task) for job, task in refit.walk() if task.id not in unplanned]
        self.node = {HAUL: HAUL_NODE, LAUNCH: LAUNCH_NODE} | {
            task.id: at + FIRST_TASK for at, (_, task) in enumerate(self.tasks)
        }
        self.size = len(self.tasks) + FIRST_TASK

    def built(self) -> Structure:
        must = must_jobs(self.refit, self.ties)
        ends, ties = self._arcs()
        before = np.zeros(self.size, dtype=np.int64)
        for first, then, kind in ends.tolist():
            before[first] |= then in (LAUNCH_NODE, LIFT_NODE) and kind == FS
        before[[self.node[task.id] for _, task in self.tasks if task.state is State.SLINGS]] = 0
        pointer, index = by_node(self.size, ends)
        job_index = {job.id: at for at, job in enumerate(self.refit.jobs)}
        need = [0 if job.id in must else _NEED[job.need] for job, _ in self.tasks]
        return Structure(
            tasks=tuple(self.tasks),
            node=self.node,
            must=frozenset(must),
            job=np.array([-1] * FIRST_TASK + [job_index[job.id] for job, _ in self.tasks], dtype=np.int64),
            need=np.array([0] * FIRST_TASK + need, dtype=np.int64),
            value=_values(self.refit),
            ends=ends,
            tie=ties,
            arc_ptr=pointer,
            arc_idx=index,
            before=before,
            urgent=self._urgent(ends),
            outages=self._outages(),
            **self._modes(),
            **self._uses(),
            **self._rivals(),
        )

    def _modes(self) -> dict[str, Any]:
        """One mode for each crew. The penalty (slots) keeps paid and skilled people for what needs them."""
        people = {who.id: at for at, who in enumerate(self.refit.people)}
        dear = {who.id: DEAR if who.role in (Role.TRADE, Role.YARD) else 0 for who in self.refit.people}
        skilled = {who.id: bool(who.skills) for who in self.refit.people}
        crews: list[Mode] = [()] * FIRST_TASK
        penalty = [0] * FIRST_TASK
        low, high = list(range(FIRST_TASK)), list(range(1, FIRST_TASK + 1))
        costs: dict[
            tuple[int, bool], list[int]
        ] = {}  # of a list of crews (by its id) for work that asks no skill or some
        for _, task in self.tasks:
            plain = task.skill is None and not task.skilled
            low.append(len(crews))
            if task.done_at:
                mine = [task.crew] if task.begun_at else self.hours.crews_of(task)
                penalty += [0] * len(mine)
            elif task.begun_at:
                mine = self.hours.crews_of(task)
                penalty += [sum(dear[who] + (plain and skilled[who]) for who in crew) for crew in mine]
            else:
                mine = self.hours.crews_of(task)  # one list for all tasks alike, which lives as long as the hours
                if (id(mine), plain) not in costs:
                    of_each = [sum(dear[who] + (plain and skilled[who]) for who in crew) for crew in mine]
                    costs[id(mine), plain] = of_each
                penalty += costs[id(mine), plain]
            crews += mine
            high.append(len(crews))
        widest = max([1, *(len(crew) for crew in crews)])
        rows = {crew: [*(people[who] for who in crew), *[-1] * (widest - len(crew))] for crew in set(crews)}
        table = np.array([rows[crew] for crew in crews], dtype=np.int64)
        return {
            "crews": tuple(crews),
            "mode_lo": np.array(low, dtype=np.int64),
            "mode_hi": np.array(high, dtype=np.int64),
            "mode_people": table,
            "mode_penalty": np.array(penalty, dtype=np.int64),
        }

    def _uses(self) -> dict[str, Any]:
        """Places and equipment: what there is, and what each node takes of it."""
        resources = [place.id for place in self.refit.places] + [item.id for item in self.refit.gear]
        places = {place.id: at for at, place in enumerate(self.refit.places)}
        gear = {item.id: at + len(places) for at, item in enumerate(self.refit.gear)}
        pointer, what, amount = [0] * (FIRST_TASK + 1), [], []
        for _, task in self.tasks:
            what += [places[task.place], *(gear[key] for key in dict.fromkeys(task.gear))]
            amount += [task.hands, *(1 for _ in dict.fromkeys(task.gear))]
            pointer.append(len(what))
        return {
            "resources": tuple(resources),
            "use_ptr": np.array(pointer, dtype=np.int64),
            "use_what": np.array(what, dtype=np.int64),
            "use_amount": np.array(amount, dtype=np.int64),
        }

    def _rivals(self) -> dict[str, Any]:
        """What must not overlap, both ways round; of two that are done nothing is left to say."""
        rows: list[list[tuple[int, int, int]]] = [[] for _ in range(self.size)]
        for pair in self.rivals:
            if pair.first not in self.node or pair.then not in self.node:
                continue
            first, then = self.node[pair.first], self.node[pair.then]
            rows[first].append((then, pair.first_after, pair.then_after))
            rows[then].append((first, pair.then_after, pair.first_after))
        flat = np.array([row for found in rows for row in found], dtype=np.int64).reshape(-1, 3)
        return {
            "rival_ptr": np.cumsum([0, *(len(found) for found in rows)], dtype=np.int64),
            "rival": flat[:, 0].copy(),
            "rival_mine": flat[:, 1].copy(),
            "rival_theirs": flat[:, 2].copy(),
        }

    def _urgent(self, ends: Ints) -> Ints:
        """Work on what was found dangerous and isn't settled: 1; and what it waits for: 2. It goes before everything else."""
        jobs = {key for finding in self.refit.findings if finding.blocks for key in finding.jobs}
        out = np.zeros(self.size, dtype=np.int64)
        todo = [self.node[task.id] for job, task in self.tasks if job.id in jobs and task.done_at is None]
        out[todo] = 1
        waits: dict[int, list[int]] = defaultdict(list)
        for first, then, _ in ends.tolist():
            waits[then].append(first)
        while todo:
            for first in waits[todo.pop()]:
                if first >= FIRST_TASK and not out[first]:
                    out[first] = 2
                    todo.append(first)
        return out

    def _outages(self) -> Ints:
        """What takes a service out, and what gives it back; what the state takes out anyway costs nothing there."""
        prices = prices_of(self.refit)
        day = dict.fromkeys(self.refit.nobody_without, prices.night_ashore)
        ashore = out_ashore(self.refit.boat)
        rows = []
        for task in self.refit.tasks.values():
            if task.done_at or task.id not in self.node or (task.until or task.id) not in self.node:
                continue
            weights = [0, 0]
            for service in adds_outage(self.refit, task):
                weights[service in ashore] += day.get(service, prices.service_day)
            pair = self.node[task.id], self.node[task.until or task.id]
            rows += [(*pair, weight, floats) for floats, weight in enumerate(weights) if weight]
        return np.array(rows, dtype=np.int64).reshape(-1, 4)

    def _arcs(self) -> tuple[Ints, tuple[Tie | None, ...]]:
        """Ties between planned tasks, and what every state implies about the haul, the lift and the launch.

        A tie whose later event has happened already is a fact and left out.
        """
        rows: list[tuple[int, int, int]] = []
        ties: list[Tie | None] = []
        for tie in self.ties:
            if tie.first not in self.node or tie.then not in self.node or self._happened(tie):
                continue
            rows.append((self.node[tie.first], self.node[tie.then], _KIND[tie.kind]))
            ties.append(tie)
        lifted = any(task.state is State.SLINGS and not task.done_at for _, task in self.tasks)
        lifting = self._last_of_lifting(rows)
        waits = {then for first, then, kind in rows if kind == FS and first in self.under_her}
        margins, implied = margin_ties(self.refit), dict[int, Tie]()
        for _, task in self.tasks:
            at = self.node[task.id]
            if task.done_at:
                continue
            if task.id in margins:
                implied[len(rows)] = margins[task.id]
                rows.append((at, LIFT_NODE if lifted else LAUNCH_NODE, FS))
            elif task.state in (State.ASHORE, State.LIFTING):
                rows.append((at, LIFT_NODE if lifted else LAUNCH_NODE, FS))
            if task.state in (State.ASHORE, State.LIFTING):
                if task.state is State.ASHORE and not task.begun_at and at not in waits:
                    rows += [(first, at, FS) for first in lifting]
            elif task.state is State.SLINGS:
                rows.append((at, LAUNCH_NODE, FS))
                if not task.begun_at:
                    rows.append((LIFT_NODE, at, FS))
            elif task.state is State.AFLOAT_AFTER and not task.begun_at:
                rows.append((LAUNCH_NODE, at, FS))
            elif task.state is State.AFLOAT_BEFORE and self.refit.haul_at > self.now:
                rows.append((at, HAUL_NODE, FS))
        rows.append((LIFT_NODE, LAUNCH_NODE, FS))
        ties += [implied.get(row) for row in range(len(ties), len(rows))]
        return np.array(rows, dtype=np.int64).reshape(-1, 3), tuple(ties)

    @cached_property
    def under_her(self) -> set[int]:
        """Work ashore that isn't begun: what comes after it needs not be told that she must stand first."""
        return {self.node[task.id] for _, task in self.tasks if task.state is State.ASHORE and not task.begun_at}

    def _last_of_lifting(self, rows: list[tuple[int, int, int]]) -> list[int]:
        """Of the lift, the wash and the blocking what nothing else of them waits for."""
        mine = {self.node[task.id] for _, task in self.tasks if task.state is State.LIFTING and not task.done_at}
        waited_for = {first for first, then, kind in rows if kind == FS and first in mine and then in mine}
        return sorted(mine - waited_for)

    def _happened(self, tie: Tie) -> bool:
        """Whether the later event of a tie lies in the past already."""
        if tie.then == HAUL:
            return False
        task = self.refit.tasks.get(tie.then)
        if task is None:
            return False
        to_start = tie.kind in (LinkKind.FS, LinkKind.SS)
        return (task.begun_at if to_start else task.done_at) is not None


def _values(refit: Refit) -> Ints:
    """What leaving each job out costs, in minor units: its need, and a little for each task in it."""
    prices = prices_of(refit)
    by_need = {Need.MUST: 0, Need.SHOULD: prices.leave_should, Need.COULD: prices.leave_could}
    return np.array(
        [by_need[job.need] + prices.task_left * len(job.tasks) for job in refit.jobs] or [0], dtype=np.int64
    )
