"""The first plan: a valid one in milliseconds, by serial schedule generation from several priority rules.

Tasks are placed one by one, each as early as its ties, its crew, its place and what it can't stand allow (Kolisch &
Hartmann, "Heuristic algorithms for the resource-constrained project scheduling problem", 1999). A task that misses
the maximum lag to one already placed makes that one and everything placed after it be taken back and placed later
(the unscheduling step of Franck, Neumann & Schwindt, "Truncated branch-and-bound, schedule-construction and
schedule-improvement procedures for resource-constrained project scheduling", OR Spektrum 23, 2001). Must-jobs and the
launch come first; should- and could-jobs are then put in whole, one by one, where they fit before the launch, or left
out.

With a plan before (``anchor``), the first runs follow its order, its times and its people, so that what need not move
stays. The run of least value (value.py) is kept. Same problem, starts and seed: same plan.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from rovask.core.plain.derived import derived
from rovask.core.plan.first.place import BIG, place_all
from rovask.core.plan.problem.arrays import (
    ANCHOR,
    ANCHOR_MODE,
    FIRST_TASK,
    FIXED_END,
    HAUL_NODE,
    NEED,
    URGENT,
    Ints,
    Problem,
    Tables,
    tables_of,
)
from rovask.core.plan.problem.compiled import compiled
from rovask.core.plan.problem.value import NEAR_SLOTS, UNPLACED, cost, cost_of_tables, unsettling, value_of
from rovask.core.plan.problem.windows import Windows

URGENT_FIRST = 1e6  # taken off the priority of what is dangerous
STICK = 6  # slots a task would rather wait for the people it had


@dataclass(frozen=True, slots=True)
class Schedule:
    """Start, end, resume (slots) and mode per node; -1 where a job was left out. ``stuck``: a node that found no room.

    value: what it costs (value.py); -1 when it is stuck.
    """

    start: Ints
    end: Ints
    resume: Ints
    mode: Ints
    stuck: int
    value: int = -1


@compiled
def _best_of(  # type: ignore[no-untyped-def]
    ground, tied, worked, worth, keys, greeds, sticks, floors, low_start, low_end, job_order
):
    best_value = np.int64(-1)
    best = (np.int64(-2), low_start, low_start, low_start, low_start)
    for run in range(len(keys)):
        stuck, start, end, resume, mode = place_all(
            ground, tied, worked, keys[run], greeds[run], sticks[run], floors[run], low_start, low_end, job_order
        )
        if stuck >= 0:
            if best[0] == -2:
                best = (np.int64(stuck), start, end, resume, mode)
            continue
        costs = cost(ground, worth, start, end, resume, mode)
        if best_value < 0 or costs < best_value:
            best_value = costs
            best = (np.int64(-1), start, end, resume, mode)
    return best_value, best


def _priorities(problem: Problem, windows: Windows, starts: int, seed: int) -> npt.NDArray[np.float64]:
    """Priority vectors, small first: latest start, slack, latest end, most work behind, then noisy copies."""
    slack = (windows.latest_start - windows.start).astype(np.float64)
    rules = [windows.latest_start.astype(np.float64), slack, windows.latest_end.astype(np.float64)]
    if starts > len(rules):
        rules += [-(_behind(problem, windows) + problem.arrays.work), windows.start + 0.5 * slack]
    random = np.random.default_rng(seed)
    keys = rules[:starts]
    for run in range(len(keys), starts):
        rule = rules[run % len(rules)]
        keys.append(rule + random.normal(0.0, 0.12 * (np.ptp(rule) + 1.0), problem.size))
    return np.array(keys)


def _behind(problem: Problem, windows: Windows) -> npt.NDArray[np.float64]:
    """Work of the longest chain after each node, in slots."""
    work = problem.arrays.work.tolist()
    behind = [0.0] * problem.size
    after: list[list[int]] = [[] for _ in range(problem.size)]
    for first, then in problem.arrays.arcs[:, :2].tolist():
        after[first].append(then)
    for node in np.argsort(-windows.start, kind="stable").tolist():
        behind[node] = max([behind[then] + work[then] for then in after[node]], default=0.0)
    return np.array(behind)


def first_schedule(
    problem: Problem, windows: Windows, starts: int = 16, seed: int = 1, also: Sequence[Schedule] = ()
) -> Schedule:
    """The best of ``starts`` schedules, of the plan before played again, and of the order of each in ``also``.

    ``stuck`` >= 0: there is none, for want of room for that node. Must-work without a start found no room in any run
    (not a proof that there is none). O(starts x nodes x crews x tries); ties are broken by the order of the refit.
    """
    arrays = problem.arrays
    starts = max(starts, 2)
    keys = _priorities(problem, windows, starts, seed)
    keys[:, arrays.urgent > 0] -= URGENT_FIRST
    keys[:, HAUL_NODE] = -1e8
    greeds = np.array([(1, 2, 0, 1)[run % 4] for run in range(starts)], dtype=np.int64)
    tables, jobs = tables_of(problem), job_order(problem)
    low_end = np.where(arrays.fixed_end >= 0, 0, windows.end)
    none = np.zeros(starts, dtype=np.int64)
    floors = np.zeros((starts, problem.size), dtype=np.int64)
    best: Schedule | None = None
    needs = _needs(problem)
    for at, need in enumerate(needs):
        ground = tables.ground
        if need is not arrays.need:
            node = ground.node.copy(order="F")
            node[:, NEED] = need
            ground = ground._replace(node=node)
        # whole arrays of their own: for parts of larger ones all of it would be compiled a second time
        runs = [np.ascontiguousarray(one[at :: len(needs)]) for one in (keys, greeds, none, floors)]
        value, (stuck, start, end, resume, mode) = _best_of(ground, *tables[1:], *runs, windows.start, low_end, jobs)
        found = Schedule(start, end, resume, mode, int(stuck), int(value))
        if best is None or (found.stuck < 0 and (best.stuck >= 0 or found.value < best.value)):
            best = found

    def weighed(one: Schedule) -> int:
        return one.value + unsettling(arrays, one.start)

    others = [played_again(problem, windows, one) for one in also]
    if (arrays.anchor >= 0).any():
        others += _replayed(problem, windows, tables, jobs)
    for found in others:
        if best is None or (found.stuck < 0 and (best.stuck >= 0 or weighed(found) < weighed(best))):
            best = found
    if best is None:
        raise ValueError("no start was asked for")
    return best


def _needs(problem: Problem) -> list[Ints]:
    """How much each node is needed, and once more with what a more needed one waits for needed as much.

    A job that may be left out and stands before must-work is tried in its place first; where that costs the launch
    something, the plan without it is the better one.
    """
    need, job = problem.arrays.need, problem.arrays.job
    by_job = {int(job[node]): int(need[node]) for node in range(FIRST_TASK, problem.size)}
    raised = dict(by_job)
    pairs = {(int(job[first]), int(job[then])) for first, then, *_ in problem.arrays.arcs.tolist()}
    pairs = {(first, then) for first, then in pairs if first >= 0 and then >= 0 and first != then}
    changed = True
    while changed:
        changed = False
        for first, then in pairs:
            if raised[first] > raised[then]:
                raised[first], changed = raised[then], True
    if raised == by_job:
        return [need]
    return [need, np.array([0 if at < 0 else raised[at] for at in job.tolist()], dtype=np.int64)]


def played_again(problem: Problem, windows: Windows, known: Schedule, *, held: bool = False) -> Schedule:
    """A schedule played again in its order and with its people, whatever else there is after it.

    held: nothing earlier than it was there, so that the days paid people come stay as they are.
    """
    tables, jobs = tables_of(problem), job_order(problem)
    placed = known.start != UNPLACED
    key = np.where(placed, known.start, windows.latest_start).astype(np.float64)
    key[HAUL_NODE] = -1e8
    begin = np.where(known.resume >= 0, known.resume, known.start)
    floor = np.where(placed & (problem.arrays.fixed_end < 0), begin, 0) if held else np.zeros_like(known.start)
    floor[:FIRST_TASK] = 0
    with_ = np.where(placed, known.mode, -1)
    # what was planned of the optional jobs keeps its place
    need = np.where(placed, 0, problem.arrays.need) if held else problem.arrays.need
    found = run_once(tables, windows, key, 0, 10_000, floor, with_, jobs, need)
    if found.stuck >= 0:
        return found
    value = cost_of_tables(tables, found.start, found.end, found.resume, found.mode)
    return Schedule(found.start, found.end, found.resume, found.mode, -1, value)


def ready_schedule(problem: Problem, windows: Windows, starts: int, hints: Sequence[Schedule] = ()) -> Schedule | None:
    """The must-work alone, with a launch that is as early as ``starts`` runs and the order of each hint make it.

    problem: with its launch set free (ready.py). A hint is played with all its times, then without. None if there is
    no room for all of what any run placed.
    """
    arrays, tables = problem.arrays, tables_of(problem)
    none, nobody = np.zeros(problem.size, dtype=np.int64), np.zeros(0, dtype=np.int64)
    tries = []
    for hint in hints:
        placed = hint.start != UNPLACED
        key = np.where(placed, hint.start, windows.latest_start).astype(np.float64)
        with_ = np.where(placed, hint.mode, -1)
        floor = np.where(placed & (arrays.fixed_start < 0), hint.start, 0)
        floor[:FIRST_TASK] = 0
        tries += [(key, 0, 10_000, floor, with_), (key, 0, STICK, none, with_)]
    if starts > len(hints):
        keys = _priorities(problem, windows, starts - len(hints), 1)
        tries += [(key, run % 3, 0, none, arrays.anchor_mode) for run, key in enumerate(keys)]
    best: Schedule | None = None
    for key, greed, stick, floor, with_ in tries:
        key[HAUL_NODE] = -1e8
        found = run_once(tables, windows, key, greed, stick, floor, with_, nobody, arrays.need)
        if found.stuck >= 0:
            continue
        value = cost_of_tables(tables, found.start, found.end, found.resume, found.mode)
        if best is None or value < best.value:
            best = Schedule(found.start, found.end, found.resume, found.mode, -1, value)
    return best


def _replayed(problem: Problem, windows: Windows, tables: Tables, jobs: Ints) -> list[Schedule]:
    """The plan before, played again: its order with all its times, with those of paid people and near ones, or alone.

    Each with its people, and each twice: optional jobs in the places they had, then after all must-work. Without the
    first a job that a longer task pushed a little would be left out, and a plan made anew would beat the one that is.
    """
    arrays = problem.arrays
    anchored = arrays.anchor >= 0
    key = np.where(anchored, arrays.anchor, windows.latest_start).astype(np.float64)
    key[HAUL_NODE] = -1e8
    kept = np.where(anchored, np.minimum(arrays.anchor, arrays.deadline), 0)
    none = np.zeros_like(kept)
    near = np.where(arrays.anchor < arrays.now + NEAR_SLOTS, kept, 0)
    people = arrays.mode_people[np.where(arrays.anchor_mode >= 0, arrays.anchor_mode, 0)]
    paid = anchored & ((people >= 0) & (arrays.day_cost[people] > 0)).any(axis=1)
    booked = np.where(paid, kept, near)
    out = []
    for need in (np.where(anchored, 0, arrays.need), arrays.need):
        for floor, stick in ((kept, 10_000), (booked, 10_000), (booked, STICK), (near, STICK), (none, STICK)):
            found = run_once(tables, windows, key, 1, stick, floor, arrays.anchor_mode, jobs, need)
            if found.stuck < 0:
                value = cost_of_tables(tables, found.start, found.end, found.resume, found.mode)
                found = Schedule(found.start, found.end, found.resume, found.mode, -1, value)
            out.append(found)
    return out


def run_once(
    tables: Tables, windows: Windows, key: npt.NDArray[np.float64], greed: int, stick: int, floor: Ints, with_: Ints,
    jobs: Ints, need: Ints,
) -> Schedule:  # fmt: skip
    """One schedule from one vector of priorities, its value not yet counted.

    key: small first. greed: slots later that a cheaper crew is worth. stick: slots a task would rather wait for the
    people it has in ``with_`` (a mode, -1: none). floor: earliest start, of what is under way when it goes on.
    jobs: as ``job_order`` gives them.
    need: 0 where a task is placed among the must-work, else it comes after all of that, its job whole or not at all.
    """
    node = tables.ground.node.copy(order="F")
    node[:, ANCHOR_MODE], node[:, NEED] = with_, need
    key = np.where(node[:, URGENT] > 0, key - URGENT_FIRST, key)
    node[:, ANCHOR] = np.where(floor > 0, floor, node[:, ANCHOR])
    low_end = np.where(node[:, FIXED_END] >= 0, 0, windows.end)
    stuck, start, end, resume, mode = place_all(
        tables.ground._replace(node=node),
        tables.tied,
        tables.worked,
        key,
        greed,
        stick,
        floor,
        windows.start,
        low_end,
        jobs,
    )
    return Schedule(start, end, resume, mode, int(stuck))


def left_justified(problem: Problem, windows: Windows, schedule: Schedule) -> Schedule:
    """The same people and order, every task as early as they allow, if that costs nothing; else ``schedule`` itself.

    The solver leaves what doesn't matter anywhere; a sailor rather begins today. Tasks of people paid by the day
    keep their start, and what must lie in the slings or near the launch stays there by its ties.
    """
    arrays = problem.arrays
    mode = np.where(schedule.mode >= 0, schedule.mode, 0)
    people = arrays.mode_people[mode]
    paid = ((people >= 0) & (arrays.day_cost[people] > 0)).any(axis=1)
    placed = schedule.start != UNPLACED
    near = (arrays.anchor >= 0) & (arrays.anchor < arrays.now + NEAR_SLOTS) & (schedule.start == arrays.anchor)
    floor = np.where(placed & (paid | near), schedule.start, 0)
    need = np.where(placed, 0, 1)
    crew, none = np.where(placed, schedule.mode, -1), np.zeros(0, dtype=np.int64)
    key = schedule.start.astype(np.float64)
    found = run_once(tables_of(problem), windows, key, 0, BIG >> 1, floor, crew, none, need)
    if found.stuck >= 0:
        return schedule
    was = value_of(problem, schedule.start, schedule.end, schedule.resume, schedule.mode)
    value = value_of(problem, found.start, found.end, found.resume, found.mode)
    return Schedule(found.start, found.end, found.resume, found.mode, -1, value) if value <= was else schedule


@derived()
def job_order(problem: Problem) -> Ints:
    """Optional jobs, should before could, but never before an optional job they wait for."""
    need, job = problem.arrays.need, problem.arrays.job
    optional = np.flatnonzero(need > 0)
    jobs = [key for _, key in sorted(set(zip(need[optional].tolist(), job[optional].tolist(), strict=True)))]
    waits: dict[int, set[int]] = {key: set() for key in jobs}
    first, then = problem.arrays.arcs[:, 0], problem.arrays.arcs[:, 1]
    holds = (need[first] > 0) & (need[first] <= need[then]) & (job[first] != job[then])
    for before, after in zip(job[first[holds]].tolist(), job[then[holds]].tolist(), strict=True):
        waits[after].add(before)
    out: list[int] = []
    while jobs:
        ready = next((job for job in jobs if not waits[job] - set(out)), jobs[0])
        jobs.remove(ready)
        out.append(ready)
    return np.array(out, dtype=np.int64)
