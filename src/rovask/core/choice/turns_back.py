"""Until when a way can still be turned back: before the first of what only it does begins, or what it leaves away no longer fits."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import datetime, time, timedelta

from rovask.core.choice.laid import TurnsBack
from rovask.core.plan.result import Plan, Verdict
from rovask.core.refit.model import Refit


def touched(refit: Refit, other: Refit) -> set[str]:
    """Tasks of a refit, not begun, that another one lacks or has otherwise."""
    theirs = other.tasks
    return {key for key, task in refit.tasks.items() if task.begun_at is None and theirs.get(key) != task}


def turns_back(refit: Refit, plan: Plan, verdict: Verdict, other: Refit, planned: Plan) -> TurnsBack | None:
    """Until when ``other``, the refit with a way gone, can be turned back to ``refit``; None where nothing ever stands in the way.

    verdict: of the refit as it is. O(tasks).
    """
    found = [
        *_ordered(refit, other, planned),
        *_begins(other, planned, touched(other, refit)),
        *_too_late(refit, plan, verdict, other),
        *_comes(refit, other),
    ]
    return min(found, key=lambda one: one.at, default=None)


def turned_back_from(refit: Refit, plan: Plan, others: Iterable[Refit]) -> TurnsBack | None:
    """Until when doing nothing of the kind can be: before the first task begins that one of the other ways does not do, or otherwise."""
    keys = set[str]().union(*(touched(refit, other) for other in others))
    return min(_begins(refit, plan, keys), key=lambda one: one.at, default=None)


def _begins(refit: Refit, plan: Plan, keys: set[str]) -> Iterator[TurnsBack]:
    for item in plan.assignments:
        if item.task in keys:
            yield TurnsBack(at=item.start, then=f"“{refit.tasks[item.task].title}” is begun")


def _ordered(refit: Refit, other: Refit, plan: Plan) -> Iterator[TurnsBack]:
    known = {one.id: one for one in refit.orders}
    lines = {line.order: line for line in other.order_lines}
    for order in other.orders:
        if order.id in lines and known.get(order.id) != order:
            what = other.part_by_id[lines[order.id].part].name
            yield TurnsBack(at=plan.now, then=f"{what} is {'ordered' if order.id not in known else 'sent so'}")


def _too_late(refit: Refit, plan: Plan, verdict: Verdict, other: Refit) -> Iterator[TurnsBack]:
    """When a job that the way does without would have to be begun for the launch."""
    gone = {job.id: job for job in refit.jobs} if plan.launch else {}
    kept = {job.id for job in other.jobs}
    at = plan.by_task()
    for key, job in gone.items():
        rows = [at[task.id] for task in job.tasks if task.id in at and not task.begun_at and not task.done_at]
        if key in kept or not rows:
            continue
        first = min(rows, key=lambda item: item.start)
        spare = min((verdict.spare_by_task.get(item.task, 0) for item in rows), default=0)
        yield TurnsBack(
            at=first.start + timedelta(minutes=spare), then=f"“{job.title}” can't be begun in time any more"
        )


def _comes(refit: Refit, other: Refit) -> Iterator[TurnsBack]:
    zone = refit.yard.zone
    for person in other.people:
        if person.id not in refit.persons and person.arrives is not None:
            first = min((shift.start for shift in person.hours), default=time(0))
            yield TurnsBack(at=datetime.combine(person.arrives, first, zone), then=f"{person.name} comes")
