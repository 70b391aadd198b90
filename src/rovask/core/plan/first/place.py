"""Placing tasks one by one, compiled: the inner loops of the first plan (first.py says what they are for).

The functions take the ground and what is placed on it so far (room.py), which they fill in.
"""

from __future__ import annotations

import numpy as np

from rovask.core.plan.first.room import Placed, mark, room
from rovask.core.plan.problem.arrays import (
    ANCHOR_MODE,
    ARC_HI,
    ARC_LO,
    DEADLINE,
    FIRST_TASK,
    FIXED_END,
    FIXED_START,
    JOB,
    MODE_HI,
    MODE_LO,
    NEED,
    NO_MAX,
    PENALTY,
    RANK,
    RELEASE,
    SOFT,
    WORK,
)
from rovask.core.plan.problem.compiled import compiled, compiled_lean
from rovask.core.plan.problem.lags import latest_first, latest_then, soonest_first, soonest_then
from rovask.core.plan.problem.modes import milestone
from rovask.core.plan.problem.value import UNPLACED

MOST_TAKEN_BACK = 400


MOST_TRIES = 40  # of one task, before the rest goes on without it


MOST_PLACED = 4  # times over all tasks, taken back and placed again included: what then finds no room is left out


BIG = 1 << 40


@compiled_lean
def bounds(ground, tied, placed, node, low_start, low_end):  # type: ignore[no-untyped-def]
    """Bounds on (start, end) from the neighbours already placed, and which of them sets each upper bound."""
    node_, arcs, cure, touch = ground.node, tied.arcs, tied.cure, tied.touch
    start, end = placed.start, placed.end
    s_lo, e_lo, s_hi, e_hi, s_by, e_by = low_start, low_end, BIG, BIG, -1, -1
    for at in range(node_[node, ARC_LO], node_[node, ARC_HI]):
        arc = touch[at]
        first, then, kind, high = arcs[arc, 0], arcs[arc, 1], arcs[arc, 2], arcs[arc, 4]
        from_end = kind == 0 or kind == 2
        to_start = kind == 0 or kind == 1
        if then == node and start[first] != UNPLACED:
            base = end[first] if from_end else start[first]
            soonest = soonest_then(arcs, cure, arc, base)
            latest = latest_then(arcs, cure, arc, base) if high != NO_MAX else BIG
            if to_start:
                s_lo = max(s_lo, soonest)
                if latest < s_hi:
                    s_hi, s_by = latest, first
            else:
                e_lo = max(e_lo, soonest)
                if latest < e_hi:
                    e_hi, e_by = latest, first
        elif first == node and start[then] != UNPLACED:
            base = start[then] if to_start else end[then]
            latest = latest_first(arcs, cure, arc, base)
            soonest = soonest_first(arcs, cure, arc, base) if high != NO_MAX else -BIG
            if from_end:
                e_lo = max(e_lo, soonest)
                if latest < e_hi:
                    e_hi, e_by = latest, then
            else:
                s_lo = max(s_lo, soonest)
                if latest < s_hi:
                    s_hi, s_by = latest, then
    return s_lo, e_lo, s_hi, e_hi, s_by, e_by


@compiled_lean
def place_one(ground, placed, node, s_lo, e_lo, s_hi, e_hi, greed, stick):  # type: ignore[no-untyped-def]
    """Best (start, end, mode) for a node: earliest end, penalties weighed by ``greed``. (-1, -1, -1) if none."""
    node_, mode_ = ground.node, ground.mode
    horizon = ground.pos.shape[1] - 1
    if node_[node, WORK] == 0:
        at = milestone(node_, mode_, ground.rank, ground.pos, node, max(s_lo, e_lo))
        if at <= min(s_hi, e_hi) and at <= horizon:
            return at, at, node_[node, MODE_LO]
        return -1, -1, -1
    latest = min(s_hi, node_[node, DEADLINE]) if node_[node, FIXED_START] < 0 else horizon
    best_start, best_end, best_mode, best = -1, -1, -1, BIG
    for mode in range(node_[node, MODE_LO], node_[node, MODE_HI]):
        begin, finish = room(ground, placed, node, mode, max(s_lo, 0), e_lo, latest, e_hi)
        if begin < 0:
            continue
        score = finish + greed * mode_[mode, PENALTY]
        if stick > 0 and node_[node, ANCHOR_MODE] >= 0 and node_[node, ANCHOR_MODE] != mode:
            score += stick
        if score < best:
            best_start, best_end, best_mode, best = begin, finish, mode, score
    return best_start, best_end, best_mode


@compiled_lean
def _release_followers(node_, arcs, touch, node, sign, waits, pulls):  # type: ignore[no-untyped-def]
    """A node was placed (sign 1) or taken back (-1): those after it wait for one less, or one more."""
    for at in range(node_[node, ARC_LO], node_[node, ARC_HI]):
        arc = touch[at]
        then = arcs[arc, 1]
        if arcs[arc, 0] == node and then != node:
            waits[then] -= sign
            if arcs[arc, 4] != NO_MAX:
                pulls[then] += sign


