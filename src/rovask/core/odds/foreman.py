"""What a good foreman decides in a run: what may begin now, what is held back for what matters more, what is left. Compiled."""

from __future__ import annotations

from rovask.core.odds.clocks import low_of, soonest_after
from rovask.core.odds.fits import SOONER, best_crew
from rovask.core.odds.net import (
    BEGUN,
    BY_SKY,
    CALENDAR,
    CLOCK,
    FIRST,
    FLOATS,
    IN_HI,
    IN_LO,
    JOB,
    KIND,
    LATEST,
    LIKELY,
    LOW,
    MODE_LO,
    OPTIONAL,
    ORDER,
    PEOPLE,
    RELEASE,
    RIVAL_HI,
    RIVAL_LO,
    USE_HI,
    USE_LO,
)
from rovask.core.odds.table import (
    BEGINS,
    BY_ITSELF,
    BY_PARTS,
    CREW,
    DROPPED,
    ENDS,
    FINISH,
    FOUND,
    FREE,
    FRONT,
    GONE,
    GUESS,
    HAND,
    HAND_TURNED,
    HOW,
    MISSED,
    OVER,
    PULLED,
    SEEN,
    SET_BY,
    SOONEST,
    SOONEST_END,
    TURNED,
    UNSET,
    WAITS,
    WHICH,
)
from rovask.core.plan.problem.compiled import compiled_into
from rovask.core.plan.problem.lags import NEVER

THOUGHT_OF = 3  # of the next works of each, whether they would be kept waiting by what fills a gap
A_DAY = 48
LOOKED_AT_AGAIN = 16  # slots until a job that was set aside is thought of again
GO_ON, LEAVE_OUT = -1, -2


@compiled_into
def opened(net, deal, table, run, sky, node):  # type: ignore[no-untyped-def]
    """A node waits for nothing more: from when it may begin and end, and what set that."""
    start, over = max(net.node[node, RELEASE], net.now), BY_ITSELF
    if deal.release[run, node] > start:
        start, over = deal.release[run, node], BY_PARTS
    end = 0
    for one in range(net.node[node, IN_LO], net.node[node, IN_HI]):
        arc = net.in_arc[one]
        first, kind = net.arc[arc, FIRST], net.arc[arc, KIND]
        if table.node[first, BEGINS] < 0:
            continue
        base = table.node[first, ENDS] if kind == 0 or kind == 2 else table.node[first, BEGINS]
        least = soonest_after(net, sky, arc, low_of(net, deal.wait, run, arc), base)
        if kind <= 1:
            if least > start:
                start, over = least, first
        elif least > end:
            end = least
    if net.node[node, BEGUN]:
        start = max(net.node[node, RELEASE], net.now)
    table.node[node, SOONEST], table.node[node, SOONEST_END], table.node[node, OVER], table.node[node, GUESS] = (
        start,
        end,
        over,
        start,
    )


@compiled_into
def key_of(net, node, guess):  # type: ignore[no-untyped-def]
    """By this the next is picked: when it could begin, then its place in the plan."""
    return (guess << 13) + net.node[node, ORDER]


@compiled_into
def not_before(net, table, sky, node):  # type: ignore[no-untyped-def]
    """Before which a node can't begin by its planned crew, at a glance: people, room, hours; not what a full look finds.

    Where its people are away for long it is looked at all the same, for another crew may be there.
    """
    at, mode = table.node[node, GUESS], net.node[node, MODE_LO]
    if net.mode[mode, PEOPLE] < 0:
        return at
    for column in range(PEOPLE, net.mode.shape[1]):
        who = net.mode[mode, column]
        if who < 0:
            break
        at = max(at, table.person[who, FREE])
    for use in range(net.node[node, USE_LO], net.node[node, USE_HI]):
        at = max(at, table.hand[net.use[use, 0] + net.use[use, 2] - 1, HAND])
    row = net.mode[mode, CALENDAR] + (sky if net.mode[mode, BY_SKY] else 0)
    if at >= net.pos.shape[1] - 1:
        return at
    works = int(net.pos[row, net.rank[row, at]])
    return works if works - at <= SOONER else at


@compiled_into
def _still_true(net, table, node):  # type: ignore[no-untyped-def]
    """Whether nothing changed of what a node takes since it was looked at."""
    seen, mode = table.node[node, SEEN], table.node[node, HOW]
    if seen < 0:
        return False
    for column in range(PEOPLE, net.mode.shape[1]):
        who = net.mode[mode, column]
        if who < 0:
            break
        if table.person[who, TURNED] > seen:
            return False
    for use in range(net.node[node, USE_LO], net.node[node, USE_HI]):
        if table.hand[net.use[use, 0], HAND_TURNED] > seen:
            return False
    return True


@compiled_into
def looked_at(net, deal, table, run, sky, node, turn):  # type: ignore[no-untyped-def]
    """When a node could begin as things stand; the rest of what was found stands in the table."""
    if not _still_true(net, table, node):
        start, end, by, mode, late = best_crew(net, deal, table, run, sky, node)
        table.node[node, FOUND], table.node[node, FINISH], table.node[node, SET_BY] = start, end, by
        table.node[node, HOW], table.node[node, MISSED], table.node[node, SEEN] = mode, late, turn
    return table.node[node, FOUND]


