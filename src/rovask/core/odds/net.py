"""A plan as a net of arrays that thousands of lucks are played on: who does what in which order, what ties it, what it takes.

It is made of the planner's own Problem (plan/problem), so that every rule comes from there. What may come to light is a node
of its own between the task that shows it and what follows that; when it isn't so it takes no time.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from rovask.core.odds.calendars import Smalls
from rovask.core.plan.problem.arrays import FIRST_TASK, Ints, Problem
from rovask.core.plan.result import Plan
from rovask.core.refit.model import Unknown

ABSENT, DONE, TO_PLAY = range(3)

# Columns of node …
(
    STATE, START, END, ORDER, BEGUN, RELEASE, LONGEST, LATEST, OPTIONAL, JOB, MODE_LO, MODE_HI, NEEDS_DRY, TENDER, WHOLE,
    USE_LO, USE_HI, RIVAL_LO, RIVAL_HI, IN_LO, IN_HI, OUT_LO, OUT_HI, HANGS, FORESEES, FLOATS, TRADE, LIKELY,
) = range(28)  # fmt: skip
# … of mode: calendar, 1 if that is the first of one a sky, then its people padded with -1 …
CALENDAR, BY_SKY, PEOPLE = range(3)
# … and of arc.
FIRST, THEN, KIND, LOW, HIGH, CLOCK, MAKE_GOOD, DRAWN = range(8)


class Net(NamedTuple):
    """What a run is played on. Times are slots; -1 stands for none.

    node: columns as above. ORDER: rank in the plan; LATEST: last start that keeps the launch, in the plan's order;
    HANGS: 1 in the slings, 2 what only the launch holds late; FORESEES: 1 if something must follow within a time; FLOATS: 1
    for work afloat after the launch; TRADE: whether one who may not come is in its crew; LIKELY: slots of work as planned. mode: columns as above; mask: its
    people as bits. arc: columns as above; MAKE_GOOD: slots of work when its longest wait is missed; DRAWN: which drawn wait it has.
    clock: what waits are counted on: how much cure lies before each slot, a row a sky; the last row the yard's days.
    use: the first hand slot of a resource, how many there are, how many it takes. rival: other node, how long after mine, after theirs.
    must, must_ptr: nodes of must-work by person, in the order of LATEST; turns, turn_ptr: all of theirs in the plan's. run, rest: days on end each person has worked, and
    may; last_day: the last they worked on.
    """

    node: Ints
    mode: Ints
    mask: npt.NDArray[np.uint64]
    rank: Smalls
    pos: Smalls
    left: Smalls
    most: Smalls
    dry: Smalls
    clock: Ints
    arc: Ints
    in_arc: Ints
    out_arc: Ints
    use: Ints
    rival: Ints
    must: Ints
    must_ptr: Ints
    turns: Ints
    turn_ptr: Ints
    rest: Ints
    run: Ints
    last_day: Ints
    day_of: Ints
    day_slot: Ints
    jobs_begun: Ints
    next_slots: Ints
    now: int
    slot: int
    hands: int


@dataclass(frozen=True, eq=False)
class Made:
    """A net and what its numbers stand for.

    names: of each node, a task's id, ``unknown:`` and the id of what may come to light, or a milestone's. waits: ids of the ties whose wait is drawn, in the order of
    DRAWN; then one for each unknown, whose wait for its parts it is. unknowns: their nodes, in the order of the refit.
    begins: when each is planned to begin, the horizon where it isn't; shown_in: of each unknown, the node it shows in or -1.
    """

    net: Net
    problem: Problem
    names: tuple[str, ...]
    waits: tuple[str, ...]
    unknowns: tuple[tuple[Unknown, int], ...]
    skies: int
    begins: Ints
    shown_in: tuple[int, ...]

    def node(self, name: str) -> int:
        """The node of a name. Raises ValueError for one that isn't there."""
        return self.names.index(name)

    def order_of(self, plan: Plan) -> Ints:
        """The rank of each node by when another plan of the same tasks has it begin. O(nodes log nodes)."""
        begins, at, grid = self.begins.copy(), plan.by_task(), self.problem.grid
        for n in range(FIRST_TASK, self.problem.size):
            item = at.get(self.names[n])
            if item is not None and self.net.node[n, STATE] == TO_PLAY:
                begins[n] = max(grid.ceil(item.resume or item.start), 0)
        for (_, node), base in zip(self.unknowns, self.shown_in, strict=True):
            if base >= 0 and self.net.node[base, STATE] == TO_PLAY:
                begins[node] = begins[base]
        return ranks_of(begins)


def ranks_of(begins: Ints) -> Ints:
    """The rank of each node by when it begins; the first in the net of two that begin together."""
    return np.argsort(np.lexsort((np.arange(len(begins)), begins)))


def by_person(node: Ints, modes: list[list[int]], column: int, must_below: int, people: int) -> tuple[Ints, Ints]:
    """What each person is planned for, in the order of a column, and where each person's begins.

    must_below: only must-work ashore, of nodes below this; 0: all there is.
    """
    rows: list[list[int]] = [[] for _ in range(max(people, 1))]
    for n in range(FIRST_TASK, len(node)):
        counts = node[n, STATE] == TO_PLAY
        if must_below:
            counts = counts and n < must_below and not node[n, OPTIONAL] and not node[n, FLOATS]
        for who in modes[node[n, MODE_LO]][PEOPLE:] if counts else ():
            if who >= 0:
                rows[who].append(n)
    for mine in rows:
        mine.sort(key=lambda n: int(node[n, column]))
    flat = [n for mine in rows for n in mine]
    return np.array(flat, dtype=np.int64), np.cumsum([0, *(len(mine) for mine in rows)], dtype=np.int64)


def done_first(net: Net, first: set[int]) -> Net:
    """The same net with some nodes, and what they wait for, before everything else in the order of the plan."""
    wanted, todo = set(first), list(first)
    while todo:
        this = todo.pop()
        for before in net.arc[net.arc[:, THEN] == this, FIRST].tolist():
            if before not in wanted and net.node[before, STATE] == TO_PLAY and before >= FIRST_TASK:
                wanted.add(before)
                todo.append(before)
    ahead = np.zeros(len(net.node), dtype=np.int64)
    ahead[sorted(wanted)] = -1
    return in_order(net, np.argsort(np.lexsort((net.node[:, ORDER], ahead))))


def in_order(net: Net, order: Ints) -> Net:
    """The same net in another order. order: the rank of each node; the last starts that keep the launch stay those of the old one."""
    node = net.node.copy()
    node[:, ORDER] = order
    turns, turn_ptr = by_person(node, net.mode.tolist(), ORDER, 0, len(net.rest))
    return net._replace(node=node, turns=turns, turn_ptr=turn_ptr)
