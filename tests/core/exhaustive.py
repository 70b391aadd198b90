"""Exhaustive search over every valid plan of a tiny refit, and what a plan is worth, from the refit's own words.

Shares no code with the planner: candidates are walked half-hour by half-hour on the verifier's clock, what must hold
is asked of the verifier, and the worth is counted off the plan's dates.
"""

from collections.abc import Iterator
from datetime import datetime, timedelta
from itertools import combinations

from rovask.core.plain.derived import derived
from rovask.core.plain.half_hours import HALF_HOUR, number_of
from rovask.core.plan.result import Assignment, Plan
from rovask.core.plan.verify.check import Rule, verify
from rovask.core.plan.verify.clock import Clock
from rovask.core.readings.prices import prices_of
from rovask.core.refit.givens.choices import Service
from rovask.core.refit.model import Refit, Task
from rovask.core.refit.work.choices import Need, State

HALVES = timedelta(minutes=30)
NOT_YET = {Rule.COMPLETE, Rule.LEFT_OUT}  # of a plan that is still being put together


def at_work(clock: Clock, task: Task, people: tuple[str, ...], moment: datetime) -> bool:
    """Whether everybody is at work in a half-hour and the task may go on."""
    at = number_of(moment, clock.zone)
    return clock.may_go_on(task)[at] and all(clock.works[who][at] for who in people)


