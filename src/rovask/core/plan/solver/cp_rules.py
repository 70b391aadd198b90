"""The constraints of the CP-SAT model: ties, people, places and equipment, rivals.

One optional interval per node and person; no-overlap per person and single place, the rest cumulative; rivals that
no tie puts in order get one literal that says which comes first.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from enum import Enum
from functools import cached_property
from typing import Any

import numpy as np
from ortools.sat.python import cp_model

from rovask.core.plan.problem.arrays import (
    CLOCK,
    FIRST,
    FIRST_TASK,
    FOREVER,
    FS,
    HIGH,
    KIND,
    LOW,
    NO_MAX,
    THEN,
    Ints,
    Problem,
)
from rovask.core.plan.problem.lags import NEVER, PLAIN, latest_first, latest_then, soonest_first, soonest_then
from rovask.core.plan.solver.cp_nodes import ROOM, Node, NodeModel
from rovask.core.plan.solver.cp_starts import domain_of


class Wait(Enum):
    """What a number of slots between two events says."""

    LEAST, MOST, EXACT = range(3)


class RuleModel(NodeModel):
    """The variables and what must hold between them."""

    def __init__(self, *arguments: Any, **more: Any) -> None:
        super().__init__(*arguments, **more)
        self._latest_by: dict[tuple[int, ...], Any] = {}
        self.off: dict[int, list[Any]] = defaultdict(
            list
        )  # by person: days on which they are not at work, as intervals

    def _if(self, constraint: Any, *literals: Any) -> None:
        wanted = [lit for lit in literals if not isinstance(lit, int)]
        if wanted:
            constraint.only_enforce_if(wanted)

    def ties(self) -> None:
        """Minimum and maximum lags, where both ends are in the plan; what waits for a job left out is left out."""
        a = self.a
        for arc, (first, then, kind, _, high, _, soft) in enumerate(a.arcs.tolist()):
            one, other = self.nodes[first], self.nodes[then]
            if a.fixed_end[first] >= 0 and a.fixed_end[then] >= 0:
                continue
            goes_along = not soft and 0 < a.need[first] <= a.need[then]  # what is needed more does without
            if self._absent(first) or self._absent(then):
                if self._absent(first) and goes_along and not isinstance(other.present, int):
                    self.model.add(other.present == 0)
                continue
            from_end, to_start = kind in (0, 2), kind in (0, 1)
            if to_start and a.fixed_start[then] >= 0:
                continue
            source = one.end if from_end else self._start(first)
            target = other.begin if to_start else other.end
            implied = from_end and to_start and high == NO_MAX and (first < FIRST_TASK or then < FIRST_TASK)
            guard = 1 if implied else self.guard("tie", arc)
            self._lag(arc, source, target, one.present, other.present, guard)
            apart = not isinstance(one.present, int) and one.present is not other.present
            if apart and goes_along and then >= FIRST_TASK:
                if isinstance(other.present, int):
                    self.model.add(one.present == 1)
                else:
                    self.model.add_implication(other.present, one.present)

    def _absent(self, node: int) -> bool:
        return isinstance(self.nodes[node].present, int) and not self.nodes[node].present

    def _lag(self, arc: int, source: Any, target: Any, *literals: Any) -> None:
        """The least and the longest wait from ``source`` to ``target``, while all the literals hold."""
        arcs, cure = self.a.arcs, self.a.cure
        _, _, _, low, high, clock, _ = arcs[arc].tolist()
        if isinstance(source, int):
            soonest = int(soonest_then(arcs, cure, arc, source))
            latest = int(latest_then(arcs, cure, arc, source)) if high != NO_MAX else NEVER
            if isinstance(target, int):
                if not soonest <= target <= latest:
                    self._if(self.model.add_bool_or([]), *literals)
                return
            self._if(self.model.add(target >= soonest), *literals)
            if latest < NEVER:
                self._if(self.model.add(target <= latest), *literals)
        elif isinstance(target, int):
            self._if(self.model.add(source <= int(latest_first(arcs, cure, arc, target))), *literals)
            if high != NO_MAX:
                self._if(self.model.add(source >= int(soonest_first(arcs, cure, arc, target))), *literals)
        elif clock != PLAIN:
            self._cure(arc, source, target, *literals)
        else:
            if low > -FOREVER:
                self._if(self.model.add(target >= source + low), *literals)
            if high != NO_MAX:
                self._if(self.model.add(target <= source + high), *literals)

    def _cure(self, arc: int, source: Any, target: Any, *literals: Any) -> None:
        """A wait by a clock of its own between two variables: where the earlier event lies decides how many slots it takes.

        The slots the earlier event may lie at are grouped by the slots its cure takes from there, one literal a group,
        as the calendars' gaps are grouped; so the wait is a sum and needs no element constraint. Where many wait for one
        event, as all that opens her does for the launch, the latest they may end is grouped once by that event.
        """
        arcs = self.a.arcs
        cure = self.a.cure[int(arcs[arc, CLOCK]) - 1]
        low, high = int(arcs[arc, LOW]), int(arcs[arc, HIGH])
        first = int(arcs[arc, FIRST])
        if high == NO_MAX and self._alike[self._sort_of(arc)] > 1:
            self._if(self.model.add(source <= self._latest(arc, target)), *literals)
            return
        source, offset = self._base(first, source)
        at = self._values(source) + offset
        soonest = np.maximum(np.searchsorted(cure, cure[at] + low), at)
        self._grouped(source, offset, target, at, soonest - at, Wait.LEAST, *literals)
        if high != NO_MAX:
            latest = np.searchsorted(cure, cure[at] + high, side="right") - 1
            latest = np.where(latest >= len(cure) - 1, self.last + ROOM, np.maximum(latest, soonest))
            self._grouped(source, offset, target, at, latest - at, Wait.MOST, *literals)

    def _sort_of(self, arc: int) -> tuple[int, ...]:
        """Arcs of one sort hold back the same event by the same wait."""
        arcs = self.a.arcs
        return tuple(int(arcs[arc, at]) for at in (THEN, KIND, LOW, CLOCK))

    @cached_property
    def _alike(self) -> Counter[tuple[int, ...]]:
        """How many arcs there are of each sort."""
        return Counter(self._sort_of(arc) for arc in range(len(self.a.arcs)))

    def _latest(self, arc: int, target: Any) -> Any:
        """The latest slot at which what ``target`` waits for by this sort of arc may lie, as a variable."""
        sort = self._sort_of(arc)
        if sort not in self._latest_by:
            arcs = self.a.arcs
            cure = self.a.cure[int(arcs[arc, CLOCK]) - 1]
            event, offset = self._base(int(arcs[arc, THEN]), target)
            at = self._values(event) + offset
            want = cure[np.minimum(at, len(cure) - 1)] - int(arcs[arc, LOW])
            latest = np.minimum(np.searchsorted(cure, want, side="right") - 1, at)
            hinted = self.hints.get(event.index)
            value = int(latest[at - offset == hinted][0]) if hinted is not None and (at - offset == hinted).any() else 0
            found = self._say(self.model.new_int_var_from_domain(domain_of(np.unique(latest)), ""), value)
            self._grouped(event, offset, found, at, latest - at, Wait.EXACT)
            self._latest_by[sort] = found
        return self._latest_by[sort]

    def _base(self, node: int, event: Any) -> tuple[Any, int]:
        """An event as a variable and what is added to it; the end of a node without pauses is its begin and its work."""
        found = self.nodes[node]
        if event is found.begin or isinstance(event, cp_model.IntVar):
            return event, 0
        return found.begin, int(found.size)

    def _values(self, variable: Any) -> Ints:
        """The slots a variable may take, as its domain has them."""
        flat = list(self.model.proto.variables[variable.index].domain)
        pairs = zip(flat[::2], flat[1::2], strict=True)
        return np.concatenate([np.arange(max(one, 0), min(other, self.last) + 1) for one, other in pairs])

    def _grouped(self, source: Any, offset: int, target: Any, at: Ints, lag: Ints, wait: Wait, *literals: Any) -> None:
        """``target`` lies so many slots from where ``source`` does, by where that is: at least, at most or exactly."""
        groups = np.unique(lag)
        hinted = self.hints.get(source.index)
        used = []
        for one in groups.tolist():
            inside = at[lag == one] - offset
            if len(groups) == 1:
                lit: Any = 1
            else:
                lit = self.literal(hinted is not None and bool((inside == hinted).any()))
                self.model.add_linear_expression_in_domain(source, domain_of(inside)).only_enforce_if(lit)
                used.append(lit)
            there = source + (offset + one)
            rule = {Wait.LEAST: target >= there, Wait.MOST: target <= there, Wait.EXACT: target == there}[wait]
            self._if(self.model.add(rule), lit, *literals)
        if used:
            self.model.add_exactly_one(used)

    def _start(self, node: int) -> Any:
        return int(self.a.fixed_start[node]) if self.a.fixed_start[node] >= 0 else self.nodes[node].begin

    def _while(self, node: Node, *literals: Any) -> Any:
        """The interval of a node, there only when all the literals hold."""
        wanted = [lit for lit in literals if not isinstance(lit, int)]
        wanted = [lit for lit in wanted if lit is not node.present]
        if not wanted:
            return node.interval
        if not isinstance(node.present, int):
            wanted.append(node.present)
        both = wanted[0]
        if len(wanted) > 1:
            both = self.model.new_bool_var("")
            self.model.add_bool_and(wanted).only_enforce_if(both)
            self.model.add_bool_or([both, *(~lit for lit in wanted)])
        return self.model.new_optional_interval_var(node.begin, node.size, node.end, both, "")

    def use_once(self) -> None:
        """People at one task at a time; places and equipment within their room."""
        by_person: dict[int, list[Any]] = defaultdict(list)
        for node in self.nodes.values():
            for who, lit in node.people.items():
                if node.interval is None or (isinstance(lit, int) and not lit):
                    continue
                by_person[who].append(self._person_while(node, lit, self.guard("person", who)))
        for who, intervals in by_person.items():
            if len(intervals) + len(self.off[who]) > 1:
                self.model.add_no_overlap([*intervals, *self.off[who]])
        a = self.a
        by_what: dict[int, list[tuple[Any, int]]] = defaultdict(list)
        for key in range(FIRST_TASK, self.problem.size):
            found = self.nodes[key]
            if found.interval is not None:
                for at in range(int(a.use_ptr[key]), int(a.use_ptr[key + 1])):
                    what = int(a.use_what[at])
                    by_what[what].append((self._while(found, self.guard("resource", what)), int(a.use_amount[at])))
        for what, users in by_what.items():
            room = int(a.capacity[what])
            users = [(interval, amount) for interval, amount in users if amount > 0]
            if sum(amount for _, amount in users) <= room:
                continue
            if all(2 * amount > room for _, amount in users):
                self.model.add_no_overlap([interval for interval, _ in users])
            else:
                self.model.add_cumulative([interval for interval, _ in users], [amount for _, amount in users], room)

    def _person_while(self, node: Node, lit: Any, guard: Any) -> Any:
        """The interval in which somebody is at a node. ``lit`` implies that the node is there, so it stands for both."""
        if isinstance(lit, int) or lit is node.present:
            return self._while(node, guard)
        if isinstance(guard, int):
            return self.model.new_optional_interval_var(node.begin, node.size, node.end, lit, "")
        return self._while(node, lit, guard)

    def rivals(self) -> None:
        """Two that can't stand each other: one after the other, whichever first, unless a tie says so already."""
        a = self.a
        ordered = _before(self.problem)
        for node in range(FIRST_TASK, self.problem.size):
            for at in range(int(a.rival_ptr[node]), int(a.rival_ptr[node + 1])):
                other = int(a.rival[at])
                if other < node or (a.fixed_end[node] >= 0 and a.fixed_end[other] >= 0):
                    continue
                mine, theirs = int(a.rival_mine[at]), int(a.rival_theirs[at])
                self._rivals(node, other, mine, theirs, ordered)

    def _rivals(self, one: int, other: int, mine: int, theirs: int, ordered: list[int]) -> None:
        first, then = self.nodes[one], self.nodes[other]
        if first.interval is None and then.interval is None:
            return
        if ordered[one] >> other & 1 and not mine:
            return
        if ordered[other] >> one & 1 and not theirs:
            return
        both = (first.present, then.present, self.guard("rival", one, other))
        if self.a.fixed_end[one] >= 0:
            self._if(self.model.add(then.begin >= first.end + mine), *both)
        elif self.a.fixed_end[other] >= 0:
            self._if(self.model.add(first.begin >= then.end + theirs), *both)
        elif not all(isinstance(value, int) for value in (first.begin, first.end, then.begin, then.end)):
            known = self.hint is not None and self.has(one) and self.has(other)
            earlier = known and self.hint is not None and bool(self.hint.end[one] <= self.hint.start[other])
            lit = self.literal(earlier)
            self._if(self.model.add(then.begin >= first.end + mine), lit, *both)
            self._if(self.model.add(first.begin >= then.end + theirs), ~lit, *both)


def _before(problem: Problem) -> list[int]:
    """For each node the set, as bits, of nodes that start after its end by finish-start ties alone."""
    after: list[list[int]] = [[] for _ in range(problem.size)]
    waits = [0] * problem.size
    for first, then, kind, low, *_ in problem.arrays.arcs.tolist():
        if kind == FS and low >= 0:
            after[first].append(then)
            waits[then] += 1
    out = [0] * problem.size
    ready = [node for node in range(problem.size) if not waits[node]]
    order = []
    while ready:
        node = ready.pop()
        order.append(node)
        for then in after[node]:
            waits[then] -= 1
            if not waits[then]:
                ready.append(then)
    for node in reversed(order):
        for then in after[node]:
            out[node] |= out[then] | 1 << then
    return out