@compiled_lean
def _take_out(ground, placed, node):  # type: ignore[no-untyped-def]
    """Give back what a placed node uses and forget where it was."""
    start, end, mode = placed.start, placed.end, placed.mode
    if ground.node[node, WORK] > 0:
        mark(ground, placed, node, mode[node], start[node], end[node], -1)
    start[node], end[node], mode[node] = UNPLACED, UNPLACED, UNPLACED


@compiled
def _going_along(node_, arcs, touch, node, chosen):  # type: ignore[no-untyped-def]
    """What is left out with a node, as marks on all nodes: whatever of its own job waits for it.

    Of a job that may be left out all of it, and what waits for it and is needed no more.
    """
    size = len(node_)
    lost = np.zeros(size, dtype=np.bool_)
    todo = np.zeros(size, dtype=np.int64)
    lost[node], todo[0], count = True, node, 1
    while count > 0:
        count -= 1
        this = todo[count]
        optional = node_[this, RANK] > 0
        if optional:
            for other in range(FIRST_TASK, size):
                if node_[other, JOB] == node_[this, JOB] and not lost[other] and chosen[other]:
                    lost[other], todo[count] = True, other
                    count += 1
        for at in range(node_[this, ARC_LO], node_[this, ARC_HI]):
            then = arcs[touch[at], 1]
            if (
                arcs[touch[at], 0] != this
                or arcs[touch[at], SOFT]
                or then < FIRST_TASK
                or lost[then]
                or not chosen[then]
            ):
                continue
            same = node_[then, JOB] == node_[this, JOB]
            if same or (optional and node_[then, RANK] >= node_[this, RANK]):
                lost[then], todo[count] = True, then
                count += 1
    return lost


@compiled_lean
def _follows(node_, arcs, touch, first, then):  # type: ignore[no-untyped-def]
    """Whether a tie runs from one node to another."""
    for at in range(node_[first, ARC_LO], node_[first, ARC_HI]):
        if arcs[touch[at], 0] == first and arcs[touch[at], 1] == then:
            return True
    return False


@compiled_lean
def _count_waits(arcs, chosen, start, fixed_end, waits, pulls):  # type: ignore[no-untyped-def]
    """For each node how many it still waits for, and how many that are placed let it wait only so long."""
    waits[:] = 0
    pulls[:] = 0
    for arc in range(len(arcs)):
        first, then = arcs[arc, 0], arcs[arc, 1]
        if first == then or not chosen[then]:
            continue
        if start[first] == UNPLACED:
            waits[then] += chosen[first]
        elif arcs[arc, 4] != NO_MAX and fixed_end[first] < 0:
            pulls[then] += 1


