"""The variables of the CP-SAT model: when each node begins and ends, who does it, whether its job is in the plan.

No element constraints. For one node and one calendar the valid starts are grouped by their gap = end - start - work;
each group has one literal that enforces its start domain, and ``end = start + work + sum of gap x literal``. Rain,
pauses, daylight and dry cure are in those domains and cost no constraint.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, field
from types import MappingProxyType
from typing import Any

import numpy as np
from ortools.sat.python import cp_model

from rovask.core.plan.first.serial import Schedule
from rovask.core.plan.problem.arrays import LAUNCH_NODE, Ints, Problem
from rovask.core.plan.problem.value import UNPLACED
from rovask.core.plan.problem.windows import Windows
from rovask.core.plan.solver.cp_starts import domain_of, start_table

DAY = 48  # slots
ROOM = 96  # slots past the end of the plan that is known; better plans hardly reach further
MOST_CREWS = 10  # per node, the cheapest first, the one it has always


@dataclass
class Node:
    """The variables of one node. ``begin`` is its resume if it is under way.

    present: 1 or the literal of its job. gaps: (calendar, gap, starts, literal or 1); crews: mode to literal or 1.
    """

    begin: Any
    end: Any
    size: Any
    present: Any
    interval: Any = None
    gaps: list[tuple[int, int, Ints, Any]] = field(default_factory=list)
    crews: dict[int, Any] = field(default_factory=dict)
    people: dict[int, Any] = field(default_factory=dict)
    calendars: dict[int, Any] = field(default_factory=dict)


class NodeModel:
    """The variables for ``problem``, with the schedule ``hint`` as their complete hint.

    kept: nodes whose start, end and people stay as in the hint (empty: all are free). reach: where others may begin, from slot to slot, their start in the hint among it. horizon: the last slot; by default what the hint needs and two days.
    guarded: must-work alone, and every rule hangs on a literal of its own (conflict.py).
    """

    def __init__(
        self,
        problem: Problem,
        windows: Windows,
        hint: Schedule | None,
        *,
        kept: frozenset[int] = frozenset(),
        reach: Mapping[int, tuple[int, int]] = MappingProxyType({}),
        horizon: int | None = None,
        guarded: bool = False,
    ) -> None:
        self.problem, self.windows, self.hint = problem, windows, hint
        self.kept, self.reach = kept, reach
        self.kept_jobs = {int(problem.arrays.job[node]) for node in kept}  # such a job stays in, or out
        self.model = cp_model.CpModel()
        self.a = problem.arrays
        self.guards: dict[tuple[str, int, int], Any] | None = {} if guarded else None
        self.hints: dict[int, int] = {}
        self.last = self._horizon() if horizon is None else horizon
        self.table = start_table(problem, self.last)
        self.jobs: dict[int, Any] = {}
        self.nodes: dict[int, Node] = {}
        for node in range(problem.size):
            self.nodes[node] = self._node(node)

    def _horizon(self) -> int:
        hint = self.hint
        if hint is None:
            return self.problem.horizon
        planned = int(np.max(np.where(hint.start != UNPLACED, hint.end, 0)))
        room = (
            -(-(max(planned, self.a.launch_at) + ROOM) // DAY) * DAY
        )  # whole days, so that models have their starts in common
        return min(self.problem.horizon, room)

    # -- variables ---------------------------------------------------------------------------------

    def _say(self, var: Any, value: int) -> Any:
        """Give a variable its value in the hint; constants have none."""
        if self.hint is not None and not isinstance(var, int):
            self.hints[var.index] = int(value)
        return var

    def literal(self, value: bool) -> Any:
        """A new literal with its hint."""
        return self._say(self.model.new_bool_var(""), int(value))

    def number(self, low: int, high: int, value: int) -> Any:
        """A new integer with its hint; a constant where only one value is left."""
        if low >= high:
            return int(low)
        return self._say(self.model.new_int_var(low, high, ""), min(max(value, low), high))

    def guard(self, kind: str, at: int, other: int = -1) -> Any:
        """The literal a rule hangs on; 1 where every rule simply holds."""
        if self.guards is None:
            return 1
        rule = (kind, at, other)
        if rule not in self.guards:
            self.guards[rule] = self.model.new_bool_var("")
        return self.guards[rule]

    def has(self, node: int) -> bool:
        """Whether the hint holds the node."""
        return self.hint is not None and bool(self.hint.start[node] != UNPLACED)

    def _present(self, node: int) -> Any:
        job = int(self.a.job[node])
        if self.a.need[node] == 0 or job < 0 or self.a.fixed_end[node] >= 0:
            return 1
        if self.guards is not None:
            return 0
        if job not in self.jobs:
            self.jobs[job] = int(self.has(node)) if job in self.kept_jobs else self.literal(self.has(node))
        return self.jobs[job]

    def _node(self, node: int) -> Node:
        a, windows = self.a, self.windows
        if a.fixed_end[node] >= 0:
            return Node(int(a.fixed_start[node]), int(a.fixed_end[node]), 0, 1)
        present = self._present(node)
        hint = self.hint
        if isinstance(present, int) and not present:
            return Node(0, 0, 0, 0)
        if node in self.kept and hint is not None and self.has(node):
            begin = int(hint.resume[node] if hint.resume[node] >= 0 else hint.start[node])
            mode = int(hint.mode[node])
            out = Node(begin, int(hint.end[node]), int(hint.end[node]) - begin, present)
            out.crews = {mode: present}
            out.people = {who: present for who in a.mode_people[mode].tolist() if who >= 0}
            out.gaps = [(int(a.mode_calendar[mode]), 0, np.array([begin]), present)]
            if a.work[node] > 0:
                out.interval = self._interval(out)
            return out
        earliest = int(a.release[node]) if a.fixed_start[node] >= 0 else int(windows.start[node])
        at = earliest
        if self.has(node) and hint is not None:
            at = int(hint.resume[node] if hint.resume[node] >= 0 else hint.start[node])
        if a.work[node] == 0:
            last = self.last
            if node == LAUNCH_NODE and hint is not None:
                last = int(hint.start[LAUNCH_NODE])
            var = self._milestone(node, earliest, max(last, earliest), at)
            return Node(var, var, 0, present)
        return self._task(node, earliest, at, present)

    def _milestone(self, node: int, low: int, high: int, at: int) -> Any:
        """When a node without work lies: in its calendar, which for a launch is the yard's hours."""
        calendar = int(self.a.mode_calendar[int(self.a.mode_lo[node])])
        pos, rank = self.a.pos[calendar], self.a.rank[calendar]
        values = pos[int(rank[low]) : int(rank[min(high + 1, self.problem.horizon)])].astype(np.int64)
        if not len(values) or len(values) == high - low + 1:
            return self.number(low, high, at)
        if len(values) == 1:
            return int(values[0])
        return self._say(self.model.new_int_var_from_domain(domain_of(values), ""), at)

    def _modes(self, node: int) -> list[int]:
        a = self.a
        modes = list(range(int(a.mode_lo[node]), int(a.mode_hi[node])))
        mine = int(self.hint.mode[node]) if self.hint is not None and self.has(node) else -1
        if len(modes) > MOST_CREWS:
            modes.sort(key=lambda mode: (int(a.mode_penalty[mode]), mode))
            modes = modes[:MOST_CREWS] + ([mine] if mine >= 0 and mine not in modes[:MOST_CREWS] else [])
        return modes

    def _task(self, node: int, earliest: int, at: int, present: Any) -> Node:
        a, model, hint = self.a, self.model, self.hint
        work = int(a.work[node])
        by_calendar: dict[int, list[int]] = defaultdict(list)
        for mode in self._modes(node):
            by_calendar[int(a.mode_calendar[mode])].append(mode)
        finish = int(hint.end[node]) if hint is not None and self.has(node) else at + work
        mine = int(hint.mode[node]) if hint is not None and self.has(node) else -1
        found = self.table.of(node, tuple(by_calendar), earliest, self.reach.get(node))
        groups, everything = found.groups, found.every
        if not groups:  # no valid time at all: the model says so where it is solved
            model.add_bool_or([]) if isinstance(present, int) else model.add(present == 0)
            return Node(earliest, earliest, 0, 0 if not isinstance(present, int) else present)
        if not self.has(node):
            at = int(everything[0])
        begin_var = self._say(model.new_int_var_from_domain(found.domain, ""), at)
        gaps = sorted({group.gap for group in groups})
        if len(gaps) == 1:
            size: Any = work + gaps[0]
            end_var: Any = begin_var + size
        else:
            size = self.number(work + gaps[0], work + gaps[-1], finish - at)
            end_var = self.number(int(everything[0]) + work + gaps[0], self.last, finish)
            model.add(end_var == begin_var + size)
        out = Node(begin_var, end_var, size, present)
        if len(groups) == 1:
            out.gaps = [(groups[0].calendar, groups[0].gap, groups[0].begin, present)]
        else:
            for calendar, gap_, begin, domain in groups:
                used = mine >= 0 and int(a.mode_calendar[mine]) == calendar and finish - at - work == gap_
                lit = self.literal(used)
                out.gaps.append((calendar, gap_, begin, lit))
                if len(begin) < len(everything):
                    model.add_linear_expression_in_domain(begin_var, domain).only_enforce_if(lit)
            model.add(sum(lit for *_, lit in out.gaps) == present)
            if len(gaps) > 1:
                low = gaps[0]
                if isinstance(present, int):
                    model.add(size == work + sum(gap * lit for _, gap, _, lit in out.gaps))
                else:
                    model.add(size == work + low + sum((gap - low) * lit for _, gap, _, lit in out.gaps))
        self._crews(out, by_calendar, mine)
        out.interval = self._interval(out)
        return out

    def _interval(self, out: Node) -> Any:
        if isinstance(out.present, int):
            return self.model.new_interval_var(out.begin, out.size, out.end, "")
        return self.model.new_optional_interval_var(out.begin, out.size, out.end, out.present, "")

    def _crews(self, out: Node, by_calendar: dict[int, list[int]], mine: int) -> None:
        """One literal for each crew; the crews of a calendar are used as often as its groups of starts."""
        modes = [mode for found in by_calendar.values() for mode in found]
        used = {calendar for calendar, *_ in out.gaps}
        modes = [mode for mode in modes if int(self.a.mode_calendar[mode]) in used]
        if len(modes) == 1:
            out.crews = {modes[0]: out.present}
        else:
            out.crews = {mode: self.literal(mode == mine) for mode in modes}
            if len(used) == 1:
                self.model.add(sum(out.crews.values()) == out.present)
            else:
                for calendar in used:
                    inside = [out.crews[mode] for mode in modes if int(self.a.mode_calendar[mode]) == calendar]
                    self.model.add(sum(inside) == sum(lit for at, _, _, lit in out.gaps if at == calendar))
        by_person: dict[int, list[int]] = defaultdict(list)
        for mode in modes:
            for who in self.a.mode_people[mode].tolist():
                if who >= 0:
                    by_person[who].append(mode)
        for who, found in by_person.items():
            if len(found) == len(modes):
                out.people[who] = out.present
            elif len(found) == 1:
                out.people[who] = out.crews[found[0]]
            else:
                out.people[who] = self.literal(mine in found)
                self.model.add(sum(out.crews[mode] for mode in found) == out.people[who])

    def schedule(self, value: Any) -> Schedule:
        """The schedule a solution stands for. ``value``: the value of a variable or literal in it."""
        size = self.problem.size
        start, end = np.full(size, UNPLACED, dtype=np.int64), np.full(size, UNPLACED, dtype=np.int64)
        resume, mode = start.copy(), start.copy()
        a = self.a

        def of(thing: Any) -> int:
            return int(thing) if isinstance(thing, int) else int(value(thing))

        for node, found in self.nodes.items():
            if a.fixed_end[node] >= 0:
                start[node], end[node], mode[node] = a.fixed_start[node], a.fixed_end[node], a.mode_lo[node]
                continue
            if not of(found.present):
                continue
            begin = of(found.begin)
            start[node], end[node] = begin, of(found.end)
            mode[node] = next((one for one, lit in found.crews.items() if of(lit)), int(a.mode_lo[node]))
            if a.fixed_start[node] >= 0:
                start[node], resume[node] = a.fixed_start[node], begin
        return Schedule(start, end, resume, mode, -1)
