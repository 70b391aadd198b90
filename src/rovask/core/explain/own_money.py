"""The money of a change itself, apart from what the plan of the rest does in answer."""

from __future__ import annotations

from rovask.core.books.forecast import forecast
from rovask.core.books.items import chance_of, unknowns_that_count
from rovask.core.plain.money import Money
from rovask.core.plan.problem.crews import crews_for
from rovask.core.plan.result import Assignment, Plan
from rovask.core.refit.model import Job, Part, Refit


def left(refit: Refit, plan: Plan) -> set[str]:
    """Jobs that are left out or can't be planned whole."""
    return set(plan.left_out) | {refit.job_of[key].id for key in plan.unplanned if key in refit.job_of}


def own_money(refit: Refit, before: Plan, changed: Refit, after: Plan) -> Money:
    """What the things that differ cost by themselves: what is new on the plan after, less what is gone on the one before."""
    if _only_booked(refit, changed) and _same_schedule(before, after):
        return forecast(changed, after).total - forecast(refit, before).total
    new = [job for job in changed.jobs if job not in refit.jobs and job.id not in {one.id for one in refit.jobs}]
    gone = [job for job in refit.jobs if job.id not in {one.id for one in changed.jobs}]
    parts, kept = ({part.id: part for part in one.parts} for one in (refit, changed))
    ordered = _ordered_otherwise(refit, changed)
    bought = [part for part in changed.parts if parts.get(part.id) != part or part.id in ordered]
    spared = [part for part in refit.parts if kept.get(part.id) != part or part.id in ordered]
    things = _worth(changed, after, new, bought) - _worth(refit, before, gone, spared)
    return things + _booked(refit, before, changed)


def reworked(refit: Refit, before: Plan, changed: Refit, after: Plan) -> Money:
    """What jobs that are there before and after cost more by themselves, for other hours, logs or people; and a launch moved."""
    jobs = {job.id: job for job in refit.jobs}
    logs = [set(one.hours_log) for one in (refit, changed)]
    worked = {entry.task for entry in logs[0] ^ logs[1]}
    rates = refit.people != changed.people and {one.id: one.rate for one in refit.people} != {
        one.id: one.rate for one in changed.people
    }
    other = [
        job
        for job in changed.jobs
        if job.id in jobs
        and (rates or job.tasks != jobs[job.id].tasks or any(task.id in worked for task in job.tasks))
        and job.id not in left(refit, before) | left(changed, after)
    ]
    out = Money(0, refit.currency)
    if other:
        out += _worth(changed, after, other, []) - _worth(refit, before, [jobs[job.id] for job in other], [])
    new = {job.id for job in changed.jobs} ^ set(jobs)
    worth = [
        sum(
            Money(one.money, side.currency).times(chance_of(side, one)).minor
            for one in unknowns_that_count(side, plan)
            if getattr(side.job_of.get(one.task or ""), "id", None) not in new | {job.id for job in other}
        )
        for side, plan in ((refit, before), (changed, after))
    ]
    out += Money(worth[1] - worth[0], refit.currency)
    moved = changed.launch_at - refit.launch_at
    if moved and before.launch == refit.launch_at:
        there = before.model_copy(update={"launch": changed.launch_at})
        other_slot = refit.supposed(launch_at=changed.launch_at)
        out += forecast(other_slot, there).total - forecast(refit, before).total
    return out


def _only_booked(refit: Refit, changed: Refit) -> bool:
    """Whether nothing is different but bills and agreements."""
    others = (name for name in Refit.model_fields if name not in BOOKED)
    return all(getattr(refit, name) == getattr(changed, name) for name in others)


def _same_schedule(before: Plan, after: Plan) -> bool:
    return (before.assignments, before.launch, before.left_out) == (after.assignments, after.launch, after.left_out)


BOOKED = ("entries", "agreements", "yard_extras")


TARIFF = ("tariff", "meter", "lift_and_launch", "lay_day", "free_days", "slings_night")


