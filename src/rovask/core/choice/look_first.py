"""When a look could be taken at the earliest: the moments worth pinning the task to in which something comes to light."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime, timedelta

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plan.planner import plan_and_judge
from rovask.core.plan.problem.compile import compile_refit
from rovask.core.plan.problem.windows import windows_of
from rovask.core.plan.result import Plan
from rovask.core.refit.model import Refit
from rovask.core.refit.work.edits import update_task

TRIED = 5  # moments that are tried, from the earliest on
STARTS = 3  # schedules a plan of a try is made of


def looked_at_first(refit: Refit, key: str, plan: Plan) -> Refit:
    """The refit with a task pinned to the earliest moment a plan finds room for it. plan: the present one of this refit.

    By ties and calendars alone first; where its people or its place are held then, a day later, and so on. At most TRIED plans.
    Raises RefitFaults where it is begun, isn't planned, or is as early as it can be.
    """
    task, at = refit.tasks.get(key), plan.by_task().get(key)
    if task is None or task.begun_at:
        raise RefitFaults([Fault("", "This task is gone or begun.")])
    if at is None:
        raise RefitFaults([Fault("", f"“{task.title}” is not planned, so there is nothing to do sooner.")])
    for moment in _moments(refit, key, plan, at.start):
        pinned = update_task(refit, key, pin=moment)
        tried = plan_and_judge(pinned, plan.now, STARTS, before=plan).plan
        if set(tried.unplanned) <= set(plan.unplanned):
            return pinned
    raise RefitFaults([Fault("", f"“{task.title}” is planned as early as it can be.")])


def _moments(refit: Refit, key: str, plan: Plan, planned: datetime) -> Iterator[datetime]:
    """From the earliest by ties and calendars on, a day apart, each before the planned one."""
    free = update_task(refit, key, pin=None)
    problem = compile_refit(free, plan.now, plan.collisions, plan.made_good, plan, broken=plan.broken)
    windows = windows_of(problem)
    if key not in problem.tasks or not windows.possible:
        return
    first = problem.grid.moment(int(windows.start[problem.node(key)]))
    for days in range(TRIED):
        moment = first + timedelta(days=days)
        if moment >= planned:
            return
        yield moment
