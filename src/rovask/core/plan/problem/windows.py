"""Earliest and latest times from the ties alone: longest paths with minimum and maximum lags, by calendar.

Label correcting (Bellman-Ford) on two events per node, its start and its end. An arc says
``t(then) >= t(first) + min`` and, with a maximum, ``t(first) >= t(then) - max``; a raised event is then
lifted to the next one that some crew's calendar allows. Without calendars these are the longest paths of
Roy (1962) and of Bartusch, Moehring & Radermacher, "Scheduling project networks with resource constraints
and time windows", Annals of Operations Research 16 (1988). People and places in use are not looked at.

Ties between two facts (done, begun) are not checked: what happened, happened.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from rovask.core.plain.derived import derived
from rovask.core.plan.problem.arrays import (
    DEADLINE,
    FIXED_END,
    FIXED_START,
    FOREVER,
    HAUL_NODE,
    HIGH,
    LAUNCH_NODE,
    LOW,
    NO_MAX,
    RELEASE,
    Ints,
    Problem,
    tables_of,
)
from rovask.core.plan.problem.compiled import compiled
from rovask.core.plan.problem.lags import latest_first, latest_then, soonest_first, soonest_then
from rovask.core.plan.problem.modes import (
    earliest_end,
    latest_end,
    latest_start,
    next_start,
    start_by_end,
    start_for_end,
)

NONE = -1


@dataclass(frozen=True, slots=True)
class Windows:
    """Slots, per node. ``via``: the arc that set the earliest time (-1: its release).

    stuck: the node whose earliest time lies past its pin or the horizon; -1 if the ties can hold.
    """

    start: Ints
    end: Ints
    latest_start: Ints
    latest_end: Ints
    via: Ints
    stuck: int

    @property
    def possible(self) -> bool:
        """True when the ties alone can hold."""
        return self.stuck < 0


@compiled
def _earliest(node_, mode_, rank, pos, sky_run, arcs, cure):  # type: ignore[no-untyped-def]
    release, deadline = node_[:, RELEASE], node_[:, DEADLINE]
    fixed_start, fixed_end = node_[:, FIXED_START], node_[:, FIXED_END]
    size = len(node_)
    horizon = pos.shape[1] - 1
    start = np.zeros(size, dtype=np.int64)
    end = np.zeros(size, dtype=np.int64)
    via = np.full(size, NONE, dtype=np.int64)
    for node in range(size):
        if fixed_start[node] >= 0:
            start[node] = fixed_start[node]
            if fixed_end[node] >= 0:
                end[node] = fixed_end[node]
            else:
                end[node] = earliest_end(node_, mode_, rank, pos, sky_run, node, release[node])
        else:
            start[node] = next_start(node_, mode_, rank, pos, sky_run, node, release[node])
            end[node] = earliest_end(node_, mode_, rank, pos, sky_run, node, start[node])
        if fixed_end[node] < 0 and (start[node] > horizon or end[node] > horizon):
            return start, end, via, node
        if fixed_start[node] < 0 and start[node] > deadline[node]:
            return start, end, via, node
    changed = True
    while changed:
        changed = False
        for arc in range(len(arcs)):
            first, then, kind, high = arcs[arc, 0], arcs[arc, 1], arcs[arc, 2], arcs[arc, 4]
            if fixed_end[first] >= 0 and fixed_end[then] >= 0:
                continue
            from_end = kind == 0 or kind == 2
            to_start = kind == 0 or kind == 1
            # the later one waits for the earlier one
            source = end[first] if from_end else start[first]
            target = start[then] if to_start else end[then]
            soonest = soonest_then(arcs, cure, arc, source)
            if soonest > target and not (fixed_start[then] >= 0 and (to_start or fixed_end[then] >= 0)):
                if to_start:
                    start[then] = next_start(node_, mode_, rank, pos, sky_run, then, soonest)
                elif fixed_start[then] < 0:
                    start[then] = max(start[then], start_for_end(node_, mode_, rank, pos, sky_run, then, soonest))
                if fixed_start[then] < 0:
                    end[then] = max(end[then], earliest_end(node_, mode_, rank, pos, sky_run, then, start[then]))
                if not to_start:
                    end[then] = max(end[then], soonest)
                via[then] = arc
                changed = True
                if (
                    start[then] > horizon
                    or end[then] > horizon
                    or (fixed_start[then] < 0 and start[then] > deadline[then])
                ):
                    return start, end, via, then
            # and the earlier one may not run too far ahead of the later one
            if high >= 0:
                source = start[then] if to_start else end[then]
                target = end[first] if from_end else start[first]
                soonest = soonest_first(arcs, cure, arc, source)
                if soonest > target:
                    if fixed_end[first] >= 0 or (fixed_start[first] >= 0 and not from_end):
                        via[then] = arc
                        return start, end, via, then
                    if fixed_start[first] < 0:
                        if from_end:
                            start[first] = max(
                                start[first], start_for_end(node_, mode_, rank, pos, sky_run, first, soonest)
                            )
                        else:
                            start[first] = next_start(node_, mode_, rank, pos, sky_run, first, soonest)
                        end[first] = max(
                            end[first], earliest_end(node_, mode_, rank, pos, sky_run, first, start[first])
                        )
                    if from_end:
                        end[first] = max(end[first], soonest)
                    via[first] = arc
                    changed = True
                    if (
                        start[first] > horizon
                        or end[first] > horizon
                        or (fixed_start[first] < 0 and start[first] > deadline[first])
                    ):
                        return start, end, via, first
    return start, end, via, NONE


@compiled
def _latest(node_, mode_, rank, pos, sky_run, arcs, cure, launch):  # type: ignore[no-untyped-def]
    deadline, fixed_start, fixed_end = node_[:, DEADLINE], node_[:, FIXED_START], node_[:, FIXED_END]
    size = len(node_)
    horizon = pos.shape[1] - 1
    start = np.zeros(size, dtype=np.int64)
    end = np.zeros(size, dtype=np.int64)
    for node in range(size):
        if fixed_end[node] >= 0:
            start[node], end[node] = fixed_start[node], fixed_end[node]
            continue
        limit = launch if node == LAUNCH_NODE else horizon
        start[node] = min(deadline[node], start_by_end(node_, mode_, rank, pos, sky_run, node, limit))
        end[node] = min(limit, latest_end(node_, mode_, rank, pos, sky_run, node, start[node]))
        if fixed_start[node] >= 0:
            end[node] = limit
    changed = True
    while changed:
        changed = False
        for arc in range(len(arcs)):
            first, then, kind, high = arcs[arc, 0], arcs[arc, 1], arcs[arc, 2], arcs[arc, 4]
            from_end = kind == 0 or kind == 2
            to_start = kind == 0 or kind == 1
            if fixed_end[first] < 0:
                limit = max(latest_first(arcs, cure, arc, start[then] if to_start else end[then]), NONE)
                if from_end and end[first] > limit:
                    end[first] = limit
                    if fixed_start[first] < 0:
                        start[first] = min(start[first], start_by_end(node_, mode_, rank, pos, sky_run, first, limit))
                        end[first] = min(end[first], latest_end(node_, mode_, rank, pos, sky_run, first, start[first]))
                    changed = True
                elif not from_end and start[first] > limit and fixed_start[first] < 0:
                    start[first] = latest_start(node_, mode_, rank, pos, sky_run, first, limit)
                    end[first] = min(end[first], latest_end(node_, mode_, rank, pos, sky_run, first, start[first]))
                    changed = True
            if high >= 0 and fixed_end[then] < 0:
                limit = max(latest_then(arcs, cure, arc, end[first] if from_end else start[first]), NONE)
                if to_start and start[then] > limit and fixed_start[then] < 0:
                    start[then] = latest_start(node_, mode_, rank, pos, sky_run, then, limit)
                    end[then] = min(end[then], latest_end(node_, mode_, rank, pos, sky_run, then, start[then]))
                    changed = True
                elif not to_start and end[then] > limit:
                    end[then] = limit
                    if fixed_start[then] < 0:
                        start[then] = min(start[then], start_by_end(node_, mode_, rank, pos, sky_run, then, limit))
                        end[then] = min(end[then], latest_end(node_, mode_, rank, pos, sky_run, then, start[then]))
                    changed = True
    return start, end


@derived(beside=4)
def windows_of(problem: Problem, launch: int | None = None, *, whole: bool = False) -> Windows:
    """Earliest and latest start and end of every node, in slots.

    launch: the latest launch the latest times are measured against; the refit's slot by default. whole: every task is
    in the plan; else a job that may be left out moves neither must-work nor another job that need not follow it.
    A node whose latest start lies before its earliest one makes the launch late by the ties alone.
    O(nodes x arcs x days) at worst, a few sweeps over the arcs in practice.
    """
    arrays = problem.arrays
    ground = tables_of(problem).ground
    packed = (ground.node, ground.mode, ground.rank, ground.pos, ground.sky_run)
    early, late = arrays.arcs, arrays.arcs
    if not whole and (arrays.need > 0).any():
        first, then = arrays.arcs[:, 0], arrays.arcs[:, 1]
        maybe = arrays.need > 0
        apart = arrays.job[first] != arrays.job[then]
        early, late = early.copy(), late.copy()
        loose = maybe[first] & ~maybe[then]
        early[loose, LOW] = -FOREVER  # what may be left out holds up no must-work …
        early[loose | (maybe[then] & apart), HIGH] = NO_MAX  # … nor pulls it later
        late[maybe[then] & apart, LOW] = -FOREVER
    start, end, via, stuck = _earliest(*packed, early, arrays.cure)
    slot = max(arrays.launch_at, arrays.release[LAUNCH_NODE]) if launch is None else launch
    late_start, late_end = _latest(*packed, late, arrays.cure, slot)
    return Windows(start, end, late_start, late_end, via, int(stuck))


def hanging_on_launch(problem: Problem) -> npt.NDArray[np.bool_]:
    """True for nodes whose earliest time is set by the launch slot itself, through a longest wait before it."""
    release = problem.arrays.release.copy()
    release[LAUNCH_NODE] = 0
    free = replace(problem, arrays=problem.arrays._replace(release=release))
    return np.asarray(windows_of(problem).start > windows_of(free).start)


def cycle_of(problem: Problem, windows: Windows) -> list[int]:
    """The arcs that push each other past every limit, from the node that is stuck; a chain if there is no cycle.

    Ties back to HAUL are never part of it unless they close the cycle themselves.
    """
    seen: dict[int, int] = {}
    path: list[int] = []
    node = windows.stuck
    while node >= 0 and node not in seen and windows.via[node] >= 0:
        seen[node] = len(path)
        arc = int(windows.via[node])
        path.append(arc)
        first, then = int(problem.arrays.arcs[arc][0]), int(problem.arrays.arcs[arc][1])
        node = first if then == node else then
        if node == HAUL_NODE:
            break
    if node in seen:
        return path[seen[node] :]
    return path
