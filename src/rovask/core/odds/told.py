"""Odds as people say them, and what was learned of a plan by playing it."""

from __future__ import annotations

import math
from functools import cached_property

from pydantic import Field

from rovask.core.refit.values import Frozen, Key, Moment

SURE, NEARLY = 0.975, 0.925


def in_words(odds: float) -> str:
    """How sure something is: in tenths, near the ends in twentieths, never more exact than it is known.

    odds: from 0 to 1.

    >>> [in_words(odds) for odds in (0.02, 0.04, 0.08, 0.33, 0.5, 0.713, 0.94, 0.98)]
    ['hardly ever', '1 in 20', '1 in 10', '3 in 10', '5 in 10', '7 in 10', '19 in 20', 'as good as sure']
    """
    if odds > SURE:
        return "as good as sure"
    if odds < 1 - SURE:
        return "hardly ever"
    if odds > NEARLY:
        return "19 in 20"
    if odds < 1 - NEARLY:
        return "1 in 20"
    return f"{min(max(math.floor(odds * 10 + 0.5), 1), 9)} in 10"


def interval(hits: int, runs: int) -> tuple[float, float]:
    """Between what a chance lies with 95 %, seen ``hits`` of ``runs`` times: Wilson's score interval.

    E. B. Wilson, "Probable inference, the law of succession, and statistical inference", JASA 22, 1927; from memory.

    >>> [round(end, 3) for end in interval(50, 100)], interval(0, 10)[0]
    ([0.404, 0.596], 0.0)
    """
    z = 1.959964
    share, more = hits / runs, z * z / runs
    middle, half = (
        (share + more / 2) / (1 + more),
        z * math.sqrt(share * (1 - share) / runs + more / 4 / runs) / (1 + more),
    )
    return max(middle - half, 0.0) if hits else 0.0, min(middle + half, 1.0) if hits < runs else 1.0


class Quantiles(Frozen):
    """Moments before which it is in 10, 50, 80 and 90 of a hundred runs; None: not within the days that are looked at."""

    p10: Moment | None
    p50: Moment | None
    p80: Moment | None
    p90: Moment | None


class Amounts(Frozen):
    """Minor units that 10, 50, 80 and 90 of a hundred runs don't go beyond, and their mean."""

    p10: int
    p50: int
    p80: int
    p90: int
    mean: int


class SlotOdds(Frozen):
    """How sure a launch at a moment is, and the mean money of aiming at it, the next slot in its place where it is missed.

    later: what floating then costs more than at the refit's own slot: the yard's bill and nights elsewhere.
    """

    at: Moment
    odds: float
    words: str
    money: int
    later: int = 0


class Drive(Frozen):
    """In what share of the runs a job was in the chain that drove the launch. by_parts: and began with waiting for its parts."""

    job: Key
    title: str
    share: float
    by_parts: float = 0.0


class SourceTold(Frozen):
    """One uncertain thing: what it is of, from what to what it may come, where that comes from, and what it is worth.

    wins: how much surer the launch is in the runs in which it went well: it did not come, or lay in the best third. hours: by
    how many she is ready sooner in those, as a mean.
    """

    sort: str
    key: str
    title: str
    origin: str
    unit: str
    chance: float | None
    least: float
    likely: float
    most: float
    wins: float
    hours: float


class Look(Frozen):
    """What it is worth to look at once where something may come to light, against as it is planned. low, high: with 95 %.

    money: mean minor units it saves (negative: costs); hours: by how many she is ready sooner, as a mean.
    """

    unknown: Key
    task: Key
    title: str
    gains: float
    low: float
    high: float
    hours: float
    money: int


class JobEnd(Frozen):
    """When a job may be over, and in what share of the runs it is left out. dots: twenty moments, each as likely as the next; None:
    later than what was looked at.
    """

    job: Key
    ends: Quantiles
    left_out: float
    dots: tuple[Moment | None, ...] = ()


class LeftOut(Frozen):
    """In what share of the runs a job that is planned is left out after all, for the launch's sake."""

    job: Key
    title: str
    share: float


class Odds(Frozen):
    """What many runs of a plan say. odds None: nothing can be said, for the ``reason``.

    now, slot: as of when and for which launch; interval: of the simulation alone, 95 %. dots: twenty moments, each as likely as
    the next, at which she could be launched; None: beyond ``until``. own_climate: the weather beyond the forecast is the yard's own, not the
    shipped table's. missed: mean number of overcoating windows that were missed.
    """

    now: Moment
    slot: Moment
    until: Moment
    runs: int = Field(ge=0)
    seed: int
    only_typed: bool = False
    odds: float | None
    words: str
    reason: str = ""
    interval: tuple[float, float] | None = None
    ready: Quantiles | None = None
    dots: tuple[Moment | None, ...] = ()
    slots: tuple[SlotOdds, ...] = ()
    money: Amounts | None = None
    currency: str = ""
    drives: tuple[Drive, ...] = ()
    sources: tuple[SourceTold, ...] = ()
    looks: tuple[Look, ...] = ()
    jobs: tuple[JobEnd, ...] = ()
    left_out: tuple[LeftOut, ...] = ()
    missed: float = 0.0
    own_climate: bool = True

    @cached_property
    def end_of(self) -> dict[str, JobEnd]:
        """When each job may be over, by its id."""
        return {one.job: one for one in self.jobs}

    @cached_property
    def look_at(self) -> dict[str, Look]:
        """What a look is worth, by the unknown it would settle."""
        return {one.unknown: one for one in self.looks}

    @cached_property
    def look_in(self) -> dict[str, Look]:
        """The best that is to be won by doing a task at once, by the task."""
        return {one.task: one for one in reversed(self.looks)}

    @cached_property
    def source_of(self) -> dict[tuple[str, str], SourceTold]:
        """What each uncertain thing is worth, by its sort and record."""
        return {(one.sort, one.key): one for one in self.sources}
