"""Plans near a plan: a few tasks moved or given to others, everything else left where it lies unless it must give way.

A schedule that is generated anew in the same order does not come out the same (docs/planner.md), so all that isn't moved is held
at the start it has. One try takes a millisecond.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from rovask.core.plan.first.serial import Schedule, job_order, run_once
from rovask.core.plan.problem.arrays import FIRST_TASK, HAUL_NODE, Problem, tables_of
from rovask.core.plan.problem.value import UNPLACED, cost_of_tables
from rovask.core.plan.problem.windows import windows_of

MOST = 4  # tasks that are moved at once
FAR = 48.0  # slots by which they are moved, on the mean
AROUND = (48, 96, 192)  # slots about a moment, of a stretch whose order is mixed
HURRY = 200.0  # slots by which what drives every run is moved forward in such a stretch, at most
STICK = 10_000  # slots a task would rather wait for the people it has
UNDER = 0.02  # share that what never drives is chosen by


class Moves:
    """Tries near one schedule. often: in what share of the runs each node drove the launch. O(a first plan) each."""

    def __init__(
        self, problem: Problem, best: Schedule, often: npt.NDArray[np.float64], random: np.random.Generator
    ) -> None:
        self.problem, self.best, self.often, self.random = problem, best, often, random
        self.windows, self.tables, self.jobs = windows_of(problem), tables_of(problem), job_order(problem)
        a = problem.arrays
        placed = best.start != UNPLACED
        open_ = placed & (a.fixed_end < 0) & (np.arange(problem.size) >= FIRST_TASK)
        self.open = np.flatnonzero(open_)
        self.begin = np.where(best.resume >= 0, best.resume, best.start)
        self.floor = np.where(open_, self.begin, 0)
        self.key = np.where(placed, self.begin, self.windows.latest_start).astype(np.float64)
        self.key[HAUL_NODE] = -1e8
        self.need = np.where(placed, 0, a.need)
        self.crew = np.where(placed, best.mode, -1)

    def another(self) -> Schedule | None:
        """A valid schedule of likely figures, or None if this try found no room or nothing is open."""
        if not len(self.open):
            return None
        key, floor, crew = self.key.copy(), self.floor.copy(), self.crew
        kind = int(self.random.integers(4))
        if kind == 0:  # what drives, sooner
            some = self._some(self.often[self.open] + UNDER)
            key[some] -= self.random.exponential(FAR, len(some))
            floor[some] = 0
        elif kind == 1:  # what doesn't, later, and what follows may move up
            some = self._some(1.0 / (self.often[self.open] + UNDER))
            by = self.random.exponential(FAR, len(some))
            up = self.open[np.abs(self.begin[self.open] - self.begin[some].min()) <= by.max() + FAR]
            floor[up] = 0
            key[some] += by
            floor[some] = (self.begin[some] + by).astype(np.int64)
        elif kind == 2:  # a stretch in the order of what drives
            at = int(self.random.choice(self.begin[self.open]))
            some = self.open[np.abs(self.begin[self.open] - at) < int(self.random.choice(AROUND))]
            key[some] -= self.random.uniform(0, HURRY) * self.often[some]
            floor[some] = 0
        else:  # by others
            some = self._some(np.ones(len(self.open)))
            crew = crew.copy()
            low, high = self.problem.arrays.mode_lo[some], self.problem.arrays.mode_hi[some]
            crew[some] = self.random.integers(low, high)
            floor[some] = 0
        found = run_once(self.tables, self.windows, key, 0, STICK, floor, crew, self.jobs, self.need)
        if found.stuck >= 0:
            return None
        value = cost_of_tables(self.tables, found.start, found.end, found.resume, found.mode)
        return Schedule(found.start, found.end, found.resume, found.mode, -1, value)

    def _some(self, weight: npt.NDArray[np.float64]) -> npt.NDArray[np.int64]:
        many = min(int(self.random.integers(1, MOST)), len(self.open))
        return np.asarray(self.random.choice(self.open, many, p=weight / weight.sum(), replace=False))
