"""The whole refit in another season: haul-out, launch, and all that is fixed with them, so many days later or sooner."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from decimal import Decimal

from rovask.core.plain.faults import Fault, RefitFaults, refused
from rovask.core.plain.money import rounded
from rovask.core.refit.edits import rebuilt
from rovask.core.refit.givens.choices import Charge
from rovask.core.refit.model import Act, DayRange, Refit, Visit, YardExtra

MONTH = Decimal("30.4375")  # days, as a mean
AWAY_AFTER = timedelta(days=240)  # past the launch, as long as any plan looks


def moved_to(refit: Refit, act: Act, now: datetime) -> Refit:
    """The refit hauled and launched then, appointments and pins moved along, people there as it was said.

    What is typed for days that stay what they are (absences, holidays, the forecast) is not moved. act: of a season; its money is
    what the boat costs a month until the haul-out. Raises RefitFaults once she is hauled, and naming whoever has no date then.
    """
    haul, launch = act.haul_at, act.at
    if haul is None or launch is None:
        raise refused("Say when she is hauled and when she is launched.")
    if refit.haul_at <= now or any(task.begun_at for task in refit.tasks.values()):
        raise refused("She is hauled, or work is begun; another season is for a refit that is still to come.")
    if haul <= now:
        raise refused("That haul-out lies in the past.")
    zone = refit.yard.zone
    days = (haul.astimezone(zone).date() - refit.haul_at.astimezone(zone).date()).days
    said = {one.person: one for one in act.stays}
    unsaid = [person.name for person in without_date(refit, haul, launch) if person.id not in said]
    if unsaid:
        raise RefitFaults(
            [Fault("stays", f"Say when {name} could come in that season, or that they can't.") for name in unsaid]
        )
    visits = [one for one in refit.visits if one.person not in said and one.id not in said]
    guests = (one for one in refit.visits if one.person is None and one.id in said)
    visits += [one.model_copy(update={"first": then.first, "last": then.last})
               for one in guests if (then := said[one.id]).first is not None]  # fmt: skip
    people = []
    for person in refit.people:
        if person.id not in said:
            people.append(person)
            continue
        stay = said[person.id]
        away = DayRange(first=_day(refit, now), last=_day(refit, launch + AWAY_AFTER), reason="not in this season")
        if stay.first is None or stay.last is None:
            people.append(person.model_copy(update={"arrives": None, "leaves": None, "absences": (away,)}))
            continue
        people.append(person.model_copy(update={"arrives": stay.first, "leaves": stay.last}))
        if any(one.person == person.id for one in refit.visits):
            visits.append(
                Visit(
                    id=f"then-{person.id}"[:40], title=person.name, person=person.id, first=stay.first, last=stay.last
                )
            )

    def along(moment: datetime) -> datetime:
        """The same hour of the yard's clock so many days on."""
        local = moment.astimezone(zone)
        return datetime.combine(local.date() + timedelta(days=days), local.time(), zone)

    jobs = tuple(
        job.model_copy(
            update={
                "tasks": tuple(
                    task.model_copy(update={"pin": along(task.pin)}) if task.pin is not None else task
                    for task in job.tasks
                )
            }
        )
        for job in refit.jobs
    )
    appointments = tuple(
        one.model_copy(update={"at": along(one.at)}) if one.at > now else one for one in refit.appointments
    )
    yard = refit.yard if act.lay_day is None else refit.yard.model_copy(update={"lay_day": act.lay_day})
    return rebuilt(
        refit, haul_at=haul, launch_at=launch, prepare_from=None if refit.prepare_from is None else refit.prepare_from + timedelta(days=days),
        next_slots=tuple(one for one in refit.next_slots if one > launch), jobs=jobs, appointments=appointments, yard=yard,
        people=tuple(people), visits=tuple(visits), yard_extras=(*refit.yard_extras, *_until_then(refit, act, haul)),
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class Undated:
    """Who has no date in a season: a person's id, or that of a stay of guests."""

    id: str
    name: str


def without_date(refit: Refit, haul: datetime, launch: datetime) -> list[Undated]:
    """Whoever comes and goes on days that don't reach into a season: helpers, trades on visits, guests. They have to be asked."""
    first, last = _day(refit, haul), _day(refit, launch)
    out = list[Undated]()
    for person in refit.people:
        stays = [(one.first, one.last) for one in refit.visits if one.person == person.id]
        if not stays and (person.arrives is not None or person.leaves is not None):
            stays = [(person.arrives or date.min, person.leaves or date.max)]
        if stays and not any(begins <= last and ends >= first for begins, ends in stays):
            out.append(Undated(person.id, person.name))
    guests = (one for one in refit.visits if one.person is None)
    out += [Undated(one.id, one.title) for one in guests if not (one.first <= last and one.last >= first)]
    return out


def _until_then(refit: Refit, act: Act, haul: datetime) -> Iterator[YardExtra]:
    """What the boat costs until a later haul-out than the one there was."""
    days = (_day(refit, haul) - _day(refit, refit.haul_at)).days
    if act.money and days > 0:
        price = rounded(Decimal(act.money) * days / MONTH)
        yield YardExtra(
            id="until-then",
            title="Berth until the later haul-out",
            charge=Charge.OTHER,
            on=_day(refit, haul),
            price=price,
        )


def _day(refit: Refit, moment: datetime) -> date:
    return moment.astimezone(refit.yard.zone).date()
