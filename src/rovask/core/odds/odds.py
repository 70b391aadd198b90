"""How sure the launch is: a plan played thousands of times, and what that says."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import UTC, datetime

import numpy as np
import numpy.typing as npt

from rovask.core.odds.deal import Dealt
from rovask.core.odds.game import Game, game_of, runs_of
from rovask.core.odds.looks import looks_of
from rovask.core.odds.luck import lucks, stream_of
from rovask.core.odds.money import by_launch, money_of
from rovask.core.odds.net import JOB, MODE_LO, PEOPLE, STATE, TO_PLAY
from rovask.core.odds.play import Played
from rovask.core.odds.source import Sort, Source
from rovask.core.odds.told import (
    Amounts,
    Drive,
    JobEnd,
    LeftOut,
    Odds,
    Quantiles,
    SlotOdds,
    SourceTold,
    in_words,
    interval,
)
from rovask.core.plan.problem.arrays import FIRST_TASK, Ints
from rovask.core.plan.problem.grid import grid_of
from rovask.core.plan.result import Plan
from rovask.core.plan.verdict.verdict import must_that_cannot
from rovask.core.refit.givens.slot import yard_launches
from rovask.core.refit.model import Refit

RUNS, SEED = 10_000, 1
DOTS = 20
GOES_WELL = 1 / 3  # the part of its cases in which a thing is said to have gone well
LONGEST = 32_000  # half-hours that are looked at: what the tables of a net can count
NEXT = 4  # slots after this one that are told without being asked
MOST_TOLD = 400
NEARLY_SETTLED = 0.05  # odds nearer to never or surely are moved by nothing; hours tell more


def odds_of(
    refit: Refit,
    plan: Plan,
    *,
    runs: int = RUNS,
    seed: int = SEED,
    only_typed: bool = False,
    slots: Iterable[datetime] = (),
    looks: bool = True,
    threads: int = 2,
) -> Odds:
    """What ``runs`` (at least 1) runs of a plan of this very refit say. slots: other launches that are asked about; looks:
    whether what each look is worth is worked out too, which takes as long again.

    The same for the same refit, plan, runs and seed, on however many threads. What can't be played is told as its reason.
    """
    if runs < 1:
        raise ValueError("play it at least once")
    reason = why_not(refit, plan)
    if reason:
        grid = grid_of(refit, plan.now)
        return Odds(
            now=plan.now, slot=refit.launch_at, until=grid.moment(grid.size), runs=0, seed=seed, only_typed=only_typed,
            odds=None, words="not known", reason=reason,
        )  # fmt: skip
    game = game_of(refit, plan, seed, only_typed=only_typed)
    hand, outcome = runs_of(game, 0, runs, threads)
    found = told(game, hand, outcome, seed, slots)
    return found.model_copy(update={"looks": looks_of(game, hand, outcome, seed)}) if looks else found


def why_not(refit: Refit, plan: Plan) -> str:
    """Why nothing can be said of how sure a launch is, in a sentence; "" if it can."""
    if not refit.tasks:
        return "There is no work in it yet."
    if plan.old:
        return "What is shown is the plan of an earlier state; mend what can't be planned first."
    stopped = must_that_cannot(refit, plan)
    if stopped:
        title = next(job.title for job in refit.jobs if job.id == stopped[0])
        return f"“{title}” can't be planned, so there is nothing to play; mend that first."
    if plan.ready is None:
        return "Nothing before the launch is left to do."
    if refit.launch_at < plan.now:
        return "The launch slot has passed; set another under Yard."
    if grid_of(refit, plan.now).size > LONGEST:
        return "It is further than a year and a half to the launch; nothing can be said of so far away."
    return ""


def told(game: Game, hand: Dealt, outcome: Played, seed: int, slots: Iterable[datetime] = ()) -> Odds:
    """What the first runs of a game say."""
    refit, plan, grid = game.refit, game.plan, game.made.problem.grid
    count, numbers = len(outcome.ready), np.arange(len(outcome.ready))
    made = made_it(game, outcome)
    hits = int(made.sum())
    money = money_of(game, hand, outcome, numbers, seed)
    asked = sorted({refit.launch_at, *slots, *next_slots_of(game)})
    return Odds(
        now=plan.now,
        slot=refit.launch_at,
        until=grid.moment(grid.size),
        runs=count,
        seed=seed,
        only_typed=game.sources.only_typed,
        odds=hits / count,
        words=in_words(hits / count),
        interval=interval(hits, count),
        ready=quantiles_of(game, outcome.ready),
        dots=dots_of(game, outcome.ready),
        slots=tuple(slot_odds(game, outcome, money, at) for at in asked if at >= plan.now),
        money=amounts_of(money),
        currency=refit.currency,
        drives=drives_of(game, outcome),
        sources=tuple(_sources(game, hand, outcome, made, numbers, seed)),
        jobs=tuple(_jobs(game, outcome)),
        left_out=tuple(left_out_of(game, outcome)),
        missed=round(float(outcome.missed.mean()), 4),
        own_climate=game.own_climate,
    )


def made_it(game: Game, outcome: Played) -> npt.NDArray[np.bool_]:
    """In which runs the slot was kept: she was ready by then, and the yard launches at it."""
    return np.asarray(outcome.launch <= game.made.net.slot)


def dots_of(game: Game, slots: npt.NDArray[np.integer]) -> tuple[datetime | None, ...]:
    """The middles of twenty equal parts of the runs."""
    middles = (np.arange(DOTS) + 0.5) / DOTS
    return tuple(_moment(game, int(at)) for at in np.quantile(slots, middles, method="inverted_cdf"))


def _moment(game: Game, slot: int) -> datetime | None:
    grid = game.made.problem.grid
    return grid.moment(slot) if slot < grid.size else None


def quantiles_of(game: Game, slots: npt.NDArray[np.integer]) -> Quantiles:
    """Moments before which it is in some shares of the runs, of one slot a run."""
    at = np.quantile(slots, (0.1, 0.5, 0.8, 0.9), method="inverted_cdf").tolist()
    p10, p50, p80, p90 = (_moment(game, int(one)) for one in at)
    return Quantiles(p10=p10, p50=p50, p80=p80, p90=p90)


def amounts_of(money: npt.NDArray[np.int64]) -> Amounts:
    """What of the runs' money is told."""
    p10, p50, p80, p90 = (int(one) for one in np.quantile(money, (0.1, 0.5, 0.8, 0.9), method="inverted_cdf"))
    return Amounts(p10=p10, p50=p50, p80=p80, p90=p90, mean=round(float(money.mean())))


