"""What an act of a way does to a refit: an interim fix, own hands, a courier, one more hand, longer days."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from datetime import date, datetime, time, timedelta
from decimal import Decimal

from rovask.core.judged.order_edits import order_of
from rovask.core.judged.part_edits import order_now, part_of
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plain.half_hours import half_hours
from rovask.core.plain.money import Money
from rovask.core.plain.words import count
from rovask.core.readings.open_days import open_days
from rovask.core.readings.stock import stocks, to_buy
from rovask.core.refit.edits import rebuilt
from rovask.core.refit.givens.choices import Role, Weekday
from rovask.core.refit.givens.kinds import MIDNIGHT
from rovask.core.refit.model import Agreement, Job, Link, Person, Refit, Shift, Task, WorkTime
from rovask.core.refit.records import RecordKey
from rovask.core.refit.removal import removed
from rovask.core.refit.seen.edits import INTERIM, next_time, own_job
from rovask.core.refit.work.rings import ring_of

NewId = Callable[[str], str]
LATEST_EVENING = 22  # o'clock: no day is made longer than to here
STEP = Decimal("0.05")  # hours: how finely a task's hours are told


def job_of(refit: Refit, key: str) -> Job:
    """The job of that id. Raises RefitFaults if it is gone."""
    job = next((one for one in refit.jobs if one.id == key), None)
    if job is None:
        raise RefitFaults([Fault("", "This job is gone; somebody removed it meanwhile.")])
    return job


def open_tasks(job: Job) -> list[Task]:
    """What isn't begun of a job. Raises RefitFaults when there is nothing."""
    left = [task for task in job.tasks if not task.begun_at]
    if not left:
        raise RefitFaults([Fault("", f"All of “{job.title}” is begun or done.")])
    return left


def interim_instead(
    refit: Refit, key: str, hours: float, money: int, wait_days: int, title: str, new_id: NewId, why: str = ""
) -> Refit:
    """A job's interim fix in its place: one task of as much need where it was; the rest is parked for the next haul-out.

    hours: with all hands; money: minor units of what it takes, which comes after ``wait_days``. Raises RefitFaults for a job under way.
    """
    before, job = refit, job_of(refit, key)
    first, need = open_tasks(job)[0], job.need
    refit = next_time(refit, key, new_id("parked"), why)
    made = own_job(
        refit, new_id("job"), title or f"{INTERIM}{job.title}"[:120], first.place, half_hours(hours), money=money,
        wait_days=wait_days, need=need, check="Good until the next haul-out; written on its list.",
    )  # fmt: skip
    return _in_its_place(before, job, made)


def done_otherwise(
    refit: Refit, key: str, hours: float, hands: int, money: int, wait_days: int, title: str, new_id: NewId
) -> Refit:
    """A job done another way, for good: one task of as much need where it was, in place of all that isn't begun of it.

    hours: with all ``hands``; money: minor units of what it takes, which comes after ``wait_days``. Raises RefitFaults for a job under way.
    """
    job = job_of(refit, key)
    first, parked = open_tasks(job)[0], new_id("parked")
    left = removed(next_time(refit, key, parked), RecordKey("parked", parked))
    made = own_job(
        left, new_id("job"), title, first.place, half_hours(hours), hands=hands, money=money, wait_days=wait_days,
        need=job.need,
    )  # fmt: skip
    return _in_its_place(refit, job, made)


def _in_its_place(before: Refit, job: Job, made: Refit) -> Refit:
    """The refit with the job at its end in the state and among the ties that another one had: what waited for that waits for this."""
    gone, new = {task.id for task in open_tasks(job)}, made.jobs[-1]
    tasks = tuple(task.model_copy(update={"state": open_tasks(job)[0].state}) for task in new.tasks)
    (first, last), kept = (tasks[0].id, tasks[-1].id), made.tasks
    ties = dict[tuple[str, str], Link]()
    for link in before.links:
        ends = (last if link.first in gone else link.first, first if link.then in gone else link.then)
        outside = link.then if link.first in gone else link.first
        if (link.first in gone) is not (link.then in gone) and outside in kept and ends not in ties:
            ties[ends] = Link(
                id=f"{first}-t{len(ties)}"[:40], first=ends[0], then=ends[1], reason="stands in its place"
            )
    rows = tuple(one.model_copy(update={"tasks": tasks}) if one is new else one for one in made.jobs)
    after = tuple(tie for tie in ties.values() if tie.first == last)
    for some in (
        tuple(ties.values()),
        after,
        (),
    ):  # what came between two of its steps can't be both before and after it
        tied = rebuilt(made, jobs=rows, links=(*made.links, *some))
        if not ring_of(tied):
            return tied
    return rebuilt(made, jobs=rows)


