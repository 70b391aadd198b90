"""A refit compiled to plain arrays: what the windows and the first plan compute on.

Nodes 0 and 1 are the haul and the launch; node k + 2 is ``tasks[k]``. A *mode* is one set of people for
one node; its calendar holds every half-hour in which all of them work and the yard allows it, so a mode
fixes every valid (start, end) pair: start at working slot number k, end after slot number k + work - 1.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from rovask.core.calendar import SlotGrid
from rovask.core.plan.result import Collision

Ints = npt.NDArray[np.int64]

HAUL_NODE = 0
LAUNCH_NODE = 1
FIRST_TASK = 2

FS, SS, FF, SF = range(4)
NO_MAX = -1


@dataclass(frozen=True, slots=True)
class Problem:
    """Times are slots of ``grid``; -1 stands for "none" throughout.

    work[n]        slots of work still to do (0: a milestone or a task that is done)
    unbroken[n]    1 if that work may not pause (a coat)
    release[n]     earliest start; deadline[n] latest start (pins: both the same); fixed_start/fixed_end
                   facts that no plan may change; a task under way has fixed_start and a release to resume
    need[n]        0 must, 1 should, 2 could; jobs that are begun count as must
    job[n], place[n], hands[n]
    value[j]       what leaving job j out costs, in the objective
    mode_lo/hi[n]  slice of the modes of node n; mode_calendar, mode_people (padded with -1), mode_penalty
    rank[c, t]     working slots of calendar c before slot t; pos[c, k] the k-th working slot (horizon if none)
    arcs           columns: first, then, kind, min lag, max lag or NO_MAX
    place_capacity[p], horizon: number of slots
    """

    grid: SlotGrid
    now: int
    launch_at: int
    tasks: tuple[str, ...]
    jobs: tuple[str, ...]
    people: tuple[str, ...]
    work: Ints
    unbroken: Ints
    release: Ints
    deadline: Ints
    fixed_start: Ints
    fixed_end: Ints
    need: Ints
    job: Ints
    place: Ints
    hands: Ints
    value: Ints
    mode_lo: Ints
    mode_hi: Ints
    mode_calendar: Ints
    mode_people: Ints
    mode_penalty: Ints
    rank: npt.NDArray[np.int32]
    pos: npt.NDArray[np.int32]
    arcs: Ints
    place_capacity: Ints
    horizon: int
    unplanned: tuple[str, ...] = ()
    collisions: tuple[Collision, ...] = ()

    @property
    def size(self) -> int:
        """Nodes, the two milestones included."""
        return len(self.work)

    def node(self, task: str) -> int:
        """The node of a task id. Raises ValueError for one that isn't planned."""
        return self.tasks.index(task) + FIRST_TASK

    def name(self, node: int) -> str:
        """The id of a node: a task's, or the milestone's."""
        return ("haul", "launch")[node] if node < FIRST_TASK else self.tasks[node - FIRST_TASK]
