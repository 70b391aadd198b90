"""When a tie lets the later of two events be, in a run: plan/problem/lags.py under the sky of that run. Compiled."""

from __future__ import annotations

from rovask.core.odds.net import CLOCK, DRAWN, HIGH, LOW
from rovask.core.plan.problem.compiled import compiled_into
from rovask.core.plan.problem.lags import NEVER


@compiled_into
def _count_to(clock, row, want):  # type: ignore[no-untyped-def]
    """The first slot of a clock whose count is at least ``want``; one past it if there is none."""
    low, high = 0, clock.shape[1]
    while low < high:
        middle = (low + high) // 2
        if clock[row, middle] >= want:
            high = middle
        else:
            low = middle + 1
    return low


@compiled_into
def soonest_after(net, sky, arc, low, base):  # type: ignore[no-untyped-def]
    """The first slot at which the later event of an arc may lie (lags.soonest_then)."""
    clock = net.arc[arc, CLOCK]
    if clock == 0 or low <= -(1 << 20):
        return base + low
    row = sky if clock == 1 else len(net.clock) - 1
    if base >= net.clock.shape[1]:
        return base
    return max(_count_to(net.clock, row, net.clock[row, max(base, 0)] + low), base)


@compiled_into
def latest_after(net, sky, arc, base):  # type: ignore[no-untyped-def]
    """The last slot at which it may lie (lags.latest_then); only for an arc with a longest wait."""
    clock, high = net.arc[arc, CLOCK], net.arc[arc, HIGH]
    if clock == 0:
        return base + high
    row, last = sky if clock == 1 else len(net.clock) - 1, net.clock.shape[1] - 1
    if base > last:
        return NEVER
    at = _count_to(net.clock, row, net.clock[row, max(base, 0)] + high + 1) - 1
    return NEVER if at >= last else max(at, base)


@compiled_into
def low_of(net, wait, run, arc):  # type: ignore[no-untyped-def]
    """The least wait of an arc in a run: as drawn, or the plan's."""
    drawn = net.arc[arc, DRAWN]
    return net.arc[arc, LOW] if drawn < 0 else wait[run, drawn]