def next_slots_of(game: Game) -> Iterator[datetime]:
    """The slots after this one that the yard has given; else the same hour on its next open days."""
    net, grid, refit = game.made.net, game.made.problem.grid, game.refit
    if refit.next_slots:
        yield from (one for one in refit.next_slots if one > refit.launch_at and grid.ceil(one) < grid.size)
        return
    day = int(net.day_of[min(net.slot, grid.size - 1)])
    found, clock = 0, grid.local(net.slot).timetz()
    while found < NEXT and day + 1 < len(net.day_slot):
        day += 1
        moment = datetime.combine(grid.local(int(net.day_slot[day])).date(), clock)
        if yard_launches(refit, moment):
            found += 1
            yield moment.astimezone(UTC)


def slot_odds(game: Game, outcome: Played, money: npt.NDArray[np.int64], at: datetime) -> SlotOdds:
    """How sure another slot is in the very same runs, so that a later one is never less sure."""
    slot = game.made.problem.grid.ceil(at)
    if at == game.refit.launch_at:
        share, launch = float(made_it(game, outcome).mean()), outcome.launch
    else:
        share = float((outcome.ready <= slot).mean())
        launch = np.where(outcome.ready <= slot, slot, np.maximum(outcome.ready, outcome.launch))
    mean = float(money.mean() + (by_launch(game, launch) - by_launch(game, outcome.launch)).mean())
    own = game.made.net.slot
    later = float(np.diff(by_launch(game, np.array([own, slot])))[0])
    return SlotOdds(at=at, odds=share, words=in_words(share), money=round(mean), later=round(later))


def drives_of(game: Game, outcome: Played) -> tuple[Drive, ...]:
    """In what share of the runs each job drove the launch, the most often first."""
    count, refit = len(outcome.ready), game.refit
    parts: dict[str, int] = {}
    for n in range(FIRST_TASK, game.made.problem.size):
        if outcome.parts[n]:
            job = refit.job_of[game.made.names[n]].id
            parts[job] = parts.get(job, 0) + int(outcome.parts[n])
    rows = [
        Drive(
            job=job.id,
            title=job.title,
            share=outcome.of_job[at] / count,
            by_parts=min(parts.get(job.id, 0) / count, 1.0),
        )
        for at, job in enumerate(refit.jobs)
        if outcome.of_job[at]
    ]
    return tuple(sorted(rows, key=lambda one: -one.share))


