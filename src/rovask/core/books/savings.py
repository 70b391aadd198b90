"""What can be saved: put off, own hands, fewer call-outs, a cheaper offer; ranked by money for the harm it does.

Harm is counted in days: of launch or of one's own work. Safety is never on the list: must-jobs are not put off, and nothing
that was found dangerous is.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from rovask.core.books.items import ItemKind, items, unbought
from rovask.core.books.money import Money
from rovask.core.books.paid_work import paid_people
from rovask.core.plan.problem.crews import may_do
from rovask.core.plan.result import Plan
from rovask.core.refit.choices import Need, OfferState, Role, Severity
from rovask.core.refit.make_good import with_make_good
from rovask.core.refit.model import Job, Person, Refit, Task
from rovask.core.refit.offer_edits import landed_price
from rovask.core.words import count

OWN_DAY = 8.0  # hours of one's own that make a day of harm
LEAST = 0.25  # days: what does no harm that can be counted still takes an hour or two of somebody's


class SavingKind(StrEnum):
    """How money can be saved."""

    PUT_OFF = "put off"
    OWN_HANDS = "own hands"
    CALL_OUTS = "fewer call-outs"
    OFFER = "cheaper offer"


@dataclass(frozen=True, slots=True)
class Saving:
    """One way to spend less. key: the job, person or offer it is about; harm: in days; minor units of the refit's currency."""

    kind: SavingKind
    key: str
    title: str
    how: str
    money: int
    harm: float

    @property
    def per_harm(self) -> float:
        """Money for each day of harm."""
        return self.money / max(self.harm, LEAST)


def savings(refit: Refit, plan: Plan) -> list[Saving]:
    """Every way to save, the most money for the least harm first. O(jobs x items)."""
    refit = with_make_good(refit, plan.made_good)
    found = [*_put_off(refit, plan), *_own_hands(refit, plan), *_call_outs(refit, plan), *_offers(refit)]
    return sorted((one for one in found if one.money > 0), key=lambda one: (-one.per_harm, one.title))


def _put_off(refit: Refit, plan: Plan) -> list[Saving]:
    """Should- and could-jobs that nobody has begun: what of them is neither bound nor spent."""
    dangerous = {job for one in refit.findings if one.severity is Severity.DANGEROUS for job in one.jobs}
    rest: dict[str | None, int] = {}
    for row in items(refit, plan):
        if row.kind in (ItemKind.PART, ItemKind.WORK, ItemKind.UNKNOWN):
            rest[row.job] = rest.get(row.job, 0) + row.rest
    out = []
    for job in refit.jobs:
        begun = any(task.begun_at for task in job.tasks)
        if job.need is Need.MUST or begun or job.id in dangerous or job.id in plan.left_out:
            continue
        harm = 1.0 if job.need is Need.SHOULD else 0.5
        how = f"a {job.need.value}-job, left to the next haul-out"
        out.append(Saving(SavingKind.PUT_OFF, job.id, job.title, how, rest.get(job.id, 0), harm))
    return out


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


def _own_hands(refit: Refit, plan: Plan) -> list[Saving]:
    at, out = plan.by_task(), []
    for job in refit.jobs:
        money, hours = 0, 0.0
        for task, _ in own_tasks(refit, job):
            if task.id not in at:
                continue
            paid = sum(refit.persons[who].rate for who in at[task.id].people)
            if paid:
                money += Money(paid, refit.currency).times(refit.hours_to_do(task)).minor
                hours += refit.hours_to_do(task)
        if money:
            how = f"{hours:g} h done by yourselves"
            out.append(Saving(SavingKind.OWN_HANDS, job.id, job.title, how, money, hours / OWN_DAY))
    return out


def _call_outs(refit: Refit, plan: Plan) -> list[Saving]:
    """What is paid for being called out beyond the hours worked: their work on fewer days saves it."""
    out = []
    for one in paid_people(refit, plan):
        least = one.person.call_out_hours
        short = {day: least - hours for day, hours in one.by_day.items() if hours < least}
        if len(short) > 1:
            waste = sum(short.values()) - min(short.values())
            money = Money(one.person.rate, refit.currency).times(waste).minor
            how = f"{count(len(short), 'day')} shorter than the {least:g} h that are paid: gather the work on fewer"
            out.append(Saving(SavingKind.CALL_OUTS, one.person.id, one.person.name, how, money, LEAST))
    return out


def _offers(refit: Refit) -> list[Saving]:
    """Offers that land below the expected price."""
    out = []
    for offer in refit.offers:
        if offer.state is not OfferState.OFFERED:
            continue
        part = refit.part_by_id[offer.part]
        expected = Money(part.price, refit.currency).times(unbought(refit, part)).minor
        saved = expected - landed_price(refit, offer)
        later = max(offer.lead_days - part.lead_days, 0)
        how = f"{offer.supplier}: {offer.what}, {offer.form.value}"
        harm = later / 4 + offer.misfit * 2  # a day later rarely moves the launch by one; a misfit costs about two
        out.append(Saving(SavingKind.OFFER, offer.id, part.name, how, saved, harm))
    return out
