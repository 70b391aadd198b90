"""What the first plan left out is tried again before what could give way to it."""

from datetime import timedelta

import pytest

from benches.generate import generated_refit
from rovask.core.plan.first.left_out import with_left_out
from rovask.core.plan.first.serial import first_schedule
from rovask.core.plan.planner import plan_and_judge
from rovask.core.plan.problem.value import UNPLACED, unsettling
from rovask.core.plan.trial import Trial
from rovask.core.plan.verify.check import verify
from rovask.core.refit.model import Refit
from tests.builders import HAUL, link, person, refit, task


def two_that_want_tuesday(launch_hours: float) -> Refit:
    """Monday is full of must-work. Then 3 h that should and 8 h that could be done, each in one go; the launch on Wednesday.

    The 3 h come first and take Tuesday's morning as the first place they find. Of Tuesday's ten hours seven are left, of
    Wednesday's none that would do: by hand, the eight fit only if the three go to Wednesday.
    """
    jobs = [
        {"id": "job", "title": "Job", "tasks": [task("m", 10)]},
        {"id": "short", "title": "Short", "need": "should", "tasks": [task("a", 3, unbroken=True)]},
        {"id": "long", "title": "Long", "need": "could", "tasks": [task("b", 8, unbroken=True)]},
    ]
    links = [link("m", "a"), link("m", "b")]
    launch = HAUL + timedelta(days=2, hours=launch_hours)
    return refit(jobs=jobs, links=links, people=[person("ann")], launch_at=launch.isoformat())


def test_a_job_fits_where_another_makes_room() -> None:
    made = two_that_want_tuesday(5)
    problem, windows = Trial(made, HAUL, None, []).possible()
    assert problem is not None and windows is not None
    first = first_schedule(problem, windows, 4)
    assert first.start[problem.node("b")] == UNPLACED  # else this tests nothing
    planned = plan_and_judge(made, HAUL)
    assert verify(made, planned.plan) == [] and planned.verdict.left_out == ()
    at = planned.plan.by_task()
    assert at["b"].start == HAUL + timedelta(days=1) and at["a"].start == HAUL + timedelta(days=2)


def test_what_really_does_not_fit_stays_out_and_pushes_nothing() -> None:
    made = two_that_want_tuesday(2.5)  # Wednesday has room for no 3 h any more
    planned = plan_and_judge(made, HAUL)
    assert planned.verdict.left_out == ("long",)
    assert planned.plan.by_task()["a"].start == HAUL + timedelta(days=1)


@pytest.mark.parametrize("seed", [1, 2, 3, 4])
def test_it_never_costs_more_and_the_launch_nothing(seed: int) -> None:
    whole = generated_refit(60, seed)
    made = whole.grown(launch_at=whole.haul_at + timedelta(days=int((whole.launch_at - whole.haul_at).days * 0.6)))
    problem, windows = Trial(made, made.haul_at, None, []).possible()
    assert problem is not None and windows is not None
    first = first_schedule(problem, windows, 3)
    found = with_left_out(problem, windows, first)
    assert found.value + unsettling(problem.arrays, found.start) <= first.value + unsettling(
        problem.arrays, first.start
    )
    must = problem.arrays.need == 0
    assert ((found.start != UNPLACED) >= (first.start != UNPLACED))[must].all()
    assert found.start[1] <= max(first.start[1], problem.arrays.launch_at)
    assert verify(made, plan_and_judge(made, made.haul_at).plan) == []
