"""From when to when a crew can do a task in a run, as things stand: hours, weather, room, rest days, illness, windows. Compiled.

Everything is tried forwards only, for what is placed lies before: the dispatch (play.py) goes by time.
"""

from __future__ import annotations

from rovask.core.odds.clocks import latest_after, soonest_after
from rovask.core.odds.net import (
    BY_SKY,
    CALENDAR,
    DONE,
    FIRST,
    FORESEES,
    HIGH,
    IN_HI,
    IN_LO,
    KIND,
    LIKELY,
    LONGEST,
    LOW,
    MAKE_GOOD,
    MODE_HI,
    MODE_LO,
    NEEDS_DRY,
    OUT_HI,
    OUT_LO,
    PEOPLE,
    RIVAL_HI,
    RIVAL_LO,
    STATE,
    TENDER,
    THEN,
    TO_PLAY,
    USE_HI,
    USE_LO,
    WHOLE,
)
from rovask.core.odds.table import (
    BEGINS,
    ENDS,
    FREE,
    HAND,
    HAND_BY,
    LAST,
    LAST_DAY,
    OVER,
    RUN,
    SOONEST,
    SOONEST_END,
    UNSET,
)
from rovask.core.plan.problem.arrays import FIRST_TASK, HAUL_NODE, LAUNCH_NODE, NO_MAX
from rovask.core.plan.problem.compiled import compiled_into

PUT_OFF = 3 * 48  # slots by which work is put off at most, so that what must follow within a time finds people at work
SOONER = 48  # slots by which another crew must be done sooner to be given the work
WEEK = 7 * 48  # who came at a fixed time and was not ready for comes again a week later
MOST_TRIES = 400  # of one task by one crew; what then has found no room is taken to find none


@compiled_into
def _fit(net, sky, node, row, work, at, end_at):  # type: ignore[no-untyped-def]
    """Earliest (start, end) from slot ``at`` in a calendar, in one go if it must be, dry as long as it must be."""
    horizon = net.pos.shape[1] - 1
    if at >= horizon:
        return horizon, horizon
    longest = net.node[node, LONGEST]
    in_one_go = longest <= net.node[node, LIKELY] + 1  # a coat takes no longer pause for taking longer itself
    k = int(net.rank[row, at])
    while k + work - 1 < horizon:
        last = int(net.pos[row, k + work - 1])
        if last >= horizon:
            break
        start, end = int(net.pos[row, k]), last + 1
        if end < end_at:
            k = max(int(net.rank[row, min(end_at, horizon) - 1]) - work + 1, k + 1)
            continue
        if in_one_go and end - start > work:
            if net.left[row, k] < work:
                k += int(net.left[row, k])
                continue
        elif end - start > max(longest, work):
            k += 1
            continue
        if net.node[node, NEEDS_DRY]:
            needs = net.node[node, TENDER]
            if net.node[node, WHOLE]:
                if net.dry[sky, start] < end - start + needs:
                    k += 1
                    continue
            elif net.dry[sky, end] < needs:
                k += 1
                continue
        return start, end
    return horizon, horizon


@compiled_into
def needs_rest(net, table, mode, row, start, end):  # type: ignore[no-untyped-def]
    """Whether somebody of a crew would work too many days on end."""
    first, last = net.day_of[start], net.day_of[end - 1]
    for column in range(PEOPLE, net.mode.shape[1]):
        who = net.mode[mode, column]
        if who < 0:
            break
        most = net.rest[who]
        if most == 0:
            continue
        run, before = table.person[who, RUN], table.person[who, LAST_DAY]
        for day in range(first, last + 1):
            low, high = max(start, net.day_slot[day]), end
            if day + 1 < len(net.day_slot):
                high = min(end, net.day_slot[day + 1])
            if day != before and net.rank[row, high] > net.rank[row, low]:
                run = run + 1 if day == before + 1 else 1
                before = day
                if run > most and day > first:
                    break  # it takes longer than anybody may work: a rest day lies in it, whichever day it begins
                if run > most:
                    return True
    return False