@compiled_into
def _expected(net, deal, table, run, node):  # type: ignore[no-untyped-def]
    """When a node that still waits may come to hand, by what is known; NEVER where that is more than a step away."""
    at = 0
    for one in range(net.node[node, IN_LO], net.node[node, IN_HI]):
        arc = net.in_arc[one]
        first, kind, low = net.arc[arc, FIRST], net.arc[arc, KIND], net.arc[arc, LOW]
        if kind > 1 or table.node[first, BEGINS] == DROPPED:
            continue
        low = low if net.arc[arc, CLOCK] == 0 else 0
        if table.node[first, BEGINS] == UNSET:
            if table.node[first, WAITS] > 0:
                return NEVER
            takes = net.node[first, LIKELY] if kind == 0 and deal.work[run, first] > 0 else 0
            at = max(at, table.node[first, GUESS] + takes + low)
        else:
            at = max(at, (table.node[first, ENDS] if kind == 0 else table.node[first, BEGINS]) + low)
    return at


@compiled_into
def _may_wait(net, table, node, begins):  # type: ignore[no-untyped-def]
    """By how many slots work that could begin then may be kept waiting: a quarter of its slack, none within a window."""
    if table.node[node, PULLED] > 0:
        return 0
    return min(max(net.node[node, LATEST] - begins, 0) // 4, A_DAY)


@compiled_into
def held_for(net, deal, table, run, sky, node, ready, windows, turn):  # type: ignore[no-untyped-def]
    """From when a node may be tried again if it is held back for work of the same people planned earlier; else GO_ON.

    windows: how many of those at hand must begin within a time; they come before what is planned earlier, too.
    """
    start, end, mode = table.node[node, FOUND], table.node[node, FINISH], table.node[node, HOW]
    order, optional = net.node[node, ORDER], net.node[node, OPTIONAL]
    for column in range(PEOPLE, net.mode.shape[1]):
        who = net.mode[mode, column]
        if who < 0:
            break
        at, last = net.turn_ptr[who] + table.person[who, FRONT], net.turn_ptr[who + 1]
        while at < last and table.node[net.turns[at], BEGINS] != UNSET:
            at += 1
        table.person[who, FRONT] = at - net.turn_ptr[who]
        thought_of = 0
        while at < last and thought_of < THOUGHT_OF:
            other = net.turns[at]
            at += 1
            if net.node[other, ORDER] >= order:
                break
            skip = table.node[other, BEGINS] != UNSET or deal.work[run, other] == 0
            if skip or (net.node[other, OPTIONAL] and not optional):
                continue
            thought_of += 1
            if table.node[other, WAITS] == 0:
                begins = max(looked_at(net, deal, table, run, sky, other, turn), table.node[other, GUESS])
            else:
                begins = max(_expected(net, deal, table, run, other), start)
            if begins < end and end - begins > _may_wait(net, table, other, begins):
                return max(begins, start) + 1
    if windows > 0 and table.node[node, PULLED] == 0:
        mask = net.mask[mode]
        for one in range(ready):
            other = table.queue[one, WHICH]
            if table.node[other, PULLED] > 0 and mask & net.mask[net.node[other, MODE_LO]] != 0:
                begins = max(looked_at(net, deal, table, run, sky, other, turn), table.node[other, GUESS])
                if start <= begins < end:
                    return begins + 1
    return GO_ON


@compiled_into
def set_aside(net, table, node):  # type: ignore[no-untyped-def]
    """Of a job that may be left out and isn't begun: GO_ON, LEAVE_OUT, or from when it is thought of again.

    It is left once it would not be over in time itself, and waits while must-work of the same people could no longer be begun in
    time after it. Both by safe figures (net.py): a foreman who reckons with typical ones loses the launch half of the time.
    """
    job = net.node[node, JOB]
    if not net.node[node, OPTIONAL] or net.node[node, FLOATS] or job < 0 or table.begun[job]:
        return GO_ON
    start, end, mode = table.node[node, FOUND], table.node[node, FINISH], table.node[node, HOW]
    if start > net.node[node, LATEST]:
        return LEAVE_OUT
    again = GO_ON
    for column in range(PEOPLE, net.mode.shape[1]):
        who = net.mode[mode, column]
        if who < 0:
            break
        at = net.must_ptr[who] + table.person[who, GONE]
        while at < net.must_ptr[who + 1] and table.node[net.must[at], BEGINS] != UNSET:
            at += 1
        table.person[who, GONE] = at - net.must_ptr[who]
        if at < net.must_ptr[who + 1] and end > net.node[net.must[at], LATEST]:
            must = net.must[at]
            waits = start + LOOKED_AT_AGAIN if table.node[must, WAITS] > 0 else table.node[must, GUESS] + 1
            again = max(again, waits, start + 1)
    return again


@compiled_into
def upset(net, table, node, turn):  # type: ignore[no-untyped-def]
    """A node is placed: what was found of others that use the same people, places or can't stand it is true no more."""
    mode = table.node[node, CREW]
    for column in range(PEOPLE, net.mode.shape[1]):
        who = net.mode[mode, column]
        if who < 0:
            break
        table.person[who, TURNED] = turn
    for use in range(net.node[node, USE_LO], net.node[node, USE_HI]):
        table.hand[net.use[use, 0], HAND_TURNED] = turn
    for rival in range(net.node[node, RIVAL_LO], net.node[node, RIVAL_HI]):
        table.node[net.rival[rival, 0], SEEN] = UNSET
