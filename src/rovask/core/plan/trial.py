"""What has to be given up of a refit so that the rest can be planned: which ties, pins and work collide, by name.

Longest paths find what collides by ties and calendars alone; what no run of the first plan finds room for is named too,
as not proven. A longest wait with make-good work gives way before work does, and only where that helps.
"""

from __future__ import annotations

from collections.abc import Container
from dataclasses import replace
from datetime import datetime

import numpy as np
import numpy.typing as npt

from rovask.core.plain.words import count
from rovask.core.plan.first.serial import Schedule
from rovask.core.plan.problem.arrays import FIRST_TASK, FOREVER, HIGH, LAUNCH_NODE, LOW, NO_MAX, SF, SS, Problem
from rovask.core.plan.problem.compile import Compiler
from rovask.core.plan.problem.value import UNPLACED
from rovask.core.plan.problem.windows import Windows, cycle_of, windows_of
from rovask.core.plan.result import Collision, CollisionKind, Plan
from rovask.core.plan.verdict.collide import explain_stuck
from rovask.core.refit.model import Refit
from rovask.core.refit.work.choices import Need
from rovask.core.refit.work.make_good import link_made_good_by

_MOST_ROUNDS = 60


class Trial:
    """What had to be given up so far, so that the rest can be planned: collisions, missed and broken waits."""

    def __init__(self, refit: Refit, now: datetime, before: Plan | None, collisions: list[Collision]) -> None:
        self.refit, self.now, self.before, self.collisions = refit, now, before, collisions
        self.missed: list[str] = []
        self.broken: list[str] = []
        self.tried: set[str] = set()  # waits given up since something was last found to collide
        self.compilers: dict[tuple[str, ...], Compiler] = {}

    def possible(self) -> tuple[Problem | None, Windows | None]:
        """The problem of what can hold by its ties and calendars, with its windows; what can't is named on the way.

        A longest wait is given up only where that helps: what would collide all the same leaves the waits as they are.
        """
        for _ in range(_MOST_ROUNDS):
            refit = self.compiler().refit
            whole = self.compiler().problem(self.collisions, self.before, broken=self.broken)
            problem, windows = whole, windows_of(whole)
            lost, named = np.zeros(whole.size, dtype=np.bool_), False
            missed, broken = dict[str, None](), dict[str, None]()
            while not windows.possible:
                arcs = cycle_of(problem, windows)
                good = _to_make_good(refit, problem, arcs)
                fact = "" if good else _broken_by_fact(problem, windows, arcs)
                if good:
                    missed[good] = None
                elif fact:
                    broken[fact] = None
                else:
                    found = explain_stuck(refit, problem, windows)
                    if not found.tasks:
                        return None, None
                    found = cheapest(refit, found)
                    if all(lost[whole.node(key)] for key in found.lost):
                        return None, None
                    self.collisions.append(found)
                    self._hold_again()
                    missed, broken, named = {}, {}, True
                    for key in found.lost:
                        lost[whole.node(key)] = True
                problem = _without(whole, lost, missed | broken)
                windows = windows_of(problem)
            if not (named or missed or broken):
                return problem, windows
            self.missed += missed
            self.broken += broken
            self.tried |= {*missed, *broken}
        return None, None

    def give_up(self, problem: Problem, schedule: Schedule) -> bool | None:
        """Name what found no room. True: a missed wait is made good, and all is to be tried again; None: nothing helps."""
        refit = self.compiler().refit
        if schedule.stuck >= FIRST_TASK:
            nodes = [schedule.stuck]
        elif schedule.stuck >= 0:
            nodes = [n for n in range(FIRST_TASK, problem.size) if _tied_to_launch(problem, n)]
        else:
            nodes = without_room(problem, schedule)
        inside = set(nodes)
        touching = [n for n, arc in enumerate(problem.arrays.arcs.tolist()) if inside & {arc[0], arc[1]}]
        good = _to_make_good(refit, problem, touching)
        if good:
            self.missed.append(good)
            self.tried.add(good)
            return True
        by_job: dict[str, list[str]] = {}
        for node in nodes:
            key = problem.name(node)
            link = link_made_good_by(self.refit, key)
            mine = by_job.setdefault(refit.job_of[key].id, [])
            mine.append(key if link is None else link.then)  # what the make-good work is for
        by_job = {job: list(dict.fromkeys(keys)) for job, keys in by_job.items()}
        known = {task for item in self.collisions for task in item.lost or item.tasks}
        new = [_no_room(self.refit, keys) for keys in by_job.values() if not set(keys) <= known]
        self.collisions += new
        return self._hold_again() if new else None

    def compiler(self) -> Compiler:
        """What the problems with these missed waits share."""
        key = tuple(self.missed)
        if key not in self.compilers:
            like = next(iter(self.compilers.values()), None)
            self.compilers[key] = Compiler(self.refit, self.now, key, like=like)
        return self.compilers[key]

    def _hold_again(self) -> bool:
        """Something was found to collide: waits that were given up in vain before that hold again. Whether there are any."""
        held = bool(self.tried)
        self.missed = [key for key in self.missed if key not in self.tried]
        self.broken = [key for key in self.broken if key not in self.tried]
        self.tried.clear()
        return held


