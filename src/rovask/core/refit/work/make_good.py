"""The work that makes a missed overcoating window good, as a task of its own.

A tie may say what is to be done when its longest wait is missed (wash, abrade, wipe). Where a plan can't hold the wait
that work is a task like any other, with its name, in the job it belongs to: the plan's own until somebody acts on it,
then the refit's.
"""

from __future__ import annotations

from collections.abc import Iterable

from rovask.core.plain.derived import derived
from rovask.core.refit.model import Refit
from rovask.core.refit.work.kinds import Link, Task, WorkTime

MARK, TIE_MARK, BACK_MARK = "mg-", "mgt-", "mgb-"


def make_good_id(link: str) -> str:
    """The id of the task that makes a tie's missed wait good."""
    return f"{MARK}{link}"[:40]


def link_made_good_by(refit: Refit, task: str) -> Link | None:
    """The tie a make-good task of the plan stands for; None for any other task."""
    if not task.startswith(MARK) or task in refit.tasks:
        return None
    return next((link for link in refit.links if link.make_good_hours and make_good_id(link.id) == task), None)


def with_make_good(refit: Refit, missed: Iterable[str]) -> Refit:
    """``refit`` with a task for each missed wait that has make-good work; the refit itself when there is none.

    The task lies before what came too late, in its place and state, done by one who may do that; the tie keeps its
    least wait and loses its longest one.
    """
    wanted = set(missed)
    links = [link for link in refit.links if link.id in wanted and link.make_good_hours and link.then in refit.tasks]
    links = [link for link in links if make_good_id(link.id) not in refit.tasks]
    if not links:
        return refit
    return _made(refit, tuple(links))


@derived()  # so that what is worked out of it is found again
def _made(refit: Refit, links: tuple[Link, ...]) -> Refit:
    made = {link.id: _task_of(refit, link) for link in links}
    before: dict[str, list[Task]] = {}
    for link in links:
        before.setdefault(link.then, []).append(made[link.id])
    jobs = tuple(
        job.model_copy(update={"tasks": tuple(one for task in job.tasks for one in (*before.get(task.id, ()), task))})
        if any(task.id in before for task in job.tasks)
        else job
        for job in refit.jobs
    )
    ties: list[Link] = []
    for link in refit.links:
        if link.id not in made:
            ties.append(link)
            continue
        key = made[link.id].id
        ties.append(link.model_copy(update={"max_lag": None, "make_good_hours": None, "make_good": ""}))
        if link.first in refit.tasks:
            ties.append(
                Link(id=f"{TIE_MARK}{link.id}"[:40], first=link.first, then=key, min_lag=link.min_lag, cures=link.cures)
            )
        ties.append(Link(id=f"{BACK_MARK}{link.id}"[:40], first=key, then=link.then, reason="made good first"))
    return refit.supposed(jobs=jobs, links=tuple(ties))


def _task_of(refit: Refit, link: Link) -> Task:
    then = refit.tasks[link.then]
    hours = link.make_good_hours or 0.5
    first = refit.tasks[link.first].title if link.first in refit.tasks else link.first
    title = link.make_good[:1].upper() + link.make_good[1:] if link.make_good else "Wash, abrade and wipe"
    return Task(
        id=make_good_id(link.id),
        title=f"{title}: “{first}” waited too long"[:120],
        place=then.place,
        state=then.state,
        work=WorkTime(least=hours, likely=hours, most=hours),
        skill=then.skill,
        people=then.people,
        caution=then.caution,
    )
