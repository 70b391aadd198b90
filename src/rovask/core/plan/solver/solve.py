"""A published instance from reading to answer: first schedules, improvement, and what collides if nothing holds."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from rovask.core.plan.first.serial import first_schedule
from rovask.core.plan.problem.arrays import FIRST_TASK, Problem
from rovask.core.plan.problem.instance import Instance, problem_of
from rovask.core.plan.problem.windows import cycle_of, windows_of
from rovask.core.plan.solver.conflict import RuleConflict, RuleKind, find_conflict
from rovask.core.plan.solver.improve import Status, improve

STARTS = 40
CONFLICT_SECONDS = 20.0


@dataclass(frozen=True, slots=True)
class Solved:
    """Status, makespan and bound (None: none known), seconds taken, and the sentence of a conflict."""

    status: Status
    makespan: int | None
    bound: int | None
    seconds: float
    conflict: str = ""


def solve_instance(instance: Instance, seconds: float, clock: Callable[[], float], workers: int = 2) -> Solved:
    """Solve ``instance`` for up to ``seconds``; naming a conflict may take some more."""
    began = clock()
    problem = problem_of(instance)
    windows = windows_of(problem)
    if not windows.possible:
        told = "; ".join(_tie(problem, arc) for arc in cycle_of(problem, windows))
        return Solved(Status.INFEASIBLE, None, None, clock() - began, told)
    first = first_schedule(problem, windows, STARTS)
    found = improve(
        problem, first if first.stuck < 0 else None, seconds=seconds - (clock() - began), workers=workers, clock=clock
    )
    if found.status is Status.INFEASIBLE:
        told = _told(problem, find_conflict(problem, CONFLICT_SECONDS, clock, workers))
        return Solved(found.status, None, None, clock() - began, told)
    makespan = found.value if found.schedule is not None else None
    return Solved(found.status, makespan, found.bound, clock() - began)


def _tie(problem: Problem, arc: int) -> str:
    first, then, _, low, high, _ = problem.arrays.arcs[arc].tolist()
    names = f"{problem.name(first)} and {problem.name(then)}"
    return f"{names} at most {high} apart" if high >= 0 else f"{names} at least {low} apart"


def _told(problem: Problem, conflict: RuleConflict) -> str:
    parts = []
    for part in conflict.parts:
        if part.kind is RuleKind.TIE:
            parts.append(_tie(problem, part.at))
        elif part.kind is RuleKind.RESOURCE:
            parts.append(f"room for {problem.arrays.capacity[part.at]} in {problem.resources[part.at]}")
    names = ", ".join(problem.name(node) for node in conflict.nodes if node >= FIRST_TASK)
    return f"activities {names}: " + "; ".join(parts) if parts else ""
