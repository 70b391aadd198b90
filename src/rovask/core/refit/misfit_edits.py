"""A part that came and doesn't fit is made to: a task of its own, before all that needs the part."""

from __future__ import annotations

from collections.abc import Callable

from rovask.core.refit.choices import State
from rovask.core.refit.edits import put, rebuilt
from rovask.core.refit.faults import Fault, RefitFaults
from rovask.core.refit.jobs import Task, WorkTime
from rovask.core.refit.model import Link, Receipt, Refit
from rovask.core.refit.order_edits import line_of
from rovask.core.refit.part_edits import part_of

NewId = Callable[[str], str]


def made_to_fit(refit: Refit, receipt: Receipt, hours: float, new_id: NewId) -> Refit:
    """The refit with a task that makes a delivery fit, in the job that needs it first. Raises RefitFaults if none does."""
    part = part_of(refit, line_of(refit, receipt.line).part)
    users = [task for task in refit.tasks.values() if part.id in task.parts and not task.begun_at]
    if not users:
        raise RefitFaults(
            [Fault("remedy", "No task that is still to be begun uses it; exchange it, or keep it as it is.")]
        )
    first = users[0]
    task = Task(
        id=new_id("task"),
        title=f"Make {part.name} fit"[:120],
        place=first.place,
        state=State.EITHER,
        work=WorkTime(least=hours, likely=hours, most=hours * 2),
        note=f"It is off by {receipt.off_by}." if receipt.off_by else "",
    )
    home = refit.job_of[first.id]
    at = next(n for n, one in enumerate(home.tasks) if one.id == first.id)
    job = home.model_copy(update={"tasks": (*home.tasks[:at], task, *home.tasks[at:])})
    links = tuple(Link(id=new_id("link"), first=task.id, then=user.id, reason="made to fit first") for user in users)
    made = rebuilt(refit, jobs=tuple(job if one is home else one for one in refit.jobs), links=(*refit.links, *links))
    return put(made, receipt.model_copy(update={"by": task.id}))
