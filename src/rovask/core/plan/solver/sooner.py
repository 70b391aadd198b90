"""Plans that are worth about the same, in which what matters ends sooner: what the odds (core/odds) choose among.

Everything is as in the search for better plans (improve.py), only that the worth is a bound, and what is made small are the
ends of the tasks, each by its weight. A part of the plan is freed at a time, so that one try takes half a second.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from ortools.sat.python import cp_model

from rovask.core.plan.first.serial import Schedule
from rovask.core.plan.problem.arrays import FIRST_TASK, Ints, Problem
from rovask.core.plan.problem.value import value_of
from rovask.core.plan.problem.windows import Windows
from rovask.core.plan.solver.neighbourhoods import neighbourhood
from rovask.core.plan.solver.search import Model

SIZES = (16, 24, 36, 54)  # tasks that are freed at a time
SECONDS = 0.6  # for one try


class _SoonerModel(Model):
    """A problem in which a plan may be worth as little as ``most``, and weighted ends are made small."""

    weights: Ints
    most: int

    def minimize(self, days: dict[tuple[int, int], Any]) -> None:
        """Ends by their weights, the worth bounded."""
        self.model.add(self.worth(days) <= self.most)
        nodes = [n for n in range(FIRST_TASK, self.problem.size) if self.weights[n] and self.a.fixed_end[n] < 0]
        self.model.minimize(sum(int(self.weights[n]) * self.nodes[n].end for n in nodes if self.has(n)))


class Sooner:
    """Tries on one problem. Repeatable only as far as the solver's time is."""

    def __init__(self, problem: Problem, windows: Windows, seed: int) -> None:
        self.problem, self.windows = problem, windows
        self.random = np.random.default_rng(seed)
        self.turn = 0

    def near(self, best: Schedule, weights: Ints, most: int) -> Schedule | None:
        """A schedule near ``best`` in which what weighs most ends sooner, worth no less than ``most`` says; None if none is found.

        weights: of each node, whole numbers from 0. most: of the value and what far tasks are moved (value.unsettling).
        """
        free = neighbourhood(self.problem, best, self.turn, int(self.random.choice(SIZES)), self.random)
        self.turn += 1
        kept = frozenset(range(self.problem.size)) - free.nodes
        model = _SoonerModel(self.problem, self.windows, best, kept=kept, reach=free.reach)
        model.weights, model.most = weights, most
        model.build()
        solver = cp_model.CpSolver()
        solver.parameters.num_workers = 1
        solver.parameters.random_seed = int(self.random.integers(1 << 20))
        solver.parameters.max_time_in_seconds = SECONDS
        solver.parameters.cp_model_probing_level = 0
        solver.parameters.symmetry_level = 0
        if solver.solve(model.with_hints()) not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            return None
        found = model.schedule(solver.value)
        value = value_of(self.problem, found.start, found.end, found.resume, found.mode)
        return Schedule(found.start, found.end, found.resume, found.mode, -1, int(value))
