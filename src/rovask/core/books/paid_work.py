"""Paid hours: who was and will be paid for how long, on which day, for which job; and by which agreement, if any."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

import numpy as np

from rovask.core.plain.derived import derived
from rovask.core.plain.money import Money
from rovask.core.plan.result import Plan
from rovask.core.plan.verdict.worked import worked
from rovask.core.refit.givens.choices import Role
from rovask.core.refit.model import Agreement, Person, Refit
from rovask.core.refit.purse.choices import AgreementForm

Days = Mapping[date, float]


@dataclass(frozen=True, slots=True)
class Stint:
    """Hours of one person on one day for one task. past: worked already, logged or of a task that is done."""

    person: str
    day: date
    job: str
    task: str
    hours: float
    past: bool


@dataclass(frozen=True, slots=True)
class Paid:
    """What one person comes to outside every agreement, in minor units: done so far, and still planned.

    hours, days: in all; by_job: hours by job, for sharing the money out; by_day: hours by day.
    """

    person: Person
    done: int
    planned: int
    by_job: Mapping[str, float]
    by_day: Days

    @property
    def hours(self) -> float:
        """Hours that are paid: at least the call-out on each day."""
        return sum(max(hours, self.person.call_out_hours) for hours in self.by_day.values())


@derived(of=1)
def stints_of(refit: Refit, plan: Plan) -> tuple[Stint, ...]:
    """Hours of everybody who is paid, and of every trade. The one count of paid days and hours there is.

    Logged hours as logged; a task that is done counts its estimate, on the day it was done, for each of its crew who
    logged nothing on it; what is planned counts in the calendars the planner uses: absences, appointments and the
    yard's hours are not paid.
    """
    return tuple(_stints(refit, plan))


def _stints(refit: Refit, plan: Plan) -> list[Stint]:
    paid = {person.id for person in refit.people if person.rate or person.role is Role.TRADE}
    paid |= {one.person for one in refit.agreements if one.person is not None}
    if not paid:
        return []
    zone, jobs, out = refit.yard.zone, refit.job_of, []
    logged = {(entry.task, entry.person) for entry in refit.hours_log}
    for entry in refit.hours_log:
        if entry.person in paid:
            day = entry.at.astimezone(zone).date()
            out.append(Stint(entry.person, day, jobs[entry.task].id, entry.task, entry.hours, past=True))
    for task in refit.tasks.values():
        if task.done_at:
            day, hours = task.done_at.astimezone(zone).date(), task.work.likely * task.units
            out += [
                Stint(who, day, jobs[task.id].id, task.id, hours, past=True)
                for who in task.crew
                if who in paid and (task.id, who) not in logged
            ]
    for one in worked(refit, plan, lambda item: not paid.isdisjoint(item.people)):
        days, starts = one.grid.days(), one.grid.day_starts()
        where, halves = np.unique(np.searchsorted(starts, one.slots, side="right") - 1, return_counts=True)
        for at, half in zip(where.tolist(), halves.tolist(), strict=True):
            out += [
                Stint(who, days[at], jobs[one.task.id].id, one.task.id, half / 2, past=False)
                for who in paid.intersection(one.item.people)
            ]
    return out


def agreement_for(refit: Refit, person: str, job: str) -> Agreement | None:
    """The agreement that pays a person for a job: one for that very job, else one for whatever the person does."""
    mine = [one for one in refit.agreements if one.person == person]
    return next((one for one in mine if one.job == job), None) or next((one for one in mine if one.job is None), None)


def by_the_hour(refit: Refit, plan: Plan) -> dict[str, list[Stint]]:
    """What everybody with a rate works outside every agreement, by person."""
    by_person: dict[str, list[Stint]] = defaultdict(list)
    for stint in stints_of(refit, plan):
        if refit.persons[stint.person].rate and agreement_for(refit, stint.person, stint.job) is None:
            by_person[stint.person].append(stint)
    return by_person


def spared(refit: Refit, rows: Mapping[str, list[Stint]], gone: Callable[[Stint], bool]) -> int:
    """Minor units that are not paid when some of the work that is still to come is not done by whom it was planned for.

    Less than its hours where somebody is called out that day anyway, more where it was all of the day. rows: as of
    ``by_the_hour``.
    """
    out = 0
    for who, mine in rows.items():
        kept = [row for row in mine if row.past or not gone(row)]
        if len(kept) < len(mine):
            out += cost(refit, refit.persons[who], mine) - cost(refit, refit.persons[who], kept)
    return out


def paid_people(refit: Refit, plan: Plan) -> list[Paid]:
    """Everybody with a rate who works outside every agreement, in the order of people."""
    by_person = by_the_hour(refit, plan)
    out = []
    for person in refit.people:
        rows = by_person.get(person.id)
        if rows:
            whole = cost(refit, person, rows)
            done = cost(refit, person, [row for row in rows if row.past])
            by_job: dict[str, float] = defaultdict(float)
            for row in rows:
                by_job[row.job] += row.hours
            out.append(Paid(person, done, whole - done, dict(by_job), _by_day(rows)))
    return out


def hourly_totals(refit: Refit, plan: Plan) -> dict[str, int]:
    """What each agreement by the hour comes to, worked and planned, in its own currency's minor units."""
    hourly = [one for one in refit.agreements if one.form is AgreementForm.HOURLY]
    if not hourly:
        return {}
    rows: dict[str, list[Stint]] = defaultdict(list)
    for stint in stints_of(refit, plan):
        one = agreement_for(refit, stint.person, stint.job)
        if one is not None:
            rows[one.id].append(stint)
    out = {}
    for one in hourly:
        person = refit.persons[one.person or ""]
        hours = sum(max(much, person.call_out_hours) for much in _by_day(rows[one.id]).values())
        out[one.id] = Money(one.rate_of_pay, one.currency).times(Decimal(str(hours))).minor
    return out


def _by_day(rows: list[Stint]) -> dict[date, float]:
    out: dict[date, float] = defaultdict(float)
    for row in rows:
        out[row.day] += row.hours
    return dict(out)


def cost(refit: Refit, person: Person, rows: list[Stint]) -> int:
    """Each day with work costs the hours of it, but at least the call-out."""
    hours = sum(max(much, person.call_out_hours) for much in _by_day(rows).values())
    return Money(person.rate, refit.currency).times(hours).minor
