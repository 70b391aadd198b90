"""Earned value against a published worked example, and against its own definitions."""

from __future__ import annotations

import pytest

from rovask.core.books.earned_value import EarnedValue, earned_value, job_standings
from rovask.core.plan.planner import plan_and_judge
from tests.builders import HAUL, LAUNCH, refit, task


def test_the_fence_of_four_sides() -> None:
    """R. Mulcahy, PMP Exam Prep, chapter on cost: a fence of four sides, a day and 1 000 each; figures from memory.

    At the end of day three: side 1 done for 1 000, side 2 done for 1 200, side 3 half done for 600. The book's estimate at
    completion, 4 479, is reckoned with the CPI rounded to 0.893; unrounded it is 4 480.
    """
    fence = EarnedValue(bac=4000, planned=3000, earned=2500, actual=2800)
    assert fence.cost_variance == -300
    assert fence.schedule_variance == -500
    assert fence.cpi == pytest.approx(0.893, abs=5e-4)
    assert fence.spi == pytest.approx(0.833, abs=5e-4)
    assert fence.estimate_at_completion == 4480
    assert fence.estimate_at_completion == pytest.approx(4479, abs=1)


def test_nothing_spent_and_nothing_done_have_no_index() -> None:
    at_first = EarnedValue(bac=4000, planned=0, earned=0, actual=0)
    assert (at_first.cpi, at_first.spi, at_first.estimate_at_completion) == (None, None, None)


def test_a_job_half_done_earns_half_of_its_money() -> None:
    """Two jobs with a part of 100.00 and 60.00; the first is half worked, its part paid; half the time is gone."""
    now = HAUL + (LAUNCH - HAUL) / 2
    it = refit(
        jobs=[
            {"id": "j", "title": "J", "tasks": [
                task("a", 4, parts=["x"], begun_at="2026-05-04T08:00Z", done_at="2026-05-04T12:00Z", crew=["ann"]),
                task("b", 4),
            ]},
            {"id": "k", "title": "K", "tasks": [task("c", 4, parts=["y"])]},
        ],
        parts=[{"id": "x", "name": "X", "price": 9000}, {"id": "y", "name": "Y", "price": 6000}],
        orders=[{"id": "o", "supplier": "S", "currency": "EUR", "rate": "1", "placed_at": HAUL.isoformat()}],
        order_lines=[{"id": "l", "order": "o", "part": "x", "price": 10000}],
        entries=[
            {"id": key, "title": key, "kind": key, "order": "o", "amount": 10000, "currency": "EUR", "rate": "1",
             "at": HAUL.isoformat()}
            for key in ("invoice", "payment")
        ],
    )  # fmt: skip
    plan = plan_and_judge(it, now.replace(minute=0)).plan
    found = earned_value(it, plan)
    assert (found.bac, found.earned, found.actual) == (16000, 5000, 10000)
    assert found.planned == pytest.approx(8000, abs=60)
    assert found.estimate_at_completion == 32000
    first, second = job_standings(it, plan)
    assert (first.worked, first.spent_share) == (0.5, 1.0)
    assert (second.worked, second.spent_share) == (0.0, 0.0)
