"""Where a task finds room: people, places and equipment free, nobody at work too many days on end."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from rovask.core.plan.problem.arrays import (
    ANCHOR,
    CALENDAR,
    LONGEST_RUN,
    PEOPLE,
    RIVAL_HI,
    RIVAL_LO,
    USE_HI,
    USE_LO,
    WORK,
    Ground,
    Ints,
    Problem,
)
from rovask.core.plan.problem.compiled import compiled_lean
from rovask.core.plan.problem.modes import fit_after
from rovask.core.plan.problem.value import UNPLACED

LONG_PAUSE = 48  # slots: a day in which begun work lies open


WORTH_WAITING = 16


class Placed(NamedTuple):
    """What lies on the ground so far: start, end, resume (slots) and mode of each node, UNPLACED where it doesn't yet.

    busy: the slots of each person. used: what is taken of each place and equipment, by slot. worked: tasks by person
    and day.
    """

    start: Ints
    end: Ints
    resume: Ints
    mode: Ints
    busy: npt.NDArray[np.bool_]
    used: npt.NDArray[np.int32]
    worked: Ints


def nothing_placed(problem: Problem, ground: Ground, worked: Ints) -> Placed:
    """Nothing on the ground of a problem but what was worked before."""
    start = np.full(problem.size, UNPLACED, dtype=np.int64)
    busy = np.zeros((len(ground.person), problem.horizon + 1), dtype=np.bool_)
    used = np.zeros((len(ground.capacity), problem.horizon + 1), dtype=np.int32)
    return Placed(start, start.copy(), start.copy(), start.copy(), busy, used, worked.copy())


@compiled_lean
def clash(ground, placed, node, mode, begin, finish):  # type: ignore[no-untyped-def]
    """The last slot in which a node's crew, places or equipment are taken or a rival is about, or -1."""
    node_, mode_, use, capacity, rival = ground.node, ground.mode, ground.use, ground.capacity, ground.rival
    start, end, resume, busy, used = placed.start, placed.end, placed.resume, placed.busy, placed.used
    last = -1
    for at in range(node_[node, USE_LO], node_[node, USE_HI]):
        what = use[at, 0]
        most = capacity[what] - use[at, 1]
        for slot in range(finish - 1, max(begin, last + 1) - 1, -1):
            if used[what, slot] > most:
                last = slot
                break
    for column in range(PEOPLE, mode_.shape[1]):
        who = mode_[mode, column]
        if who < 0:
            break
        for slot in range(finish - 1, max(begin, last + 1) - 1, -1):
            if busy[who, slot]:
                last = slot
                break
    for at in range(node_[node, RIVAL_LO], node_[node, RIVAL_HI]):
        other, mine, theirs = rival[at, 0], rival[at, 1], rival[at, 2]
        if start[other] == UNPLACED:
            continue
        from_ = resume[other] if resume[other] >= 0 else start[other]
        if begin < end[other] + theirs and from_ < finish + mine:
            last = max(last, end[other] + theirs - 1)
    return last


@compiled_lean
def tired(ground, worked, mode, begin, finish):  # type: ignore[no-untyped-def]
    """Whether somebody of the crew would work too many days on end."""
    mode_, rank, person, day_of, day_slot = ground.mode, ground.rank, ground.person, ground.day_of, ground.day_slot
    calendar = mode_[mode, CALENDAR]
    days = len(day_slot)
    first, last = day_of[begin], day_of[finish - 1]
    for row in range(PEOPLE, mode_.shape[1]):
        who = mode_[mode, row]
        if who < 0:
            break
        most = person[who, LONGEST_RUN]
        if most == 0:
            continue
        run = 0
        for day in range(max(first - most, 0), min(last + most, days - 1) + 1):
            works = worked[who, day] > 0
            if not works and first <= day <= last:
                low = max(begin, day_slot[day])
                high = min(finish, day_slot[day + 1] if day + 1 < days else finish)
                works = rank[calendar, high] > rank[calendar, low]
            run = run + 1 if works else 0
            if run > most:
                return True
    return False


