"""Whatever the refit, the plan passes the verifier; nothing is lost without a name and a reason."""

from datetime import timedelta

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from benches.generate import generated_refit
from rovask.core.plan.planner import make_plan, plan_and_judge
from rovask.core.plan.result import Outcome
from rovask.core.plan.verify.check import verify
from rovask.core.refit.model import Refit
from rovask.core.refit.work.make_good import make_good_id
from tests.builders import HAUL
from tests.core.strategies import refits

SLOW = settings(max_examples=150, deadline=None, suppress_health_check=[HealthCheck.too_slow], derandomize=True)


@SLOW
@given(refits(), st.integers(0, 20))
def test_every_plan_of_a_random_refit_passes_the_verifier(made: Refit, hours: int) -> None:
    now = HAUL + timedelta(hours=5 + hours)
    planned = plan_and_judge(made, now, starts=4)
    assert verify(made, planned.plan) == []
    planned_or_named = {item.task for item in planned.plan.assignments} | set(planned.plan.unplanned)
    left_out = {task.id for job in made.jobs if job.id in planned.plan.left_out for task in job.tasks}
    made_good = {make_good_id(link) for link in planned.plan.made_good}
    assert (planned_or_named - made_good) | left_out == set(made.tasks)
    assert bool(planned.plan.unplanned) <= bool(planned.plan.collisions)
    assert all(collision.sentence for collision in planned.plan.collisions)
    if planned.verdict.outcome is Outcome.SHORT:
        assert planned.plan.launch > made.launch_at
    if planned.verdict.outcome is Outcome.HELD:
        assert planned.plan.launch == made.launch_at
        assert planned.verdict.spare_minutes >= 0


@SLOW
@given(refits(), st.integers(1, 3))
def test_the_same_refit_gives_the_same_plan(made: Refit, seed: int) -> None:
    assert make_plan(made, HAUL, 3, seed) == make_plan(made, HAUL, 3, seed)


@settings(max_examples=12, deadline=None, derandomize=True)
@given(st.sampled_from([30, 60, 120]), st.integers(1, 500), st.integers(0, 9))
def test_generated_refits_plan_and_verify_whole(tasks: int, seed: int, day: int) -> None:
    made = generated_refit(tasks, seed)
    plan = make_plan(made, made.haul_at + timedelta(days=day), starts=2)
    assert verify(made, plan) == []
    assert plan.unplanned == ()