def _booked(refit: Refit, before: Plan, changed: Refit) -> Money:
    """What bills, agreements and the yard's tariff that differ come to on the plan before: none of it is the plan's answer."""
    lists = {name: getattr(changed, name) for name in BOOKED if getattr(changed, name) != getattr(refit, name)}
    prices = {name: getattr(changed.yard, name) for name in TARIFF}
    if any(getattr(refit.yard, name) != value for name, value in prices.items()):
        lists["yard"] = refit.yard.model_copy(update=prices)
    if not lists:
        return Money(0, refit.currency)
    ids = {job.id for job in refit.jobs}
    if "agreements" in lists:  # one for a job that is new is none without it
        lists["agreements"] = tuple(one for one in lists["agreements"] if one.job is None or one.job in ids)
    booked = refit.supposed(**lists)
    return forecast(booked, before).total - forecast(refit, before).total


def _ordered_otherwise(refit: Refit, changed: Refit) -> set[str]:
    """Ids of parts whose orders differ."""
    if refit.order_lines == changed.order_lines and refit.orders == changed.orders:
        return set()

    def lines(one: Refit) -> dict[tuple[str, str], object]:
        orders = {order.id: order for order in one.orders}
        return {(line.part, line.id): (line, orders[line.order]) for line in one.order_lines}

    was, is_ = lines(refit), lines(changed)
    return {key[0] for key in was.keys() | is_.keys() if was.get(key) != is_.get(key)}


def _worth(refit: Refit, plan: Plan, jobs: list[Job], parts: list[Part]) -> Money:
    """What some jobs and parts add to the forecast of a plan, whatever day they lie on: it with them, less it without.

    Paid hours count as hours of the cheapest who can: whether somebody has to come for an hour more or is there anyway,
    and who does it, is the plan's answer.
    """
    if not jobs and not parts:
        return Money(0, refit.currency)
    people = tuple(person.model_copy(update={"call_out_hours": 0.0}) for person in refit.people)
    refit = refit.supposed(people=people)
    keys = {task.id for job in jobs for task in job.tasks}
    bare = without(refit, {job.id for job in jobs}, {part.id for part in parts})
    rest = plan.model_copy(
        update={
            "assignments": tuple(item for item in plan.assignments if item.task not in keys),
            "unplanned": tuple(key for key in plan.unplanned if key not in keys),
            "left_out": tuple(key for key in plan.left_out if key not in {job.id for job in jobs}),
            "made_good": tuple(key for key in plan.made_good if any(link.id == key for link in bare.links)),
        }
    )
    dearer = sum(_dearer(refit, item) for item in plan.assignments if item.task in keys)
    return forecast(refit, plan).total - forecast(bare, rest).total - Money(dearer, refit.currency)


def _dearer(refit: Refit, item: Assignment) -> int:
    """Minor units by which those who are planned for a task cost more than the cheapest who could do it."""
    task = refit.tasks[item.task]
    if task.begun_at:
        return 0

    def rate(crew: tuple[str, ...]) -> int:
        return sum(refit.persons[who].rate for who in crew)

    cheapest = min((rate(crew) for crew in crews_for(refit, task)), default=rate(item.people))
    return Money(rate(item.people) - cheapest, refit.currency).times(refit.hours_to_do(task)).minor


def without(refit: Refit, jobs: set[str], parts: set[str]) -> Refit:
    """A refit without some jobs with all that hangs on them, and some parts; for arithmetic only, not validated."""
    keys = {task.id for job in refit.jobs if job.id in jobs for task in job.tasks}
    named = {line.order for line in refit.order_lines if line.part in parts}
    only_of = named - {line.order for line in refit.order_lines if line.part not in parts}
    rows = tuple(
        job.model_copy(
            update={
                "tasks": tuple(
                    task.model_copy(update={"parts": tuple(key for key in task.parts if key not in parts)})
                    if set(task.parts) & parts
                    else task
                    for task in job.tasks
                )
            }
        )
        for job in refit.jobs
        if job.id not in jobs
    )
    return refit.supposed(
        jobs=rows,
        parts=tuple(part for part in refit.parts if part.id not in parts),
        orders=tuple(order for order in refit.orders if order.id not in only_of),
        order_lines=tuple(line for line in refit.order_lines if line.order not in only_of),
        links=tuple(link for link in refit.links if link.first not in keys and link.then not in keys),
        hours_log=tuple(entry for entry in refit.hours_log if entry.task not in keys),
        unknowns=tuple(one for one in refit.unknowns if one.task not in keys),
    )
