"""Ways laid side by side: each planned from the same plan, verified, and played with the same streams of luck."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np

from rovask.core.books.forecast import forecast
from rovask.core.books.items import left_out
from rovask.core.books.yard_bill import stay_of
from rovask.core.choice.laid import HoursOf, Laid, ServiceOut, WayState, WayTold, difference, plan_mark
from rovask.core.choice.sides import Side, Sides, learnt
from rovask.core.choice.turns_back import turned_back_from, turns_back
from rovask.core.odds.game import Board, Game, board_of, game_on, runs_of
from rovask.core.odds.money import Minors, money_of
from rovask.core.odds.odds import (
    RUNS,
    SEED,
    amounts_of,
    dots_of,
    drives_of,
    made_it,
    next_slots_of,
    quantiles_of,
    slot_odds,
    why_not,
)
from rovask.core.odds.play import Played
from rovask.core.odds.surer import HALF_A_DAY, LEAST, NEAR_MOVE, near_moves
from rovask.core.odds.told import in_words, interval
from rovask.core.plain.currency import exponent
from rovask.core.plan.planner import Draft, Planned
from rovask.core.plan.result import Plan
from rovask.core.plan.solver.improve import Stop
from rovask.core.plan.verdict.services import outages
from rovask.core.plan.verdict.verdict import must_that_cannot
from rovask.core.plan.verdict.worked import worked
from rovask.core.refit.model import Refit
from rovask.core.refit.ways.kinds import AS_IT_IS

FIRST_RUNS = 2_000
TRIED_RUNS = 1_000  # of each plan of one way, to choose between those worth about the same
SECONDS = 0.4  # each way's plan is put right by the solver
ABOUT_NOTHING = 10  # units of the currency by which another order of the same work may be dearer
HANGS = 3  # jobs told that drive it


@dataclass(frozen=True)
class Laying:
    """A way to be laid out. refit: as it would be; None: it can't be done any more, for the ``reason``. told: what its acts did."""

    way: str
    title: str
    refit: Refit | None
    told: tuple[str, ...] = ()
    reason: str = ""


@dataclass(frozen=True)
class _Played:
    side: Side
    game: Game
    outcome: Played
    money: Minors


