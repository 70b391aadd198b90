"""A refit compiled to plain arrays: what the windows, the first plan and the solver compute on.

Nodes 0, 1 and 2 are the haul, the launch and the lift into the slings; node k + 3 is ``tasks[k]``. A *mode* is one
set of people for one node; its calendar holds every half-hour in which all of them work, the yard allows it and the
weather suits, so a mode fixes every valid (start, end) pair: start at working slot number k, end after slot number
k + work - 1.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from rovask.core.plain.derived import Derived, derived
from rovask.core.plan.problem.calendar import SlotGrid
from rovask.core.plan.result import Collision

Ints = npt.NDArray[np.int64]
Shorts = npt.NDArray[np.int32]

HAUL_NODE = 0
LAUNCH_NODE = 1
LIFT_NODE = 2
FIRST_TASK = 3

FS, SS, FF, SF = range(4)
NO_MAX = -1
FOREVER = 1 << 20  # slots: longer than any horizon


class Arrays(NamedTuple):
    """The arrays of a Problem, by name. Times are slots; -1 stands for "none" throughout.

    work[n]        slots of work still to do (0: a milestone or a task that is done)
    longest[n]     most slots from its start to its end: its work if that may not pause (a coat), the limit of an outage
    release[n]     earliest start; deadline[n] latest start (pins: both the same); fixed_start/fixed_end
                   facts that no plan may change; a task under way has fixed_start and a release to resume
    need[n]        0 must, 1 should, 2 could; jobs that are begun count as must; before[n]: 1 if it must
                   end before the launch and does not hang on it (slings, the last day)
    urgent[n]      1 for work on what is dangerous, 2 for what that waits for, else 0
    job[n]         value[j]: what leaving job j out costs, in the objective
    mode_lo/hi[n]  slice of the modes of node n; mode_calendar, mode_people (padded with -1), mode_penalty
    rank[c, t]     working slots of calendar c before slot t; pos[c, k] the k-th working slot (horizon if none)
    sky[n]         row of sky_run (0: no need of weather), tender[n]: slots after the end that must be dry,
                   whole[n]: 1 if the pauses must be too; sky_run[w, t]: slots on end, from t on, that are dry enough
    use_*          what node n uses of what there is only so much of: places, equipment. Slices use_ptr[n:n+2] of
                   use_what and use_amount; capacity[r]
    rival_*        nodes that must not overlap node n: slices of rival, with how long after the end of n (rival_mine)
                   and of the other (rival_theirs) that still holds
    arcs           columns: first, then, kind, min lag, max lag or NO_MAX, the clock its lags are counted on (0: slots;
                   else a row of ``cure`` and one, see lags.py), 1 if who is left out takes nobody along by it; arc_ptr, arc_idx: those touching each node
    cure[c, t]     the clocks: how much cure, how many working days of the yard, lie before slot t, in parts of CURE_UNIT
    longest_run[p] days on end person p may work (0: their hours never allow more); worked[p, d]: days past with work
    day_of[t]      local day of each slot; day_slot[d]: its first slot
    day_cost[p]    what a day on which a paid person comes costs, in the objective
    outages        columns: node that takes a service out, node whose end gives it back, weight, 1 if only what of it lies
                   before the haul or after the launch counts
    anchor[n]      where the plan before had node n, if it should stay there (-1: free), anchor_mode[n] who did it
    weights        of the objective: see value.py
    """

    work: Ints
    longest: Ints
    release: Ints
    deadline: Ints
    fixed_start: Ints
    fixed_end: Ints
    need: Ints
    before: Ints
    urgent: Ints
    job: Ints
    value: Ints
    mode_lo: Ints
    mode_hi: Ints
    mode_calendar: Ints
    mode_people: Ints
    mode_penalty: Ints
    rank: Shorts
    pos: Shorts
    sky: Ints
    tender: Ints
    whole: Ints
    sky_run: Shorts
    use_ptr: Ints
    use_what: Ints
    use_amount: Ints
    capacity: Ints
    rival_ptr: Ints
    rival: Ints
    rival_mine: Ints
    rival_theirs: Ints
    arcs: Ints
    arc_ptr: Ints
    arc_idx: Ints
    cure: Ints
    longest_run: Ints
    worked: Ints
    day_of: Ints
    day_slot: Ints
    day_cost: Ints
    outages: Ints
    anchor: Ints
    anchor_mode: Ints
    weights: Ints
    now: int
    launch_at: int


# Columns of Ground.node …
(
    WORK,
    LONGEST,
    RELEASE,
    DEADLINE,
    FIXED_START,
    FIXED_END,
    NEED,
    JOB,
    MODE_LO,
    MODE_HI,
    SKY,
    TENDER,
    WHOLE,
    ANCHOR,
    ANCHOR_MODE,
    USE_LO,
    USE_HI,
    RIVAL_LO,
    RIVAL_HI,
    ARC_LO,
    ARC_HI,
    BEFORE,
    RANK,
    URGENT,
) = range(24)
# … of Ground.mode: calendar, penalty, then the people padded with -1 …
CALENDAR, PENALTY, PEOPLE = range(3)
# … of the arcs …
FIRST, THEN, KIND, LOW, HIGH, CLOCK, SOFT = range(7)
# … and of Ground.person.
LONGEST_RUN, DAY_COST = range(2)


class Ground(NamedTuple):
    """Where tasks may lie: nodes, modes, their calendars, and what a task takes while it is done.

    node, mode, person: columns as above. rank, pos: working slots of each calendar (problem/calendar.py). sky_run: dry
    slots on end. use: what, amount. rival: other node, how long after mine, after theirs.
    """

    node: Ints
    mode: Ints
    rank: Shorts
    pos: Shorts
    sky_run: Shorts
    use: Ints
    capacity: Ints
    rival: Ints
    person: Ints
    day_of: Ints
    day_slot: Ints


class Tied(NamedTuple):
    """What ties nodes. touch: the arcs touching each node. cure: warmth by slot (problem/curing.py)."""

    arcs: Ints
    cure: Ints
    touch: Ints


class Worth(NamedTuple):
    """What a schedule costs (problem/value.py)."""

    value: Ints
    outages: Ints
    weights: Ints
    now: int
    launch_at: int


class Tables(NamedTuple):
    """The Arrays again, packed for compiled functions, each handed the part it needs.

    worked: tasks already done, by person and day.
    """

    ground: Ground
    tied: Tied
    worked: Ints
    worth: Worth


@derived()
def tables_of(problem: Problem) -> Tables:
    """The arrays of a problem, packed. O(their size)."""
    a = problem.arrays
    columns = [
        a.work, a.longest, a.release, a.deadline, a.fixed_start, a.fixed_end, a.need, a.job, a.mode_lo, a.mode_hi, a.sky,
        a.tender, a.whole, a.anchor, a.anchor_mode, a.use_ptr[:-1], a.use_ptr[1:], a.rival_ptr[:-1], a.rival_ptr[1:],
        a.arc_ptr[:-1], a.arc_ptr[1:], a.before, a.need, a.urgent,
    ]  # fmt: skip
    ground = Ground(
        np.asfortranarray(np.column_stack(columns)),
        np.column_stack([a.mode_calendar, a.mode_penalty, a.mode_people]),
        a.rank,
        a.pos,
        a.sky_run,
        np.column_stack([a.use_what, a.use_amount]),
        a.capacity,
        np.column_stack([a.rival, a.rival_mine, a.rival_theirs]),
        np.column_stack([a.longest_run, a.day_cost]),
        a.day_of,
        a.day_slot,
    )
    worth = Worth(a.value, a.outages, a.weights, a.now, a.launch_at)
    return Tables(ground, Tied(a.arcs, a.cure, a.arc_idx), a.worked, worth)


def by_node(size: int, arcs: Ints) -> tuple[Ints, Ints]:
    """Arcs touching each node, as a pointer and an index array."""
    node = arcs[:, :2].ravel()
    order = np.argsort(node, kind="stable")
    pointer = np.concatenate([[0], np.cumsum(np.bincount(node, minlength=size))]).astype(np.int64)
    return pointer, (order // 2).astype(np.int64)


@dataclass(frozen=True, slots=True)
class Problem:
    """The arrays, and what their numbers stand for.

    arc_link[a]: id of the tie arc a was made of ("" for what a state implies). crews[m]: the people of mode m. resources: ids of places and
    equipment, in the order of ``capacity``. missed: ids of ties whose longest wait is given up for make-good work; broken:
    of those whose longest wait what happened has broken already.
    """

    grid: SlotGrid
    arrays: Arrays
    tasks: tuple[str, ...]
    jobs: tuple[str, ...]
    people: tuple[str, ...]
    resources: tuple[str, ...]
    arc_link: tuple[str, ...]
    crews: tuple[tuple[str, ...], ...]
    missed: tuple[str, ...] = ()
    broken: tuple[str, ...] = ()
    unplanned: tuple[str, ...] = ()
    collisions: tuple[Collision, ...] = ()
    derived: Derived = field(init=False, compare=False, repr=False, default_factory=Derived)

    @property
    def horizon(self) -> int:
        """Number of slots."""
        return int(self.arrays.pos.shape[1]) - 1

    @property
    def size(self) -> int:
        """Nodes, the milestones included."""
        return len(self.arrays.work)

    def node(self, task: str) -> int:
        """The node of a task id. Raises ValueError for one that isn't planned."""
        return self.tasks.index(task) + FIRST_TASK

    def name(self, node: int) -> str:
        """The id of a node: a task's, or the milestone's."""
        return ("haul", "launch", "lift")[node] if node < FIRST_TASK else self.tasks[node - FIRST_TASK]

    def crew(self, mode: int) -> tuple[str, ...]:
        """The people of a mode."""
        return self.crews[mode]

    def mode_of(self, node: int, people: tuple[str, ...]) -> int:
        """The mode in which just these people do a node, in whatever order; -1 if there is none."""
        lo, hi = int(self.arrays.mode_lo[node]), int(self.arrays.mode_hi[node])
        try:
            return self.crews.index(people, lo, hi)
        except ValueError:
            wanted = set(people)
            return next((mode for mode in range(lo, hi) if set(self.crews[mode]) == wanted), -1)