@compiled_lean
def room(ground, placed, node, mode, earliest, earliest_end, latest, latest_end):  # type: ignore[no-untyped-def]
    """First (start, end) of ``node`` in ``mode`` with all it takes free inside the bounds, or (-1, -1)."""
    node_, rank, pos, sky_run = ground.node, ground.rank, ground.pos, ground.sky_run
    day_of, day_slot = ground.day_of, ground.day_slot
    horizon = pos.shape[1] - 1
    calendar = ground.mode[mode, CALENDAR]
    at = earliest
    held_start, held_end = -1, -1
    if earliest_end > horizon:
        return -1, -1
    while at <= latest and at < horizon:
        begin, finish = fit_after(node_, rank, pos, sky_run, node, calendar, at)
        if begin > latest or finish > latest_end or finish > horizon:
            break
        if finish < earliest_end:
            first = max(rank[calendar, earliest_end - 1] - node_[node, WORK] + 1, rank[calendar, begin] + 1)
            at = max(pos[calendar, first], begin + 1)
            continue
        taken = clash(ground, placed, node, mode, begin, finish)
        if taken >= 0:
            at = max(taken, begin) + 1
            continue
        if tired(ground, placed.worked, mode, begin, finish):
            day = day_of[begin] + 1
            if day >= len(day_slot):
                break
            at = day_slot[day]
            continue
        if held_start >= 0:
            if finish <= held_end + WORTH_WAITING:
                return begin, finish
            break
        if finish - begin - node_[node, WORK] <= LONG_PAUSE or begin == node_[node, ANCHOR]:
            return begin, finish  # where it is to be held it stays, long pause or not
        # it would lie open for days: rather begin after the pause, if that ends hardly later
        held_start, held_end = begin, finish
        first = rank[calendar, begin]
        while pos[calendar, first + 1] - pos[calendar, first] <= LONG_PAUSE // 2:
            first += 1
            if first >= rank[calendar, finish - 1]:
                return begin, finish
        at = pos[calendar, first + 1]
    return held_start, held_end


@compiled_lean
def mark(ground, placed, node, mode, begin, finish, sign):  # type: ignore[no-untyped-def]
    """Take (sign 1) or give back (sign -1) what a node uses from ``begin`` to ``finish``."""
    node_, mode_, rank, use, person = ground.node, ground.mode, ground.rank, ground.use, ground.person
    day_of, day_slot, busy, used, worked = ground.day_of, ground.day_slot, placed.busy, placed.used, placed.worked
    for at in range(node_[node, USE_LO], node_[node, USE_HI]):
        what, amount = use[at, 0], sign * use[at, 1]
        for slot in range(begin, finish):
            used[what, slot] += amount
    calendar = mode_[mode, CALENDAR]
    days = len(day_slot)
    for row in range(PEOPLE, mode_.shape[1]):
        who = mode_[mode, row]
        if who < 0:
            break
        for slot in range(begin, finish):
            busy[who, slot] = sign > 0
        if person[who, LONGEST_RUN] > 0:
            for day in range(day_of[begin], day_of[finish - 1] + 1):
                low = max(begin, day_slot[day])
                high = min(finish, day_slot[day + 1] if day + 1 < days else finish)
                if rank[calendar, high] > rank[calendar, low]:
                    worked[who, day] += sign


@compiled_lean
def mark_all(ground, placed, fixed_end):  # type: ignore[no-untyped-def]
    """Take what all nodes use that lie somewhere and aren't done."""
    for node in range(len(ground.node)):
        if placed.start[node] != UNPLACED and ground.node[node, WORK] > 0 and fixed_end[node] < 0:
            begin = placed.resume[node] if placed.resume[node] >= 0 else placed.start[node]
            mark(ground, placed, node, placed.mode[node], begin, placed.end[node], 1)
