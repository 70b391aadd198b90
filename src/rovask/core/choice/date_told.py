"""What is told of the search for what makes the date: the frontier, each point with the acts it consists of."""

from __future__ import annotations

from collections.abc import Sequence

from pydantic import Field

from rovask.core.choice.frontier import simplest
from rovask.core.choice.levers import Asked, Lever
from rovask.core.choice.tried import Tried
from rovask.core.odds.told import in_words, interval
from rovask.core.refit.model import Act, Refit
from rovask.core.refit.values import Frozen, Moment

WORTH_MORE = 0.005  # odds by which a dearer point has to be surer, to be told


class Point(Frozen):
    """One point of the frontier. titles: of what is done; acts: the same as acts of a way.

    odds: 0 to 1, with its interval; money: mean minor units of the forecast, dearer: of it beyond as it is. left: titles of jobs
    left for it, left_worth: what those are reckoned at, minor units. price: dearer and left_worth.
    """

    titles: tuple[str, ...]
    acts: tuple[Act, ...]
    odds: float
    words: str
    interval: tuple[float, float]
    money: int
    dearer: int
    left: tuple[str, ...] = ()
    left_worth: int = 0
    price: int = 0


class DateTold(Frozen):
    """The frontier as far as it was looked for. points: cheapest first, each surer than the one before; as it is may be one of them.

    levers: how many there are; tried: sets that were tried; runs: how often each point was played. stands: everything beside it was tried.
    told_closely: its points were verified and played as often as they are going to be. best: which point is the cheapest of those that are as
    sure as asked for no more than asked; None: there is none. reason: why nothing can be said.
    """

    now: Moment
    currency: str
    asked: Asked
    levers: int = Field(ge=0)
    tried: int = Field(default=0, ge=0)
    runs: int = Field(default=0, ge=0)
    as_it_is: Point | None = None
    points: tuple[Point, ...] = ()
    stands: bool = False
    told_closely: bool = False
    best: int | None = None
    reason: str = ""


def date_told(
    refit: Refit, now: Moment, asked: Asked, levers: Sequence[Lever], found: Sequence[Tried], tried: int,
    base: Tried, *, stands: bool, closely: bool,
) -> DateTold:  # fmt: skip
    """The points of some sets, and which of them is asked for. base: as it is, played as often."""
    best = simplest([base, *found], WORTH_MORE)
    points = tuple(_point(refit, levers, one, base) for one in best)
    fit = [at for at, one in enumerate(points) if one.odds >= asked.odds and one.dearer <= asked.money]
    return DateTold(
        now=now, currency=refit.currency, asked=asked, levers=len(levers), tried=tried, runs=base.runs,
        as_it_is=_point(refit, levers, base, base), points=points, stands=stands, told_closely=closely,
        best=fit[0] if fit else None,
    )  # fmt: skip


def _point(refit: Refit, levers: Sequence[Lever], one: Tried, base: Tried) -> Point:
    pulled = [lever for lever in levers if lever.key in one.levers]
    titles = {job.id: job.title for job in refit.jobs}
    dearer = round(one.money - base.money)
    return Point(
        titles=tuple(lever.title for lever in pulled),
        acts=tuple(act for lever in pulled for act in lever.acts),
        odds=one.odds,
        words=in_words(one.odds),
        interval=interval(round(one.odds * one.runs), one.runs),
        money=round(one.money),
        dearer=dearer,
        left=tuple(titles[key] for key in one.jobs),
        left_worth=one.left,
        price=dearer + one.left,
    )
