"""A surer plan worth as much: found where order alone decides, taken only when fresh luck says so too."""

from __future__ import annotations

from datetime import timedelta

import pytest

from rovask.core.odds.odds import odds_of
from rovask.core.odds.surer import FRESH, LEAST, ONE_IN_A_HUNDRED, Surer, surer
from rovask.core.plan.planner import Draft, draft_plan, schedule_of
from rovask.core.plan.result import Assignment
from rovask.core.plan.verify.check import verify
from rovask.core.refit.model import Refit
from tests.builders import HAUL, person, refit, task

LEAK = {"id": "leak", "title": "The tank leaks", "chance": 0.5, "hours": 4, "lead_days": 5, "task": "look"}


def a_look(launch: float = 9, **leak: object) -> Refit:
    """Ann has 40 h of her own and an hour of looking at a tank that leaks every other time.

    By likely figures it is the same which comes first: 41 h from Monday 08:00, ten a day, are over on Friday 09:00. A leak wants a part of
    five days or so and 4 h: looked at first, it comes while the rest is done.
    """
    rows = [task(f"long{n}", hours=10, people=["ann"], sureness="sure") for n in range(4)]
    rows.append(task("look", hours=1, people=["ann"], sureness="sure"))
    slot = (HAUL + timedelta(days=launch, hours=7)).isoformat()
    return refit(*rows, people=[person("ann", role="helper")], launch_at=slot, unknowns=[LEAK | leak])


IN_TURN = ("long0", "long1", "long2", "long3", "look")


def with_the_look_last(made: Refit, in_turn: tuple[str, ...] = IN_TURN) -> Draft:
    """The look on Friday, 08:00; a long task on each day before."""
    drafted = draft_plan(made, HAUL)
    days = {key: day for day, key in enumerate(in_turn)}
    rows = [
        Assignment(
            task=key, start=HAUL + timedelta(days=day), end=HAUL + timedelta(days=day, hours=1 if key == "look" else 10),
            people=("ann",),
        )
        for key, day in days.items()
    ]  # fmt: skip
    plan = drafted.plan.model_copy(update={"assignments": tuple(rows)})
    assert verify(made, plan) == []
    schedule = schedule_of(drafted.problem, plan)
    assert schedule is not None
    return Draft(plan, drafted.problem, schedule)


def found(made: Refit, draft: Draft, tries: int = 40) -> Surer | None:
    return surer(made, draft, lambda tried: tried < tries, threads=1)


def test_a_look_that_decides_is_put_before_what_can_wait() -> None:
    made = a_look()
    draft = with_the_look_last(made)
    one = found(made, draft)
    assert one is not None
    at = one.plan.by_task()
    assert at["look"].start < at["long2"].start
    assert verify(made, one.plan) == []
    assert one.gains > 0.2  # looked at on Friday most leaks are too late, looked at on Monday hardly any
    assert 0 < one.low < one.gains < one.high
    # what is told is what the odds of each plan say on luck of yet another seed
    told = [odds_of(made, plan, runs=4000, seed=9, looks=False).odds for plan in (draft.plan, one.plan)]
    assert told == pytest.approx([one.before, one.after], abs=0.04)
    assert one.in_words("EUR").startswith(f"A surer plan was found: +{round(100 * one.gains)} in 100")


def test_what_no_order_changes_is_not_shuffled() -> None:
    """A leak that takes no part and an hour: it is as sure in any order, whatever luck the tries had."""
    made = a_look(launch=4, lead_days=0, hours=1)
    draft = with_the_look_last(made)
    odds = odds_of(made, draft.plan, runs=4000, looks=False).odds
    assert odds is not None
    assert 0.1 < odds < 0.9
    assert found(made, draft, 60) is None


@pytest.mark.parametrize("launch", [5, 40])
def test_where_it_is_settled_nothing_is_tried(launch: float) -> None:
    made = a_look(launch, chance=1.0)
    tried: list[int] = []

    def go_on(one: int) -> bool:
        tried.append(one)
        return one < 5

    assert surer(made, with_the_look_last(made), go_on, threads=1) is None
    assert tried == []


def test_the_test_is_one_sided_at_one_in_a_hundred() -> None:
    """scipy is not here: the quantile is that of the standard library's normal distribution."""
    from statistics import NormalDist

    assert pytest.approx(NormalDist().inv_cdf(0.99), abs=0.001) == ONE_IN_A_HUNDRED
    assert ONE_IN_A_HUNDRED * (0.25 / FRESH) ** 0.5 < LEAST  # the least gain is found even if every run may turn
