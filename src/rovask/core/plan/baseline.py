"""Plans kept to measure by: a baseline, and what a morning's plan had for a day."""

from __future__ import annotations

from datetime import datetime

from rovask.core.plan.planner import Planned
from rovask.core.plan.result import Plan
from rovask.core.refit.days.kinds import Baseline, PlannedTask
from rovask.core.refit.model import Refit


def planned_tasks(refit: Refit, plan: Plan) -> tuple[PlannedTask, ...]:
    """Every task that isn't done as a plan has it, in order of time. O(tasks log tasks)."""
    rows = []
    for item in plan.assignments:
        task = refit.tasks.get(item.task)
        if task is None or task.done_at is not None:
            continue
        rows.append(
            PlannedTask(
                task=task.id,
                title=task.title,
                job=refit.job_of[task.id].title,
                people=item.people,
                start=item.start,
                end=item.end,
                hours=refit.hours_to_do(task),
            )
        )
    return tuple(sorted(rows, key=lambda row: (row.start, row.task)))


def baseline_of(refit: Refit, planned: Planned, key: str, title: str, why: str, at: datetime) -> Baseline:
    """The present plan as a baseline: what is done stands in it as it was, for it took its time too."""
    done = tuple(
        PlannedTask(
            task=task.id,
            title=task.title,
            job=job.title,
            people=task.crew,
            start=task.begun_at,
            end=task.done_at,
            hours=task.work.likely * task.units,
        )
        for job, task in refit.walk()
        if task.done_at is not None and task.begun_at is not None
    )
    rows = (*done, *planned_tasks(refit, planned.plan))
    there = {row.task for row in rows}
    return Baseline(
        id=key,
        title=title,
        at=at,
        launch_at=refit.launch_at,
        ready_at=planned.plan.ready.at if planned.plan.ready is not None else None,
        why=why,
        tasks=rows,
        unplanned=tuple(key for key in refit.tasks if key not in there),
    )
