"""A refit as it turns out: true hours that nobody knows, worked as a good foreman would, and kept as facts like any sailor's.

What is played is core/odds itself with one luck; between two moments its starts, ends and hours become facts of the refit, and whatever
is planned or played next knows those and nothing else.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta

import numpy as np

from rovask.core.odds.deal import Dealt, dealt
from rovask.core.odds.game import Game, game_of, runs_of
from rovask.core.odds.net import BEGUN, BY_SKY, CALENDAR, PEOPLE, STATE, TO_PLAY
from rovask.core.odds.odds import odds_of
from rovask.core.odds.play import one_run, played
from rovask.core.plan.planner import make_plan
from rovask.core.plan.problem.arrays import FIRST_TASK
from rovask.core.plan.result import Plan
from rovask.core.readings.acceptance import acceptances
from rovask.core.refit.givens.choices import Role
from rovask.core.refit.model import Check, HoursEntry, Refit, Task
from rovask.core.refit.stores.choices import PartStatus

HOURS = (10, 12, 14, 16)  # at which a slot may lie
MORNING = 7
MOST_DAYS = 90
ON_ONE_DAY = 12.0  # hours of one entry at most


@dataclass
class World:
    """One way a refit turns out. seed: of everything that is drawn as the model draws it; slots: true half-hours of each task's work."""

    seed: int
    slots: dict[str, int]
    only_typed: bool = False
    worked: dict[str, int] = field(default_factory=dict)

    def left(self, task: str) -> int:
        """Half-hours a task still takes."""
        return max(self.slots[task] - self.worked.get(task, 0), 1)


@dataclass(frozen=True)
class Lived:
    """What happened by some moment. ready: when she could be launched, as far as it goes on so."""

    refit: Refit
    ready: datetime | None


def drawn_hours(game: Game, run: int) -> dict[str, int]:
    """True half-hours of each task as the model itself would draw them."""
    hand = dealt(game.deck, run, 1)
    return {name: int(hand.work[0, n]) for n, name in enumerate(game.made.names) if hand.work[0, n] > 0}


def lived(
    refit: Refit, plan: Plan, world: World, until: Callable[[list[datetime]], datetime] | datetime | None
) -> Lived:
    """A refit worked on by its plan until a moment (or what is made of the ends of its tasks, in order); None: to the launch."""
    game = game_of(refit, plan, world.seed, only_typed=world.only_typed)
    net, grid = game.made.net, game.made.problem.grid
    hand = _true(game, world)
    start, end, mode, _ = one_run(net, hand, 0)
    could = int(played(net, hand).ready[0])  # she floats at her slot, though ready before
    ready = grid.moment(could) if could < grid.size else None
    nodes = [n for n in range(FIRST_TASK, game.made.problem.size) if net.node[n, STATE] == TO_PLAY and start[n] >= 0]
    if until is None:
        return Lived(refit, ready)
    if callable(until):
        until = until(sorted(grid.moment(int(end[n])) for n in nodes if end[n] < grid.size))
    stop = grid.ceil(until)
    facts: dict[str, dict[str, object]] = {}
    entries = list(refit.hours_log)
    for n in nodes:
        if start[n] >= stop:
            continue
        key = game.made.names[n]
        row = int(net.mode[mode[n], CALENDAR]) + (int(hand.sky[0]) if net.mode[mode[n], BY_SKY] else 0)
        from_ = max(int(start[n]), net.now)
        to = min(int(end[n]), stop)
        slots = int(net.rank[row, to]) - int(net.rank[row, from_])
        if slots == 0:
            continue  # begun in name alone: nobody was at work in it
        last = grid.moment(int(net.pos[row, int(net.rank[row, to]) - 1]) + 1)  # not the morning after
        crew = tuple(refit.people[who].id for who in net.mode[mode[n], PEOPLE:].tolist() if who >= 0)
        world.worked[key] = world.worked.get(key, 0) + slots
        fact: dict[str, object] = {}
        if not net.node[n, BEGUN]:
            fact = {"begun_at": grid.moment(int(start[n])), "crew": crew}
        if end[n] <= stop:
            fact["done_at"] = grid.moment(int(end[n]))
        facts[key] = fact
        for who in crew:
            hours = slots / 2
            while hours > 0:
                part = min(hours, ON_ONE_DAY)
                entries.append(HoursEntry(id=f"h{len(entries)}", task=key, person=who, at=last, hours=part))
                hours -= part

    def told(task: Task) -> Task:
        return task.model_copy(update=facts[task.id]) if task.id in facts else task

    jobs = tuple(job.model_copy(update={"tasks": tuple(map(told, job.tasks))}) for job in refit.jobs)
    parts = tuple(
        one.model_copy(update={"status": PartStatus.CHECKED}) if one.arrives and one.arrives <= until else one
        for one in refit.parts
    )
    return Lived(_looked_at(refit.supposed(jobs=jobs, hours_log=tuple(entries), parts=parts)), ready)