class SideBySide:
    """The ways of one choice beside the refit as it is; told twice, first roughly and then settled."""

    def __init__(
        self, refit: Refit, planned: Planned, ways: Sequence[Laying], seed: int = SEED, threads: int = 2
    ) -> None:
        self.refit, self.planned, self.ways, self.seed, self.threads = refit, planned, ways, seed, threads
        self.made = Sides(refit, planned.plan)
        self.base = self.made.as_it_is()
        self.sides = {one.way: self.made.of(one.refit) for one in ways if one.refit is not None}
        self.board: Board | None = None  # of the refit as it is: the others go on with its skies

    def first(self, runs: int = FIRST_RUNS) -> Laid:
        """First figures, of plans as they are made in a moment."""
        return self._laid(runs, settled=False)

    def settled(self, clock: Callable[[], float], stop: Stop, runs: int = RUNS, seconds: float = SECONDS) -> Laid:
        """The figures that stand: every side was searched as long, and knows what the others found. Stopped, it tells what it has."""
        if seconds:
            self._search(seconds, clock, stop)
        return self._laid(runs, settled=not stop.asked)

    def plans(self) -> dict[str, Plan]:
        """By way, the plan it is told by; without those that can't be planned."""
        return {way: side.plan for way, side in self.sides.items() if not cant(side)}

    def _search(self, seconds: float, clock: Callable[[], float], stop: Stop) -> None:
        keys = [AS_IT_IS, *self.sides]
        sides = [self.base, *self.sides.values()]
        with ThreadPoolExecutor(2) as pool:
            found = list(pool.map(lambda side: self.made.searched(side, seconds, clock, stop, self.seed), sides))
        chosen = {key: self._surest(side) for key, side in zip(keys, found, strict=True)}
        base = chosen.pop(AS_IT_IS)
        first = {key: side.draft for key, side in zip(keys, found, strict=True)}
        for key, side in chosen.items():
            if side.draft is not first[key]:  # else it is in the order of the present plan
                base = learnt(base, side)
        self.base = self._surest(base)
        if self.base.draft.plan.assignments != self.planned.plan.assignments:
            chosen = {key: self._surest(learnt(side, self.base)) for key, side in chosen.items()}
        self.sides = chosen

    def _laid(self, runs: int, *, settled: bool) -> Laid:
        base = self._played(self.base, runs)
        others = [side.refit for side in self.sides.values()]
        rows = [self._told(Laying(AS_IT_IS, "As it is", self.refit), self.base, base, None)]
        back = turned_back_from(self.refit, self.planned.plan, others)
        rows[0] = rows[0].model_copy(update={"turns_back": back})
        for one in self.ways:
            side = self.sides.get(one.way)
            if side is None:
                rows.append(
                    WayTold(way=one.way, title=one.title, state=WayState.GONE, told=one.told, reason=one.reason)
                )
                continue
            rows.append(self._told(one, side, self._played(side, runs), base))
        return Laid(
            now=self.planned.plan.now, currency=self.refit.currency, seed=self.seed, runs=runs, settled=settled,
            of_plan=plan_mark(self.planned.plan), other_order=self.base.plan.assignments != self.planned.plan.assignments, ways=tuple(rows),
        )  # fmt: skip

    def _board(self, side: Side) -> Board:
        board = board_of(side.refit, side.plan, self.seed, like=self.board)
        self.board = self.board or board
        return board

    def _played(self, side: Side, runs: int) -> _Played | None:
        """The runs of a side; None where it can't be played."""
        if cant(side):
            return None
        board = self._board(side)
        game = game_on(board, side.plan)
        hand, outcome = runs_of(game, 0, runs, self.threads)
        return _Played(side, game, outcome, money_of(game, hand, outcome, np.arange(runs), self.seed))

    def _surest(self, side: Side) -> Side:
        return (
            side if len(side.drafts) == 1 or cant(side) else surest(side, self._board(side), TRIED_RUNS, self.threads)
        )

    def _told(self, way: Laying, side: Side, one: _Played | None, base: _Played | None) -> WayTold:
        side = side if one is None else one.side
        refit, plan = side.refit, side.plan
        plain = WayTold(way=way.way, title=way.title, told=way.told, slot=refit.launch_at)
        reason = cant(side)
        if reason:
            return plain.model_copy(
                update={"state": WayState.CANT, "reason": reason, "planned": forecast(refit, plan).total.minor}
            )
        out = plain.model_copy(
            update={
                "planned": forecast(refit, plan).total.minor,
                "lay_days": len(stay_of(refit, plan).days),
                "services": services_out(refit, plan),
                "hours": hours_of(refit, plan),
                "left": left_of(refit, plan),
                "turns_back": None
                if refit is self.refit
                else turns_back(self.refit, self.planned.plan, self.planned.verdict, refit, plan),
            }
        )
        if one is None:
            return out
        return out.model_copy(update=_odds(one) | (_against(one, base) if base is not None else {}))


def surest(side: Side, board: Board, runs: int, threads: int) -> Side:
    """The side told by the first of its plans, unless another holds better in a few runs by so much that it is no luck.

    And is no dearer: what the rest of the plan could be had for is not to be told as what a way costs.
    """

    def kept(draft: Draft) -> float:
        """How surely, near 1 where she is ready well before the slot in every run."""
        game = game_on(board, draft.plan)
        _, outcome = runs_of(game, 0, runs, threads)
        late = np.clip((outcome.ready - game.made.net.slot) / HALF_A_DAY, -50, 50)
        return float((1 / (1 + np.exp(late))).mean())

    first, *others = side.drafts
    most = forecast(side.refit, first.plan).total.minor + ABOUT_NOTHING * 10 ** exponent(side.refit.currency)
    least, best = kept(first), first
    for one in others:
        if forecast(side.refit, one.plan).total.minor > most:
            continue
        score = kept(one) - LEAST - NEAR_MOVE * _moves(first, one)
        if score >= least:
            least, best = score, one
    return side.told_by(best)


