"""Start and end arithmetic on the calendars of a node's modes. Compiled; O(modes of the node) but for gaps.

All take tables of a Problem (problem.Tables), marked with _ where a name would be two things. ``horizon`` is the last column of ``pos``; horizon + 1 stands for "not
within the grid", -1 for "not after its beginning". A node that may not pause (a coat, a
lay-up) must find all its working slots in a row; any other pauses while its people are off. A node that needs weather must stay dry for
its tender slots after the end, and through its pauses unless it can be covered.
"""

from __future__ import annotations

from rovask.core.plan.problem.arrays import CALENDAR, LONGEST, MODE_HI, MODE_LO, SKY, TENDER, WHOLE, WORK
from rovask.core.plan.problem.compiled import compiled_lean


@compiled_lean
def suits(node_, sky_run, node, start, end):  # type: ignore[no-untyped-def]
    """Whether a node may run from ``start`` to ``end``: not too long, in one go if it must, dry as long as it must."""
    if end - start > node_[node, LONGEST]:
        return False
    row = node_[node, SKY]
    if row > 0:
        if node_[node, WHOLE]:
            return sky_run[row, start] >= end - start + node_[node, TENDER]
        return sky_run[row, end] >= node_[node, TENDER]
    return True


@compiled_lean
def fit_after(node_, rank, pos, sky_run, node, calendar, slot):  # type: ignore[no-untyped-def]
    """Earliest valid (start, end) with start >= slot in one calendar, or horizon + 1 twice."""
    horizon = pos.shape[1] - 1
    work = node_[node, WORK]
    if slot > horizon:
        return horizon + 1, horizon + 1
    first = rank[calendar, max(slot, 0)]
    while first + work - 1 < horizon:
        last = pos[calendar, first + work - 1]
        if last >= horizon:
            break
        start = pos[calendar, first]
        if suits(node_, sky_run, node, start, last + 1):
            return start, last + 1
        first += 1
    return horizon + 1, horizon + 1


@compiled_lean
def fit_before(node_, pos, sky_run, node, calendar, first):  # type: ignore[no-untyped-def]
    """Latest valid (start, end) whose first working slot has a number <= ``first``, or -1 twice."""
    horizon = pos.shape[1] - 1
    work = node_[node, WORK]
    while first >= 0:
        last = pos[calendar, first + work - 1] if first + work - 1 < horizon else horizon
        if last < horizon and suits(node_, sky_run, node, pos[calendar, first], last + 1):
            return pos[calendar, first], last + 1
        first -= 1
    return -1, -1


@compiled_lean
def milestone(node_, mode_, rank, pos, node, slot):  # type: ignore[no-untyped-def]
    """The first slot at or after ``slot`` at which a node without work may lie: a launch in the yard's hours."""
    horizon = pos.shape[1] - 1
    if slot >= horizon:
        return min(slot, horizon + 1)
    calendar = mode_[node_[node, MODE_LO], CALENDAR]
    at = pos[calendar, rank[calendar, max(slot, 0)]]
    return at if at < horizon else horizon + 1


@compiled_lean
def next_start(node_, mode_, rank, pos, sky_run, node, slot):  # type: ignore[no-untyped-def]
    """Earliest slot at or after ``slot`` at which some mode can start and still finish; horizon + 1 if none."""
    horizon = pos.shape[1] - 1
    if node_[node, WORK] == 0 or slot > horizon:
        return milestone(node_, mode_, rank, pos, node, slot)
    best = horizon + 1
    for mode in range(node_[node, MODE_LO], node_[node, MODE_HI]):
        best = min(best, fit_after(node_, rank, pos, sky_run, node, mode_[mode, CALENDAR], slot)[0])
    return best


@compiled_lean
def earliest_end(node_, mode_, rank, pos, sky_run, node, slot):  # type: ignore[no-untyped-def]
    """Earliest end over the modes of a start at or after ``slot``; horizon + 1 if none."""
    horizon = pos.shape[1] - 1
    if node_[node, WORK] == 0 or slot > horizon:
        return milestone(node_, mode_, rank, pos, node, slot)
    best = horizon + 1
    for mode in range(node_[node, MODE_LO], node_[node, MODE_HI]):
        best = min(best, fit_after(node_, rank, pos, sky_run, node, mode_[mode, CALENDAR], slot)[1])
    return best


@compiled_lean
def start_for_end(node_, mode_, rank, pos, sky_run, node, end):  # type: ignore[no-untyped-def]
    """Earliest start over the modes whose end is at or after ``end``; horizon + 1 if none."""
    horizon = pos.shape[1] - 1
    if end > horizon:
        return horizon + 1
    if node_[node, WORK] == 0:
        return milestone(node_, mode_, rank, pos, node, end)
    if end <= 0:
        return 0
    best = horizon + 1
    for mode in range(node_[node, MODE_LO], node_[node, MODE_HI]):
        calendar = mode_[mode, CALENDAR]
        first = max(rank[calendar, end - 1] - node_[node, WORK] + 1, 0)
        best = min(best, fit_after(node_, rank, pos, sky_run, node, calendar, pos[calendar, first])[0])
    return best


@compiled_lean
def latest_start(node_, mode_, rank, pos, sky_run, node, slot):  # type: ignore[no-untyped-def]
    """Latest valid start at or before ``slot`` over the modes; -1 if none."""
    horizon = pos.shape[1] - 1
    if node_[node, WORK] == 0 or slot < 0:
        return max(slot, -1)
    best = -1
    for mode in range(node_[node, MODE_LO], node_[node, MODE_HI]):
        calendar = mode_[mode, CALENDAR]
        best = max(best, fit_before(node_, pos, sky_run, node, calendar, rank[calendar, min(slot + 1, horizon)] - 1)[0])
    return best


@compiled_lean
def start_by_end(node_, mode_, rank, pos, sky_run, node, end):  # type: ignore[no-untyped-def]
    """Latest start over the modes whose end is at or before ``end``; -1 if none."""
    horizon = pos.shape[1] - 1
    if node_[node, WORK] == 0 or end < 0:
        return max(end, -1)
    best = -1
    for mode in range(node_[node, MODE_LO], node_[node, MODE_HI]):
        calendar = mode_[mode, CALENDAR]
        best = max(
            best,
            fit_before(node_, pos, sky_run, node, calendar, rank[calendar, min(end, horizon)] - node_[node, WORK])[0],
        )
    return best


@compiled_lean
def latest_end(node_, mode_, rank, pos, sky_run, node, start):  # type: ignore[no-untyped-def]
    """Latest end over the modes of a start at or before ``start``; -1 if none."""
    horizon = pos.shape[1] - 1
    if node_[node, WORK] == 0 or start < 0:
        return max(start, -1)
    best = -1
    for mode in range(node_[node, MODE_LO], node_[node, MODE_HI]):
        calendar = mode_[mode, CALENDAR]
        best = max(
            best, fit_before(node_, pos, sky_run, node, calendar, rank[calendar, min(start + 1, horizon)] - 1)[1]
        )
    return best