@compiled
def place_all(ground, tied, first_worked, key, greed, stick, floor, low_start, low_end, job_order):  # type: ignore[no-untyped-def]
    """One schedule from one priority vector (small first). Returns (stuck, arrays).

    Must-work that finds no room is left out with what waits for it in its own job, and the rest goes on. stuck: a node
    without which there is no plan at all (what is under way, the launch); -1 otherwise.
    """
    node_, arcs, touch = ground.node, tied.arcs, tied.touch
    size, horizon = len(node_), ground.pos.shape[1] - 1
    need, job, work = node_[:, NEED], node_[:, JOB], node_[:, WORK]
    fixed_start, fixed_end = node_[:, FIXED_START], node_[:, FIXED_END]
    start, end = np.full(size, UNPLACED, dtype=np.int64), np.full(size, UNPLACED, dtype=np.int64)
    resume, mode = np.full(size, UNPLACED, dtype=np.int64), np.full(size, UNPLACED, dtype=np.int64)
    busy = np.zeros((len(ground.person), horizon + 1), dtype=np.bool_)
    used = np.zeros((len(ground.capacity), horizon + 1), dtype=np.int32)
    lies = Placed(start, end, resume, mode, busy, used, first_worked.copy())
    raised = np.maximum(low_start, floor)
    order = np.zeros(size, dtype=np.int64)
    tries = np.zeros(size, dtype=np.int64)
    dropped = np.zeros(size, dtype=np.bool_)
    count = 0
    for node in range(size):  # facts, and what is under way, before anything else
        if fixed_end[node] >= 0:
            start[node], end[node], mode[node] = fixed_start[node], fixed_end[node], node_[node, MODE_LO]
    for node in range(size):
        if fixed_start[node] >= 0 and fixed_end[node] < 0:
            least = max(node_[node, RELEASE], floor[node])
            s, e, m = place_one(ground, lies, node, least, low_end[node], horizon, horizon, greed, 0)
            if s < 0:
                return node, start, end, resume, mode
            start[node], end[node], resume[node], mode[node] = fixed_start[node], e, s, m
            mark(ground, lies, node, m, s, e, 1)

    taken_back, placed, most_placed = 0, 0, MOST_PLACED * size + 200
    waits, pulls = np.zeros(size, dtype=np.int64), np.zeros(size, dtype=np.int64)
    chosen = np.zeros(size, dtype=np.bool_)
    for round_ in range(len(job_order) + 1):
        this = -1 if round_ == 0 else job_order[round_ - 1]
        todo = 0
        for node in range(size):
            chosen[node] = start[node] == UNPLACED and (
                (this < 0 and (need[node] == 0 or node < FIRST_TASK))
                or (this >= 0 and job[node] == this and not dropped[node])
            )
            todo += chosen[node]
        if todo == 0:
            continue
        base = count
        failed = False
        _count_waits(arcs, chosen, start, fixed_end, waits, pulls)
        # a job whose forerunner, no less needed, was left out can't be done either
        if this >= 0:
            for arc in range(len(arcs)):
                first, then = arcs[arc, 0], arcs[arc, 1]
                if chosen[then] and start[first] == UNPLACED and not chosen[first]:
                    failed = failed or 0 < node_[first, RANK] <= node_[then, RANK]
        while todo > 0 and not failed:
            # the eligible node with the smallest key; one that a placed neighbour waits for comes first
            pick, pick_key = -1, np.inf
            for node in range(size):
                if chosen[node] and start[node] == UNPLACED and waits[node] == 0:
                    weight = key[node] - (1e9 if pulls[node] > 0 else 0.0)
                    if weight < pick_key:
                        pick, pick_key = node, weight
            if pick < 0:  # ties both ways: take the one that may start earliest
                for node in range(size):
                    if chosen[node] and start[node] == UNPLACED and key[node] < pick_key:
                        pick, pick_key = node, key[node]
            s_lo, e_lo, s_hi, e_hi, s_by, e_by = bounds(ground, tied, lies, pick, raised[pick], low_end[pick])
            s, e, m = place_one(ground, lies, pick, s_lo, e_lo, s_hi, e_hi, greed, stick)
            by, position = -1, -1
            over_s, over_e = 0, 0
            if s < 0:  # no room below an upper bound: who set it, and how much later would do?
                s, e, m = place_one(ground, lies, pick, s_lo, e_lo, BIG, BIG, 0, 0)
                over_s = s - s_hi if s_by >= 0 else 0
                over_e = e - e_hi if e_by >= 0 else 0
                by = s_by if over_s >= over_e else e_by
                taken_back += 1
                tries[pick] += 1
                for at in range(base, count):
                    if order[at] == by:
                        position = at
                hopeless = s < 0 or by < 0 or position < 0 or taken_back > MOST_TAKEN_BACK or placed > most_placed
                if not hopeless and tries[pick] <= MOST_TRIES:
                    raised[by] = start[by] + max(1, max(over_s, over_e))
                    for at in range(count - 1, position - 1, -1):
                        _take_out(ground, lies, order[at])
                        _release_followers(node_, arcs, touch, order[at], -1, waits, pulls)
                        todo += 1
                    count = position
                    continue
                if this >= 0:
                    failed = True
                    break
                if pick < FIRST_TASK and (s < 0 or position < 0):
                    return pick, start, end, resume, mode
                # must-work goes without it: the task itself, or what the launch can't be brought close enough to
                cut = by if pick < FIRST_TASK else pick
                if (
                    cut < FIRST_TASK
                ):  # the lift: she would hang too long, so of what is done hanging the last is left out
                    for at in range(base, count):
                        hung = order[at]
                        hangs = hung >= FIRST_TASK and _follows(node_, arcs, touch, by, hung)
                        if hangs and (cut < FIRST_TASK or end[hung] > end[cut]):
                            cut = hung
                    if cut < FIRST_TASK:
                        return pick, start, end, resume, mode
                lost = _going_along(node_, arcs, touch, cut, chosen)
                kept = base
                for at in range(base, count):
                    node = order[at]
                    if lost[node]:
                        _take_out(ground, lies, node)
                    else:
                        order[kept] = node
                        kept += 1
                count = kept
                for node in range(size):
                    if lost[node]:
                        dropped[node], chosen[node] = True, False
                todo = 0
                for node in range(size):
                    todo += chosen[node] and start[node] == UNPLACED
                _count_waits(arcs, chosen, start, fixed_end, waits, pulls)
                continue
            placed += 1
            start[pick], end[pick], mode[pick] = s, e, m
            if work[pick] > 0:
                mark(ground, lies, pick, m, s, e, 1)
            order[count] = pick
            count += 1
            todo -= 1
            _release_followers(node_, arcs, touch, pick, 1, waits, pulls)
        if failed:
            for at in range(count - 1, base - 1, -1):
                _take_out(ground, lies, order[at])
            count = base
    return -1, start, end, resume, mode
