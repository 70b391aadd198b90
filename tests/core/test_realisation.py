"""A problem in two steps: what is to be done and by whom, and the numbers, which trials may draw otherwise."""

from __future__ import annotations

from datetime import timedelta

import numpy as np
import pytest

from benches.generate import generated_refit
from rovask.core.plan.first.serial import first_schedule
from rovask.core.plan.problem.compile import compile_refit
from rovask.core.plan.problem.realisation import realisation_of, realised
from rovask.core.plan.problem.windows import windows_of
from rovask.core.refit.model import Refit
from rovask.core.refit.stores.choices import PartStatus
from rovask.core.refit.work import edits as work_edits


def slower(made: Refit, keys: set[str]) -> Refit:
    for key in keys:
        work = made.tasks[key].work
        more = {"least": work.least, "likely": work.likely + 2, "most": work.most + 2}
        made = work_edits.update_task(made, key, work=more)
    return made


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_other_numbers_in_the_same_structure_are_the_problem_compiled_anew(seed: int) -> None:
    """Longer work, later parts and a later launch: swapping arrays gives what compiling the changed refit gives."""
    made = generated_refit(60, seed)
    now = made.haul_at
    problem = compile_refit(made, now)
    other = slower(made, set(list(made.tasks)[::3]))
    parts = {part.id: now + timedelta(days=4) for part in other.parts if part.status is not PartStatus.CHECKED}
    ready = {(task.id, key): parts.get(key) for task in other.tasks.values() for key in task.parts}
    wanted = compile_refit(other, now, ready=ready)
    assert wanted.tasks == problem.tasks
    numbers = realisation_of(wanted)
    swapped = realised(problem, numbers)
    assert not np.array_equal(problem.arrays.work, wanted.arrays.work)
    for name, one, another in zip(wanted.arrays._fields, swapped.arrays, wanted.arrays, strict=True):
        assert np.array_equal(one, another), name
    plans = [first_schedule(one, windows_of(one), 4) for one in (swapped, wanted)]
    assert np.array_equal(plans[0].start, plans[1].start)
    assert plans[0].value == plans[1].value


def test_when_a_part_can_be_used_is_handed_in() -> None:
    made = generated_refit(60, 1)
    now = made.haul_at
    waiting = next(task for task in made.tasks.values() if task.parts)
    late = now + timedelta(days=9)
    problem = compile_refit(made, now, ready={(one.id, key): late for one in made.tasks.values() for key in one.parts})
    node = problem.node(waiting.id)
    assert problem.grid.moment(int(problem.arrays.release[node])) >= late
