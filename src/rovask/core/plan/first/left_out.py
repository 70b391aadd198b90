"""What the first plan left out, tried once more before what could give way to it.

The first plan places optional jobs one after the other behind the must-work; a job that needs long stretches finds none
left, though moving a few others would make it fit. Nobody should read *doesn't fit* of it then.
"""

from __future__ import annotations

import numpy as np

from rovask.core.plan.first.serial import Schedule, job_order, run_once
from rovask.core.plan.problem.arrays import HAUL_NODE, Problem, tables_of
from rovask.core.plan.problem.value import UNPLACED, cost_of_tables, unsettling
from rovask.core.plan.problem.windows import Windows

TRIED_TASKS = 900  # tasks placed in all tries together: some ten milliseconds
MOST_TRIES = 12
WAYS = ((1, 2), (0, 16))  # slots later that a cheaper crew is worth; slots a task would rather wait for its people


def with_left_out(problem: Problem, windows: Windows, best: Schedule) -> Schedule:
    """``best``, or a schedule that is worth less with a job in it that was left out; a few tries, most needed first.

    Each is worked in the order of ``best``, that job among the must-work and every other optional job where it still
    fits. What it moves of the plan before counts. Deterministic. O(tries x one first plan).
    """
    a, tables, jobs = problem.arrays, tables_of(problem), job_order(problem)
    tries = min(TRIED_TASKS // problem.size, MOST_TRIES)
    worth = best.value + unsettling(a, best.start)
    for job in jobs.tolist():
        forced = a.job == job
        for greed, stick in WAYS:
            placed = best.start != UNPLACED
            if placed[forced].all():
                break
            if not tries:
                return best
            tries -= 1
            key = np.where(placed, best.start, windows.latest_start).astype(np.float64)
            key[forced] = windows.start[forced]
            key[HAUL_NODE] = -1e8
            need, with_ = np.where(forced, 0, a.need), np.where(placed, best.mode, -1)
            anywhere = np.zeros(problem.size, dtype=np.int64)
            found = run_once(tables, windows, key, greed, stick, anywhere, with_, jobs, need)
            if found.stuck >= 0:
                continue
            value = cost_of_tables(tables, found.start, found.end, found.resume, found.mode)
            if value + unsettling(a, found.start) < worth:
                best = Schedule(found.start, found.end, found.resume, found.mode, -1, value)
                worth = value + unsettling(a, found.start)
    return best