@compiled_into
def _too_late(net, table, sky, node, start):  # type: ignore[no-untyped-def]
    """Whether a longest wait is missed: (from when it may be all the same, slots of work that makes it good); (-1, 0) if not."""
    at, extra = -1, 0
    for one in range(net.node[node, IN_LO], net.node[node, IN_HI]):
        arc = net.in_arc[one]
        first, kind = net.arc[arc, FIRST], net.arc[arc, KIND]
        if net.arc[arc, HIGH] == NO_MAX or kind > 1 or table.node[first, BEGINS] < 0:
            continue
        base = table.node[first, ENDS] if kind == 0 else table.node[first, BEGINS]
        latest = latest_after(net, sky, arc, base)
        if start > latest:
            if first == HAUL_NODE:
                weeks = (start - latest + WEEK - 1) // WEEK
                at = max(at, base + net.arc[arc, LOW] + weeks * WEEK, start)
            else:
                at = max(at, 0)
                extra += net.arc[arc, MAKE_GOOD]
    return at, extra


@compiled_into
def _foreseen(net, table, sky, node, start, end):  # type: ignore[no-untyped-def]
    """A later slot to begin in, if what must follow within a time would find nobody at work then; else ``start``."""
    horizon = net.pos.shape[1] - 1
    for one in range(net.node[node, OUT_LO], net.node[node, OUT_HI]):
        arc = net.out_arc[one]
        then = net.arc[arc, THEN]
        if (
            net.arc[arc, KIND] != 0
            or net.arc[arc, HIGH] == NO_MAX
            or then < FIRST_TASK
            or table.node[then, BEGINS] != UNSET
        ):
            continue
        if net.node[then, STATE] != TO_PLAY:
            continue
        mode = net.node[then, MODE_LO]
        row = net.mode[mode, CALENDAR] + (sky if net.mode[mode, BY_SKY] else 0)
        low, high = soonest_after(net, sky, arc, net.arc[arc, LOW], end), latest_after(net, sky, arc, end)
        if low >= horizon:
            return start
        work = net.node[then, LIKELY]
        k = int(net.rank[row, low])
        while k < horizon and 0 < net.left[row, k] < work and net.node[then, LONGEST] <= work:
            k += int(net.left[row, k])
        follows = int(net.pos[row, min(k, horizon)])
        if follows > high:
            return start + max(min(follows - high, 48), 1) if follows < horizon else start
    return start


