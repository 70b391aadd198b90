"""Something that comes at a fixed time and works with people: an appointment, and the task that is done while it is there."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.refit.edits import rebuilt
from rovask.core.refit.model import Appointment, Job, Link, Refit, Task
from rovask.core.refit.work.choices import LinkKind, Need
from rovask.core.refit.work.edits import task_of, update_task
from rovask.core.refit.work.kinds import WorkTime

NewId = Callable[[str], str]


def comes(
    refit: Refit, title: str, at: datetime, hours: float, people: tuple[str, ...], place: str, task: str, new_id: NewId
) -> tuple[Refit, str]:
    """The refit with what comes at a fixed time, and the id of the task that begins with it, for which its people are held.

    task: one there is already that is done then; "": a task of its own in a job of that name. The appointment holds nobody
    by itself, for who works with it is busy with the task; when it is moved the task goes along. Raises RefitFaults.
    """
    if not title.strip():
        raise RefitFaults([Fault("title", "Say what comes.")])
    meeting = Appointment(id=new_id("appointment"), title=title, at=at, hours=hours)
    if task:
        old = task_of(refit, task)
        if old.begun_at is not None:
            raise RefitFaults([Fault("task", f"“{old.title}” is begun already.")])
        changes: dict[str, object] = {"pin": None}
        if people:
            if len(people) < old.hands:
                raise RefitFaults([Fault("people", f"“{old.title}” takes {old.hands} hands; tick as many.")])
            changes |= {"people": people}
        refit = update_task(refit, task, **changes)
    else:
        if place not in refit.place_by_id:
            raise RefitFaults([Fault("place", "Choose where it works.")])
        task = new_id("task")
        work = WorkTime(least=hours, likely=hours, most=hours)
        own = Task(
            id=task, title=title, place=place, work=work, people=people, hands=max(len(people), 1), unbroken=True
        )
        job = Job(id=new_id("job"), title=title, need=Need.MUST, tasks=(own,))
        refit = rebuilt(refit, jobs=(*refit.jobs, job))
    tie = Link(
        id=new_id("link"), first=meeting.id, then=task, kind=LinkKind.SS, min_lag=0, max_lag=0, reason=f"with {title}"
    )
    return rebuilt(refit, appointments=(*refit.appointments, meeting), links=(*refit.links, tie)), task
