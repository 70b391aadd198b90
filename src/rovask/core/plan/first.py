"""The first plan: a valid one in milliseconds, by serial schedule generation from several priority rules.

Tasks are placed one by one, each as early as its ties, its crew and its place allow (Kolisch & Hartmann,
"Heuristic algorithms for the resource-constrained project scheduling problem", 1999). A task that misses
the maximum lag to one already placed makes that one and everything placed after it be taken back and
placed later (the unscheduling step of Franck, Neumann & Schwindt, "Truncated branch-and-bound,
schedule-construction and schedule-improvement procedures for resource-constrained project scheduling",
OR Spektrum 23, 2001). Must-jobs and the launch come first; should- and could-jobs are then put in whole,
one by one, where they fit before the launch, or left out.

The best of ``starts`` runs is kept: late launch, then value left out, then when the must-jobs end, then
compactness. Same problem, starts and seed: same plan.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from numba import njit

from rovask.core.plan.modes import fit_after
from rovask.core.plan.problem import HAUL_NODE, LAUNCH_NODE, NO_MAX, Ints, Problem
from rovask.core.plan.windows import Windows

UNPLACED = -1
MOST_TAKEN_BACK = 400
LONG_PAUSE = 48  # slots: a day in which begun work lies open
WORTH_WAITING = 16


@dataclass(frozen=True, slots=True)
class Schedule:
    """Start, end, resume (slots) and mode per node; -1 where a job was left out. ``stuck``: a node that found no room."""

    start: Ints
    end: Ints
    resume: Ints
    mode: Ints
    stuck: int


@njit(cache=True)
def _room(  # type: ignore[no-untyped-def]
    node,
    mode,
    earliest,
    earliest_end,
    latest,
    latest_end,
    work,
    unbroken,
    mode_calendar,
    mode_people,
    rank,
    pos,
    place,
    hands,
    capacity,
    busy,
    used,
):
    """First (start, end) of ``node`` in ``mode`` with its crew and place free inside the bounds, or (-1, -1)."""
    horizon = pos.shape[1] - 1
    calendar = mode_calendar[mode]
    where = place[node]
    at = earliest
    held_start, held_end = -1, -1
    while at <= latest and at < horizon:
        start, end = fit_after(calendar, at, work[node], unbroken[node], rank, pos)
        if start > latest or end > latest_end or end > horizon:
            break
        if end < earliest_end:
            first = max(rank[calendar, earliest_end - 1] - work[node] + 1, rank[calendar, start] + 1)
            at = max(pos[calendar, first], start + 1)
            continue
        clash = -1
        for slot in range(end - 1, start - 1, -1):
            if where >= 0 and used[where, slot] + hands[node] > capacity[where]:
                clash = slot
                break
            for row in range(mode_people.shape[1]):
                who = mode_people[mode, row]
                if who < 0:
                    break
                if busy[who, slot]:
                    clash = slot
                    break
            if clash >= 0:
                break
        if clash >= 0:
            at = clash + 1
            continue
        if held_start >= 0:
            if end <= held_end + WORTH_WAITING:
                return start, end
            break
        if end - start - work[node] <= LONG_PAUSE:
            return start, end
        # it would lie open for days: rather begin after the pause, if that ends hardly later
        held_start, held_end = start, end
        first = rank[calendar, start]
        while pos[calendar, first + 1] - pos[calendar, first] <= LONG_PAUSE // 2:
            first += 1
            if first >= rank[calendar, end - 1]:
                return start, end
        at = pos[calendar, first + 1]
    return held_start, held_end


@njit(cache=True)
def _mark(  # type: ignore[no-untyped-def]
    node, mode, first_slot, last_slot, sign, mode_people, place, hands, busy, used
):
    """Take (sign 1) or give back (sign -1) the crew and the place for the slots of a node."""
    for slot in range(first_slot, last_slot):
        if place[node] >= 0:
            used[place[node], slot] += sign * hands[node]
        for row in range(mode_people.shape[1]):
            who = mode_people[mode, row]
            if who < 0:
                break
            busy[who, slot] = sign > 0


@njit(cache=True)
def _bounds(node, arcs, arc_ptr, arc_idx, start, end, low_start, low_end):  # type: ignore[no-untyped-def]
    """Bounds on (start, end) from the neighbours already placed, and which of them sets each upper bound."""
    big = 1 << 40
    s_lo, e_lo, s_hi, e_hi, s_by, e_by = low_start, low_end, big, big, -1, -1
    for at in range(arc_ptr[node], arc_ptr[node + 1]):
        first, then, kind, low, high = arcs[arc_idx[at]]
        from_end = kind == 0 or kind == 2
        to_start = kind == 0 or kind == 1
        if then == node and start[first] != UNPLACED:
            base = end[first] if from_end else start[first]
            if to_start:
                s_lo = max(s_lo, base + low)
                if high != NO_MAX and base + high < s_hi:
                    s_hi, s_by = base + high, first
            else:
                e_lo = max(e_lo, base + low)
                if high != NO_MAX and base + high < e_hi:
                    e_hi, e_by = base + high, first
        elif first == node and start[then] != UNPLACED:
            base = start[then] if to_start else end[then]
            if from_end:
                if base - low < e_hi:
                    e_hi, e_by = base - low, then
                if high != NO_MAX:
                    e_lo = max(e_lo, base - high)
            else:
                if base - low < s_hi:
                    s_hi, s_by = base - low, then
                if high != NO_MAX:
                    s_lo = max(s_lo, base - high)
    return s_lo, e_lo, s_hi, e_hi, s_by, e_by


@njit(cache=True)
def _place(  # type: ignore[no-untyped-def]
    node,
    s_lo,
    e_lo,
    s_hi,
    e_hi,
    work,
    unbroken,
    deadline,
    fixed_start,
    mode_lo,
    mode_hi,
    mode_calendar,
    mode_people,
    mode_penalty,
    rank,
    pos,
    place,
    hands,
    capacity,
    busy,
    used,
    greed,
):
    """Best (start, end, mode) for a node: earliest end, penalties weighed by ``greed``. (-1, -1, -1) if none."""
    horizon = pos.shape[1] - 1
    if work[node] == 0:
        at = max(s_lo, e_lo)
        if at <= min(s_hi, e_hi) and at <= horizon:
            return at, at, mode_lo[node]
        return -1, -1, -1
    latest = min(s_hi, deadline[node]) if fixed_start[node] < 0 else horizon
    best_start, best_end, best_mode, best = -1, -1, -1, 1 << 40
    for mode in range(mode_lo[node], mode_hi[node]):
        start, end = _room(
            node,
            mode,
            max(s_lo, 0),
            e_lo,
            latest,
            e_hi,
            work,
            unbroken,
            mode_calendar,
            mode_people,
            rank,
            pos,
            place,
            hands,
            capacity,
            busy,
            used,
        )
        if start >= 0 and end + greed * mode_penalty[mode] < best:
            best_start, best_end, best_mode, best = start, end, mode, end + greed * mode_penalty[mode]
    return best_start, best_end, best_mode


@njit(cache=True)
def _run(  # type: ignore[no-untyped-def]
    key,
    greed,
    low_start,
    low_end,
    arcs,
    arc_ptr,
    arc_idx,
    work,
    unbroken,
    release,
    deadline,
    fixed_start,
    fixed_end,
    need,
    job,
    value,
    job_order,
    mode_lo,
    mode_hi,
    mode_calendar,
    mode_people,
    mode_penalty,
    rank,
    pos,
    place,
    hands,
    capacity,
    people,
):
    """One schedule from one priority vector (small first). Returns (stuck, value left out, arrays)."""
    size, horizon = len(work), pos.shape[1] - 1
    start, end = np.full(size, UNPLACED, dtype=np.int64), np.full(size, UNPLACED, dtype=np.int64)
    resume, mode = np.full(size, UNPLACED, dtype=np.int64), np.full(size, UNPLACED, dtype=np.int64)
    busy = np.zeros((people, horizon + 1), dtype=np.bool_)
    used = np.zeros((len(capacity), horizon + 1), dtype=np.int64)
    raised = low_start.copy()
    order = np.zeros(size, dtype=np.int64)
    count = 0
    for node in range(size):  # facts, and what is under way, before anything else
        if fixed_end[node] >= 0:
            start[node], end[node], mode[node] = fixed_start[node], fixed_end[node], mode_lo[node]
    for node in range(size):
        if fixed_start[node] >= 0 and fixed_end[node] < 0:
            s, e, m = _place(
                node,
                release[node],
                low_end[node],
                horizon,
                horizon,
                work,
                unbroken,
                deadline,
                fixed_start,
                mode_lo,
                mode_hi,
                mode_calendar,
                mode_people,
                mode_penalty,
                rank,
                pos,
                place,
                hands,
                capacity,
                busy,
                used,
                greed,
            )
            if s < 0:
                return node, 0, start, end, resume, mode
            start[node], end[node], resume[node], mode[node] = fixed_start[node], e, s, m
            _mark(node, m, s, e, 1, mode_people, place, hands, busy, used)

    left_out = 0
    taken_back = 0
    chosen = np.zeros(size, dtype=np.bool_)
    for round_ in range(len(job_order) + 1):
        this = -1 if round_ == 0 else job_order[round_ - 1]
        todo = 0
        for node in range(size):
            chosen[node] = start[node] == UNPLACED and (
                (this < 0 and (need[node] == 0 or node < 2)) or (this >= 0 and job[node] == this)
            )
            todo += chosen[node]
        if todo == 0:
            continue
        base = count
        failed = False
        # an optional job whose forerunner was left out can't be done either
        if this >= 0:
            for arc in range(len(arcs)):
                first, then = arcs[arc, 0], arcs[arc, 1]
                if chosen[then] and start[first] == UNPLACED and not chosen[first]:
                    failed = True
        while todo > 0 and not failed:
            # the eligible node with the smallest key; one that a placed neighbour waits for comes first
            pick, pick_key = -1, np.inf
            for node in range(size):
                if not chosen[node] or start[node] != UNPLACED:
                    continue
                eligible, pull = True, False
                for at in range(arc_ptr[node], arc_ptr[node + 1]):
                    first, then, _, _, high = arcs[arc_idx[at]]
                    if then == node and first != node:
                        if start[first] == UNPLACED and chosen[first]:
                            eligible = False
                            break
                        if high != NO_MAX and start[first] != UNPLACED and fixed_end[first] < 0:
                            pull = True
                if eligible:
                    k = key[node] - (1e9 if pull else 0.0)
                    if k < pick_key:
                        pick, pick_key = node, k
            if pick < 0:  # ties both ways: take the one that may start earliest
                for node in range(size):
                    if chosen[node] and start[node] == UNPLACED and key[node] < pick_key:
                        pick, pick_key = node, key[node]
            s_lo, e_lo, s_hi, e_hi, s_by, e_by = _bounds(
                pick, arcs, arc_ptr, arc_idx, start, end, raised[pick], low_end[pick]
            )
            s, e, m = _place(
                pick,
                s_lo,
                e_lo,
                s_hi,
                e_hi,
                work,
                unbroken,
                deadline,
                fixed_start,
                mode_lo,
                mode_hi,
                mode_calendar,
                mode_people,
                mode_penalty,
                rank,
                pos,
                place,
                hands,
                capacity,
                busy,
                used,
                greed,
            )
            if s >= 0:
                start[pick], end[pick], mode[pick] = s, e, m
                if work[pick] > 0:
                    _mark(pick, m, s, e, 1, mode_people, place, hands, busy, used)
                order[count] = pick
                count += 1
                todo -= 1
                continue
            # no room below an upper bound: who set it, and how much later would do?
            s, e, m = _place(
                pick,
                s_lo,
                e_lo,
                1 << 40,
                1 << 40,
                work,
                unbroken,
                deadline,
                fixed_start,
                mode_lo,
                mode_hi,
                mode_calendar,
                mode_people,
                mode_penalty,
                rank,
                pos,
                place,
                hands,
                capacity,
                busy,
                used,
                0,
            )
            over_s = s - s_hi if s_by >= 0 else 0
            over_e = e - e_hi if e_by >= 0 else 0
            by = s_by if over_s >= over_e else e_by
            taken_back += 1
            if s < 0 or by < 0 or taken_back > MOST_TAKEN_BACK:
                failed = True
                break
            position = -1
            for at in range(base, count):
                if order[at] == by:
                    position = at
            if position < 0:  # set by a fact or by another job: nothing to move
                failed = True
                break
            raised[by] = start[by] + max(1, max(over_s, over_e))
            for at in range(count - 1, position - 1, -1):
                node = order[at]
                if work[node] > 0:
                    _mark(node, mode[node], start[node], end[node], -1, mode_people, place, hands, busy, used)
                start[node], end[node], mode[node] = UNPLACED, UNPLACED, UNPLACED
                todo += 1
            count = position
        if failed:
            if this < 0:
                return pick, 0, start, end, resume, mode
            for at in range(count - 1, base - 1, -1):
                node = order[at]
                if work[node] > 0:
                    _mark(node, mode[node], start[node], end[node], -1, mode_people, place, hands, busy, used)
                start[node], end[node], mode[node] = UNPLACED, UNPLACED, UNPLACED
            count = base
            left_out += value[this]
    return -1, left_out, start, end, resume, mode


@njit(cache=True)
def _best_of(  # type: ignore[no-untyped-def]
    keys,
    greeds,
    launch_at,
    low_start,
    low_end,
    arcs,
    arc_ptr,
    arc_idx,
    work,
    unbroken,
    release,
    deadline,
    fixed_start,
    fixed_end,
    need,
    job,
    value,
    job_order,
    mode_lo,
    mode_hi,
    mode_calendar,
    mode_people,
    mode_penalty,
    rank,
    pos,
    place,
    hands,
    capacity,
    people,
):
    best_score = np.inf
    best = (np.int64(-2), low_start, low_start, low_start, low_start)
    for run in range(len(keys)):
        stuck, left_out, start, end, resume, mode = _run(
            keys[run],
            greeds[run],
            low_start,
            low_end,
            arcs,
            arc_ptr,
            arc_idx,
            work,
            unbroken,
            release,
            deadline,
            fixed_start,
            fixed_end,
            need,
            job,
            value,
            job_order,
            mode_lo,
            mode_hi,
            mode_calendar,
            mode_people,
            mode_penalty,
            rank,
            pos,
            place,
            hands,
            capacity,
            people,
        )
        if stuck >= 0:
            if best[0] == -2:
                best = (np.int64(stuck), start, end, resume, mode)
            continue
        late = max(start[LAUNCH_NODE] - launch_at, 0)
        last, total = 0, 0
        for node in range(2, len(work)):
            if start[node] == UNPLACED:
                continue
            total += end[node]
            if need[node] == 0 and end[node] < start[LAUNCH_NODE]:
                last = max(last, end[node])
        score = late * 1e12 + left_out * 1e8 + last * 1e4 + total / max(len(work), 1)
        if score < best_score:
            best_score = score
            best = (np.int64(-1), start, end, resume, mode)
    return best


def _neighbours(problem: Problem) -> tuple[Ints, Ints]:
    """Arcs by node, as a pointer and an index array."""
    touching: list[list[int]] = [[] for _ in range(problem.size)]
    for arc, (first, then, *_) in enumerate(problem.arcs.tolist()):
        touching[first].append(arc)
        touching[then].append(arc)
    pointer = np.cumsum([0, *(len(arcs) for arcs in touching)], dtype=np.int64)
    return pointer, np.array([arc for arcs in touching for arc in arcs], dtype=np.int64)


def _priorities(problem: Problem, windows: Windows, starts: int, seed: int) -> npt.NDArray[np.float64]:
    """Priority vectors, small first: latest start, slack, latest end, most work behind, then noisy copies."""
    behind = np.zeros(problem.size)
    after: list[list[int]] = [[] for _ in range(problem.size)]
    for first, then, *_ in problem.arcs.tolist():
        after[first].append(then)
    for node in np.argsort(-windows.start, kind="stable").tolist():
        behind[node] = max((behind[then] + problem.work[then] for then in after[node]), default=0.0)
    slack = (windows.latest_start - windows.start).astype(np.float64)
    rules = [
        windows.latest_start.astype(np.float64),
        slack,
        windows.latest_end.astype(np.float64),
        -(behind + problem.work),
        windows.start + 0.5 * slack,
    ]
    random = np.random.default_rng(seed)
    keys = rules[:starts]
    for run in range(len(keys), starts):
        rule = rules[run % len(rules)]
        keys.append(rule + random.normal(0.0, 0.12 * (np.ptp(rule) + 1.0), problem.size))
    out = np.array(keys)
    out[:, HAUL_NODE] = -1e8
    return out


def first_schedule(problem: Problem, windows: Windows, starts: int = 16, seed: int = 1) -> Schedule:
    """The best of ``starts`` schedules. ``stuck`` >= 0: no run found room for that node (not a proof that there is none).

    O(starts x nodes x crews x tries); ties are broken by the order of the refit.
    """
    pointer, index = _neighbours(problem)
    keys = _priorities(problem, windows, starts, seed)
    greeds = np.array([(1, 2, 0, 1)[run % 4] for run in range(starts)], dtype=np.int64)
    optional = sorted(
        {(int(problem.need[n]), int(problem.job[n])) for n in range(2, problem.size) if problem.need[n] > 0}
    )
    low_end = np.where(problem.fixed_end >= 0, 0, windows.end)
    stuck, start, end, resume, mode = _best_of(
        keys,
        greeds,
        problem.launch_at,
        windows.start,
        low_end,
        problem.arcs,
        pointer,
        index,
        problem.work,
        problem.unbroken,
        problem.release,
        problem.deadline,
        problem.fixed_start,
        problem.fixed_end,
        problem.need,
        problem.job,
        problem.value,
        np.array(_after_forerunners(problem, optional), dtype=np.int64),
        problem.mode_lo,
        problem.mode_hi,
        problem.mode_calendar,
        problem.mode_people,
        problem.mode_penalty,
        problem.rank,
        problem.pos,
        problem.place,
        problem.hands,
        problem.place_capacity,
        max(len(problem.people), 1),
    )
    return Schedule(start, end, resume, mode, int(stuck))


def _after_forerunners(problem: Problem, optional: list[tuple[int, int]]) -> list[int]:
    """Optional jobs, should before could, but never before an optional job they wait for."""
    jobs = [job for _, job in optional]
    waits: dict[int, set[int]] = {job: set() for job in jobs}
    for first, then, *_ in problem.arcs.tolist():
        before, after = int(problem.job[first]), int(problem.job[then])
        if before != after and before in waits and after in waits:
            waits[after].add(before)
    out: list[int] = []
    while jobs:
        ready = next((job for job in jobs if not waits[job] - set(out)), jobs[0])
        jobs.remove(ready)
        out.append(ready)
    return out
