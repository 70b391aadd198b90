"""What a schedule costs: the one number the first plan, the solver and the benches all make small.

It is money (readings/prices.py), in VALUE_UNIT parts of a minor unit of the refit's currency: the days on which paid people
come at their call-out price; services of life aboard that are out, jobs left out, near tasks moved from where the plan
before had them, and must-work that ends later, each at the price the sailor gives it; what is dangerous waits at a price
that outweighs them. Must-work past the launch slot
outweighs all of that.
"""

from __future__ import annotations

import numpy as np

from rovask.core.plan.problem.arrays import (
    ANCHOR,
    ANCHOR_MODE,
    BEFORE,
    CALENDAR,
    DAY_COST,
    FIRST_TASK,
    FIXED_END,
    FIXED_START,
    HAUL_NODE,
    JOB,
    LAUNCH_NODE,
    PEOPLE,
    RANK,
    URGENT,
    WORK,
    Arrays,
    Ints,
    Problem,
    Tables,
    tables_of,
)
from rovask.core.plan.problem.compiled import compiled
from rovask.core.readings.prices import VALUE_UNIT, Prices

LATE, LEFT_OUT, OUTAGE, MOVED, END, LAST, DANGER = range(7)
MAKESPAN_WEIGHTS = np.array([1, 0, 0, 0, 0, 0, 0], dtype=np.int64)
LATE_DAYS, LATE_JOBS = 200, 20  # half an hour of must-work late weighs as much as so many days, and jobs left out
DROPPED = 10**15  # must-work that finds no room: dearer than any lateness
NEAR_SLOTS = 3 * 48
STILL_SLOTS = 1  # a start that shifts by half an hour is not a move
FAR_MOVE_SLOTS, FAR_SHARE = (
    4,
    8,
)  # of two plans worth about the same, the one that moves fewer later tasks: each an eighth
UNPLACED = -1


@compiled
def moved(node_, now, node, start, mode):  # type: ignore[no-untyped-def]
    """Whether a near node lies elsewhere than in the plan before, or is done by others."""
    anchor, with_ = node_[node, ANCHOR], node_[node, ANCHOR_MODE]
    if anchor < 0 or anchor >= now + NEAR_SLOTS or node_[node, FIXED_START] >= 0:
        return False
    return abs(start - anchor) > STILL_SLOTS or (with_ >= 0 and mode != with_)


@compiled
def paid_days(ground, start, end, resume, mode):  # type: ignore[no-untyped-def]
    """Sum of day_cost over the days on which each paid person works."""
    node_, mode_, person, day_of, day_slot = ground.node, ground.mode, ground.person, ground.day_of, ground.day_slot
    rank, days = ground.rank, len(day_slot)
    came = np.zeros((len(person), days), dtype=np.bool_)
    out = 0
    for node in range(FIRST_TASK, len(node_)):
        if start[node] == UNPLACED or node_[node, WORK] == 0:
            continue
        calendar = mode_[mode[node], CALENDAR]
        begin = resume[node] if resume[node] >= 0 else start[node]
        for row in range(PEOPLE, mode_.shape[1]):
            who = mode_[mode[node], row]
            if who < 0:
                break
            if person[who, DAY_COST] == 0:
                continue
            for day in range(day_of[begin], day_of[end[node] - 1] + 1):
                low = max(begin, day_slot[day])
                high = min(end[node], day_slot[day + 1] if day + 1 < days else end[node])
                if rank[calendar, high] > rank[calendar, low] and not came[who, day]:
                    came[who, day] = True
                    out += person[who, DAY_COST]
    return out


@compiled
def cost(ground, worth, start, end, resume, mode):  # type: ignore[no-untyped-def]
    """The value of a schedule, small is good. -1 in ``start`` stands for a job left out. O(tasks x days)."""
    node_, value, outages, weights, now = ground.node, worth.value, worth.outages, worth.weights, worth.now
    out = weights[0] * max(start[LAUNCH_NODE] - worth.launch_at, 0)
    lost = np.zeros(len(value), dtype=np.bool_)
    last = 0
    for node in range(FIRST_TASK, len(node_)):
        if node_[node, FIXED_END] >= 0:
            continue
        if start[node] == UNPLACED:
            lost[node_[node, JOB]] = True
            out += DROPPED * (node_[node, RANK] == 0)
            continue
        out += weights[4] * (end[node] - now)
        if node_[node, URGENT] == 1:
            out += weights[6] * (end[node] - now)
        if node_[node, RANK] == 0 and node_[node, BEFORE]:
            last = max(last, end[node] - now)
        if moved(node_, now, node, start[node], mode[node]):
            out += weights[3]
    out += weights[5] * last
    for job in range(len(lost)):
        if lost[job]:
            out += weights[1] * value[job]
    for row in range(len(outages)):
        first, then, weight = outages[row, 0], outages[row, 1], outages[row, 2]
        if start[first] == UNPLACED or start[then] == UNPLACED:
            continue
        begin = max(start[first], now)
        if outages[row, 3]:
            afloat = max(min(end[then], start[HAUL_NODE]) - begin, 0)
            afloat += max(end[then] - max(begin, start[LAUNCH_NODE]), 0)
            out += weights[2] * weight * afloat
        else:
            out += weights[2] * weight * max(end[then] - begin, 0)
    if weights[5] > 0:
        out += paid_days(ground, start, end, resume, mode)
    return out


def weights_of(prices: Prices) -> Ints:
    """The weights of the objective. late, left_out (the value of a job is money already), outage a half-hour (the value
    of an outage is a day's price), moved, end, last a half-hour, work on what is dangerous a half-hour.
    """
    days = prices.day_sooner + prices.service_day + prices.night_ashore
    late = VALUE_UNIT * max(LATE_DAYS * days + LATE_JOBS * (prices.leave_should + prices.leave_could), 1)
    return np.array(
        [late, VALUE_UNIT, 1, prices.moved_task * VALUE_UNIT, 0, max(prices.day_sooner, 1), max(prices.danger_day, 1)]
    )


def value_of(problem: Problem, start: Ints, end: Ints, resume: Ints, mode: Ints) -> int:
    """``cost`` of a schedule of a problem."""
    return cost_of_tables(tables_of(problem), start, end, resume, mode)


def unsettling(arrays: Arrays, start: Ints) -> int:
    """What moving tasks that are not near yet is reckoned at where two schedules are chosen between; no part of the value."""
    anchor = arrays.anchor
    far = (anchor >= arrays.now + NEAR_SLOTS) & (start != UNPLACED) & (arrays.fixed_start < 0)
    moved_far = far & (np.abs(start - anchor) >= FAR_MOVE_SLOTS)
    return int(np.count_nonzero(moved_far)) * int(arrays.weights[MOVED]) // FAR_SHARE


def cost_of_tables(t: Tables, start: Ints, end: Ints, resume: Ints, mode: Ints) -> int:
    """``value_of`` for whoever has packed the arrays already."""
    return int(cost(t.ground, t.worth, start, end, resume, mode))


def with_weights(weights: Ints, *, still: bool) -> Ints:
    """The weights with the wish to leave near tasks where they were, or without."""
    out = weights.copy()
    if not still:
        out[MOVED] = 0
    return out
