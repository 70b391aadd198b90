"""Better plans, any time: CP-SAT from a complete hint, around parts of the plan first and then on all of it.

Whoever calls is told of every better schedule as it is found, with its value, the bound and the seconds taken, and may
stop the search from another thread; the best one so far stays.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
from ortools.sat.python import cp_model

from rovask.core.plan.first.repair import back_where_it_was, held_still, what_holds, with_neighbours
from rovask.core.plan.first.serial import Schedule, left_justified
from rovask.core.plan.problem.arrays import FIRST_TASK, LAUNCH_NODE, LIFT_NODE, Ints, Problem
from rovask.core.plan.problem.value import unsettling, value_of
from rovask.core.plan.problem.windows import Windows, windows_of
from rovask.core.plan.solver.reorder import Reorder
from rovask.core.plan.solver.search import Model

REPAIR_SHARE, REPAIR_SECONDS, REPAIR_TASKS = 0.5, 4.0, 12
STILL_SHARE = 0.5  # of the repair, from what moves least
REORDER_SHARE = 0.06  # of the time, for other orders alone: cheap, and a better hint for the solver
AROUND_SHARE = 0.4  # of what is left then, for neighbourhoods …
SAME_PEOPLE_SHARE = 0.55  # … and of what is left after them for everything with its people as they are
AROUND_TASKS, AROUND_SECONDS = 36, 1.0
LARGE = 100  # nodes: smaller problems are proven faster with everything free


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
        self._solver: cp_model.CpSolver | None = None
        self.asked = False

    def pull(self) -> None:
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
        self.bound = 0
        self.began = clock()

    def found(self, schedule: Schedule, bound: int, even: Schedule | None = None) -> None:
        """Keep a schedule if it is better by more than what it moves. even: or as good, if this is still the best one; told only if better."""
        value = self._worth(schedule)
        with self.lock:
            if even is not None and value == self.value and self.best is even:
                self.best = schedule
            elif self.best is None or self._weighed(schedule) < self.weighed:
                neat = left_justified(self.problem, self.windows, schedule)
                neat = back_where_it_was(self.problem, self.windows, replace(neat, value=self._worth(neat)))
                schedule = min(neat, schedule, key=self._weighed)
                self.best, self.value, self.weighed = schedule, self._worth(schedule), self._weighed(schedule)
                if self.tell is not None:
                    self.tell(BetterSchedule(schedule, self.value, max(bound, self.bound), self.clock() - self.began))

    def _worth(self, schedule: Schedule) -> int:
        return value_of(self.problem.arrays, schedule.start, schedule.end, schedule.resume, schedule.mode)

    def _weighed(self, schedule: Schedule) -> int:
        return self._worth(schedule) + unsettling(self.problem.arrays, schedule.start)

    def reorder(self, seconds: float, seed: int, over: threading.Event | None = None) -> None:
        """Shake the order of the best schedule for so long, or until ``over``; see reorder.py."""
        tries = Reorder(self.problem, self.windows, seed)
        until = self.clock() + seconds
        while self.clock() < until and not self.stop.asked and not (over is not None and over.is_set()):
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
            status = self.solve(model, left, 1, None, bounds=False, seed=seed)
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
            near.solve(model, min(left, seconds / 2), 1, None, bounds=False, seed=seed)
            if near.best is not None:
                best = near.best
            if best.start[LAUNCH_NODE] <= self.problem.arrays.launch_at:
                break
        self.found(best, 0)

    def around_and_reorder(self, seconds: float, seed: int, workers: int) -> None:
        """``around``, and ``reorder`` beside it where there is a second core for it."""
        over = threading.Event()
        beside = threading.Thread(target=self.reorder, args=(seconds, seed, over), name="rovask-reorder")
        if workers > 1:
            beside.start()
        try:
            self.around(seconds, seed)
        finally:
            over.set()
            if workers > 1:
                beside.join()

    def around(self, seconds: float, seed: int) -> None:
        """Free some forty tasks at a time and keep the rest: quick gains where the whole model is slow to move.

        Neighbourhoods in turn: a stretch of time, the days of one paid person with what lies about them, what ends last
        with what holds it, a stretch at random. A neighbourhood that is solved to its end without gain makes the next ones larger.
        """
        random = np.random.default_rng(seed)
        size, turn = AROUND_TASKS, 0
        until = self.clock() + seconds
        while (left := until - self.clock()) > 0.3 and not self.stop.asked and self.best is not None:
            free = self._neighbourhood(turn, size, random)
            turn += 1
            kept = frozenset(range(self.problem.size)) - free
            model = Model(self.problem, self.windows, self.best, kept=kept).build()
            was = self.value
            status = self.solve(model, min(left, AROUND_SECONDS), 1, None, bounds=False, seed=seed + turn)
            if status is Status.OPTIMAL and self.value == was:
                size = min(size + 4, len(self.problem.arrays.work))

    def _neighbourhood(self, turn: int, size: int, random: np.random.Generator) -> frozenset[int]:
        """Nodes to free: milestones, and about ``size`` tasks near each other."""
        a, best = self.problem.arrays, self.best
        if best is None:
            return frozenset()
        open_ = np.array([n for n in range(FIRST_TASK, self.problem.size) if a.fixed_end[n] < 0 and best.start[n] >= 0])
        order = open_[np.argsort(best.start[open_], kind="stable")]
        milestones = {LAUNCH_NODE, LIFT_NODE}
        left_out = [n for n in range(FIRST_TASK, self.problem.size) if best.start[n] < 0]
        paid = [who for who in range(len(a.day_cost)) if a.day_cost[who]]
        if turn % 8 == 6:  # the last days of the work
            last = [n for n in order.tolist() if a.before[n]][-size:]
            return frozenset(milestones | set(last) | set(left_out))
        if turn % 4 == 2:
            return frozenset(milestones | self._last_chain(order, size) | set(left_out))
        if turn % 4 == 1 and paid:
            who = paid[turn // 4 % len(paid)]
            mine = [n for n in order.tolist() if who in a.mode_people[best.mode[n]].tolist()]
            around = set(mine) | (self._tied(mine) & set(order.tolist()))
            share = max((size * 3 // 2 - len(around)) // max(len(mine), 1), 1)
            for node in mine:
                at = int(np.searchsorted(best.start[order], best.start[node]))
                around.update(order[max(at - share, 0) : at + share + 1].tolist())
            return frozenset(milestones | around | set(left_out))
        step = max(size * 2 // 3, 1)
        at = (turn // 4 * step) % max(len(order), 1) if turn % 4 == 0 else int(random.integers(max(len(order), 1)))
        return frozenset(milestones | set(order[at : at + size].tolist()) | set(left_out))

    def _tied(self, nodes: list[int]) -> set[int]:
        """Whatever a tie holds to one of ``nodes``."""
        wanted = set(nodes)
        pairs = [(int(first), int(then)) for first, then, *_ in self.problem.arrays.arcs.tolist()]
        return {then for first, then in pairs if first in wanted} | {first for first, then in pairs if then in wanted}

    def _last_chain(self, order: Ints, size: int) -> set[int]:
        """What ends last of the must-work, and backwards what holds it: ties, people and places, the nearest first."""
        a, best = self.problem.arrays, self.best
        if best is None:
            return set()
        must = [n for n in order.tolist() if a.before[n] and a.need[n] == 0]
        todo = sorted(must, key=lambda n: -int(best.end[n]))[: max(size // 8, 1)]
        people = {n: {who for who in a.mode_people[best.mode[n]].tolist() if who >= 0} for n in order.tolist()}
        uses = {n: set(a.use_what[a.use_ptr[n] : a.use_ptr[n + 1]].tolist()) for n in order.tolist()}
        ties = {(int(first), int(then)) for first, then, *_ in a.arcs.tolist()}
        out: set[int] = set(todo)
        while todo and len(out) < size:
            node = todo.pop(0)
            held = [
                n
                for n in order.tolist()
                if n not in out
                and best.start[n] < best.start[node]
                and ((n, node) in ties or people[n] & people[node] or uses[n] & uses[node])
            ]
            nearest = sorted(held, key=lambda n: -int(best.end[n]))[:3]
            out.update(nearest)
            todo += nearest
        return out

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
        solver.parameters.symmetry_level = 0
        if not model.kept:  # a neighbourhood with one presolve round and two workers was seen to crash OR-tools 9.15
            solver.parameters.max_presolve_iterations = 1
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
    windows, size = search.windows, problem.size

    def left() -> float:
        return seconds - (clock() - search.began)

    if first is not None and deterministic is None and (problem.arrays.anchor >= 0).any():
        search.repair(min(seconds * REPAIR_SHARE, REPAIR_SECONDS), seed)
    if first is not None and deterministic is None:
        search.reorder(seconds * REORDER_SHARE, seed)
    if first is not None and size > LARGE and deterministic is None:
        search.around_and_reorder(left() * AROUND_SHARE, seed, workers)
        model = Model(problem, windows, search.best, same_people=True).build()
        search.solve(model, left() * SAME_PEOPLE_SHARE, workers, None, bounds=False, seed=seed)
    model = Model(problem, windows, search.best).build()
    status = search.solve(model, left(), workers, deterministic, bounds=True, seed=seed)
    if status is Status.OPTIMAL and search.bound < search.value and (problem.arrays.anchor >= 0).any():
        status = Status.FEASIBLE  # there is a better one, not worth what it moves
    elif status is Status.OPTIMAL:
        search.bound = search.value
    return Improved(status, search.best, search.value, min(search.bound, max(search.value, 0)), clock() - search.began)


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
