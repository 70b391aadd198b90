"""What can be saved: put off, interim, own hands, fewer call-outs, a cheaper offer; ranked by money for the harm it does.

Harm is counted in days: of launch or of one's own work. Safety is never on the list: must-jobs are not put off, and nothing
that was found dangerous is put off or fixed for the time being.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, replace
from datetime import date
from enum import StrEnum

from rovask.core.books.item import ItemKind
from rovask.core.books.items import items, spared_by
from rovask.core.books.paid_work import Stint, by_the_hour, cost, spared
from rovask.core.judged.offer_edits import landed_price
from rovask.core.plain.words import day
from rovask.core.plan.problem.crews import may_do
from rovask.core.plan.result import Plan
from rovask.core.refit.edits import put
from rovask.core.refit.givens.choices import Role
from rovask.core.refit.givens.kinds import DayRange
from rovask.core.refit.model import Finding, Job, Person, Refit, Task
from rovask.core.refit.seen.choices import Severity
from rovask.core.refit.seen.edits import INTERIM
from rovask.core.refit.stores.choices import OfferState
from rovask.core.refit.work.choices import Need
from rovask.core.refit.work.make_good import with_make_good

OWN_DAY = 8.0  # hours of one's own that make a day of harm
LEAST = 0.25  # days: what does no harm that can be counted still takes an hour or two of somebody's
INTERIM_HOURS = 2.0  # what an interim fix usually takes, until somebody says (common practice)
SHOULD_HARM, COULD_HARM, INTERIM_HARM = 1.0, 0.5, 0.75  # days; a fix for now is to be done once more


class SavingKind(StrEnum):
    """How money can be saved."""

    PUT_OFF = "put off"
    INTERIM = "interim fix"
    OWN_HANDS = "own hands"
    CALL_OUTS = "fewer call-outs"
    OFFER = "cheaper offer"


@dataclass(frozen=True, slots=True)
class Saving:
    """One way to spend less. key: the job, person or offer it is about; harm: in days; minor units of the refit's currency.

    settled: whether it was worked out with the plan; else money is what the thing itself spares, before the plan answers.
    """

    kind: SavingKind
    key: str
    title: str
    how: str
    money: int
    harm: float
    settled: bool = False

    @property
    def per_harm(self) -> float:
        """Money for each day of harm."""
        return self.money / max(self.harm, LEAST)


def savings(refit: Refit, plan: Plan) -> list[Saving]:
    """Every way to save, the most money for the least harm first. O(jobs x items)."""
    refit = with_make_good(refit, plan.made_good)
    paid = by_the_hour(refit, plan)
    found = [*_jobs(refit, plan, paid), *_own_hands(refit, paid), *_call_outs(refit, paid), *_offers(refit)]
    return ranked(found)


def ranked(found: list[Saving]) -> list[Saving]:
    """What saves anything, the most money for the least harm first."""
    return sorted((one for one in found if one.money > 0), key=lambda one: (-one.per_harm, one.title))


def _jobs(refit: Refit, plan: Plan, paid: dict[str, list[Stint]]) -> list[Saving]:
    """Jobs that nobody has begun, for what of them is neither bound nor spent: put off, or done for the time being."""
    dangerous = {job for one in refit.findings if one.severity is Severity.DANGEROUS for job in one.jobs}
    goods: dict[str | None, int] = defaultdict(int)
    for row in items(refit, plan):
        if row.kind in (ItemKind.PART, ItemKind.UNKNOWN):
            goods[row.job] += row.rest
    of_job: dict[str, dict[str, list[Stint]]] = defaultdict(dict)
    for who, rows in paid.items():
        for key in {row.job for row in rows}:
            of_job[key][who] = rows
    out = []
    for job in refit.jobs:
        if any(task.begun_at for task in job.tasks) or job.id in dangerous or job.id in plan.left_out:
            continue
        money = goods[job.id] + spared(refit, of_job[job.id], lambda row, key=job.id: row.job == key)  # type: ignore[misc]
        if job.need is not Need.MUST:
            harm = SHOULD_HARM if job.need is Need.SHOULD else COULD_HARM
            how = f"a {job.need.value}-job, left to the next haul-out"
            out.append(Saving(SavingKind.PUT_OFF, job.id, job.title, how, money, harm))
        if finding_of(refit, job) is not None:
            how = f"made good for now in about {INTERIM_HOURS:g} h of your own, properly at the next haul-out"
            harm = INTERIM_HARM + INTERIM_HOURS / OWN_DAY
            out.append(Saving(SavingKind.INTERIM, job.id, job.title, how, money, harm))
    return out


def finding_of(refit: Refit, job: Job) -> Finding | None:
    """What a job came of, where that is open and the job is no interim fix already."""
    if job.title.startswith(INTERIM):
        return None
    return next((one for one in refit.findings if job.id in one.jobs and not one.settled), None)


def own_tasks(refit: Refit, job: Job) -> list[tuple[Task, Person]]:
    """Tasks of a job that a paid person is to do and an owner or helper may, each with whoever may."""
    mine = [person for person in refit.people if person.role in (Role.OWNER, Role.HELPER) and not person.rate]
    out = []
    for task in job.tasks:
        if task.begun_at or task.hands != 1:
            continue
        able = next((person for person in mine if may_do(person, task)), None)
        if able is not None:
            out.append((task, able))
    return out


def by_ourselves(refit: Refit, key: str) -> Refit:
    """The refit where a job's tasks that one of us may do are given to whoever may."""
    job = next(one for one in refit.jobs if one.id == key)
    mine = {task.id: person.id for task, person in own_tasks(refit, job)}
    tasks = tuple(
        task.model_copy(update={"people": (mine[task.id],)}) if task.id in mine else task for task in job.tasks
    )
    return put(refit, job.model_copy(update={"tasks": tasks}))


