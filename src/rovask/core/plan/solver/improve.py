"""Better plans, any time: parts of the plan freed in turn and orders shaken, while the whole is bounded beside it.

Whoever calls is told of every better schedule as it is found, with its value, the bound and the seconds taken, and may
stop the search from another thread; the best one so far stays.
"""

from __future__ import annotations

import math
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
from ortools.sat.python import cp_model

from rovask.core.plan.first.repair import back_where_it_was, going_on, held_still, what_holds, with_neighbours
from rovask.core.plan.first.serial import Schedule, left_justified
from rovask.core.plan.problem.arrays import LAUNCH_NODE, Problem
from rovask.core.plan.problem.value import unsettling, value_of
from rovask.core.plan.problem.windows import Windows, windows_of
from rovask.core.plan.solver.neighbourhoods import neighbourhood
from rovask.core.plan.solver.reorder import Reorder
from rovask.core.plan.solver.search import Model

REPAIR_SHARE, REPAIR_SECONDS, REPAIR_TASKS = 0.5, 4.0, 12
STILL_SHARE = 0.5  # of the repair, from what moves least
REORDER_SHARE, REORDER_SECONDS = (
    0.1,
    0.8,
)  # of the time and at most, for other orders alone: cheap, and a better hint for the solver
AROUND_TASKS, AROUND_SECONDS = 24, 0.5  # freed at a time, and for how long
BETWEEN_SHARE = 0.3  # of the time of a neighbourhood, for other orders after it
AROUND_SHARE = 0.45  # of what is left, for neighbourhoods with the bound beside them; then all of it with all workers
NEARLY = 0.04  # a gap so small is left to the search for the bound, which goes on …
IN_REACH = 0.12  # … a gap that a proof may close: then one of them only raises the bound
ALONE_SHARE = 0.5  # with one worker: of what is left, for neighbourhoods; the rest is for all of it
MODELLED = 0.004  # seconds a node takes to be modelled; a search that has hardly more is better spent on orders
LARGE = 60  # nodes: smaller problems are proven faster with everything free


class Status(StrEnum):
    """How far a search came."""

    OPTIMAL = "optimal"
    FEASIBLE = "feasible"
    INFEASIBLE = "infeasible"
    UNKNOWN = "unknown"


@dataclass(frozen=True, slots=True)
class BetterSchedule:
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
        self._solvers: list[cp_model.CpSolver] = []
        self.asked = False

    def pull(self) -> None:
        """Stop; the search returns with the best it has."""
        with self._lock:
            self.asked = True
            for solver in self._solvers:
                solver.stop_search()

    @contextmanager
    def watching(self, solver: cp_model.CpSolver) -> Iterator[None]:
        """While a solver runs."""
        with self._lock:
            self._solvers.append(solver)
        try:
            yield
        finally:
            with self._lock:
                self._solvers.remove(solver)


class _Told(cp_model.CpSolverSolutionCallback):
    def __init__(self, model: Model, tell: Callable[[Schedule, int], None]) -> None:
        super().__init__()
        self.model_, self.tell_ = model, tell

    def on_solution_callback(self) -> None:
        self.tell_(self.model_.schedule(self.value), round(self.best_objective_bound))


