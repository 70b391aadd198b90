"""What would help when the launch can't be held: single changes, each tried on the refit, none guessed."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta

from rovask.core.books.forecast import forecast
from rovask.core.books.money import Money
from rovask.core.plan.planner import plan_and_judge
from rovask.core.plan.result import Plan, Verdict
from rovask.core.refit.choices import Need, PartStatus, Role, Weekday
from rovask.core.refit.model import Part, Person, Refit, Shift
from rovask.core.words import minutes_of

MOST_TRIED = 36
TRIAL_STARTS = 4
SOONER = timedelta(days=2)
HELPER_DAYS = 14
LONG_CURE = 12.0  # hours: a shorter wait is not worth hurrying


@dataclass(frozen=True, slots=True)
class Remedy:
    """One change, what it would do, and where it is made.

    late_minutes: how far past the slot the launch would still be (0: it holds). money: what the forecast would change
    by, in minor units; what a favour or a courier costs is not in it. kind, key: the record to change; "" for a new one.
    """

    words: str
    late_minutes: int
    money: Money
    kind: str
    key: str


def remedies(refit: Refit, plan: Plan, verdict: Verdict, most: int = 3) -> list[Remedy]:
    """The cheapest single changes that bring the launch nearer, those that hold it first. A plan is made for each try.

    Of changes that gain as much the cheaper is better; of those that cost as much, the one that gains more.
    """
    late = minutes_of(plan.launch - refit.launch_at)
    was = forecast(refit, plan).total
    out = []
    for count, (words, kind, key, changed) in enumerate(_changes(refit, plan, verdict)):
        if count >= MOST_TRIED:
            break
        tried = plan_and_judge(changed, plan.now, TRIAL_STARTS, before=plan).plan
        if len(tried.unplanned) > len(plan.unplanned):
            continue
        still = max(minutes_of(tried.launch - changed.launch_at), 0)
        if still < late:
            out.append(Remedy(words, still, forecast(changed, tried).total - was, kind, key))
    out.sort(key=lambda one: (one.late_minutes > 0, one.money.minor, one.late_minutes, one.words))
    return out[:most]


def _changes(refit: Refit, plan: Plan, verdict: Verdict) -> Iterator[tuple[str, str, str, Refit]]:
    """Changes worth trying, those that touch what drives the launch: (words, kind, id, the changed refit)."""
    driving = [refit.tasks[key] for key in verdict.driving]
    jobs = {refit.job_of[task.id].id: refit.job_of[task.id] for task in driving}
    for job in jobs.values():
        if job.need is Need.MUST and not any(task.begun_at for task in job.tasks):
            less = tuple(one.model_copy(update={"need": Need.COULD}) if one.id == job.id else one for one in refit.jobs)
            yield f"Leave “{job.title}” to the next haul-out", "job", job.id, _with(refit, jobs=less)
    for job, task in refit.walk():  # every pin: the verdict looks past them, so none is ever seen to drive
        if task.pin and not task.begun_at and job.need is Need.MUST:
            yield f"Take the pin out of “{task.title}”", "task", task.id, _without_pin(refit, task.id)
    parts = {key for task in driving if not task.begun_at for key in task.parts}
    for part in refit.parts:
        if part.id in parts and (sooner := _sooner(part, plan.now)) is not None:
            changed = _with(refit, parts=tuple(sooner if one.id == part.id else one for one in refit.parts))
            yield f"Have {part.name} sent faster, two days sooner", "part", part.id, changed
    at = plan.by_task()
    busy = {who for task in driving if task.id in at for who in at[task.id].people}
    for person in refit.people:
        if person.id in busy and (longer := _seven_days(person)) is not None:
            rows = tuple(longer if one.id == person.id else one for one in refit.people)
            yield (
                f"{person.name} works on the free days of the week too",
                "person",
                person.id,
                _with(refit, people=rows),
            )
    for gear in refit.gear:
        if any(gear.id in task.gear for task in driving):
            more = gear.model_copy(update={"count": gear.count + 1})
            changed = _with(refit, gear=tuple(more if one.id == gear.id else one for one in refit.gear))
            yield f"A second {gear.name.lower()}", "gear", gear.id, changed
    for hours, words in (
        (2.0, "Everybody of the crew works two hours longer"),
        (0.0, "Everybody works on free days too"),
    ):
        rows = tuple((_longer(one, hours) if hours else _seven_days(one)) or one for one in refit.people)
        if rows != refit.people:
            yield words, "person", next(iter(busy), ""), _with(refit, people=rows)
    inside = set(verdict.driving)
    for link in refit.links:
        if link.first in inside and link.then in inside and link.min_lag >= LONG_CURE:
            shorter = link.model_copy(update={"min_lag": round(link.min_lag * 1.5) / 2})
            title = refit.tasks[link.first].title
            words = f"A quarter less wait after “{title}” (warmth, fans, another product; its data sheet decides)"
            changed = _with(refit, links=tuple(shorter if one.id == link.id else one for one in refit.links))
            yield words, "link", link.id, changed
    helper = _helper(refit, plan.now)
    yield f"A helper for {HELPER_DAYS} days from tomorrow", "person", "", _with(refit, people=(*refit.people, helper))


def _with(refit: Refit, **fields: object) -> Refit:
    """The refit with other lists; made anew, for a copy would keep what it had looked up in the old ones."""
    return Refit.model_construct(**(dict(refit) | fields))


def _sooner(part: Part, now: datetime) -> Part | None:
    if part.status is PartStatus.NEEDED and part.lead_days > 2:
        return part.model_copy(update={"lead_days": part.lead_days - SOONER.days})
    if part.status is PartStatus.ORDERED and part.arrives and part.arrives - SOONER > now:
        return part.model_copy(update={"arrives": part.arrives - SOONER})
    return None


def _seven_days(person: Person) -> Person | None:
    worked = {day for shift in person.hours for day in shift.days}
    free = tuple(day for day in Weekday if day not in worked)
    if not free or not person.hours or person.role not in (Role.OWNER, Role.HELPER):
        return None
    like = {(shift.start, shift.end): shift for shift in person.hours}
    more = tuple(Shift(days=free, start=start, end=end) for start, end in like)
    return person.model_copy(update={"hours": (*person.hours, *more)})


def _longer(person: Person, hours: float) -> Person | None:
    """The same person, their last shift of each day ``hours`` longer; not past 22:00, not for trades or the yard."""
    if person.role not in (Role.OWNER, Role.HELPER) or not person.hours:
        return None
    last = max(shift.end for shift in person.hours)
    if last.hour + hours > 22:
        return None
    later = last.replace(hour=last.hour + int(hours))
    return person.model_copy(
        update={
            "hours": tuple(
                shift.model_copy(update={"end": later}) if shift.end == last else shift for shift in person.hours
            )
        }
    )


def _helper(refit: Refit, now: datetime) -> Person:
    first = now.astimezone(refit.yard.zone).date() + timedelta(days=1)
    week = tuple(day for day in Weekday if day is not Weekday.SUN)
    hours = (
        Shift.model_validate({"days": week, "start": "08:00", "end": "12:00"}),
        Shift.model_validate({"days": week, "start": "13:00", "end": "17:00"}),
    )
    return Person(
        id="a-helper",
        name="A helper",
        role=Role.HELPER,
        hours=hours,
        arrives=first,
        leaves=first + timedelta(days=HELPER_DAYS - 1),
    )


def _without_pin(refit: Refit, key: str) -> Refit:
    jobs = tuple(
        job.model_copy(
            update={
                "tasks": tuple(task.model_copy(update={"pin": None}) if task.id == key else task for task in job.tasks)
            }
        )
        for job in refit.jobs
    )
    return _with(refit, jobs=jobs)
