"""What a plan says about the launch: held or short, by how much, and what drives it."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import replace
from itertools import pairwise

import numpy as np

from rovask.core.plan.problem.arrays import FIRST_TASK, FS, LAUNCH_NODE, LIFT_NODE, NO_MAX, Ints, Problem
from rovask.core.plan.problem.compile import compile_refit
from rovask.core.plan.problem.windows import hanging_on_launch, windows_of
from rovask.core.plan.result import Outcome, Plan, Verdict
from rovask.core.refit.choices import State
from rovask.core.refit.model import Refit
from rovask.core.words import minutes_of

NEARLY_DRIVING_SLOTS = 16
Arc = tuple[int, int, int, int, int]


def judge(refit: Refit, plan: Plan, problem: Problem | None = None) -> Verdict:
    """The verdict on a plan of this very refit; ``problem`` saves compiling it again. O(tasks squared per person and place at worst).

    Spare is the elapsed time a task may slip while the order of the plan, its people and every tie hold
    and the launch does not move. Should- and could-jobs give way to must-jobs, so a must-task's spare does
    not count them. A pin gives way to nobody and limits the spare of what comes before it, but it is not
    what the launch waits for, so the plan's own spare looks past pins. Tasks that hang on the
    launch itself (in the slings, pads last) are left out of it: they lie where the launch puts them.
    """
    problem = problem or compile_refit(refit, plan.now, plan.collisions, plan.made_good)
    arrays = problem.arrays
    slots = _planned(problem, plan)
    launch = max(problem.grid.ceil(plan.launch), arrays.launch_at)
    everything = np.array([n for n in range(FIRST_TASK, problem.size) if slots[n, 0] >= 0], dtype=np.int64)
    open_ = [n for n in everything if arrays.fixed_end[n] < 0]
    must = np.array([n for n in everything if arrays.need[n] == 0], dtype=np.int64)
    modes = _chosen_modes(problem, plan)
    of_all, of_must = (_order_arcs(problem, plan, slots, nodes) for nodes in (everything, must))
    whole = _slips(problem, modes, of_all, slots, everything, launch, keep_pins=True)
    pinned = _slips(problem, modes, of_must, slots, must, launch, keep_pins=True)
    loose = pinned
    if (arrays.deadline < problem.horizon).any():
        loose = _slips(problem, modes, of_must, slots, must, launch, keep_pins=False)
    spare = {problem.name(n): int((pinned if arrays.need[n] == 0 else whole)[n]) * 30 for n in open_}

    hanging = hanging_on_launch(problem)
    counts = [
        n
        for n in open_
        if arrays.need[n] == 0
        and not hanging[n]
        and arrays.deadline[n] >= problem.horizon
        and refit.tasks[problem.name(n)].state is not State.AFLOAT_AFTER
    ]
    late = minutes_of(plan.launch - refit.launch_at)
    least = min((int(loose[n]) for n in counts), default=max(launch - arrays.now, 0))
    driving = sorted((n for n in counts if loose[n] <= least + NEARLY_DRIVING_SLOTS), key=lambda n: (slots[n, 0], n))
    if plan.collisions and plan.unplanned:
        outcome = Outcome.IMPOSSIBLE
    elif late > 0:
        outcome = Outcome.SHORT
    elif plan.now >= refit.launch_at and not counts:
        outcome = Outcome.AFLOAT
    else:
        outcome = Outcome.HELD
    return Verdict(
        outcome=outcome,
        launch=plan.launch,
        spare_minutes=-late if late > 0 else least * 30,
        driving=tuple(problem.name(n) for n in driving),
        spare_by_task=spare,
        left_out=plan.left_out,
        collisions=plan.collisions,
    )


def _planned(problem: Problem, plan: Plan) -> Ints:
    """Columns begin (or resume) and end of every node, in slots; -1 for what is left out."""
    slots = np.full((problem.size, 2), -1, dtype=np.int64)
    at = plan.by_task()
    for node in range(FIRST_TASK, problem.size):
        item = at.get(problem.name(node))
        if item:
            slots[node] = problem.grid.ceil(item.resume or item.start), problem.grid.ceil(item.end)
    return slots


def _chosen_modes(problem: Problem, plan: Plan) -> tuple[Ints, Ints]:
    """Mode slices narrowed to the crew the plan chose."""
    low, high = problem.arrays.mode_lo.copy(), problem.arrays.mode_hi.copy()
    node_of = {key: at + FIRST_TASK for at, key in enumerate(problem.tasks)}
    for item in plan.assignments:
        node = node_of.get(item.task)
        if node is None:
            continue
        crew = set(item.people)
        for mode in range(low[node], high[node]):
            if set(problem.crew(mode)) == crew:
                low[node], high[node] = mode, mode + 1
                break
    return low, high


def _order_arcs(problem: Problem, plan: Plan, slots: Ints, nodes: Ints) -> list[Arc]:
    """The order the plan gives people, places, equipment and rivals, as finish-start ties.

    Of places and equipment only pairs that can't share them are tied; three tasks that crowd each other only
    together are not.
    """
    at, arrays = plan.by_task(), problem.arrays
    inside = set(nodes.tolist())
    queues: dict[str, list[int]] = defaultdict(list)
    rooms: dict[int, list[tuple[int, int]]] = defaultdict(list)
    arcs: list[Arc] = []
    for node in sorted(inside, key=lambda n: (slots[n, 0], n)):
        for row in range(arrays.rival_ptr[node], arrays.rival_ptr[node + 1]):
            other = int(arrays.rival[row])
            if other in inside and slots[node, 1] <= slots[other, 0] and arrays.fixed_start[other] < 0:
                arcs.append((node, other, FS, int(arrays.rival_mine[row]), NO_MAX))
        if arrays.fixed_end[node] >= 0:
            continue
        for who in at[problem.name(node)].people:
            queues[who].append(node)
        for row in range(arrays.use_ptr[node], arrays.use_ptr[node + 1]):
            rooms[int(arrays.use_what[row])].append((node, int(arrays.use_amount[row])))
    arcs += [(first, then, FS, 0, NO_MAX) for queue in queues.values() for first, then in pairwise(queue)]
    for what, room in rooms.items():
        for index, (first, mine) in enumerate(room):
            for then, theirs in room[index + 1 : index + 9]:
                if mine + theirs > arrays.capacity[what] and slots[first, 1] <= slots[then, 0]:
                    arcs.append((first, then, FS, 0, NO_MAX))
    return arcs


def _slips(
    problem: Problem,
    modes: tuple[Ints, Ints],
    order: list[Arc],
    slots: Ints,
    nodes: Ints,
    launch: int,
    *,
    keep_pins: bool,
) -> Ints:
    """Slots each node may slip in an order; a big number for what isn't in ``nodes``."""
    low, high = modes
    arrays = problem.arrays
    inside = {LAUNCH_NODE, LIFT_NODE, *nodes.tolist()}
    ties = [tuple(arc) for arc in arrays.arcs.tolist() if arc[0] in inside and arc[1] in inside]
    arcs = np.array([*ties, *order], dtype=np.int64).reshape(-1, 5)
    deadline = arrays.deadline if keep_pins else np.full_like(arrays.deadline, problem.horizon)
    narrowed = arrays._replace(mode_lo=low, mode_hi=high, arcs=arcs, deadline=deadline)
    windows = windows_of(replace(problem, arrays=narrowed), launch, whole=True)
    out = np.full(problem.size, problem.horizon, dtype=np.int64)
    for node in nodes.tolist():
        if arrays.fixed_start[node] >= 0:
            out[node] = windows.latest_end[node] - slots[node, 1]
        else:
            out[node] = windows.latest_start[node] - slots[node, 0]
    return np.maximum(out, 0)