class _Search:
    def __init__(
        self, problem: Problem, first: Schedule | None, windows: Windows, tell: Callable[[BetterSchedule], None] | None, stop: Stop,
        clock: Callable[[], float],
    ) -> None:  # fmt: skip
        self.problem, self.windows, self.tell, self.stop, self.clock = problem, windows, tell, stop, clock
        self.lock = threading.Lock()  # reorder and around find side by side
        self.best = first
        self.value = self.weighed = -1
        if first is not None:
            self.value = self._worth(first)
            self.weighed = self._weighed(first)
        self.bound = 0  # of what is weighed: of the value, and of what is moved
        self.whole_solver: cp_model.CpSolver | None = None
        self.began = clock()

    def found(self, schedule: Schedule, bound: int, even: Schedule | None = None) -> None:
        """Keep a schedule if it is better by more than what it moves. even: or as good, if this is still the best one; told only if better."""
        value = self._worth(schedule)
        with self.lock:
            if even is not None and value == self.value and self.best is even:
                self.best = schedule
            elif self.best is None or value < self.value or self._weighed(schedule) < self.weighed:
                neat = left_justified(self.problem, self.windows, schedule)
                neat = back_where_it_was(self.problem, self.windows, replace(neat, value=self._worth(neat)))
                neat = going_on(self.problem, self.windows, neat)
                schedule = min(neat, schedule, key=self._weighed)
                if self.best is not None and self._weighed(schedule) >= self.weighed:
                    return
                self.best, self.value, self.weighed = schedule, self._worth(schedule), self._weighed(schedule)
                if self.tell is not None:
                    self.bound = max(bound, self.bound)
                    self.tell(BetterSchedule(schedule, self.value, self.told_bound(), self.clock() - self.began))

    def told_bound(self) -> int:
        """What no plan can beat as far as is proven, of the value alone: the bound has in it what the best one moves."""
        return min(max(self.bound - (self.weighed - self.value), 0), max(self.value, 0))

    def _worth(self, schedule: Schedule) -> int:
        return value_of(self.problem, schedule.start, schedule.end, schedule.resume, schedule.mode)

    def _weighed(self, schedule: Schedule) -> int:
        return self._worth(schedule) + unsettling(self.problem.arrays, schedule.start)

    def reorder(self, seconds: float, seed: int) -> None:
        """Shake the order of the best schedule for so long; see reorder.py."""
        self.shake(Reorder(self.problem, self.windows, seed), seconds, None)

    def shake(self, tries: Reorder, seconds: float, over: threading.Event | None) -> None:
        """Shake it for so long, or until ``over``."""
        until = self.clock() + seconds
        while self.clock() < until and not self._over(over):
            best = self.best
            if best is None:
                return
            found = tries.near(best)
            if found is not None and found.value <= self.value:
                self.found(found, 0, even=best)

    def repair(self, seconds: float, seed: int) -> None:
        """After a change: leave what can lie where it was and let the solver place what can't, with ever more about it.

        Too few free nodes are proven to be too few in hundredths of a second, so it begins with few.
        """
        until, size = self.clock() + seconds, REPAIR_TASKS
        still = held_still(self.problem, self.windows, self.best) if self.best is not None else None
        if still is not None:
            self._from_still(*still, seconds * STILL_SHARE, seed)
        while (left := until - self.clock()) > 0.2 and not self.stop.asked and self.best is not None:
            hint, broken = what_holds(self.problem, self.windows, self.best)
            if not broken and (hint.start == self.best.start).all():
                return  # it is the plan before
            free = with_neighbours(self.problem, hint, broken, size)
            kept = frozenset(range(self.problem.size)) - free
            model = Model(self.problem, self.windows, hint, kept=kept).build()
            status = self.solve(model, left, 1, None, seed=seed)
            if status is not Status.INFEASIBLE or len(free) >= self.problem.size - 1:
                return
            size *= 2

    def _from_still(self, still: Schedule, displaced: frozenset[int], seconds: float, seed: int) -> None:
        """From a schedule in which only what must moved, late perhaps, free that and what is about it until it is in time."""
        until, best = self.clock() + seconds, still
        for size in (REPAIR_TASKS, 2 * REPAIR_TASKS, 4 * REPAIR_TASKS):
            if (left := until - self.clock()) < 0.2 or self.stop.asked:
                return
            free = with_neighbours(self.problem, best, displaced, size)
            model = Model(self.problem, self.windows, best, kept=frozenset(range(self.problem.size)) - free).build()
            near = _Search(self.problem, best, self.windows, None, self.stop, self.clock)
            near.solve(model, min(left, seconds / 2), 1, None, seed=seed)
            if near.best is not None:
                best = near.best
            if best.start[LAUNCH_NODE] <= self.problem.arrays.launch_at:
                break
        self.found(best, 0)

    def around_while_bounded(self, seconds: float, seed: int) -> Status:
        """``around`` in this thread while another one bounds the whole; to the end where that is nearly enough for a proof."""
        over, began = threading.Event(), self.clock()

        def bounded() -> Status:
            try:
                return self.whole(seconds, 1, None, seed, over, raising=True)
            finally:
                over.set()

        with ThreadPoolExecutor(1, "rovask-bound") as pool:
            status = pool.submit(bounded)
            try:
                self.around(seconds * AROUND_SHARE, seed, over)
                if self.gap() < NEARLY:
                    self.around(seconds - (self.clock() - began), seed + 1, over)
            finally:
                over.set()
                if self.whole_solver is not None:
                    self.whole_solver.stop_search()
        return status.result()

    def around(self, seconds: float, seed: int, over: threading.Event | None = None) -> None:
        """Free some two dozen tasks at a time and keep the rest, other orders in between: quick gains where the whole is slow.

        Neighbourhoods in turn: a stretch of time, the days of one paid person with what lies about them, what ends last
        with what holds it, a stretch at random. A neighbourhood that is solved to its end without gain makes the next ones larger.
        """
        random = np.random.default_rng(seed)
        tries = Reorder(self.problem, self.windows, seed + 1)
        size, turn = AROUND_TASKS, 0
        until = self.clock() + seconds
        while (left := until - self.clock()) > 0.3 and self.best is not None and not self._over(over):
            began, was = self.clock(), self.value
            free = neighbourhood(self.problem, self.best, turn, size, random)
            turn += 1
            kept = frozenset(range(self.problem.size)) - free.nodes
            model = Model(self.problem, self.windows, self.best, kept=kept, reach=free.reach).build()
            status = self.solve(model, min(left, AROUND_SECONDS), 1, None, seed=seed + turn)
            if status is Status.OPTIMAL and self.value == was:
                size = min(size + 2, len(self.problem.arrays.work))
            elif status is not Status.OPTIMAL:
                size = max(size - 2, AROUND_TASKS // 2)
            self.shake(tries, (self.clock() - began) * BETWEEN_SHARE, over)

    def gap(self) -> float:
        """By what share of its value the best schedule may be beaten yet, as far as is proven."""
        return 1 - self.told_bound() / self.value if self.value > 0 else 0.0

    def _over(self, over: threading.Event | None) -> bool:
        return self.stop.asked or (over is not None and over.is_set())

    def whole(
        self, seconds: float, workers: int, deterministic: float | None, seed: int, over: threading.Event | None = None, *,
        raising: bool = False,
    ) -> Status:  # fmt: skip
        """Everything free: its bound holds for the whole problem. over: set when it is not wanted any more.

        raising: one worker does nothing but raise the bound; else it comes as it comes.
        """
        model = Model(self.problem, self.windows, self.best).build()
        solver = self._solver(seconds, workers, deterministic, seed)
        if raising:
            solver.parameters.subsolvers.append("objective_lb_search")
        solver.parameters.max_presolve_iterations = (
            1  # of a neighbourhood with two workers that was seen to crash OR-tools 9.15
        )

        def bounded(bound: float) -> None:
            with self.lock:
                self.bound = max(self.bound, math.ceil(bound - 1e-6))
                proven = self.best is not None and self.bound >= self.weighed
            if proven or (over is not None and over.is_set()):  # a stop that came before it had begun was not heard
                solver.stop_search()

        solver.best_bound_callback = bounded
        self.whole_solver = solver
        if over is not None and over.is_set():
            return Status.FEASIBLE
        status = self._run(solver, model, bounds=True)
        return Status.OPTIMAL if self.best is not None and self.bound >= self.weighed else status

    def solve(self, model: Model, seconds: float, workers: int, deterministic: float | None, *, seed: int) -> Status:
        """Run the solver once on a part of the problem."""
        return self._run(self._solver(seconds, workers, deterministic, seed), model, bounds=False)

    def _solver(self, seconds: float, workers: int, deterministic: float | None, seed: int) -> cp_model.CpSolver:
        solver = cp_model.CpSolver()
        solver.parameters.num_workers = workers
        solver.parameters.random_seed = seed
        solver.parameters.max_time_in_seconds = max(seconds, 0.01)
        if deterministic is not None:
            solver.parameters.max_deterministic_time = deterministic
        solver.parameters.cp_model_probing_level = 0
        solver.parameters.symmetry_level = 0
        return solver

    def _run(self, solver: cp_model.CpSolver, model: Model, *, bounds: bool) -> Status:
        with self.stop.watching(solver):
            if self.stop.asked:
                return Status.FEASIBLE if self.best is not None else Status.UNKNOWN
            told = _Told(model, lambda schedule, bound: self.found(schedule, bound if bounds else 0))
            status = solver.solve(model.with_hints(), told)
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
    tell: Callable[[BetterSchedule], None] | None = None,
    stop: Stop | None = None,
    seed: int = 1,
) -> Improved:
    """Look for better schedules of ``problem`` than ``first`` for ``seconds``, or until one is proven best.

    clock: seconds that only grow, such as time.monotonic. first: None if none is known. deterministic: a limit in the
    solver's own units, for runs that must repeat (with one worker). tell: called in the solver's thread for each better
    schedule. The bound leaves out plans that reach more than two days past the end of ``first`` and crews beyond the
    ten cheapest of a task.
    """
    search = _Search(problem, first, windows_of(problem), tell, stop or Stop(), clock)
    size = problem.size

    def left() -> float:
        return seconds - (clock() - search.began)

    if first is not None and deterministic is None and (problem.arrays.anchor >= 0).any():
        search.repair(min(seconds * REPAIR_SHARE, REPAIR_SECONDS), seed)
    if first is not None and deterministic is None:
        search.reorder(min(seconds * REORDER_SHARE, REORDER_SECONDS), seed)
    if first is not None and deterministic is None and left() < size * MODELLED:
        search.reorder(left(), seed + 1)
        status = Status.FEASIBLE
    elif first is not None and deterministic is None and size > LARGE and workers > 1:
        status = search.around_while_bounded(left(), seed)
        if status is not Status.OPTIMAL and left() > size * MODELLED and not search.stop.asked:
            status = search.whole(left(), workers, None, seed, raising=search.gap() < IN_REACH)
    else:
        if first is not None and deterministic is None and size > LARGE:
            search.around(left() * ALONE_SHARE, seed)
        status = search.whole(left(), workers, deterministic, seed)
    if status is Status.OPTIMAL:
        search.bound = search.weighed
    return Improved(status, search.best, search.value, search.told_bound(), clock() - search.began)


def put_right(
    problem: Problem,
    first: Schedule,
    seconds: float,
    clock: Callable[[], float],
    seed: int = 1,
    stop: Stop | None = None,
) -> Schedule:
    """``first``, or a better schedule in which what can stay where the plan before had it stays, looked for so long."""
    search = _Search(problem, first, windows_of(problem), None, stop or Stop(), clock)
    search.repair(seconds, seed)
    best = search.best
    return first if best is None or best is first else replace(best, value=search.value)
