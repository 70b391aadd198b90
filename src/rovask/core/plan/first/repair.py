"""After a change: what of the plan before still holds, and which tasks have to find another place.

A schedule generated anew, even in the old order, lets one longer task push its people's next task, that one the next,
and so on. Here whatever still can lies exactly where it was; the solver then places the few that can't among them.
"""

from __future__ import annotations

import numpy as np

from rovask.core.plan.first.put_back import go_on, move_back, put_back
from rovask.core.plan.first.room import mark, mark_all, nothing_placed
from rovask.core.plan.first.serial import Schedule, job_order, run_once
from rovask.core.plan.problem.arrays import FIRST_TASK, HAUL_NODE, LAUNCH_NODE, LIFT_NODE, Problem, tables_of
from rovask.core.plan.problem.value import UNPLACED, unsettling, value_of
from rovask.core.plan.problem.windows import Windows

ROUNDS_BACK = 4
LAST = 1e5  # put behind the priority of what stays
STAYS = 10_000  # slots it would rather wait for the people it had
MILESTONES = frozenset({LAUNCH_NODE, LIFT_NODE})


def what_holds(problem: Problem, windows: Windows, best: Schedule) -> tuple[Schedule, frozenset[int]]:
    """The plan before wherever it still holds and ``best`` elsewhere, with the nodes that are elsewhere.

    In the order of the plan before each node is put back with the people it had, unless a tie, its people, its place,
    a rival or the weather forbid it beside those put back already; then each job that ``best`` leaves out, whole or not
    at all. The result is no valid schedule; it is the hint and the kept part of one. O(tasks x (ties + slots)).
    """
    a, (ground, tied, worked, _) = problem.arrays, tables_of(problem)
    placed = nothing_placed(problem, ground, worked)
    start, end, resume, mode, *_ = placed

    def put_all(nodes: list[int]) -> list[int]:
        """Put nodes back where the plan before had them; those that can't lie there any more."""
        row = np.array(nodes, dtype=np.int64)
        return row[put_back(ground, tied, placed, row, windows.start, windows.end)].tolist() if nodes else []

    facts = (a.fixed_end >= 0) | (a.fixed_start >= 0)
    for node in np.flatnonzero(facts).tolist():
        resume[node] = best.resume[node]
        start[node], end[node], mode[node] = best.start[node], best.end[node], best.mode[node]
        if a.fixed_end[node] < 0 and a.work[node]:
            begin = resume[node] if resume[node] >= 0 else start[node]
            mark(ground, placed, node, mode[node], begin, end[node], 1)
    there = [n for n in range(FIRST_TASK, problem.size) if not facts[n] and best.start[n] != UNPLACED]
    broken = put_all(sorted(there, key=lambda n: (int(a.anchor[n]), n)))
    for job in _lost(problem, best, facts):
        if put_all(job):  # whole or not at all: the solver looks for its place
            for node in job:
                if start[node] != UNPLACED:
                    mark(ground, placed, node, mode[node], start[node], end[node], -1)
                    start[node] = end[node] = mode[node] = UNPLACED
            broken += job
    for node in [*broken, *MILESTONES]:
        start[node], end[node], mode[node] = best.start[node], best.end[node], best.mode[node]
    return Schedule(start, end, resume, mode, -1), frozenset(broken)


def held_still(problem: Problem, windows: Windows, best: Schedule) -> tuple[Schedule, frozenset[int]] | None:
    """A schedule in which only what a change holds moves, with what waits for it by ties: the rest lies where it lay.

    What the plan before can't keep is placed last, in the gaps the rest leaves, so it may be late: something to search on
    from. With the nodes that moved; None where there is no plan before, or no room. O(one first plan).
    """
    a = problem.arrays
    if not (a.anchor >= 0).any():
        return None
    _, broken = what_holds(problem, windows, best)
    after: dict[int, list[int]] = {}
    for first, then in a.arcs[:, :2].tolist():
        after.setdefault(first, []).append(then)
    displaced, todo = set(broken), list(broken)
    while todo:
        for then in after.get(todo.pop(), ()):
            if then >= FIRST_TASK and then not in displaced:
                displaced.add(then)
                todo.append(then)
    late = np.array([node in displaced for node in range(problem.size)])
    begin = np.where(a.anchor >= 0, a.anchor, best.start)
    key = np.where(late, begin + LAST, begin).astype(np.float64)
    key[:FIRST_TASK] = best.start[:FIRST_TASK]
    key[HAUL_NODE] = -1e8
    floor = np.where((a.fixed_end < 0) & (a.anchor >= 0) & ~late, np.minimum(a.anchor, a.deadline), 0)
    floor[:FIRST_TASK] = 0
    need = np.where(best.start != UNPLACED, 0, a.need)
    order = job_order(problem)
    found = run_once(tables_of(problem), windows, key, 1, STAYS, floor, a.anchor_mode, order, need)
    if found.stuck >= 0:
        return None
    value = value_of(problem, found.start, found.end, found.resume, found.mode)
    return Schedule(found.start, found.end, found.resume, found.mode, -1, value), frozenset(displaced)


