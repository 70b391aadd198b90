"""The smallest set of rules that can't all hold, also where longest paths see nothing wrong.

Every tie, person, place or piece of equipment, and every rival pair gets an assumption literal. If the solver proves
that they can't all hold it names some that can't, and each of those is then left out in turn: what remains is a set of
which every proper part can hold (a deletion filter: Chinneck & Dravnieks, "Locating minimal infeasible constraint
sets in linear programs", ORSA Journal on Computing 3, 1991; cited from memory). Not always the set of least size.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from ortools.sat.python import cp_model

from rovask.core.plan.first.serial import Schedule
from rovask.core.plan.problem.arrays import FIRST_TASK, Problem
from rovask.core.plan.problem.windows import windows_of
from rovask.core.plan.solver.cp_rules import RuleModel


class RuleKind(StrEnum):
    """What kind of rule takes part in a conflict."""

    TIE = "tie"
    PERSON = "person"
    RESOURCE = "resource"
    RIVAL = "rival"


@dataclass(frozen=True, slots=True)
class ConflictRule:
    """One rule of a conflict. ``at``: the arc, the person, the resource; for rivals the first node, ``other`` the second."""

    kind: RuleKind
    at: int
    other: int = -1


@dataclass(frozen=True, slots=True)
class RuleConflict:
    """What was found: the parts that can't all hold (``proven``), or a schedule that holds them all, or neither in time.

    nodes: those the parts are about, in order of time. smallest: whether every proper part of it is known to hold.
    """

    proven: bool
    parts: tuple[ConflictRule, ...] = ()
    nodes: tuple[int, ...] = ()
    schedule: Schedule | None = None
    smallest: bool = False


def find_conflict(problem: Problem, seconds: float, clock: Callable[[], float], workers: int = 2) -> RuleConflict:
    """Look for up to ``seconds`` for what collides among the must-work of ``problem``; the ties alone must be possible."""
    began = clock()
    model = RuleModel(problem, windows_of(problem), None, guarded=True)
    model.ties()
    model.use_once()
    model.rivals()
    guards = {ConflictRule(RuleKind(kind), at, other): lit for (kind, at, other), lit in (model.guards or {}).items()}
    status, solver = _solve(model, guards.values(), seconds, workers)
    if status in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return RuleConflict(False, schedule=model.schedule(solver.value))
    if status != cp_model.INFEASIBLE:
        return RuleConflict(False)
    by_index = {lit.index: part for part, lit in guards.items()}
    core = [by_index[at] for at in solver.sufficient_assumptions_for_infeasibility() if at in by_index]
    core = core or list(guards)
    smallest = True
    for part in list(core):
        left = seconds - (clock() - began)
        if left <= 0:
            smallest = False
            break
        rest = [one for one in core if one is not part]
        status, solver = _solve(model, [guards[one] for one in rest], left, workers)
        if status == cp_model.INFEASIBLE:
            named = {by_index[at] for at in solver.sufficient_assumptions_for_infeasibility() if at in by_index}
            core = [one for one in rest if one in named] if named else rest
        elif status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            smallest = False
    return RuleConflict(True, tuple(core), _nodes(problem, core), smallest=smallest)


def _solve(model: RuleModel, holding: Iterable[Any], seconds: float, workers: int) -> tuple[Any, cp_model.CpSolver]:
    clear: Any = model.model.clear_assumptions
    clear()
    model.model.add_assumptions(list(holding))
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds = max(seconds, 0.05)
    solver.parameters.num_workers = workers
    return solver.solve(model.model), solver


def _nodes(problem: Problem, parts: list[ConflictRule]) -> tuple[int, ...]:
    """The tasks a conflict is about: both ends of its ties and rivals."""
    out: set[int] = set()
    for part in parts:
        if part.kind is RuleKind.TIE:
            out |= {int(end) for end in problem.arrays.arcs[part.at][:2]}
        elif part.kind is RuleKind.RIVAL:
            out |= {part.at, part.other}
    windows = windows_of(problem)
    return tuple(sorted((node for node in out if node >= FIRST_TASK), key=lambda node: int(windows.start[node])))
