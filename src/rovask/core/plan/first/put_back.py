"""Putting tasks back where the plan before had them, compiled: each with the people it had, where everything else lets it; and what is
under way forward, into the first gap in which its people can go on with it.
"""

from __future__ import annotations

import numpy as np

from rovask.core.plan.first.place import bounds, place_one
from rovask.core.plan.first.room import clash, mark, tired
from rovask.core.plan.problem.arrays import ANCHOR, ANCHOR_MODE, CALENDAR, DEADLINE, RELEASE, WORK
from rovask.core.plan.problem.compiled import compiled, compiled_lean
from rovask.core.plan.problem.modes import fit_after
from rovask.core.plan.problem.value import UNPLACED


@compiled_lean
def _end_there(ground, tied, placed, node, least_start, least_end):  # type: ignore[no-untyped-def]
    """When a node would end where the plan before had it, or -1 if it can't lie there beside what lies already."""
    begin, mode = ground.node[node, ANCHOR], ground.node[node, ANCHOR_MODE]
    if begin < 0 or mode < 0 or ground.node[node, WORK] == 0:
        return -1
    calendar = ground.mode[mode, CALENDAR]
    at, finish = fit_after(ground.node, ground.rank, ground.pos, ground.sky_run, node, calendar, begin)
    low, low_end, high, high_end, _, _ = bounds(ground, tied, placed, node, least_start[node], least_end[node])
    if at != begin or begin < low or begin > min(high, ground.node[node, DEADLINE]):
        return -1
    if finish < low_end or finish > high_end or clash(ground, placed, node, mode, begin, finish) >= 0:
        return -1
    return finish


@compiled
def put_back(ground, tied, placed, nodes, least_start, least_end):  # type: ignore[no-untyped-def]
    """Put nodes that lie nowhere back, one after the other; which of them could not be. O(nodes x (ties + slots))."""
    failed = np.zeros(len(nodes), dtype=np.bool_)
    for at in range(len(nodes)):
        node = nodes[at]
        finish = _end_there(ground, tied, placed, node, least_start, least_end)
        if finish < 0:
            failed[at] = True
            continue
        begin, mode = ground.node[node, ANCHOR], ground.node[node, ANCHOR_MODE]
        placed.start[node], placed.end[node], placed.mode[node] = begin, finish, mode
        mark(ground, placed, node, mode, begin, finish, 1)
    return failed


@compiled
def move_back(ground, tied, placed, nodes, least_start, least_end, rounds):  # type: ignore[no-untyped-def]
    """Move nodes that lie elsewhere back, in rounds until nothing moves. O(rounds x nodes x (ties + slots))."""
    start, end, mode = placed.start, placed.end, placed.mode
    there = np.zeros(len(nodes), dtype=np.bool_)
    for _ in range(rounds):
        moved = False
        for at in range(len(nodes)):
            if there[at]:
                continue
            node = nodes[at]
            begin, finish, how = start[node], end[node], mode[node]
            mark(ground, placed, node, how, begin, finish, -1)
            start[node] = UNPLACED
            was, with_ = ground.node[node, ANCHOR], ground.node[node, ANCHOR_MODE]
            then = _end_there(ground, tied, placed, node, least_start, least_end)
            if then >= 0 and not tired(ground, placed.worked, with_, was, then):
                begin, finish, how = was, then, with_
                there[at] = moved = True
            start[node], end[node], mode[node] = begin, finish, how
            mark(ground, placed, node, how, begin, finish, 1)
        if not moved:
            break


@compiled
def go_on(ground, tied, placed, nodes, least_end):  # type: ignore[no-untyped-def]
    """Have what is under way go on in the first gap that its people and everything else leave; how many end sooner by it.

    O(nodes x (ties + slots)).
    """
    end, resume, mode = placed.end, placed.resume, placed.mode
    horizon, sooner = ground.pos.shape[1] - 1, 0
    for node in nodes:
        begin, finish, how = resume[node], end[node], mode[node]
        mark(ground, placed, node, how, begin, finish, -1)
        _, low_end, _, high_end, _, _ = bounds(ground, tied, placed, node, 0, least_end[node])
        then, over, with_ = place_one(
            ground, placed, node, ground.node[node, RELEASE], low_end, horizon, min(high_end, finish), 0, 0
        )
        if then >= 0 and over < finish and with_ == how and not tired(ground, placed.worked, how, then, over):
            begin, finish = then, over
            sooner += 1
        resume[node], end[node] = begin, finish
        mark(ground, placed, node, how, begin, finish, 1)
    return sooner