def _own_hands(refit: Refit, paid: dict[str, list[Stint]]) -> list[Saving]:
    """What is paid by the hour for tasks that one of us may do; an agreement's price stays what was agreed."""
    hired = {row.task for rows in paid.values() for row in rows if not row.past}
    out = []
    for job in refit.jobs:
        keys = {task.id for task, _ in own_tasks(refit, job) if task.id in hired}
        if keys:
            money = spared(refit, paid, lambda row, keys=keys: row.task in keys)  # type: ignore[misc]
            hours = sum(refit.hours_to_do(refit.tasks[key]) for key in keys)
            how = f"{hours:g} h done by yourselves"
            out.append(Saving(SavingKind.OWN_HANDS, job.id, job.title, how, money, hours / OWN_DAY))
    return out


def idle_day(refit: Refit, rows: list[Stint]) -> tuple[date, date, int] | None:
    """The day still to come on which somebody does least for a whole call-out; where that work could go; what it saves.

    None when there is no such day or no other to come. Whether it fits there is for the plan to say.
    """
    person = refit.persons[rows[0].person]
    spent = {row.day for row in rows if row.past}
    hours: dict[date, float] = defaultdict(float)
    for row in rows:
        if row.day not in spent:
            hours[row.day] += row.hours
    short = [when for when, much in hours.items() if much < person.call_out_hours]
    if not short or len(hours) < 2:
        return None
    least = min(short, key=lambda when: (hours[when], when))
    best: tuple[int, date] | None = None
    for other in sorted(hours):
        if other != least:
            moved = [replace(row, day=other) if row.day == least else row for row in rows]
            saved = cost(refit, person, rows) - cost(refit, person, moved)
            best = (saved, other) if best is None or saved > best[0] else best
    return (least, best[1], best[0]) if best is not None and best[0] > 0 else None


def _call_outs(refit: Refit, paid: dict[str, list[Stint]]) -> list[Saving]:
    """Somebody who is paid for a whole call-out and does little that day is not called: the work moves to another day."""
    out = []
    for who, rows in paid.items():
        found = idle_day(refit, rows)
        if found is not None:
            least, other, money = found
            person, zone = refit.persons[who], refit.yard.zone
            much = sum(row.hours for row in rows if row.day == least)
            how = f"{much:g} h on {day(least, zone)} are paid as {person.call_out_hours:g} h: not called then, but done on another day, as on {day(other, zone)}"
            out.append(Saving(SavingKind.CALL_OUTS, who, person.name, how, money, LEAST))
    return out


def not_called(refit: Refit, plan: Plan, who: str) -> Refit:
    """The refit where somebody stays away on the day that is the least worth its call-out; the same where there is none."""
    rows = by_the_hour(with_make_good(refit, plan.made_good), plan).get(who)
    found = idle_day(refit, rows) if rows else None
    if found is None:
        return refit
    person = refit.persons[who]
    away = DayRange(first=found[0], last=found[0], reason="not called: too little to do")
    return put(refit, person.model_copy(update={"absences": (*person.absences, away)}))


def _offers(refit: Refit) -> list[Saving]:
    """Offers that land below the expected price."""
    out = []
    for offer in refit.offers:
        if offer.state is not OfferState.OFFERED:
            continue
        part = refit.part_by_id[offer.part]
        saved = spared_by(refit, part, offer.quantity) - landed_price(refit, offer)
        later = max(offer.lead_days - part.lead_days, 0)
        how = f"{offer.supplier}: {offer.what}, {offer.form.value}"
        harm = later / 4 + offer.misfit * 2  # a day later rarely moves the launch by one; a misfit costs about two
        out.append(Saving(SavingKind.OFFER, offer.id, part.name, how, saved, harm))
    return out