def of_trades(refit: Refit, job: Job) -> list[Task]:
    """What isn't begun of a job and only a trade or the yard may do as it stands: by skill or by name."""
    own = {person.id for person in refit.people if person.role in (Role.OWNER, Role.HELPER)}
    known = {skill for person in refit.people if person.id in own for skill in person.skills}
    return [
        task
        for task in job.tasks
        if not task.begun_at
        and (
            (task.skill is not None and task.skill not in known)
            or any(skill not in known for skill in task.skilled)
            or (task.people and not own & set(task.people))
        )
    ]


def in_own_hands(refit: Refit, key: str, hours: float, reserved: Mapping[str, str]) -> Refit:
    """A job's work that trades were to do, done by owners and helpers; what is agreed for it and not invoiced yet is off.

    hours: what that work takes them in all, 0: as long as the trade. reserved: skills that are never taken over, and why.
    Raises RefitFaults where there is no such work, or some of it is reserved.
    """
    job = job_of(refit, key)
    theirs = of_trades(refit, job)
    if not theirs:
        raise RefitFaults([Fault("", f"Nothing that is left of “{job.title}” is a trade's work.")])
    for task in theirs:
        for skill in (task.skill, *task.skilled):
            if skill is not None and skill in reserved:
                raise RefitFaults([Fault("", f"“{task.title}” stays with the trade: {reserved[skill]}.")])
    as_planned = sum(refit.hours_to_do(task) for task in theirs)
    longer = Decimal(str(hours / as_planned)) if hours else Decimal(1)
    keys = {task.id for task in theirs}
    tasks = tuple(
        task.model_copy(update={"skill": None, "skilled": (), "people": (), "work": _longer_work(task.work, longer)})
        if task.id in keys
        else task
        for task in job.tasks
    )
    billed = {entry.agreement for entry in refit.entries}
    agreements = tuple(one for one in refit.agreements if one.job != key or one.id in billed)
    rows = tuple(one.model_copy(update={"tasks": tasks}) if one.id == key else one for one in refit.jobs)
    return rebuilt(refit, jobs=rows, agreements=agreements)


def _longer_work(work: WorkTime, factor: Decimal) -> WorkTime:
    def scaled(hours: float) -> float:
        return float(max((Decimal(str(hours)) * factor / STEP).to_integral_value(), Decimal(1)) * STEP)

    return WorkTime(least=scaled(work.least), likely=scaled(work.likely), most=scaled(work.most))


def by_express(refit: Refit, key: str, days: int, money: int, now: datetime, new_id: NewId) -> Refit:
    """A part that comes in ``days`` days on which its supplier and carriers work, for ``money`` minor units more at the boat.

    What is still to be ordered is ordered now, so; of what is under way the next parcel comes sooner. Raises RefitFaults where
    it wouldn't be sooner.
    """
    part, stock = part_of(refit, key), stocks(refit)[key]
    comes = open_days(refit, part.supplier).after(now, days)
    if to_buy(refit, key) > 0:
        if days >= part.lead_days:
            raise RefitFaults([Fault("", f"{part.name} takes {part.lead_days} days as it is; that is no sooner.")])
        return order_now(refit, part, now, new_id, days=days, freight=money)
    due = [one for one in stock.coming if one.at is not None and one.at > comes]
    if not due:
        raise RefitFaults([Fault("", f"{part.name} is there, or comes as soon as that.")])
    first = min(due, key=lambda one: one.at or comes)
    if not first.order:
        rows = (
            one.model_copy(update={"arrives": comes, "price": one.price + money, "price_most": None})
            if one.id == key
            else one
            for one in refit.parts
        )
        return rebuilt(refit, parts=tuple(rows))
    order = order_of(refit, first.order)
    on_top = (1 + Decimal(str(order.duty)) / 100) * (1 + Decimal(str(order.tax)) / 100)
    own = Money(money, refit.currency).changed_to(order.currency, 1 / (Decimal(order.rate) * on_top)).minor
    faster = {"expected": comes, "expected_most": None, "freight": order.freight + own}
    return rebuilt(
        refit, orders=tuple(one.model_copy(update=faster) if one.id == order.id else one for one in refit.orders)
    )


def usual_hours(refit: Refit) -> tuple[Shift, ...]:
    """When somebody works who comes to help: as the owners do; from eight to five on working days where they say nothing."""
    for person in refit.people:
        if person.role is Role.OWNER and person.hours:
            return person.hours
    week = tuple(day for day in Weekday if day is not Weekday.SUN)
    return (Shift(days=week, start=time(8), end=time(12)), Shift(days=week, start=time(13), end=time(17)))


