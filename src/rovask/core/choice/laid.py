"""What is told of ways laid side by side: of each what it comes to, and what it does against as it is."""

from __future__ import annotations

import math
from enum import StrEnum
from hashlib import blake2b

import numpy as np
import numpy.typing as npt
from pydantic import Field

from rovask.core.odds.told import Amounts, Quantiles
from rovask.core.plan.result import Plan
from rovask.core.refit.values import Frozen, Moment


class WayState(StrEnum):
    """How a way stands: worked out, not to be planned, or not to be done any more."""

    WORKED = "worked out"
    CANT = "can't be planned"
    GONE = "no longer applies"


class Difference(Frozen):
    """A mean difference against as it is in the very same runs. low, high: of it, with 95 % (normal distribution)."""

    mean: float
    low: float
    high: float

    @property
    def about_the_same(self) -> bool:
        """Whether it may as well be nought."""
        return self.low <= 0 <= self.high


class ServiceOut(Frozen):
    """For how many hours a service is out from now on, by the plan."""

    service: str
    hours: float


class HoursOf(Frozen):
    """How many hours of somebody a plan takes from now on."""

    person: str
    name: str
    hours: float


class TurnsBack(Frozen):
    """Until when a way can still be turned back. then: what begins at that moment, in words."""

    at: Moment
    then: str


class WayTold(Frozen):
    """One way worked out. way: its id.

    told: what its acts did, in the words of the history; reason: why it can't be planned or no longer applies. odds: from 0 to 1, of
    ``slot``, the way's own; next_slot, next_odds: of the first slot after that. dots: twenty moments, each as likely as the next;
    None: beyond what is looked at. money: of the forecast at completion, minor units. planned: what the forecast says of the
    plan with its likely figures. lay_days: days ashore on the yard's bill. left: titles of jobs that are left for next time or
    fall out; dropped: those it drops or parks itself. hangs: what drives the launch most often, with its share of the runs.
    gains, hours, dearer: against as it is: odds, hours by which she is ready later, minor units.
    """

    way: str
    title: str
    state: WayState = WayState.WORKED
    told: tuple[str, ...] = ()
    reason: str = ""
    runs: int = Field(default=0, ge=0)
    slot: Moment | None = None
    odds: float | None = None
    words: str = ""
    interval: tuple[float, float] | None = None
    next_slot: Moment | None = None
    next_odds: float | None = None
    ready: Quantiles | None = None
    dots: tuple[Moment | None, ...] = ()
    money: Amounts | None = None
    planned: int = 0
    lay_days: int = 0
    services: tuple[ServiceOut, ...] = ()
    hours: tuple[HoursOf, ...] = ()
    left: tuple[str, ...] = ()
    hangs: tuple[tuple[str, float], ...] = ()
    turns_back: TurnsBack | None = None
    gains: Difference | None = None
    later: Difference | None = None
    dearer: Difference | None = None


class Laid(Frozen):
    """Ways side by side, as it is first. now: the half-hour they were planned at; runs: how often each was played.

    settled: whether the plans were searched and played as often as they are going to be. of_plan: the mark of the
    plan that as it is had. other_order: as it is is told by a plan
    that was found beside the present one and holds better; it is what the ways are compared with.
    """

    now: Moment
    currency: str
    seed: int
    runs: int
    settled: bool
    of_plan: str = ""
    other_order: bool = False
    ways: tuple[WayTold, ...]

    def of(self, way: str) -> WayTold | None:
        """What is told of a way."""
        return next((one for one in self.ways if one.way == way), None)


def plan_mark(plan: Plan) -> str:
    """By what a plan is known again: its work and its moment. O(tasks)."""
    told = [(one.task, one.start.timestamp(), one.end.timestamp(), one.people) for one in plan.assignments]
    return blake2b(repr((plan.now.timestamp(), sorted(told))).encode(), digest_size=8).hexdigest()


def difference(of: npt.NDArray[np.generic], against: npt.NDArray[np.generic]) -> Difference:
    """The mean of the one less the other, run by run.

    >>> import numpy as np
    >>> difference(np.array([1, 0, 1, 0]), np.array([0, 0, 1, 0])).about_the_same
    True
    """
    gained = of.astype(np.float64) - against.astype(np.float64)
    mean, half = float(gained.mean()), 1.96 * float(gained.std()) / math.sqrt(len(gained))
    return Difference(mean=round(mean, 4), low=round(mean - half, 4), high=round(mean + half, 4))