def _sources(
    game: Game, hand: Dealt, outcome: Played, made: npt.NDArray[np.bool_], runs: Ints, seed: int
) -> Iterator[SourceTold]:
    """Each uncertain thing with what it is worth, the most first: in odds, or where those are nearly settled in hours."""
    came = {one.id: hand.came[:, at] for at, (one, _) in enumerate(game.made.unknowns)}
    rows = []
    for source in game.sources.every():
        if source.sort is Sort.UNKNOWN:
            well = ~came[source.key]
        elif source.sort is Sort.TRADE:  # every day of theirs has a luck of its own: they came on all of them
            well = np.asarray(~hand.away[:, _nodes_of(game, source.key)].any(axis=1))
        else:
            well = _went_well(source, runs, seed)
        wins, hours = _worth(outcome, made, well)
        rows.append(
            SourceTold(
                sort=source.sort, key=source.key, title=source.title, origin=source.origin, unit=source.unit,
                chance=source.chance, least=source.least, likely=source.likely, most=source.most, wins=wins, hours=hours,
            )
        )  # fmt: skip
    if not game.sources.only_typed and game.made.skies > 1:
        wins, hours = _worth(outcome, made, *_under_good_skies(hand.sky, outcome.ready))
        rows.append(
            SourceTold(
                sort=Sort.WEATHER, key="sky", title="the weather", origin="typed" if game.own_climate else "usual", unit="",
                chance=None, least=0, likely=0, most=0, wins=wins, hours=hours,
            )
        )  # fmt: skip
    settled = not NEARLY_SETTLED <= float(made.mean()) <= 1 - NEARLY_SETTLED
    yield from sorted(rows, key=lambda one: (-one.hours, -one.wins) if settled else (-one.wins, -one.hours))[:MOST_TOLD]


def _worth(
    outcome: Played, made: npt.NDArray[np.bool_], well: npt.NDArray[np.bool_], of: npt.NDArray[np.bool_] | None = None
) -> tuple[float, float]:
    """How much surer, and how many hours sooner, it is where a thing went well. of: among which runs; None: all."""
    of = np.ones_like(well) if of is None else of
    if not well.any() or well[of].all():
        return 0.0, 0.0
    sooner = float(outcome.ready[of].mean() - outcome.ready[well].mean()) / 2
    return round(float(made[well].mean() - made[of].mean()), 4), round(sooner, 1)


def _nodes_of(game: Game, person: str) -> list[int]:
    """What somebody is planned for."""
    net, who = game.made.net, next(at for at, one in enumerate(game.refit.people) if one.id == person)
    there = np.flatnonzero(net.node[:, STATE] == TO_PLAY)  # what isn't planned has no crew
    return [int(node) for node in there if who in net.mode[net.node[node, MODE_LO], PEOPLE:]]


def _went_well(source: Source, runs: Ints, seed: int) -> npt.NDArray[np.bool_]:
    """In which runs a thing lay in the best third of its cases, or did not come."""
    luck = lucks(stream_of(seed, *source.stream), runs)
    if source.sort is Sort.ILLNESS:
        return np.asarray(luck > 1 - GOES_WELL)  # the later the better
    if source.sort is Sort.NOT_ACCEPTED:
        return np.asarray(luck < 1 - (source.chance or 0.0))
    return np.asarray(luck < GOES_WELL)


def _under_good_skies(sky: Ints, ready: Ints) -> tuple[npt.NDArray[np.bool_], npt.NDArray[np.bool_]]:
    """Runs under the best third of the skies, and those they are compared with: chosen by every other run, told by the rest."""
    even = np.arange(len(sky)) % 2 == 0
    many = int(sky.max()) + 1
    mean = np.bincount(sky[even], weights=ready[even], minlength=many) / np.maximum(
        np.bincount(sky[even], minlength=many), 1
    )
    return np.isin(sky, np.argsort(mean)[: max(round(many * GOES_WELL), 1)]) & ~even, ~even


def left_out_of(game: Game, outcome: Played) -> Iterator[LeftOut]:
    """Jobs that are planned and left out in some runs, the most often first."""
    node = game.made.net.node
    planned = {int(node[n, JOB]) for n in range(FIRST_TASK, game.made.problem.size) if node[n, STATE] == TO_PLAY}
    rows = []
    for at in sorted(planned):
        share = float((outcome.end[:, at] < 0).mean())
        if share:
            job = game.refit.jobs[at]
            rows.append(LeftOut(job=job.id, title=job.title, share=round(share, 4)))
    yield from sorted(rows, key=lambda one: -one.share)


def _jobs(game: Game, outcome: Played) -> Iterator[JobEnd]:
    for at, job in enumerate(game.refit.jobs):
        ends = outcome.end[:, at]
        there = ends >= 0
        if there.any():
            left_out = round(1 - float(there.mean()), 4)
            yield JobEnd(
                job=job.id, ends=quantiles_of(game, ends[there]), left_out=left_out, dots=dots_of(game, ends[there])
            )