def _broken_by_fact(problem: Problem, windows: Windows, arcs: list[int]) -> str:
    """Of some arcs that can't hold, a tie whose longest wait something that has happened broke; "" if none."""
    a = problem.arrays
    for arc in [*arcs, *([int(windows.via[windows.stuck])] if windows.via[windows.stuck] >= 0 else [])]:
        first, _, kind, _, high, *_ = a.arcs[arc].tolist()
        happened = a.fixed_end[first] >= 0 or (kind in (SS, SF) and a.fixed_start[first] >= 0)
        if high != NO_MAX and problem.arc_link[arc] and first >= FIRST_TASK and happened:
            return problem.arc_link[arc]
    return ""


def _without(problem: Problem, lost: npt.NDArray[np.bool_], given_up: Container[str]) -> Problem:
    """The problem for the windows of the rest; its arcs keep their places.

    lost: nodes that are fixed and tied to nothing. given_up: ties whose longest wait need not hold.
    """
    a = problem.arrays
    arcs = a.arcs.copy()
    loose = lost[arcs[:, 0]] | lost[arcs[:, 1]]
    arcs[loose, LOW], arcs[loose, HIGH] = -FOREVER, NO_MAX
    arcs[[link in given_up for link in problem.arc_link], HIGH] = NO_MAX
    start, end = np.where(lost, a.now, a.fixed_start), np.where(lost, a.now, a.fixed_end)
    return replace(problem, arrays=a._replace(arcs=arcs, fixed_start=start, fixed_end=end))


def cheapest(refit: Refit, found: Collision) -> Collision:
    """The collision with what is given up for it: of one job, the least needed and last of those in it."""
    rank = {Need.MUST: 0, Need.SHOULD: 1, Need.COULD: 2}
    order = {job.id: at for at, job in enumerate(refit.jobs)}

    def of(key: str) -> tuple[int, int]:
        job = refit.job_of[key]
        begun = any(task.begun_at for task in job.tasks)
        return (0 if begun else rank[job.need], order[job.id])

    job = refit.job_of[max(found.tasks, key=of)].id
    lost = tuple(key for key in found.tasks if refit.job_of[key].id == job)
    return found.model_copy(update={"lost": lost})


def without_room(problem: Problem, schedule: Schedule) -> list[int]:
    """Must-work that no run found room for."""
    a = problem.arrays
    return [n for n in range(FIRST_TASK, problem.size) if a.need[n] == 0 and schedule.start[n] == UNPLACED]


def _to_make_good(refit: Refit, problem: Problem, arcs: list[int]) -> str:
    """Of some arcs that can't hold, the tie whose longest wait may be missed at the price of some work; "" if none."""
    costs = {link.id: link.make_good_hours for link in refit.links if link.make_good_hours}
    found = {problem.arc_link[arc] for arc in arcs if int(problem.arrays.arcs[arc][4]) != NO_MAX}
    open_ = sorted((costs[key], key) for key in found & set(costs))
    return open_[0][1] if open_ else ""


def _no_room(refit: Refit, lost: list[str]) -> Collision:
    """Tasks of one job that no run of the first plan could place; not a proof, and it says so."""
    first = refit.tasks[lost[0]]
    more = f" and {count(len(lost) - 1, 'task')} after it" if len(lost) > 1 else ""
    return Collision(
        kind=CollisionKind.SEARCH,
        tasks=tuple(lost),
        lost=tuple(lost),
        sentence=f"No room was found for “{first.title}”{more}; it is still being looked into.",
        detail="Its ties leave it no time in which its people and its place are free. A longer wait, other people or "
        "a pin less may help.",
    )


def _tied_to_launch(problem: Problem, node: int) -> bool:
    return any(
        int(first) == node and int(then) < FIRST_TASK and int(then) >= LAUNCH_NODE and high >= 0
        for first, then, _, _, high, *_ in problem.arrays.arcs
    )
