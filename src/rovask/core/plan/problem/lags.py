"""The least and the longest wait of an arc, plain or by a clock of its own, both ways round. Compiled; O(log horizon).

A plain arc counts slots. Others count on a row of the table ``cure``, strictly growing, so that every question is a
search in it. Row 0 is the cure clock: C of each slot, in CURE_UNIT parts of a slot at 20 °C. Row 1 counts the yard's
working days, in CURE_UNIT parts of a day, whatever its hours. The first slot in which the least wait is over is always
within the longest one: half-hours can't show less.
"""

from __future__ import annotations

from rovask.core.plan.problem.arrays import CLOCK, FOREVER, HIGH, LOW
from rovask.core.plan.problem.compiled import compiled_lean

CURE_UNIT = 1_000_000
NEVER = 1 << 40
PLAIN, CURE_CLOCK, YARD_CLOCK = range(3)  # what arcs[a, CLOCK] may be


@compiled_lean
def _first_with(cure, row, want):  # type: ignore[no-untyped-def]
    """The first slot whose count is at least ``want``; one past the table if there is none."""
    low, high = 0, cure.shape[1]
    while low < high:
        middle = (low + high) // 2
        if cure[row, middle] >= want:
            high = middle
        else:
            low = middle + 1
    return low


@compiled_lean
def soonest_then(arcs, cure, arc, first):  # type: ignore[no-untyped-def]
    """The first slot at which the later event may lie, the earlier one lying at ``first``."""
    row = arcs[arc, CLOCK] - 1
    if row < 0 or arcs[arc, LOW] <= -FOREVER:
        return first + arcs[arc, LOW]
    if first >= cure.shape[1]:
        return first
    return max(_first_with(cure, row, cure[row, max(first, 0)] + arcs[arc, LOW]), first)


@compiled_lean
def latest_then(arcs, cure, arc, first):  # type: ignore[no-untyped-def]
    """The last slot at which the later event may lie; only for an arc with a longest wait."""
    row = arcs[arc, CLOCK] - 1
    if row < 0:
        return first + arcs[arc, HIGH]
    if first >= cure.shape[1]:
        return NEVER
    at = _first_with(cure, row, cure[row, max(first, 0)] + arcs[arc, HIGH] + 1) - 1
    if at >= cure.shape[1] - 1:
        return NEVER
    return max(at, soonest_then(arcs, cure, arc, first))


@compiled_lean
def latest_first(arcs, cure, arc, then):  # type: ignore[no-untyped-def]
    """The last slot at which the earlier event may lie, the later one lying at ``then``; -1 if none in the grid."""
    row = arcs[arc, CLOCK] - 1
    if row < 0 or arcs[arc, LOW] <= -FOREVER:
        return then - arcs[arc, LOW]
    if then < 0:
        return -1
    want = cure[row, min(then, cure.shape[1] - 1)] - arcs[arc, LOW]
    return min(_first_with(cure, row, want + 1) - 1, then)


@compiled_lean
def soonest_first(arcs, cure, arc, then):  # type: ignore[no-untyped-def]
    """The first slot at which the earlier event may lie; only for an arc with a longest wait."""
    row = arcs[arc, CLOCK] - 1
    if row < 0:
        return then - arcs[arc, HIGH]
    if then < 0:
        return 0
    at = _first_with(cure, row, cure[row, min(then, cure.shape[1] - 1)] - arcs[arc, HIGH])
    while at > 0 and soonest_then(arcs, cure, arc, at - 1) >= then:
        at -= 1
    return at
