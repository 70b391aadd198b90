"""Runs played as a good foreman would work the plan, compiled. docs/odds.md tells the rules in words.

Order and people are as planned, yet nobody stands idle beside work that can go on: what can begin first begins first, unless it
would keep somebody from work planned earlier by more than a little. What comes to light is put in at its place; a job that may
be left out is begun only while it doesn't cost the launch; a missed wait is made good; who is ill or doesn't come is waited for,
or another does it where that is a day sooner. How long a thing takes is not used before it has begun, other than for
when it would end.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from rovask.core.odds.foreman import GO_ON, LEAVE_OUT, held_for, key_of, looked_at, not_before, opened, set_aside, upset
from rovask.core.odds.net import (
    BEGUN,
    BY_SKY,
    CALENDAR,
    HANGS,
    HIGH,
    JOB,
    MODE_LO,
    ORDER,
    OUT_HI,
    OUT_LO,
    PEOPLE,
    START,
    STATE,
    THEN,
    TO_PLAY,
    USE_HI,
    USE_LO,
)
from rovask.core.odds.table import (
    AFTER,
    BEGINS,
    BY_PARTS,
    CREW,
    DROPPED,
    ENDS,
    FINISH,
    FOUND,
    FREE,
    GUESS,
    HAND,
    HAND_BY,
    HOW,
    KEY,
    LAST,
    LAST_DAY,
    MISSED,
    PULLED,
    RUN,
    SET_BY,
    UNSET,
    WAITS,
    WHICH,
    laid,
    new_table,
)
from rovask.core.plan.problem.arrays import FIRST_TASK, LAUNCH_NODE, NO_MAX, Ints
from rovask.core.plan.problem.compiled import compiled, compiled_into


@compiled_into
def _take(net, deal, table, run, sky, node, mode, start, end, by):  # type: ignore[no-untyped-def]
    """A node begins: its people, places and equipment are taken until it ends."""
    table.node[node, BEGINS], table.node[node, ENDS], table.node[node, AFTER], table.node[node, CREW] = (
        start,
        end,
        by,
        mode,
    )
    if net.node[node, BEGUN] and net.node[node, START] >= 0:
        table.node[node, BEGINS] = net.node[node, START]
    if net.node[node, JOB] >= 0 and node >= FIRST_TASK:
        table.begun[net.node[node, JOB]] = 1
    if deal.work[run, node] == 0:
        return
    row = net.mode[mode, CALENDAR] + (sky if net.mode[mode, BY_SKY] else 0)
    for column in range(PEOPLE, net.mode.shape[1]):
        who = net.mode[mode, column]
        if who < 0:
            break
        table.person[who, FREE], table.person[who, LAST] = end, node
        if net.rest[who] > 0 and end < net.pos.shape[1]:
            for day in range(net.day_of[start], net.day_of[end - 1] + 1):
                low, high = max(start, net.day_slot[day]), end
                if day + 1 < len(net.day_slot):
                    high = min(end, net.day_slot[day + 1])
                if day != table.person[who, LAST_DAY] and net.rank[row, high] > net.rank[row, low]:
                    table.person[who, RUN] = table.person[who, RUN] + 1 if day == table.person[who, LAST_DAY] + 1 else 1
                    table.person[who, LAST_DAY] = day
    for use in range(net.node[node, USE_LO], net.node[node, USE_HI]):
        first, room, takes = net.use[use, 0], net.use[use, 1], net.use[use, 2]
        for one in range(first, first + takes):
            table.hand[one, HAND], table.hand[one, HAND_BY] = end, node
        for one in range(first + 1, first + room):  # in order of when they are free again
            free, last, at = table.hand[one, HAND], table.hand[one, HAND_BY], one
            while at > first and table.hand[at - 1, HAND] > free:
                table.hand[at, HAND], table.hand[at, HAND_BY] = table.hand[at - 1, HAND], table.hand[at - 1, HAND_BY]
                at -= 1
            table.hand[at, HAND], table.hand[at, HAND_BY] = free, last


@compiled_into
def _comes_to_hand(net, table, node, ready):  # type: ignore[no-untyped-def]
    table.queue[ready, WHICH], table.queue[ready, KEY] = node, key_of(net, node, table.node[node, GUESS])
    return ready + 1


@compiled_into
def _let_go(net, deal, table, run, sky, node, ready, counts):  # type: ignore[no-untyped-def]
    """A node is placed or dropped: what waits for nothing else comes to hand. Returns how many are at hand."""
    for one in range(net.node[node, OUT_LO], net.node[node, OUT_HI]):
        arc = net.out_arc[one]
        then = net.arc[arc, THEN]
        if net.node[then, STATE] != TO_PLAY or table.node[then, BEGINS] != UNSET:
            continue
        table.node[then, WAITS] -= 1
        if counts and net.arc[arc, HIGH] != NO_MAX and then >= FIRST_TASK:
            table.node[then, PULLED] += 1
        if table.node[then, WAITS] == 0:
            opened(net, deal, table, run, sky, then)
            ready = _comes_to_hand(net, table, then, ready)
    return ready


@compiled_into
def _next(table, ready):  # type: ignore[no-untyped-def]
    """Which of those at hand could begin first, by what is known so far; the one planned earlier of two."""
    pick, best = 0, table.queue[0, KEY]
    for one in range(1, ready):
        if table.queue[one, KEY] < best:
            pick, best = one, table.queue[one, KEY]
    return pick


@compiled_into
def _any_left(net, table):  # type: ignore[no-untyped-def]
    """Of what waits for each other in a ring, the one planned first."""
    found = -1
    for node in range(len(net.node)):
        if table.node[node, BEGINS] == UNSET and (found < 0 or net.node[node, ORDER] < net.node[found, ORDER]):
            found = node
    return found


@compiled_into
def _float(net, ready_at):  # type: ignore[no-untyped-def]
    """When she is launched who could be at ``ready_at``: her slot, else the next there is."""
    horizon = net.pos.shape[1] - 1
    row = net.mode[net.node[LAUNCH_NODE, MODE_LO], CALENDAR]
    at = int(net.pos[row, net.rank[row, min(net.slot, horizon)]])
    if ready_at <= at:
        return at
    for one in range(len(net.next_slots)):
        if net.next_slots[one] >= ready_at:
            return net.next_slots[one]
    return ready_at


@compiled_into
def _leave_out(net, deal, table, run, sky, job, ready):  # type: ignore[no-untyped-def]
    """A job is left out: what waited for it goes on. Returns (how many are at hand, how many tasks that were)."""
    gone, kept = 0, 0
    for node in range(FIRST_TASK, len(net.node)):
        if net.node[node, JOB] == job and table.node[node, BEGINS] == UNSET:
            table.node[node, BEGINS] = DROPPED
            gone += 1
    for at in range(ready):
        if table.node[table.queue[at, WHICH], BEGINS] == UNSET:
            table.queue[kept, WHICH], table.queue[kept, KEY] = table.queue[at, WHICH], table.queue[at, KEY]
            kept += 1
    for node in range(FIRST_TASK, len(net.node)):
        if net.node[node, JOB] == job and table.node[node, BEGINS] == DROPPED and table.node[node, ENDS] == UNSET:
            table.node[node, ENDS] = DROPPED
            kept = _let_go(net, deal, table, run, sky, node, kept, False)
    return kept, gone


@compiled_into
def _put_off(net, table, one, node, until):  # type: ignore[no-untyped-def]
    table.node[node, GUESS], table.queue[one, KEY] = until, key_of(net, node, until)


@compiled_into
def _play(net, deal, table, run):  # type: ignore[no-untyped-def]
    """One run. Returns (ready, launch, waits that were missed)."""
    sky, horizon = deal.sky[run], net.pos.shape[1] - 1
    left = laid(net, table)
    ready, ready_at, launch, missed, turn, windows = 0, horizon, horizon, 0, 1, 0
    for node in range(len(net.node)):
        if table.node[node, BEGINS] == UNSET and table.node[node, WAITS] == 0:
            opened(net, deal, table, run, sky, node)
            ready = _comes_to_hand(net, table, node, ready)
    while left > 0:
        if ready == 0:
            node = _any_left(net, table)
            opened(net, deal, table, run, sky, node)
            ready = _comes_to_hand(net, table, node, 0)
        one = _next(table, ready)
        node = table.queue[one, WHICH]
        glance = not_before(net, table, sky, node)
        if glance > table.node[node, GUESS] and ready > 1:
            _put_off(net, table, one, node, glance)
            continue
        start = looked_at(net, deal, table, run, sky, node, turn)
        if start > table.node[node, GUESS] and ready > 1:
            _put_off(net, table, one, node, start)
            continue
        aside = set_aside(net, table, node)
        if aside == LEAVE_OUT:
            ready, gone = _leave_out(net, deal, table, run, sky, net.node[node, JOB], ready)
            left -= gone
            continue
        if aside != GO_ON:
            if aside <= table.node[node, GUESS]:
                aside = table.node[node, GUESS] + 1
            _put_off(net, table, one, node, aside)
            if aside < horizon:
                continue
        if deal.work[run, node] > 0 and ready > 1:
            again = held_for(net, deal, table, run, sky, node, ready, windows, turn)
            if again > table.node[node, GUESS]:
                _put_off(net, table, one, node, again)
                continue
        start, end, by, mode = (
            table.node[node, FOUND],
            table.node[node, FINISH],
            table.node[node, SET_BY],
            table.node[node, HOW],
        )
        missed += table.node[node, MISSED]
        if node == LAUNCH_NODE:
            ready_at, launch = end, _float(net, end)
            start = end = launch
            for other in range(FIRST_TASK, len(net.node)):  # what is done hanging is done when she is lifted for that
                if net.node[other, HANGS] == 1 and table.node[other, BEGINS] >= 0 and net.node[other, STATE] == TO_PLAY:
                    table.node[other, BEGINS] += launch - ready_at
                    table.node[other, ENDS] += launch - ready_at
        _take(net, deal, table, run, sky, node, mode, start, end, by)
        windows -= table.node[node, PULLED] > 0
        upset(net, table, node, turn + 1)
        turn += 1
        ready -= 1
        table.queue[one, WHICH], table.queue[one, KEY] = table.queue[ready, WHICH], table.queue[ready, KEY]
        left -= 1
        before = ready
        ready = _let_go(net, deal, table, run, sky, node, ready, True)
        for at in range(before, ready):
            windows += table.node[table.queue[at, WHICH], PULLED] > 0
    return ready_at, launch, missed


@compiled_into
def _trace(net, table, drives, of_job, parts):  # type: ignore[no-untyped-def]
    """Count what drove the launch, from it back: each node of the chain and each job once, and whose parts began it."""
    node = table.node[LAUNCH_NODE, AFTER]
    for job in range(len(net.jobs_begun)):
        table.begun[job] = 0
    for _ in range(len(net.node)):
        if node < 0 or net.node[node, STATE] != TO_PLAY:
            break
        if node >= FIRST_TASK:
            drives[node] += 1
            job = net.node[node, JOB]
            if job >= 0 and table.begun[job] == 0:
                table.begun[job] = 1
                of_job[job] += 1
        if table.node[node, AFTER] == BY_PARTS:
            parts[node] += 1
        node = table.node[node, AFTER]


class Played(NamedTuple):
    """What came of some runs; a row a run. Times are slots, the grid's size: not within it.

    ready: when she could be launched; launch: when she was; missed: waits that were. end: of each job its last task's, -1
    where it was left out or has none left. drives, of_job, parts: by node, and by job, in how many runs it was in the chain
    that drove the launch; by node, and was begun by its parts.
    """

    ready: Ints
    launch: Ints
    missed: Ints
    end: npt.NDArray[np.int32]
    drives: Ints
    of_job: Ints
    parts: Ints


@compiled
def _play_all(net, deal):  # type: ignore[no-untyped-def]
    table = new_table(net)
    count, size, jobs = len(deal.sky), len(net.node), len(net.jobs_begun)
    ready, launch, missed = (
        np.zeros(count, dtype=np.int64),
        np.zeros(count, dtype=np.int64),
        np.zeros(count, dtype=np.int64),
    )
    ends = np.full((count, jobs), -1, dtype=np.int32)
    drives, parts = np.zeros(size, dtype=np.int64), np.zeros(size, dtype=np.int64)
    of_job = np.zeros(jobs, dtype=np.int64)
    for run in range(count):
        ready[run], launch[run], missed[run] = _play(net, deal, table, run)
        for node in range(FIRST_TASK, size):
            job = net.node[node, JOB]
            if job >= 0 and net.node[node, STATE] == TO_PLAY and table.node[node, BEGINS] >= 0:
                ends[run, job] = max(ends[run, job], table.node[node, ENDS])
        _trace(net, table, drives, of_job, parts)
    return ready, launch, missed, ends, drives, of_job, parts


@compiled
def _play_one(net, deal, run):  # type: ignore[no-untyped-def]
    table = new_table(net)
    _play(net, deal, table, run)
    return (
        table.node[:, BEGINS].copy(),
        table.node[:, ENDS].copy(),
        table.node[:, CREW].copy(),
        table.node[:, AFTER].copy(),
    )


def played(net: object, deal: object) -> Played:
    """All runs that were dealt. Compiled and without the interpreter's lock, so that threads may share them out."""
    return Played(*_play_all(net, deal))


def first_played(outcome: Played, runs: int) -> Played:
    """What came of the first of some runs; what is counted over all stays."""
    return outcome._replace(
        ready=outcome.ready[:runs], launch=outcome.launch[:runs], missed=outcome.missed[:runs], end=outcome.end[:runs]
    )


def one_run(net: object, deal: object, run: int) -> tuple[Ints, Ints, Ints, Ints]:
    """One of the runs in full: start, end, mode and what set the start, by node; -1 or less for what was not done."""
    start, end, mode, by = _play_one(net, deal, run)
    return start, end, mode, by
