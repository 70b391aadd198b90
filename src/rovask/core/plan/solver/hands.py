"""When the must-work can be over at the soonest by the hands there are: for every group of people, the work that only they do.

Energetic reasoning over the whole plan (Erschler, Lopez & Thuriot 1991; cited from memory): what a group must do after
some moment takes at least until their calendars together hold it. A bound for the solver, whose own rules look at one person.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from rovask.core.plain.derived import derived
from rovask.core.plan.problem.arrays import FIRST_TASK, Ints, Problem
from rovask.core.plan.problem.windows import Windows

MOST_PEOPLE = 10  # beyond, groups of which each has one person, or all of them


@derived()
def least_last(problem: Problem, windows: Windows) -> int:
    """A slot by which the must-work before the launch can't be over any sooner; now where there is none.

    O(2^people · (tasks + log horizon)).
    """
    a = problem.arrays
    must = [
        n
        for n in range(FIRST_TASK, problem.size)
        if a.need[n] == 0 and a.before[n] and a.fixed_end[n] < 0 and a.work[n]
    ]
    if not must:
        return int(a.now)
    people = len(a.day_cost)
    sums = np.cumsum(_at_work(problem, people), axis=1)
    crews = [a.mode_people[a.mode_lo[n] : a.mode_hi[n]] for n in must]
    order = np.argsort([-int(windows.start[n]) for n in must], kind="stable")
    heads = np.maximum(windows.start[np.array(must)[order]], a.now)
    work = a.work[np.array(must)[order]]
    out = int(a.now)
    for group in _groups(people):
        inside = np.append(group, False)  # -1, nobody, is the last
        hands = np.array([int(inside[crew].sum(axis=1).min()) for crew in crews])[order]
        if not hands.any():
            continue
        held = np.concatenate([[0], sums[group].sum(axis=0)])  # by this group before each slot
        want = np.cumsum(work * hands) + held[heads]
        out = max(out, int(np.searchsorted(held, want[hands > 0]).max()))
    return min(out, problem.horizon)


def _groups(people: int) -> list[npt.NDArray[np.bool_]]:
    if people > MOST_PEOPLE:
        return [np.ones(people, dtype=np.bool_), *np.eye(people, dtype=np.bool_)]
    return [(np.arange(people) >= 0) & ((group >> np.arange(people)) & 1 == 1) for group in range(1, 1 << people)]


def _at_work(problem: Problem, people: int) -> Ints:
    """Whether each person may work in each slot at anything, as 0 and 1."""
    a = problem.arrays
    slots = np.zeros((people, problem.horizon), dtype=np.int64)
    for mode in range(len(a.mode_calendar)):
        open_ = np.diff(a.rank[int(a.mode_calendar[mode])].astype(np.int64))[: problem.horizon]
        for who in a.mode_people[mode].tolist():
            if who >= 0:
                np.maximum(slots[who, : len(open_)], open_, out=slots[who, : len(open_)])
    return slots