def one_more_hand(
    refit: Refit, name: str, first: date, last: date, day: int, skills: tuple[str, ...], now: datetime, new_id: NewId
) -> Refit:
    """The refit with somebody more from one day to another, who costs ``day`` minor units for each day they would work.

    Whoever is hired for days is paid for them, whatever there is to do: a fixed price, so that the plan makes use of all of them.
    Raises RefitFaults for days after the launch or gone by.
    """
    zone = refit.yard.zone
    if first > refit.launch_at.astimezone(zone).date():
        raise RefitFaults([Fault("", f"{name} would come after the launch.")])
    if last < now.astimezone(zone).date():
        raise RefitFaults([Fault("", f"The days on which {name} would come are gone by.")])
    hand = Person(
        id=new_id("person"), name=name, role=Role.HELPER, hours=usual_hours(refit), arrives=first, leaves=last, skills=skills
    )  # fmt: skip
    days = days_worked(hand, first, last)
    paid = Agreement(
        id=new_id("agreement"), title=f"{name}, {count(days, 'day')}"[:120], party=name, person=hand.id, currency=refit.currency,
        rate="1", price=day * days, at=now,
    )  # fmt: skip
    return rebuilt(
        refit, people=(*refit.people, hand), agreements=(*refit.agreements, *([paid] if day and days else []))
    )


def days_worked(person: Person, first: date, last: date) -> int:
    """On how many days from one to another somebody would work, by the days of their hours."""
    worked = {day.number for shift in person.hours for day in shift.days}
    return sum((first + timedelta(days=n)).weekday() in worked for n in range((last - first).days + 1))


def longer_days(refit: Refit, key: str, hours: float) -> Refit:
    """Somebody's last shift of each day so much longer. Raises RefitFaults for trades and the yard, and past 22:00."""
    person = refit.persons.get(key)
    if person is None:
        raise RefitFaults([Fault("", "This person is gone; somebody removed it meanwhile.")])
    longer = worked_longer(person, hours)
    if longer is None:
        why = "works by their own hours" if person.role not in (Role.OWNER, Role.HELPER) else "has no later hours"
        raise RefitFaults([Fault("", f"{person.name} {why}.")])
    return rebuilt(refit, people=tuple(longer if one.id == key else one for one in refit.people))


def worked_longer(person: Person, hours: float) -> Person | None:
    """The same person, their last shift of each day ``hours`` longer; None past 22:00, for trades and for the yard."""
    if person.role not in (Role.OWNER, Role.HELPER) or not person.hours:
        return None
    if any(shift.end == MIDNIGHT for shift in person.hours):
        return None
    last: dict[Weekday, time] = {}
    for shift in person.hours:
        for day in shift.days:
            last[day] = max(last.get(day, shift.end), shift.end)
    rows = []
    for shift in person.hours:
        late = tuple(day for day in shift.days if last[day] == shift.end)
        rest = tuple(day for day in shift.days if day not in late)
        if rest:
            rows.append(shift.model_copy(update={"days": rest}))
        if late:
            minutes = shift.end.hour * 60 + shift.end.minute + round(hours * 60)
            if minutes > LATEST_EVENING * 60:
                return None
            rows.append(shift.model_copy(update={"days": late, "end": time(minutes // 60, minutes % 60)}))
    return person.model_copy(update={"hours": tuple(rows)})


def under_cover(refit: Refit, key: str) -> Refit:
    """A task that no rain stops any more, under a tent or in the shed. Raises RefitFaults where none would."""
    task = refit.tasks.get(key)
    if task is None or task.weather is None or not task.weather.dry or task.begun_at:
        raise RefitFaults([Fault("", "This task is gone or begun, or rain does not stop it.")])
    return _task_with(refit, key, {"weather": task.weather.model_copy(update={"dry": False})})


def done_by(refit: Refit, key: str, who: str) -> Refit:
    """A task that somebody is named for. Raises RefitFaults for one that is begun, and for people there aren't."""
    task = refit.tasks.get(key)
    if task is None or task.begun_at or who not in refit.persons:
        raise RefitFaults([Fault("", "This task is gone or begun, or there is no such person.")])
    return _task_with(refit, key, {"people": (who,)})


def _task_with(refit: Refit, key: str, fields: Mapping[str, object]) -> Refit:
    rows = tuple(
        job.model_copy(
            update={"tasks": tuple(one.model_copy(update=fields) if one.id == key else one for one in job.tasks)}
        )
        if job is refit.job_of[key]
        else job
        for job in refit.jobs
    )
    return rebuilt(refit, jobs=rows)