def worth(refit: Refit, plan: Plan) -> int:
    """What a plan costs, in 48ths of a minor unit: late half-hours, jobs left out, paid days, outages, when must-work ends."""
    clock, now, prices = Clock(refit), plan.now, prices_of(refit)
    out = late_half_hour(refit) * ((plan.launch - refit.launch_at) // HALVES)
    for job in refit.jobs:
        if job.id in plan.left_out:
            of_need = {Need.SHOULD: prices.leave_should, Need.COULD: prices.leave_could}[job.need]
            out += 48 * (of_need + prices.task_left * len(job.tasks))
    at = plan.by_task()
    last = now
    days: set[tuple[str, object]] = set()
    for key, item in at.items():
        task = refit.tasks[key]
        if task.state is State.ASHORE and refit.job_of[key].id in must(refit):
            last = max(last, item.end)
        known = _days_of(refit)
        if item not in known:
            known[item] = frozenset(_paid_days(refit, clock, task, item))
        days |= known[item]
        back = at.get(task.until or key)
        for service in task.takes_out if back is not None else ():
            lasts = back.end - item.start
            if service is Service.FRIDGE:  # cooled by the water she floats in: ashore it is out anyway
                ashore = min(back.end, plan.launch) - max(item.start, refit.haul_at)
                lasts -= max(ashore, timedelta(0))
            out += prices.service_day * (lasts // HALVES)
        if any(refit.job_of[key].id in found.jobs for found in refit.findings):
            out += prices.danger_day * ((item.end - now) // HALVES)
    paid = sum(48 * round(refit.persons[who].rate * max(refit.persons[who].call_out_hours, 1)) for who, _ in days)
    return out + paid + prices.day_sooner * ((last - now) // HALVES)


@derived()
def _days_of(refit: Refit) -> dict[Assignment, frozenset[tuple[str, object]]]:
    """What was counted of one assignment, which is asked of thousands of plans that have it."""
    return {}


def _paid_days(refit: Refit, clock: Clock, task: Task, item: Assignment) -> Iterator[tuple[str, object]]:
    """Who is paid for which day, half-hour by half-hour."""
    paid = [who for who in item.people if refit.persons[who].rate]
    moment = item.start
    while paid and moment < item.end:
        if at_work(clock, task, item.people, moment):
            yield from ((who, clock.day(moment)) for who in paid)
        moment += HALF_HOUR


def late_half_hour(refit: Refit) -> int:
    """What a half-hour of lateness weighs: 200 days sooner, without a service and elsewhere, and 20 jobs of each need."""
    one = prices_of(refit)
    days = one.day_sooner + one.service_day + one.night_ashore
    return 48 * (200 * days + 20 * (one.leave_should + one.leave_could))


def must(refit: Refit) -> set[str]:
    """Jobs that may not be left out: must-jobs and what contains their work."""
    out = {job.id for job in refit.jobs if job.need is Need.MUST}
    waits = [(task.contained_by, task.id) for task in refit.tasks.values() if task.contained_by]
    for _ in refit.jobs:
        for first, then in waits:
            if first in refit.job_of and then in refit.job_of and refit.job_of[then].id in out:
                out.add(refit.job_of[first].id)
    return out


def _candidates(refit: Refit, task: Task, plan: Plan, until: datetime, clock: Clock, cutoff: int) -> list[Assignment]:
    """Every time and crew at which the task alone breaks no rule and costs less than ``cutoff``."""
    out = []
    halves = round(refit.hours_to_do(task) * 2)
    for crew in combinations(refit.persons, task.hands):
        start = plan.now - HALF_HOUR
        while start < until:
            start += HALF_HOUR
            if not at_work(clock, task, crew, start):
                continue
            moment, left = start, halves
            while left and moment < until:
                left -= at_work(clock, task, crew, moment)
                moment += HALF_HOUR
            item = Assignment(task=task.id, start=start, end=moment, people=crew)
            alone = plan.model_copy(update={"assignments": (item,)})
            if left or worth(refit, alone) >= cutoff:
                break  # later ones are no better
            if not _breaks(refit, alone, {task.id}):
                out.append(item)
    return out


def _breaks(refit: Refit, plan: Plan, planned: set[str]) -> bool:
    for breach in verify(refit, plan):
        if breach.rule in NOT_YET or (breach.rule is Rule.TIE and "which is not planned" in breach.sentence):
            continue
        if breach.task in planned or not breach.task:
            return True
    return False


def better_than(refit: Refit, now: datetime, cutoff: int, until: datetime) -> Plan | None:
    """A valid plan worth less than ``cutoff`` that ends before ``until``, or None when there is none. Exponential."""
    clock = Clock(refit)
    held = must(refit)
    optional = [job.id for job in refit.jobs if job.id not in held]
    for launch in _launches(refit, cutoff):
        for count in range(len(optional) + 1):
            for left_out in combinations(optional, count):
                empty = Plan(now=now, launch=launch, left_out=left_out)
                keys = [key for key in refit.tasks if refit.job_of[key].id not in left_out]
                options = {key: _candidates(refit, refit.tasks[key], empty, until, clock, cutoff) for key in keys}
                keys.sort(key=lambda key: len(options[key]))
                found = _extend(refit, empty, keys, options, cutoff, {})
                if found is not None:
                    return found
    return None


def _launches(refit: Refit, cutoff: int) -> Iterator[datetime]:
    launch = refit.launch_at
    while late_half_hour(refit) * ((launch - refit.launch_at) // HALVES) < cutoff:
        yield launch
        launch += HALF_HOUR


def _extend(
    refit: Refit,
    plan: Plan,
    keys: list[str],
    options: dict[str, list[Assignment]],
    cutoff: int,
    clashes: dict[tuple[Assignment, Assignment], bool],
) -> Plan | None:
    """Depth first, the task with the fewest times left next; times that clash with what is placed are struck out."""
    if not keys:
        return plan if worth(refit, plan) < cutoff and not verify(refit, plan) else None
    key = min(keys, key=lambda key: len(options[key]))
    rest = [other for other in keys if other != key]
    for item in options[key]:
        larger = plan.model_copy(update={"assignments": (*plan.assignments, item)})
        if worth(refit, larger) >= cutoff:
            continue
        left: dict[str, list[Assignment]] = {}
        for other in rest:
            left[other] = [one for one in options[other] if not _clash(refit, plan, item, one, clashes)]
            if not left[other]:
                break
        else:
            found = _extend(refit, larger, rest, left, cutoff, clashes)
            if found is not None:
                return found
    return None


def _clash(
    refit: Refit, plan: Plan, one: Assignment, other: Assignment, clashes: dict[tuple[Assignment, Assignment], bool]
) -> bool:
    """Whether two assignments break a rule together; asked of the verifier once."""
    if (one, other) not in clashes:
        both = plan.model_copy(update={"assignments": (one, other)})
        clashes[one, other] = clashes[other, one] = _breaks(refit, both, {one.task, other.task})
    return clashes[one, other]
