"""Local search over the order in which the first plan places tasks.

The starts of a schedule are shaken a little and serve as priorities for a new one (a neighbourhood on activity lists,
as in Kolisch & Hartmann, "Experimental investigation of heuristics for resource-constrained project scheduling: an
update", European J. of Operational Research 174, 2006). One try takes a millisecond or two, so thousands fit where the
solver solves a dozen neighbourhoods; the solver then does what an order of placing can't say.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from rovask.core.plan.first.serial import Schedule, job_order, run_once
from rovask.core.plan.problem.arrays import FIRST_TASK, HAUL_NODE, Ints, Problem, tables_of
from rovask.core.plan.problem.value import NEAR_SLOTS, UNPLACED, cost_of_tables
from rovask.core.plan.problem.windows import Windows

STICKS = (0, 2, 16)  # slots a task would rather wait for the people it has than take others
STRETCH = 0.08  # of the plan, reshuffled at once
JUMP = 0.15
DAY = 48.0
SPARE_SHARE, SPARED_STICKS = (
    0.25,
    48,
)  # of the tries spare a day of a paid person; for it a task waits a day for its people
FORCE_SHARE = 0.3  # of the tries, where a job is left out, have it in before what else may give way
KEEP_SHARE = 0.4  # of the tries leave what is near, and the days of paid people, as they are


class Reorder:
    """Tries on one problem. Deterministic for a seed and the schedules it is given."""

    def __init__(self, problem: Problem, windows: Windows, seed: int) -> None:
        self.problem, self.windows = problem, windows
        self.random = np.random.default_rng(seed)
        self.tables = tables_of(problem)
        self.jobs = job_order(problem)

    def near(self, best: Schedule) -> Schedule | None:
        """Another schedule near ``best``, or None if there is no task or this try found no room for all must-work.

        O(one first plan).
        """
        if self.problem.size <= FIRST_TASK:
            return None
        random, a = self.random, self.problem.arrays
        key = self._shaken(best)
        key[HAUL_NODE] = -1e8
        stick = int(random.choice(STICKS))
        with_ = np.where(best.start != UNPLACED, best.mode, -1) if stick else a.anchor_mode
        floor = np.zeros(self.problem.size, dtype=np.int64)
        if random.random() < KEEP_SHARE:
            floor = np.maximum(self._still(best), self._gathered(best))
        if random.random() < SPARE_SHARE:
            with_ = np.where(best.start != UNPLACED, best.mode, -1)
            if self._spared(best, key, with_, floor):
                stick = SPARED_STICKS
        need = np.where(best.start != UNPLACED, 0, a.need) if random.random() < 0.5 else a.need
        if (forced := self._forced(best)) is not None:
            key[forced] = self.windows.start[forced] - random.exponential(DAY)
            need = np.where(forced, 0, need)
        schedule = run_once(
            self.tables, self.windows, key, int(random.integers(3)), stick, floor, with_, self.jobs, need
        )
        if schedule.stuck >= 0:
            return None
        value = cost_of_tables(self.tables, schedule.start, schedule.end, schedule.resume, schedule.mode)
        return Schedule(schedule.start, schedule.end, schedule.resume, schedule.mode, -1, value)

    def _spared(self, best: Schedule, key: npt.NDArray[np.float64], with_: Ints, floor: Ints) -> bool:
        """Have one day of a paid person done by others, or on another day they come anyway; False if nobody paid comes."""
        a, random = self.problem.arrays, self.random
        people = a.mode_people[np.where(best.start != UNPLACED, best.mode, 0)]
        paid = (people >= 0) & (a.day_cost[people] > 0) & (best.start != UNPLACED)[:, None] & (a.fixed_end < 0)[:, None]
        if not paid.any():
            return False
        who = int(random.choice(np.unique(people[paid])))
        mine = np.flatnonzero((paid & (people == who)).any(axis=1))
        days = a.day_of[best.start[mine]]
        off = int(random.choice(days))
        others = np.unique(days[days != off])
        by_others = random.random() < 0.6
        for node in mine[days == off].tolist():
            modes = np.arange(a.mode_lo[node], a.mode_hi[node])
            without = modes[~(a.mode_people[modes] == who).any(axis=1)]
            if by_others and len(without):
                with_[node] = int(random.choice(without))
                floor[node] = 0
            elif len(others):
                floor[node] = a.day_slot[int(random.choice(others))]
                key[node] = min(key[node], floor[node])
        return True

    def _forced(self, best: Schedule) -> npt.NDArray[np.bool_] | None:
        """Now and then the tasks of one job that was left out, to be placed before what could give way to it."""
        a, random = self.problem.arrays, self.random
        out = np.unique(a.job[(best.start == UNPLACED) & (a.job >= 0)])
        return a.job == random.choice(out) if len(out) and random.random() < FORCE_SHARE else None

    def _still(self, best: Schedule) -> Ints:
        """Floors that leave near tasks where the plan before had them, if they are there."""
        a = self.problem.arrays
        still = (a.anchor >= 0) & (a.anchor < a.now + NEAR_SLOTS) & (best.start == a.anchor)
        return np.where(still, a.anchor, 0)

    def _gathered(self, best: Schedule) -> Ints:
        """Floors that keep paid people on the days they come, now and then one day's work put off to a later such day.

        Placed as early as they may be, they would come for an hour on every other day.
        """
        a, random = self.problem.arrays, self.random
        people = a.mode_people[np.where(best.start != UNPLACED, best.mode, 0)]
        paid = (people >= 0) & (a.day_cost[people] > 0) & (best.start != UNPLACED)[:, None] & (a.fixed_end < 0)[:, None]
        floor = np.where(paid.any(axis=1), best.start, 0)
        if not paid.any() or random.random() < 0.5:
            return floor
        who = int(random.choice(np.unique(people[paid])))
        mine = np.flatnonzero((paid & (people == who)).any(axis=1))
        days = a.day_of[best.start[mine]]
        off = int(random.choice(days))
        later = np.unique(days[days > off])
        if len(later):
            floor[mine[days == off]] = a.day_slot[int(random.choice(later[:3]))]
        else:
            floor[mine[days == off]] = 0
        return floor

    def _shaken(self, best: Schedule) -> npt.NDArray[np.float64]:
        """Starts of ``best`` as priorities, with a few that jump, all a little, a stretch reshuffled, or some earlier."""
        random, size = self.random, self.problem.size
        begin: Ints = np.where(best.start != UNPLACED, best.start, self.windows.latest_start)
        key = begin.astype(np.float64)
        span = float(np.ptp(key[FIRST_TASK:])) + 1.0
        kind = int(random.integers(4))
        if kind == 0:
            some = random.integers(FIRST_TASK, size, int(random.integers(1, 6)))
            key[some] += random.normal(0.0, JUMP * span, len(some))
        elif kind == 1:
            key += random.normal(0.0, float(random.choice([4.0, 12.0, 30.0])), size)
        elif kind == 2:
            at = random.uniform(float(key[FIRST_TASK:].min()), float(key.max()))
            stretch = np.abs(key - at) < STRETCH * span
            key[stretch] += random.normal(0.0, DAY, int(stretch.sum()))
        else:
            some = np.flatnonzero(random.random(size) < 0.05)
            key[some] -= random.exponential(0.1 * span, len(some))
        return key