@compiled_into
def by_crew(net, deal, table, run, sky, node, mode):  # type: ignore[no-untyped-def]
    """(start, end, what set it, whether a wait was missed, when all it takes was free) of a node by one crew."""
    horizon = net.pos.shape[1] - 1
    work = int(deal.work[run, node])
    at, by = table.node[node, SOONEST], table.node[node, OVER]
    if work == 0:
        end = max(at, table.node[node, SOONEST_END])
        if node == LAUNCH_NODE:
            row = net.mode[mode, CALENDAR]
            end = int(net.pos[row, net.rank[row, min(end, horizon)]]) if end < horizon else horizon
        return end, end, by, False, end
    for column in range(PEOPLE, net.mode.shape[1]):
        who = net.mode[mode, column]
        if who < 0:
            break
        if table.person[who, FREE] > at:
            at, by = table.person[who, FREE], table.person[who, LAST]
    for use in range(net.node[node, USE_LO], net.node[node, USE_HI]):
        first, takes = net.use[use, 0], net.use[use, 2]
        # hand slots are kept in order of when they are free: the last of those it takes
        if table.hand[first + takes - 1, HAND] > at:
            at, by = table.hand[first + takes - 1, HAND], table.hand[first + takes - 1, HAND_BY]
    row = net.mode[mode, CALENDAR] + (sky if net.mode[mode, BY_SKY] else 0)
    unbroken = net.node[node, LONGEST] <= net.node[node, LIKELY] + 1
    fits = not unbroken or work <= net.most[row]
    put_off, missed, tries, free = False, False, 0, at
    foresees, at_first = net.node[node, FORESEES] > 0, -1
    while True:
        tries += 1
        if fits:
            start, end = _fit(net, sky, node, row, work, at, table.node[node, SOONEST_END])
        else:  # longer than any day: it pauses all the same
            k = int(net.rank[row, min(at, horizon)])
            start = int(net.pos[row, k])
            end = int(net.pos[row, min(k + work - 1, horizon)]) + 1
        if fits and start >= horizon and net.node[node, LONGEST] < horizon:
            fits = False  # longer than it may lie open: it does all the same
            continue
        if end >= horizon or start >= horizon or tries > MOST_TRIES:
            return horizon, horizon, by, missed, free
        if deal.away[run, node] and not put_off:
            put_off = True
            day = net.day_of[start] + 1
            at = net.day_slot[day] if day < len(net.day_slot) else horizon
            continue
        clash, what = -1, -1
        for rival in range(net.node[node, RIVAL_LO], net.node[node, RIVAL_HI]):
            other, mine, theirs = net.rival[rival, 0], net.rival[rival, 1], net.rival[rival, 2]
            about = table.node[other, BEGINS] >= 0 and net.node[other, STATE] != DONE
            about = about and start < table.node[other, ENDS] + theirs and table.node[other, BEGINS] < end + mine
            if about and table.node[other, ENDS] + theirs > clash:
                clash, what = table.node[other, ENDS] + theirs, other
        if clash > start:
            at, by = clash, what
            continue
        ill = -1
        for column in range(PEOPLE, net.mode.shape[1]):
            who = net.mode[mode, column]
            if who < 0:
                break
            gone, back = deal.ill[run, who, 0], deal.ill[run, who, 1]
            if back > gone and start < back and end > gone:
                if start >= gone or unbroken:
                    ill = max(ill, back)
                else:  # in the middle of it: the rest when well again
                    rest = work - int(net.rank[row, gone] - net.rank[row, start])
                    k = int(net.rank[row, min(back, horizon)])
                    end = max(end, int(net.pos[row, min(k + rest - 1, horizon)]) + 1)
        if ill > start:
            at = ill
            continue
        if end >= horizon:
            return horizon, horizon, by, missed, free
        if needs_rest(net, table, mode, row, start, end):
            day = net.day_of[start] + 1
            at = net.day_slot[day] if day < len(net.day_slot) else horizon
            continue
        if not missed:
            over, extra = _too_late(net, table, sky, node, start)
            if over >= 0:
                if over > start:  # who came at a fixed time comes again
                    at = over
                    continue
                missed = True
                if extra > 0:  # washed and abraded first, by the same people, which may pause as the coat may not
                    k = int(net.rank[row, start])
                    at = int(net.pos[row, min(k + extra - 1, horizon)]) + 1
                    continue
        if foresees:
            later = _foreseen(net, table, sky, node, start, end)
            if later > start:
                if at_first < 0:
                    at_first = start
                foresees = later - at_first <= PUT_OFF
                at = (
                    later if foresees else at_first
                )  # it can't be had: as soon as it can be, and what is missed is made good
                continue
        return start, end, by, missed, free


@compiled_into
def best_crew(net, deal, table, run, sky, node):  # type: ignore[no-untyped-def]
    """(start, end, by, mode, missed) by the planned crew, or by another where somebody is away and it is a day sooner."""
    planned = net.node[node, MODE_LO]
    start, end, by, mode, missed, free = 0, 0, 0, planned, False, 0
    for other in range(planned, net.node[node, MODE_HI]):
        s, e, b, m, f = by_crew(net, deal, table, run, sky, node, other)
        if other == planned:
            start, end, by, missed, free = s, e, b, m, f
            if start - free <= SOONER or deal.work[run, node] == 0:
                break
        elif e + SOONER <= end:
            start, end, by, mode, missed = s, e, b, other, m
    return start, end, by, mode, missed
