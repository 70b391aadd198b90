"""The odds against a second model of the same small refits, written apart on SimPy: a process a task, people as resources.

It shares nothing with core/odds: it reads the refit's own words, keeps its own clock of working half-hours, and draws from the
beta distribution itself. Whoever has several tasks has them one after the other by ties, so that no foreman's judgement is asked.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from datetime import datetime, timedelta
from typing import Any

import numpy as np
import pytest
import simpy

from rovask.core.odds.odds import odds_of
from rovask.core.refit.model import Refit
from tests.builders import HAUL, data, link, person, task
from tests.core.odds_cases import planned

RUNS, THEIRS = 10_000, 400
WORKS = [{"days": ["mon", "tue", "wed", "thu", "fri", "sat"], "start": "08:00", "end": "17:00"}]
HALF = timedelta(minutes=30)
PLACE = {"id": "hull", "name": "Hull", "capacity": 9}


def small_refit(seed: int) -> Refit:
    """Three people, each with a chain of two or three tasks, ties between the chains, a part that is late, a leak perhaps."""
    random = np.random.default_rng(seed)
    tasks, links, last = [], [], {}
    for n in range(int(random.integers(6, 10))):
        who = ("ann", "bo", "cy")[n % 3]
        likely = float(random.integers(4, 30)) / 2
        spread = {"least": math.floor(likely) / 2, "likely": likely, "most": likely + float(random.integers(1, 30)) / 2}
        tasks.append(task(f"t{n}", likely, people=[who]) | {"work": spread})
        if who in last:
            links.append(link(last[who], f"t{n}", float(random.integers(0, 20))))
        if n > 2 and random.random() < 0.5:
            first = f"t{int(random.integers(0, n))}"
            if not any((one["first"], one["then"]) == (first, f"t{n}") for one in links):
                links.append(link(first, f"t{n}", float(random.integers(0, 10))))
        last[who] = f"t{n}"
    tasks[3]["parts"] = ["p"]
    part = {"id": "p", "name": "Pump", "lead_days": 3, "lead_least": 2, "lead_most": 9, "must_fit": False}
    leak = {
        "id": "leak", "title": "A leak", "chance": float(random.integers(2, 8)) / 10, "task": "t1",
        "hours": float(random.integers(2, 12)), "lead_days": int(random.integers(0, 4)),
    }  # fmt: skip
    people = [person(who, hours=WORKS, longest_run=99) for who in ("ann", "bo", "cy")]
    whole = data(
        *tasks, links=links, people=people, parts=[part], unknowns=[leak], places=[PLACE], yard={"hours": WORKS}
    )
    refit = Refit.model_validate(whole)
    ready = planned(refit).ready
    assert ready is not None
    slot = (ready.at + timedelta(hours=int(random.integers(4, 60)))).astimezone(refit.yard.zone)
    if slot.weekday() == 6:  # the yard is shut
        slot += timedelta(days=1)
    return refit.grown(launch_at=slot.replace(hour=int(random.integers(9, 17)), minute=0))


class Yard:
    """One run of one refit: the clock counts half-hours from the haul-out."""

    def __init__(self, refit: Refit, random: np.random.Generator) -> None:
        self.refit, self.random, self.env = refit, random, simpy.Environment()
        self.people = {one.id: simpy.Resource(self.env) for one in refit.people}
        self.done = {key: self.env.event() for key in refit.tasks}
        self.mended = {key: self.env.event() for key in refit.tasks}
        self.ready = 0.0

    def beta(self, least: float, likely: float, most: float) -> float:
        """A modified PERT figure."""
        if most <= least:
            return likely
        a, b = 1 + 4 * (likely - least) / (most - least), 1 + 4 * (most - likely) / (most - least)
        return least + (most - least) * float(self.random.beta(a, b))

    def works(self, at: float) -> bool:
        """Whether anybody works in a half-hour."""
        local = (HAUL + at * HALF).astimezone(self.refit.yard.zone)
        return local.weekday() < 6 and 8 <= local.hour < 17

    def work(self, halves: int) -> Iterator[Any]:
        """So many working half-hours, with nights and Sundays between."""
        while halves:
            if self.works(self.env.now):
                halves -= 1
            yield self.env.timeout(1)

    def one(self, key: str) -> Iterator[Any]:
        """A task: what it waits for, then its people, then its work, then what may have come to light."""
        refit, it = self.refit, self.refit.tasks[key]
        for tie in refit.links:
            if tie.then == key:
                yield self.done[tie.first]
        at = max(
            [0.0, *(float(self.done[tie.first].value) + 2 * tie.min_lag for tie in refit.links if tie.then == key)]
        )
        for tie in refit.links:
            if tie.then == key:
                yield self.mended[tie.first]
                at = max(at, float(self.mended[tie.first].value) + 2 * tie.min_lag * (self.mended[tie.first].value > 0))
        if it.parts:
            part = refit.part_by_id["p"]
            days = math.floor(self.beta(part.lead_least or 0, part.lead_days, part.lead_most or 0) + 0.5)
            at = max(at, float(self.day_later(days)))
        yield self.env.timeout(max(at - self.env.now, 0))
        with self.people[it.people[0]].request() as mine:
            yield mine
            hours = self.beta(it.work.least, it.work.likely, it.work.most)
            yield from self.work(max(math.floor(2 * hours + 0.5), 1))
        self.ready = max(self.ready, self.env.now)
        self.done[key].succeed(self.env.now)
        yield from self.comes_to_light(key, it.people[0])

    def day_later(self, days: int) -> float:
        """Half-hours until so many days from the haul-out, at the same hour of the yard's clock."""
        local = HAUL.astimezone(self.refit.yard.zone)
        there = datetime.combine(local.date() + timedelta(days=days), local.time(), tzinfo=self.refit.yard.zone)
        return (there - HAUL) / HALF

    def comes_to_light(self, key: str, who: str) -> Iterator[Any]:
        """The leak, if it shows in this task and is there: its part, then its work; only then what follows goes on."""
        leak = self.refit.unknowns[0]
        if leak.task != key or self.random.random() >= leak.chance:
            self.mended[key].succeed(0.0)
            return
        yield self.env.timeout(48 * leak.lead_days)
        with self.people[who].request() as mine:
            yield mine
            yield from self.work(int(2 * leak.hours))
        self.ready = max(self.ready, self.env.now)
        self.mended[key].succeed(self.env.now)

    def launched_in_time(self) -> bool:
        """Play it."""
        for key in self.refit.tasks:
            self.env.process(self.one(key))
        self.env.run()
        return HAUL + self.ready * HALF <= self.refit.launch_at


@pytest.mark.parametrize("seed", range(20))
def test_a_second_model_says_the_same(seed: int) -> None:
    refit = small_refit(seed)
    ours = odds_of(refit, planned(refit), runs=RUNS, only_typed=True).odds
    assert ours is not None
    random = np.random.default_rng(1000 + seed)
    theirs = sum(Yard(refit, random).launched_in_time() for _ in range(THEIRS)) / THEIRS
    error = math.sqrt(max(theirs * (1 - theirs), 0.004) / THEIRS + max(ours * (1 - ours), 0.004) / RUNS)
    assert abs(ours - theirs) <= 3.5 * error, (ours, theirs)