def _looked_at(refit: Refit) -> Refit:
    """The same with all that is done looked at by an owner in its evening, as paid work is before it is covered."""
    owner = next(one.id for one in refit.people if one.role is Role.OWNER)
    rows = list(refit.checks)
    for one in acceptances(refit).values():
        if one.task.done_at is not None:
            rows += [
                Check(
                    id=f"c{len(rows) + n}",
                    task=one.task.id,
                    title=wanted.title,
                    at=one.task.done_at,
                    person=owner,
                    passed=True,
                )
                for n, wanted in enumerate(one.wanted)
            ]
    return refit.supposed(checks=tuple(rows))


def _true(game: Game, world: World) -> Dealt:
    """What the world deals: everything as the model draws it, but the hours its own."""
    hand = dealt(game.deck, 0, 1)
    work = hand.work.copy()
    for n in range(FIRST_TASK, game.made.problem.size):
        key = game.made.names[n]
        if work[0, n] > 0 and key in world.slots:
            work[0, n] = np.int16(min(world.left(key), 16000))
    return hand._replace(work=work)


def tight(refit: Refit, wanted: float = 0.6, *, only_typed: bool = False) -> Refit:
    """A refit with its launch at the working hour at which the odds are nearest to ``wanted``, as far as its plan for that slot keeps them."""
    best, off = refit, 2.0
    for _ in range(3):
        game = game_of(best, make_plan(best, best.haul_at), 1, only_typed=only_typed)
        _, outcome = runs_of(game, 0, 400)
        grid, zone = game.made.problem.grid, refit.yard.zone
        shares = {
            at: float((outcome.ready <= slot).mean())
            for slot in range(int(outcome.ready.min()), int(outcome.ready.max()) + 1)
            if (at := grid.moment(slot).astimezone(zone)).weekday() < 5 and at.hour in HOURS and at.minute == 0
        }
        if not shares:
            break
        at = min(shares, key=lambda one: abs(shares[one] - wanted))
        tried = refit.supposed(launch_at=at.astimezone(UTC))
        odds = odds_of(tried, make_plan(tried, tried.haul_at), runs=400, only_typed=only_typed, looks=False).odds
        if odds is not None and abs(odds - wanted) < off:
            best, off = tried, abs(odds - wanted)
    return best


def planned_each_morning(refit: Refit, plan: Plan, world: World) -> bool:
    """Whether the slot is kept when everything is planned anew each morning, with what is known by then and no more."""
    now = refit.haul_at
    for _ in range(MOST_DAYS):
        morning = (now + timedelta(days=1)).astimezone(refit.yard.zone).replace(hour=MORNING, minute=0)
        day = lived(refit, plan, world, morning)
        if day.ready is not None and day.ready <= morning:
            return day.ready <= refit.launch_at
        if morning >= refit.launch_at:
            return False
        refit, now = day.refit, morning
        plan = make_plan(refit, now, before=plan)
    return False