def back_where_it_was(problem: Problem, windows: Windows, found: Schedule) -> Schedule:
    """``found`` with whatever moved for nothing where the plan before had it, in a few rounds; no dearer than a move is worth.

    Each task that lies elsewhere than before is put back, with the people it had, where everything else as it is now
    lets it. O(tasks that moved x (ties + slots)).
    """
    a, (ground, tied, worked, _) = problem.arrays, tables_of(problem)
    start, end, mode, resume = found.start.copy(), found.end.copy(), found.mode.copy(), found.resume
    open_ = (a.fixed_start < 0) & (start != UNPLACED) & (a.work > 0)
    elsewhere = open_ & (a.anchor >= 0) & (a.anchor_mode >= 0) & ((start != a.anchor) | (mode != a.anchor_mode))
    moved = np.flatnonzero(elsewhere)
    if not len(moved):
        return found
    placed = nothing_placed(problem, ground, worked)._replace(start=start, end=end, resume=resume, mode=mode)
    mark_all(ground, placed, a.fixed_end)
    in_turn = moved[np.argsort(a.anchor[moved], kind="stable")]
    move_back(ground, tied, placed, in_turn, windows.start, windows.end, ROUNDS_BACK)
    value = value_of(problem, start, end, resume, mode)
    if value + unsettling(a, start) > found.value + unsettling(a, found.start):
        return found
    return Schedule(start, end, resume, mode, -1, value)


def going_on(problem: Problem, windows: Windows, found: Schedule) -> Schedule:
    """``found`` with what is under way going on as soon as its people can without moving anything else.

    What it costs is the same wherever begun work lies, so nothing else would: a sailor goes on with what is open.
    """
    a, (ground, tied, worked, _) = problem.arrays, tables_of(problem)
    open_ = (a.fixed_start >= 0) & (a.fixed_end < 0) & (found.resume >= 0) & (a.work > 0)
    nodes = np.flatnonzero(open_)
    if not len(nodes):
        return found
    start, end, resume, mode = found.start.copy(), found.end.copy(), found.resume.copy(), found.mode.copy()
    placed = nothing_placed(problem, ground, worked)._replace(start=start, end=end, resume=resume, mode=mode)
    mark_all(ground, placed, a.fixed_end)
    in_turn = nodes[np.argsort(resume[nodes], kind="stable")]
    if not go_on(ground, tied, placed, in_turn, windows.end):
        return found
    value = value_of(problem, start, end, resume, mode)
    return Schedule(start, end, resume, mode, -1, value) if value <= found.value else found


def _lost(problem: Problem, best: Schedule, facts: np.ndarray) -> list[list[int]]:
    """The nodes of each job that the plan before had and ``best`` leaves out, in the order of the plan before."""
    a = problem.arrays
    jobs: dict[int, list[int]] = {}
    for node in range(FIRST_TASK, problem.size):
        if a.need[node] > 0 and best.start[node] == UNPLACED and not facts[node]:
            jobs.setdefault(int(a.job[node]), []).append(node)
    whole = (nodes for nodes in jobs.values() if all(a.anchor[node] >= 0 for node in nodes))
    return [sorted(nodes, key=lambda node: int(a.anchor[node])) for nodes in whole]


def with_neighbours(problem: Problem, schedule: Schedule, nodes: frozenset[int], size: int) -> frozenset[int]:
    """``nodes`` and up to ``size`` others that could make room for them: tied, of the same people or place, near in time."""
    a = problem.arrays
    open_ = [
        n for n in range(FIRST_TASK, problem.size)
        if n not in nodes and a.fixed_end[n] < 0 and schedule.start[n] != UNPLACED
    ]  # fmt: skip
    ties = {(int(first), int(then)) for first, then, *_ in a.arcs.tolist()}

    def shares(one: int, other: int) -> bool:
        people = set(a.mode_people[schedule.mode[one]].tolist()) & set(a.mode_people[schedule.mode[other]].tolist())
        used = set(a.use_what[a.use_ptr[one] : a.use_ptr[one + 1]].tolist())
        used &= set(a.use_what[a.use_ptr[other] : a.use_ptr[other + 1]].tolist())
        return bool(people - {-1}) or bool(used) or (one, other) in ties or (other, one) in ties

    def distance(node: int) -> tuple[int, int]:
        far = [
            abs(int(schedule.start[node] - schedule.start[one])) * (1 if shares(node, one) else 3)
            for one in nodes
            if schedule.start[one] != UNPLACED
        ]
        return min(far, default=0), node

    return nodes | frozenset(sorted(open_, key=distance)[:size]) | MILESTONES
