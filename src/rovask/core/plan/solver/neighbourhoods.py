"""Which tasks a search frees at a time, around a schedule that is kept else: those whose places hang on each other."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from rovask.core.plan.first.serial import Schedule
from rovask.core.plan.problem.arrays import FIRST_TASK, LAUNCH_NODE, LIFT_NODE, Problem

REACH = 4 * 48  # slots that what lies about a neighbourhood may move
MILESTONES = frozenset((LAUNCH_NODE, LIFT_NODE))


@dataclass(frozen=True, slots=True)
class Neighbourhood:
    """Nodes to free. reach: from which slot to which those may begin that need not go far."""

    nodes: frozenset[int]
    reach: dict[int, tuple[int, int]]


def neighbourhood(problem: Problem, best: Schedule, turn: int, size: int, random: np.random.Generator) -> Neighbourhood:
    """Milestones, what is left out, and about ``size`` tasks near each other, in turn.

    A stretch of time, the days of one paid person with what lies about them, what ends last with what holds it, a stretch at random,
    and the last days of the work. O(tasks²) at worst.
    """
    a = problem.arrays
    nodes = range(FIRST_TASK, problem.size)
    order = sorted((n for n in nodes if a.fixed_end[n] < 0 and best.start[n] >= 0), key=lambda n: int(best.start[n]))
    paid = [who for who in range(len(a.day_cost)) if a.day_cost[who]]
    far: set[int] = set()
    if turn % 8 == 6:
        free = far = {n for n in order[-size:] if a.before[n]}
    elif turn % 4 == 2:
        free = far = _last_chain(problem, best, order, size)
    elif turn % 4 == 1 and paid:
        who = paid[turn // 4 % len(paid)]
        far = {n for n in order if who in a.mode_people[best.mode[n]].tolist()}
        free = _about(problem, order, far, size * 3 // 2)
    else:
        step = max(size * 2 // 3, 1)
        at = (turn // 4 * step) % max(len(order), 1) if turn % 4 == 0 else int(random.integers(max(len(order), 1)))
        free = set(order[at : at + size])
    begin = np.where(best.resume >= 0, best.resume, best.start)
    reach = {n: (int(begin[n]) - REACH, int(begin[n]) + REACH) for n in free - far}
    return Neighbourhood(MILESTONES | free | {n for n in nodes if best.start[n] < 0}, reach)


def _about(problem: Problem, order: list[int], mine: set[int], size: int) -> set[int]:
    """What is tied to some tasks, and what lies before and after each, up to about ``size``."""
    out = mine | (_tied(problem, mine) & set(order))
    share = max((size - len(out)) // max(len(mine), 1), 1)
    at = {node: place for place, node in enumerate(order)}
    for node in mine:
        out |= set(order[max(at[node] - share, 0) : at[node] + share + 1])
    return out


def _tied(problem: Problem, nodes: set[int]) -> set[int]:
    """Whatever a tie holds to one of ``nodes``."""
    pairs = [(int(first), int(then)) for first, then, *_ in problem.arrays.arcs.tolist()]
    return {then for first, then in pairs if first in nodes} | {first for first, then in pairs if then in nodes}


def _last_chain(problem: Problem, best: Schedule, order: list[int], size: int) -> set[int]:
    """What ends last of the must-work, and backwards what holds it: ties, people and places, the nearest first."""
    a = problem.arrays
    must = [n for n in order if a.before[n] and a.need[n] == 0]
    todo = sorted(must, key=lambda n: -int(best.end[n]))[: max(size // 8, 1)]
    people = {n: {who for who in a.mode_people[best.mode[n]].tolist() if who >= 0} for n in order}
    uses = {n: set(a.use_what[a.use_ptr[n] : a.use_ptr[n + 1]].tolist()) for n in order}
    ties = {(int(first), int(then)) for first, then, *_ in a.arcs.tolist()}
    out: set[int] = set(todo)
    while todo and len(out) < size:
        node = todo.pop(0)
        held = [
            n
            for n in order
            if n not in out
            and best.start[n] < best.start[node]
            and ((n, node) in ties or people[n] & people[node] or uses[n] & uses[node])
        ]
        nearest = sorted(held, key=lambda n: -int(best.end[n]))[:3]
        out.update(nearest)
        todo += nearest
    return out
