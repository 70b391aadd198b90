"""One set of numbers for a structure: durations, releases, lags, rank, sky; another swapped in without compiling again."""

from __future__ import annotations

from dataclasses import replace
from typing import NamedTuple

import numpy as np

from rovask.core.plan.problem.arrays import Ints, Problem, Shorts


class Realisation(NamedTuple):
    """How things turn out, for one structure. Times are slots; a row a node, a mode's calendar or an arc.

    work: slots of work still to do. release: earliest start, by the clock, the haul and the parts. low, high: least and
    longest lag of each arc. rank, pos: the calendars (hours, absences, weather); sky_run: how long it stays dry.
    """

    work: Ints
    release: Ints
    low: Ints
    high: Ints
    rank: Shorts
    pos: Shorts
    sky_run: Shorts


def realisation_of(problem: Problem) -> Realisation:
    """The numbers of a problem."""
    a = problem.arrays
    return Realisation(a.work, a.release, a.arcs[:, 3], a.arcs[:, 4], a.rank, a.pos, a.sky_run)


def realised(problem: Problem, numbers: Realisation) -> Problem:
    """The same problem with other numbers; calendars must be those of the same modes in the same order. O(their size)."""
    a = problem.arrays
    unbroken = a.longest == a.work
    longest = np.where(unbroken & (a.work > 0), numbers.work, a.longest)
    arcs = a.arcs.copy()
    arcs[:, 3], arcs[:, 4] = numbers.low, numbers.high
    arrays = a._replace(
        work=numbers.work,
        longest=longest,
        release=numbers.release,
        arcs=arcs,
        rank=numbers.rank,
        pos=numbers.pos,
        sky_run=numbers.sky_run,
    )
    return replace(problem, arrays=arrays)
