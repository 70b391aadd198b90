"""Make the date: the frontier that is found is the one that trying every subset finds."""

from __future__ import annotations

import math
import random
from collections.abc import Iterable
from datetime import timedelta
from itertools import combinations
from typing import Any

import pytest

from rovask.core.choice.date_told import date_told
from rovask.core.choice.frontier import Search, frontier, simplest
from rovask.core.choice.levers import Asked, Lever, levers_of
from rovask.core.choice.tried import Tried, Trier
from rovask.core.plan.planner import plan_and_judge
from rovask.core.readings.prices import prices_of
from rovask.core.refit.model import Refit
from rovask.core.refit.ways.choices import ActSort
from rovask.desk.acts import pulling
from rovask.formats.recipe_file import library
from tests.builders import HAUL, refit, task

Keys = frozenset[str]


def every_subset(levers: Iterable[Lever]) -> list[Keys]:
    keys = [lever.key for lever in levers]
    return [frozenset(some) for many in range(len(keys) + 1) for some in combinations(keys, many)]


class Made:
    """Twelve levers whose effects are drawn: logits that add up but for what each pair does to each other."""

    def __init__(self, seed: int, count: int = 12) -> None:
        luck = random.Random(seed)
        self.levers = [Lever(f"l{n:02}", f"l{n}", (), f"g{n if luck.random() < 0.8 else n // 2}") for n in range(count)]
        self.won = [max(luck.gauss(0.3, 0.5), -0.3) if luck.random() < 0.7 else 0.0 for _ in range(count)]
        self.cost = [luck.choice([-1, 1, 1, 1, 2]) * luck.randint(10, 900) for _ in range(count)]
        self.both = {pair: luck.gauss(0, 0.25) for pair in combinations(range(count), 2)}
        self.base, self.tries = luck.gauss(-0.5, 1), 0

    def one(self, keys: Keys) -> Tried | None:
        self.tries += 1
        at = sorted(int(key[1:]) for key in keys)
        groups = [self.levers[n].group for n in at]
        if len(set(groups)) < len(groups):
            return None
        logit = self.base + sum(self.won[n] for n in at) + sum(self.both[pair] for pair in combinations(at, 2))
        return Tried(keys, round(1 / (1 + math.exp(-logit)), 3), sum(self.cost[n] for n in at), 0, (), 400)

    def some(self, sets: Iterable[Keys]) -> list[Tried | None]:
        return [self.one(keys) for keys in sets]


def near(true: Tried, found: list[Tried]) -> bool:
    """Whether something that was found is within 2 in 100 and 3 % of money of a point."""
    return any(
        one.odds >= true.odds - 0.02 and one.price <= true.price + 0.03 * max(abs(true.price), 300) for one in found
    )


def test_of_twelve_drawn_choices_the_frontier_is_the_true_one_in_nine_of_ten_and_else_near_it() -> None:
    exact, cases, tries = 0, 12, 0
    for seed in range(cases):
        made = Made(seed)
        found = Search(made.levers, made.some, lambda _, __: True, 4).run()
        tries += made.tries
        true = frontier(one for one in map(made.one, every_subset(made.levers)) if one is not None)
        exact += {one.levers for one in true} == {one.levers for one in found}
        assert all(near(one, found) for one in true), seed
    assert exact >= 0.9 * cases
    assert tries / cases < 0.25 * 2**12  # and it did not get there by trying everything


def a_tight_refit() -> Refit:
    """Four must-jobs, two that may be left, one part that comes late; nine days of ten hours and two people."""
    jobs: list[dict[str, Any]] = [
        {"id": f"m{n}", "title": f"Must {n}", "tasks": [task(f"m{n}", hours=20)]} for n in range(5)
    ]
    jobs += [
        {"id": f"s{n}", "title": f"Should {n}", "need": "should", "tasks": [task(f"s{n}", hours=12)]} for n in range(2)
    ]
    jobs[0]["tasks"][0]["parts"] = ["pump"]
    part = {"id": "pump", "name": "Pump", "price": 1_000, "lead_days": 6, "must_fit": False}
    slot = (HAUL + timedelta(days=8, hours=2)).isoformat()
    places = [{"id": "hull", "name": "Hull", "capacity": 4}]
    return refit(jobs=jobs, parts=[part], launch_at=slot, places=places, price_leave_should=50_000)


ASKED = Asked(odds=0.9, money=200_000, hand_day=10_000, express_money=6_000, longer=1.0, looks=False, own_hands=False)


def trier(made: Refit, asked: Asked = ASKED) -> Trier:
    planned = plan_and_judge(made, HAUL)
    levers = levers_of(made, planned.plan, asked)
    return Trier(made, planned, levers, pulling(planned, HAUL, library()))


