"""Start and end arithmetic on the calendars of a node's modes. Compiled; O(modes of the node) but for gaps.

All take the arrays of a Problem. ``horizon`` is the last column of ``pos``; horizon + 1 stands for "not
within the grid", -1 for "not after its beginning". An *unbroken* node (a coat, a lay-up) must find all its
working slots in a row; any other pauses while its people are off.
"""

from __future__ import annotations

from numba import njit


@njit(cache=True)
def fit_after(calendar, slot, work, unbroken, rank, pos):  # type: ignore[no-untyped-def]
    """Earliest valid (start, end) with start >= slot in one calendar, or horizon + 1 twice."""
    horizon = pos.shape[1] - 1
    if slot > horizon:
        return horizon + 1, horizon + 1
    first = rank[calendar, max(slot, 0)]
    while first + work - 1 < horizon:
        last = pos[calendar, first + work - 1]
        if last >= horizon:
            break
        if not unbroken or last - pos[calendar, first] == work - 1:
            return pos[calendar, first], last + 1
        first += 1
    return horizon + 1, horizon + 1


@njit(cache=True)
def fit_before(calendar, first, work, unbroken, pos):  # type: ignore[no-untyped-def]
    """Latest valid (start, end) whose first working slot has a number <= ``first``, or -1 twice."""
    horizon = pos.shape[1] - 1
    while first >= 0:
        last = pos[calendar, first + work - 1] if first + work - 1 < horizon else horizon
        if last < horizon and (not unbroken or last - pos[calendar, first] == work - 1):
            return pos[calendar, first], last + 1
        first -= 1
    return -1, -1


@njit(cache=True)
def next_start(node, slot, mode_lo, mode_hi, mode_calendar, work, unbroken, rank, pos):  # type: ignore[no-untyped-def]
    """Earliest slot at or after ``slot`` at which some mode can start and still finish; horizon + 1 if none."""
    horizon = pos.shape[1] - 1
    if work[node] == 0 or slot > horizon:
        return min(slot, horizon + 1)
    best = horizon + 1
    for mode in range(mode_lo[node], mode_hi[node]):
        best = min(best, fit_after(mode_calendar[mode], slot, work[node], unbroken[node], rank, pos)[0])
    return best


@njit(cache=True)
def earliest_end(node, slot, mode_lo, mode_hi, mode_calendar, work, unbroken, rank, pos):  # type: ignore[no-untyped-def]
    """Earliest end over the modes of a start at or after ``slot``; horizon + 1 if none."""
    horizon = pos.shape[1] - 1
    if work[node] == 0 or slot > horizon:
        return min(slot, horizon + 1)
    best = horizon + 1
    for mode in range(mode_lo[node], mode_hi[node]):
        best = min(best, fit_after(mode_calendar[mode], slot, work[node], unbroken[node], rank, pos)[1])
    return best


@njit(cache=True)
def start_for_end(node, end, mode_lo, mode_hi, mode_calendar, work, unbroken, rank, pos):  # type: ignore[no-untyped-def]
    """Earliest start over the modes whose end is at or after ``end``; horizon + 1 if none."""
    horizon = pos.shape[1] - 1
    if end > horizon:
        return horizon + 1
    if work[node] == 0 or end <= 0:
        return max(end, 0)
    best = horizon + 1
    for mode in range(mode_lo[node], mode_hi[node]):
        calendar = mode_calendar[mode]
        first = max(rank[calendar, end - 1] - work[node] + 1, 0)
        best = min(best, fit_after(calendar, pos[calendar, first], work[node], unbroken[node], rank, pos)[0])
    return best


@njit(cache=True)
def latest_start(node, slot, mode_lo, mode_hi, mode_calendar, work, unbroken, rank, pos):  # type: ignore[no-untyped-def]
    """Latest valid start at or before ``slot`` over the modes; -1 if none."""
    horizon = pos.shape[1] - 1
    if work[node] == 0 or slot < 0:
        return max(slot, -1)
    best = -1
    for mode in range(mode_lo[node], mode_hi[node]):
        calendar = mode_calendar[mode]
        first = rank[calendar, min(slot + 1, horizon)] - 1
        best = max(best, fit_before(calendar, first, work[node], unbroken[node], pos)[0])
    return best


@njit(cache=True)
def start_by_end(node, end, mode_lo, mode_hi, mode_calendar, work, unbroken, rank, pos):  # type: ignore[no-untyped-def]
    """Latest start over the modes whose end is at or before ``end``; -1 if none."""
    horizon = pos.shape[1] - 1
    if work[node] == 0 or end < 0:
        return max(end, -1)
    best = -1
    for mode in range(mode_lo[node], mode_hi[node]):
        calendar = mode_calendar[mode]
        first = rank[calendar, min(end, horizon)] - work[node]
        best = max(best, fit_before(calendar, first, work[node], unbroken[node], pos)[0])
    return best


@njit(cache=True)
def latest_end(node, start, mode_lo, mode_hi, mode_calendar, work, unbroken, rank, pos):  # type: ignore[no-untyped-def]
    """Latest end over the modes of a start at or before ``start``; -1 if none."""
    horizon = pos.shape[1] - 1
    if work[node] == 0 or start < 0:
        return max(start, -1)
    best = -1
    for mode in range(mode_lo[node], mode_hi[node]):
        calendar = mode_calendar[mode]
        first = rank[calendar, min(start + 1, horizon)] - 1
        best = max(best, fit_before(calendar, first, work[node], unbroken[node], pos)[1])
    return best
