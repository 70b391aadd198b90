"""The least and the longest wait of an arc, plain or as a cure, both ways round. Compiled; O(log horizon).

A plain arc counts slots. A cure counts on the table ``cure``: C of each slot, in CURE_UNIT parts of a slot at 20 °C,
strictly growing, so that every question is a search in it. The first slot in which the least wait is over is always
within the longest one: half-hours can't show less.
"""

from __future__ import annotations

from rovask.core.plan.problem.arrays import CURES, FOREVER, HIGH, LOW
from rovask.core.plan.problem.compiled import compiled_lean

CURE_UNIT = 1_000_000
NEVER = 1 << 40


@compiled_lean
def _first_with(cure, want):  # type: ignore[no-untyped-def]
    """The first slot whose C is at least ``want``; one past the table if there is none."""
    low, high = 0, len(cure)
    while low < high:
        middle = (low + high) // 2
        if cure[middle] >= want:
            high = middle
        else:
            low = middle + 1
    return low


@compiled_lean
def soonest_then(arcs, cure, arc, first):  # type: ignore[no-untyped-def]
    """The first slot at which the later event may lie, the earlier one lying at ``first``."""
    if arcs[arc, CURES] == 0 or arcs[arc, LOW] <= -FOREVER:
        return first + arcs[arc, LOW]
    if first >= len(cure):
        return first
    return max(_first_with(cure, cure[max(first, 0)] + arcs[arc, LOW]), first)


@compiled_lean
def latest_then(arcs, cure, arc, first):  # type: ignore[no-untyped-def]
    """The last slot at which the later event may lie; only for an arc with a longest wait."""
    if arcs[arc, CURES] == 0:
        return first + arcs[arc, HIGH]
    if first >= len(cure):
        return NEVER
    at = _first_with(cure, cure[max(first, 0)] + arcs[arc, HIGH] + 1) - 1
    if at >= len(cure) - 1:
        return NEVER
    return max(at, soonest_then(arcs, cure, arc, first))


@compiled_lean
def latest_first(arcs, cure, arc, then):  # type: ignore[no-untyped-def]
    """The last slot at which the earlier event may lie, the later one lying at ``then``; -1 if none in the grid."""
    if arcs[arc, CURES] == 0 or arcs[arc, LOW] <= -FOREVER:
        return then - arcs[arc, LOW]
    if then < 0:
        return -1
    want = cure[min(then, len(cure) - 1)] - arcs[arc, LOW]
    return min(_first_with(cure, want + 1) - 1, then)


@compiled_lean
def soonest_first(arcs, cure, arc, then):  # type: ignore[no-untyped-def]
    """The first slot at which the earlier event may lie; only for an arc with a longest wait."""
    if arcs[arc, CURES] == 0:
        return then - arcs[arc, HIGH]
    if then < 0:
        return 0
    at = _first_with(cure, cure[min(then, len(cure) - 1)] - arcs[arc, HIGH])
    while at > 0 and soonest_then(arcs, cure, arc, at - 1) >= then:
        at -= 1
    return at