def _moves(first: Draft, other: Draft) -> int:
    """How many tasks of the next days another plan of a side has elsewhere than its first."""
    if first.schedule is None or other.schedule is None:
        return 0
    return near_moves(first.problem, first.schedule, other.schedule)


def _odds(one: _Played) -> dict[str, object]:
    """How sure a way is, and what it hangs on."""
    game, outcome = one.game, one.outcome
    made = made_it(game, outcome)
    hits, runs = int(made.sum()), len(made)
    after = min((at for at in next_slots_of(game) if at > game.refit.launch_at), default=None)
    following = None if after is None else slot_odds(game, outcome, one.money, after)
    return {
        "runs": runs,
        "odds": hits / runs,
        "words": in_words(hits / runs),
        "interval": interval(hits, runs),
        "next_slot": after,
        "next_odds": None if following is None else following.odds,
        "ready": quantiles_of(game, outcome.ready),
        "dots": dots_of(game, outcome.ready),
        "money": amounts_of(one.money),
        "hangs": tuple((row.title, round(row.share, 4)) for row in drives_of(game, outcome)[:HANGS]),
    }


def _against(one: _Played, base: _Played) -> dict[str, object]:
    """What a way does against as it is, in the very same runs."""

    def ready(row: _Played) -> np.ndarray[tuple[int], np.dtype[np.float64]]:
        """Hours from now."""
        shift = (row.game.made.problem.grid.origin - row.side.plan.now) / timedelta(hours=1)
        return np.asarray(row.outcome.ready / 2 + shift)

    return {
        "gains": difference(made_it(one.game, one.outcome), made_it(base.game, base.outcome)),
        "later": difference(ready(one), ready(base)),
        "dearer": difference(one.money, base.money),
    }


def cant(side: Side) -> str:
    """Why a side can't be planned or played, in a sentence; "" if it can."""
    if side.why_not:
        return side.why_not
    stopped = must_that_cannot(side.refit, side.plan)
    if stopped:
        by_rule = next(
            (one.sentence for one in side.plan.collisions if _touches(side.refit, one.lost or one.tasks, stopped)), ""
        )
        return by_rule or why_not(side.refit, side.plan)
    return why_not(side.refit, side.plan)


def _touches(refit: Refit, tasks: Sequence[str], jobs: Sequence[str]) -> bool:
    return any(refit.job_of[key].id in jobs for key in tasks if key in refit.job_of)


def services_out(refit: Refit, plan: Plan) -> tuple[ServiceOut, ...]:
    """For how long each service is out from now on, the longest first; one that is out twice at a time is out once."""
    spans: dict[str, list[tuple[datetime, datetime]]] = {}
    for one in outages(refit, plan):
        ends = one.ends or plan.launch
        if ends > plan.now:
            spans.setdefault(one.service.value, []).append((max(one.begins, plan.now), ends))
    rows = []
    for service, of_it in spans.items():
        seconds, until = 0.0, plan.now
        for begins, ends in sorted(of_it):
            seconds += max((ends - max(begins, until)).total_seconds(), 0.0)
            until = max(until, ends)
        rows.append(ServiceOut(service=service, hours=round(seconds / 3600, 2)))
    return tuple(sorted(rows, key=lambda row: (-row.hours, row.service)))


def hours_of(refit: Refit, plan: Plan) -> tuple[HoursOf, ...]:
    """Whose hours a plan takes from now on, the most first."""
    hours: dict[str, float] = {}
    for one in worked(refit, plan, lambda _: True):
        for person in one.item.people:
            hours[person] = hours.get(person, 0.0) + one.slots.size / 2
    rows = (HoursOf(person=key, name=refit.persons[key].name, hours=much) for key, much in hours.items() if much)
    return tuple(sorted(rows, key=lambda row: (-row.hours, row.name)))


def left_of(refit: Refit, plan: Plan) -> tuple[str, ...]:
    """What is left for next time: parked for it, or without room before the launch."""
    out = left_out(refit, plan)
    parked = [one.title for one in refit.parked if one.next_time]
    return (*parked, *(job.title for job in refit.jobs if job.id in out))
