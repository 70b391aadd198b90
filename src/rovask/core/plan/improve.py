"""Better plans, any time: CP-SAT from a complete hint, people fixed first and then free.

Whoever calls is told of every better schedule as it is found, with its value, the bound and the seconds taken, and may
stop the search from another thread; the best one so far stays.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from ortools.sat.python import cp_model

from rovask.core.plan.first import Schedule, first_schedule, left_justified
from rovask.core.plan.problem import Problem
from rovask.core.plan.solver import Model
from rovask.core.plan.value import value_of
from rovask.core.plan.windows import Windows, windows_of

STARTS_SHARE = 0.06  # of the time, for more starts of the first plan
STARTS_AT_ONCE = 12
PEOPLE_FIXED_SHARE = 0.25
PEOPLE_FIXED_FROM = 100  # nodes: smaller problems are proven faster with everything free


class Status(StrEnum):
    """How far a search came."""

    OPTIMAL = "optimal"
    FEASIBLE = "feasible"
    INFEASIBLE = "infeasible"
    UNKNOWN = "unknown"


@dataclass(frozen=True, slots=True)
class Step:
    """A better schedule: its value, what no plan can beat as far as is proven, and when it was found."""

    schedule: Schedule
    value: int
    bound: int
    seconds: float


@dataclass(frozen=True, slots=True)
class Improved:
    """What a search came to. ``schedule`` is the best one, the one it began with if none was better."""

    status: Status
    schedule: Schedule | None
    value: int
    bound: int
    seconds: float


class Stop:
    """A handle to stop a search from another thread, before it begins or while it runs."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._solver: cp_model.CpSolver | None = None
        self.asked = False

    def now(self) -> None:
        """Stop; the search returns with the best it has."""
        with self._lock:
            self.asked = True
            if self._solver is not None:
                self._solver.stop_search()

    def watch(self, solver: cp_model.CpSolver | None) -> None:
        """The solver that runs now, None if none does."""
        with self._lock:
            self._solver = solver


class _Told(cp_model.CpSolverSolutionCallback):
    def __init__(self, model: Model, tell: Callable[[Schedule, int], None]) -> None:
        super().__init__()
        self.model_, self.tell_ = model, tell

    def on_solution_callback(self) -> None:
        self.tell_(self.model_.schedule(self.value), round(self.best_objective_bound))


class _Search:
    def __init__(
        self, problem: Problem, first: Schedule | None, windows: Windows, tell: Callable[[Step], None] | None, stop: Stop,
        clock: Callable[[], float],
    ) -> None:  # fmt: skip
        self.problem, self.windows, self.tell, self.stop, self.clock = problem, windows, tell, stop, clock
        self.best = first
        self.value = -1
        if first is not None:
            self.value = value_of(problem.arrays, first.start, first.end, first.resume, first.mode)
        self.bound = 0
        self.began = clock()

    def found(self, schedule: Schedule, bound: int) -> None:
        """Keep a schedule if it is better."""
        value = value_of(self.problem.arrays, schedule.start, schedule.end, schedule.resume, schedule.mode)
        if self.best is None or value < self.value:
            schedule = left_justified(self.problem, self.windows, schedule)
            value = value_of(self.problem.arrays, schedule.start, schedule.end, schedule.resume, schedule.mode)
            self.best, self.value = schedule, value
            if self.tell is not None:
                self.tell(Step(schedule, value, max(bound, self.bound), self.clock() - self.began))

    def more_starts(self, seconds: float, seed: int) -> None:
        """Schedules from other priorities: cheap, and a better hint for the solver."""
        round_ = 0
        while self.clock() - self.began < seconds and not self.stop.asked:
            round_ += 1
            found = first_schedule(self.problem, self.windows, STARTS_AT_ONCE, seed=1000 * seed + round_)
            if found.stuck < 0:
                self.found(found, 0)

    def solve(
        self, model: Model, seconds: float, workers: int, deterministic: float | None, *, bounds: bool, seed: int
    ) -> Status:
        """Run the solver once. bounds: its bound holds for the whole problem."""
        solver = cp_model.CpSolver()
        solver.parameters.num_workers = workers
        solver.parameters.random_seed = seed
        solver.parameters.max_time_in_seconds = max(seconds, 0.01)
        if deterministic is not None:
            solver.parameters.max_deterministic_time = deterministic
        solver.parameters.cp_model_probing_level = 0
        solver.parameters.max_presolve_iterations = 1
        solver.parameters.symmetry_level = 0
        self.stop.watch(solver)
        try:
            if self.stop.asked:
                return Status.FEASIBLE if self.best is not None else Status.UNKNOWN
            status = solver.solve(
                model.with_hints(), _Told(model, lambda schedule, bound: self.found(schedule, bound if bounds else 0))
            )
        finally:
            self.stop.watch(None)
        if bounds and status in (cp_model.OPTIMAL, cp_model.FEASIBLE, cp_model.UNKNOWN):
            self.bound = max(self.bound, round(solver.best_objective_bound))
        if status == cp_model.OPTIMAL:
            return Status.OPTIMAL
        if status == cp_model.INFEASIBLE:
            return Status.INFEASIBLE
        if status == cp_model.MODEL_INVALID:
            raise ValueError("the model is not valid: " + model.model.validate())
        return Status.FEASIBLE if self.best is not None else Status.UNKNOWN


def improve(
    problem: Problem,
    first: Schedule | None,
    *,
    seconds: float,
    clock: Callable[[], float],
    workers: int = 2,
    deterministic: float | None = None,
    tell: Callable[[Step], None] | None = None,
    stop: Stop | None = None,
    seed: int = 1,
) -> Improved:
    """Look for better schedules of ``problem`` than ``first`` for ``seconds``, or until one is proven best.

    clock: seconds that only grow, such as time.monotonic. first: None if none is known. deterministic: a limit in the solver's own units, for runs that must repeat (with one
    worker). tell: called in the solver's thread for each better schedule. The bound leaves out plans that reach more
    than two days past the end of ``first`` and crews beyond the ten cheapest of a task.
    """
    search = _Search(problem, first, windows_of(problem), tell, stop or Stop(), clock)
    windows, size = search.windows, problem.size

    def left() -> float:
        return seconds - (clock() - search.began)

    if first is not None and deterministic is None:
        search.more_starts(seconds * STARTS_SHARE, seed)
    if first is not None and size > PEOPLE_FIXED_FROM and len(problem.arrays.mode_people) > size:
        share = min(seconds * PEOPLE_FIXED_SHARE, left())
        fixed = Model(problem, windows, search.best, fixed_people=True).build()
        limit = None if deterministic is None else deterministic * PEOPLE_FIXED_SHARE
        search.solve(fixed, share, workers, limit, bounds=False, seed=seed)
    model = Model(problem, windows, search.best).build()
    status = search.solve(model, left(), workers, deterministic, bounds=True, seed=seed)
    if status is Status.OPTIMAL:
        search.bound = search.value
    return Improved(status, search.best, search.value, min(search.bound, max(search.value, 0)), clock() - search.began)
