"""The constraints of the CP-SAT model: ties, people, places and equipment, rivals.

One optional interval per node and person; no-overlap per person and single place, the rest cumulative; rivals that
no tie puts in order get one literal that says which comes first.
"""

from __future__ import annotations

from collections import defaultdict
from typing import Any

from rovask.core.plan.problem.arrays import FIRST_TASK, FOREVER, FS, NO_MAX, Problem
from rovask.core.plan.solver.cp_nodes import Node, NodeModel


class RuleModel(NodeModel):
    """The variables and what must hold between them."""

    def _if(self, constraint: Any, *literals: Any) -> None:
        wanted = [lit for lit in literals if not isinstance(lit, int)]
        if wanted:
            constraint.only_enforce_if(wanted)

    def ties(self) -> None:
        """Minimum and maximum lags, where both ends are in the plan; what waits for a job left out is left out."""
        a = self.a
        for arc, (first, then, kind, low, high) in enumerate(a.arcs.tolist()):
            one, other = self.nodes[first], self.nodes[then]
            if a.fixed_end[first] >= 0 and a.fixed_end[then] >= 0:
                continue
            if self._absent(first) or self._absent(then):
                if self._absent(first) and not isinstance(other.present, int):
                    self.model.add(other.present == 0)
                continue
            from_end, to_start = kind in (0, 2), kind in (0, 1)
            if to_start and a.fixed_start[then] >= 0:
                continue
            source = one.end if from_end else self._start(first)
            target = other.begin if to_start else other.end
            implied = from_end and to_start and high == NO_MAX and (first < FIRST_TASK or then < FIRST_TASK)
            guard = 1 if implied else self.guard("tie", arc)
            self._lag(source, target, low, high, one.present, other.present, guard)
            if not isinstance(one.present, int) and one.present is not other.present and then >= FIRST_TASK:
                if isinstance(other.present, int):
                    self.model.add(one.present == 1)
                else:
                    self.model.add_implication(other.present, one.present)

    def _absent(self, node: int) -> bool:
        return isinstance(self.nodes[node].present, int) and not self.nodes[node].present

    def _lag(self, source: Any, target: Any, low: int, high: int, *literals: Any) -> None:
        if isinstance(source, int) and isinstance(target, int):
            if target < source + low or (high != NO_MAX and target > source + high):
                self._if(self.model.add_bool_or([]), *literals)
            return
        if low > -FOREVER:
            self._if(self.model.add(target >= source + low), *literals)
        if high != NO_MAX:
            self._if(self.model.add(target <= source + high), *literals)

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
        for intervals in by_person.values():
            if len(intervals) > 1:
                self.model.add_no_overlap(intervals)
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
    for first, then, kind, low, _ in problem.arrays.arcs.tolist():
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