def test_on_a_refit_it_is_what_planning_and_playing_every_subset_finds() -> None:
    one = trier(a_tight_refit())
    assert [lever.acts[0].do for lever in one.levers] == [
        ActSort.HAND, ActSort.HAND, ActSort.LONGER, ActSort.LONGER, ActSort.NEXT_TIME, ActSort.NEXT_TIME, ActSort.EXPRESS,
    ]  # fmt: skip
    found = Search(one.levers, lambda sets: [one.tried(keys) for keys in sets], lambda _, __: True, 4).run()
    every = [result for keys in every_subset(one.levers) if (result := one.tried(keys)) is not None]
    true = frontier(every)
    assert len(every) == 96  # of 128, those without both hands
    assert {row.levers for row in found} == {row.levers for row in true}
    assert len(true) >= 2


def test_what_a_lever_costs_is_what_was_said_and_what_is_left_counts_at_its_price() -> None:
    made = a_tight_refit()
    one = trier(made)
    base = one.tried([])
    assert base is not None
    by_sort = {}
    for lever in one.levers:
        found = one.tried([lever.key])
        assert found is not None
        by_sort.setdefault(lever.acts[0].do, []).append(found)
    assert [round(found.money - base.money) for found in by_sort[ActSort.EXPRESS]] == [6_000]
    # from Tuesday on: a week is 6 working days; two would run past the launch, Tuesday to Tuesday: 7 of them
    assert [round(found.money - base.money) for found in by_sort[ActSort.HAND]] == [60_000, 70_000]
    prices = prices_of(made)
    assert [(found.left, found.jobs) for found in by_sort[ActSort.NEXT_TIME]] == [
        (50_000 + prices.task_left, ("s0",)), (50_000 + prices.task_left, ("s1",)),
    ]  # fmt: skip


def test_must_jobs_are_left_only_where_it_is_said_and_what_keeps_water_out_never() -> None:
    rows = [
        {"id": "rail", "title": "Rail", "tasks": [task("rail")]},
        {"id": "hole", "title": "Valve", "tasks": [task("hole", place="valves")]},
        {
            "id": "begun",
            "title": "Begun",
            "need": "could",
            "tasks": [task("b", begun_at=HAUL.isoformat(), crew=["ann"]), task("c")],
        },
    ]
    places = [
        {"id": "hull", "name": "Hull", "capacity": 2},
        {"id": "valves", "name": "Valves", "spot": "through-hulls", "capacity": 1},
    ]
    made = refit(jobs=rows, places=places)
    plan = plan_and_judge(made, HAUL).plan

    def left(asked: Asked) -> set[str]:
        return {lever.acts[0].of for lever in levers_of(made, plan, asked) if lever.acts[0].do is ActSort.NEXT_TIME}

    assert left(Asked()) == set()
    assert left(Asked(must=("rail", "hole", "begun"))) == {"rail"}


def test_the_point_told_is_the_cheapest_that_is_as_sure_as_asked_for_no_more_than_asked() -> None:
    def point(odds: float, money: float, left: int = 0, jobs: tuple[str, ...] = ()) -> Tried:
        return Tried(frozenset([f"{odds}"]), odds, money, left, jobs, 4_000)

    made = a_tight_refit()
    base = Tried(frozenset(), 0.4, 100_000, 0, (), 4_000)
    found = [point(0.85, 120_000), point(0.93, 110_000, 50_000, ("s0",)), point(0.95, 200_000), point(0.951, 201_000)]

    def told(**asked: Any) -> Any:
        return date_told(made, HAUL, Asked(**asked), (), found, 9, base, stands=True, closely=True)

    one = told(odds=0.9, money=15_000)
    assert [(row.odds, row.dearer, row.left_worth) for row in one.points] == [
        (0.4, 0, 0), (0.85, 20_000, 0), (0.93, 10_000, 50_000), (0.95, 100_000, 0),
    ]  # fmt: skip  # a thousandth surer for 10.00 more is not told
    assert one.best == 2
    assert one.points[2].left == ("Should 0",)
    assert told(odds=0.8, money=15_000).best == 2  # 200.00 more is more than asked
    assert told(odds=0.8, money=20_000).best == 1
    assert told(odds=0.94, money=20_000).best is None


def test_of_what_is_as_sure_for_as_much_the_fewest_acts_are_told() -> None:
    """Nothing that adds half a hundredth is worth an act more; what adds more is."""
    rows = [
        Tried(frozenset(keys), odds, money, 0, (), 4_000)
        for keys, odds, money in (
            ("", 0.4, 0),
            ("a", 0.951, 0),
            ("ab", 0.955, 0),
            ("abc", 0.97, 900),
            ("abd", 0.973, 900),
        )
    ]
    assert [(set(one.levers), one.odds) for one in simplest(rows, 0.005)] == [({"a"}, 0.951), (set("abd"), 0.973)]


@pytest.mark.parametrize("stop_after", [1, 3])
def test_stopped_it_keeps_the_best_it_has(stop_after: int) -> None:
    made = Made(5)
    lots = iter(range(99))
    found = Search(made.levers, made.some, lambda _, __: next(lots) < stop_after, 4).run()
    assert found
    assert found == frontier(one for one in found)
    assert made.tries <= 1 + 4 * (stop_after - 1)
