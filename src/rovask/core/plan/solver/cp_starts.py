"""The valid starts of each task in each calendar, grouped by what their pauses add: worked out once for a problem.

A search solves a dozen models of one problem; of what a model is made of, these domains are the dearest part.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from ortools.sat.python import cp_model

from rovask.core.plain.derived import derived
from rovask.core.plan.problem.arrays import Ints, Problem


class Group(NamedTuple):
    """Valid starts of one task in one calendar whose spans are all longer than its work by ``gap`` slots."""

    calendar: int
    gap: int
    begin: Ints
    domain: cp_model.Domain


class Starts(NamedTuple):
    """All of them for some calendars; ``every``: the starts of any group, and as a domain."""

    groups: tuple[Group, ...]
    every: Ints
    domain: cp_model.Domain


class StartTable:
    """The valid starts in one problem of whatever ends by ``last``, each worked out when it is first asked for."""

    def __init__(self, problem: Problem, last: int) -> None:
        self.arrays, self.last = problem.arrays, last
        self._known: dict[tuple[int, tuple[int, ...], int], Starts] = {}

    def of(self, node: int, calendars: tuple[int, ...], earliest: int, within: tuple[int, int] | None = None) -> Starts:
        """Every valid start of a task in these calendars from ``earliest`` on. within: only those from the one to the other slot."""
        if within is not None:
            return _cut(self.of(node, calendars, earliest), *within)
        key = (node, calendars, earliest)
        if key not in self._known:
            self._known[key] = self._worked_out(*key)
        return self._known[key]

    def _worked_out(self, node: int, calendars: tuple[int, ...], earliest: int) -> Starts:
        groups: list[Group] = []
        for calendar in calendars:
            begin, end = self._valid(node, calendar, earliest)
            gap = end - begin - int(self.arrays.work[node])
            for one in np.unique(gap).tolist():
                inside = begin[gap == one]
                groups.append(Group(calendar, int(one), inside, domain_of(inside)))
        every = np.unique(np.concatenate([group.begin for group in groups])) if groups else np.zeros(0, dtype=np.int64)
        return Starts(tuple(groups), every, domain_of(every) if groups else cp_model.Domain())

    def _valid(self, node: int, calendar: int, earliest: int) -> tuple[Ints, Ints]:
        """Starts of a node in one calendar and its end from each, by slot."""
        a = self.arrays
        work = int(a.work[node])
        count = int(a.rank[calendar, self.last])
        pos = a.pos[calendar, :count].astype(np.int64)
        if count < work:
            return pos[:0], pos[:0]
        begin, end = pos[: count - work + 1], pos[work - 1 :] + 1
        good = (begin >= earliest) & (end - begin <= a.longest[node])
        if a.fixed_start[node] < 0:
            good &= begin <= a.deadline[node]
        row = int(a.sky[node])
        if row > 0:
            dry = a.sky_run[row, begin] if a.whole[node] else a.sky_run[row, end]
            good &= dry >= a.tender[node] + ((end - begin) if a.whole[node] else 0)
        return begin[good], end[good]


def _cut(starts: Starts, low: int, high: int) -> Starts:
    """The part of them from ``low`` to ``high``."""

    def part(begin: Ints) -> Ints:
        return begin[np.searchsorted(begin, low) : np.searchsorted(begin, high, side="right")]

    groups = [(group, part(group.begin)) for group in starts.groups]
    kept = tuple(Group(group.calendar, group.gap, begin, domain_of(begin)) for group, begin in groups if len(begin))
    every = part(starts.every)
    return Starts(kept, every, domain_of(every) if len(every) else cp_model.Domain())


@derived(beside=3)
def start_table(problem: Problem, last: int) -> StartTable:
    """The table of a problem; models that end alike share it."""
    return StartTable(problem, last)


def domain_of(values: Ints) -> cp_model.Domain:
    """The domain of sorted, distinct values, in as few intervals as there are runs."""
    breaks = np.flatnonzero(np.diff(values) != 1)
    low = values[np.concatenate([[0], breaks + 1])]
    high = values[np.concatenate([breaks, [len(values) - 1]])]
    return cp_model.Domain.from_intervals(np.column_stack([low, high]).tolist())
