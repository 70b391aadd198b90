"""What would help when the launch can't be held: changes, alone or two together, each tried on the refit, none guessed."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from functools import partial

from rovask.core.books.forecast import forecast
from rovask.core.judged.part_edits import expected_on
from rovask.core.judged.way_edits import worked_longer
from rovask.core.plain.money import Money
from rovask.core.plain.words import minutes_of, money
from rovask.core.plan.planner import plan_and_judge
from rovask.core.plan.problem.crews import is_asked_first, may_do
from rovask.core.plan.result import Plan, Verdict
from rovask.core.readings.closes import CLOSED_BY, closings, opened_by
from rovask.core.readings.stock import stocks
from rovask.core.refit.givens.choices import Role, Spot, Weekday
from rovask.core.refit.model import Job, Person, Refit, Shift, Task
from rovask.core.refit.stores.choices import PartStatus
from rovask.core.refit.work.choices import Need

MOST_TRIED = 80
PAIRED = 4  # of the best single changes are tried two by two
TRIAL_STARTS = 4
SOONER = timedelta(days=2)
HELPER_DAYS = 14
LONG_CURE = 12.0  # hours: a shorter wait is not worth hurrying


@dataclass(frozen=True, slots=True)
class Remedy:
    """One change, what it would do, and where it is made.

    late_minutes: how far past the slot the launch would still be (0: it holds). money: what the forecast would change
    by, in minor units; what a favour or a courier costs is not in it. kind, key: the record to change; "" for a new one.
    unwise: it gives up what keeps her safe, so it is told after what does not.
    """

    words: str
    late_minutes: int
    money: Money
    kind: str
    key: str
    unwise: bool = False


def remedies(refit: Refit, plan: Plan, verdict: Verdict, most: int = 3) -> list[Remedy]:
    """The cheapest changes that bring the launch nearer: single ones, and pairs of two wise ones.

    What leaves out a job of the bottom, or of what keeps water out, or takes her last day, comes after all else. Those that touch what drives the launch are tried first, then every part, person, tie and pin of the must-work. A
    plan is made for each try. Of changes that gain as much the cheaper is better; of those that cost as much, the one
    that gains more.
    """
    tries = _Tries(refit, plan)
    found: list[tuple[Change, Remedy]] = []
    tried: list[Change] = []
    for change in _unlike(_changes(refit, plan, verdict)):
        if tries.made >= MOST_TRIED:
            break
        remedy = tries.of(change)
        tried.append(change)
        if remedy is not None:
            found.append((change, remedy))
    found.sort(key=lambda row: _rank(row[1]))
    out = [remedy for _, remedy in found]
    # two chains may hold her, and neither change alone be enough, or only a dear or an unwise one
    wise = [change for change, remedy in found if not remedy.unwise]
    best = wise[:PAIRED]
    best += [change for change in tried if change not in best and not change.unwise][: PAIRED * 2 - len(best)]
    singles = {id(change): remedy for change, remedy in found}
    for at, one in enumerate(best):
        for other in best[at + 1 :]:
            both = tries.of_both(one, other)
            alone = [singles[id(change)] for change in (one, other) if id(change) in singles]
            if both is not None and all(
                _rank(both) < _rank(row) or both.late_minutes < row.late_minutes for row in alone
            ):
                out.append(both)
    out.sort(key=_rank)
    return out[:most]


@dataclass(frozen=True, slots=True)
class Change:
    """A change worth trying: its words, the record it is made at, and how it is made to a refit."""

    words: str
    kind: str
    key: str
    made: Callable[[Refit], Refit]
    unwise: bool = False


def _rank(one: Remedy) -> tuple[bool, bool, int, int, str]:
    return one.unwise, one.late_minutes > 0, one.money.minor, one.late_minutes, one.words


def _unlike(changes: Iterator[Change]) -> Iterator[Change]:
    """Each change once."""
    seen = set()
    for change in changes:
        if change.words not in seen:
            seen.add(change.words)
            yield change


class _Tries:
    """Plans made to see what a change does."""

    def __init__(self, refit: Refit, plan: Plan) -> None:
        self.refit, self.plan, self.made = refit, plan, 0
        self.late = minutes_of(self._ready(plan, refit) - refit.launch_at)
        self.was = forecast(refit, plan).total

    def _ready(self, plan: Plan, refit: Refit) -> datetime:
        return max(plan.launch, plan.ready.at if plan.ready is not None else refit.launch_at)

    def of(self, change: Change) -> Remedy | None:
        """What one change does; None when it brings nothing nearer or breaks something else."""
        found = self._tried(change.made(self.refit), change.words, change.kind, change.key)
        return None if found is None else replace(found, unwise=change.unwise)

    def of_both(self, one: Change, other: Change) -> Remedy | None:
        """What two changes do together."""
        words = f"{one.words}; and {other.words[:1].lower() + other.words[1:]}"
        return self._tried(other.made(one.made(self.refit)), words, one.kind, one.key)

    def _tried(self, changed: Refit, words: str, kind: str, key: str) -> Remedy | None:
        self.made += 1
        tried = plan_and_judge(changed, self.plan.now, TRIAL_STARTS, before=self.plan).plan
        if len(tried.unplanned) > len(self.plan.unplanned):
            return None
        still = max(minutes_of(self._ready(tried, changed) - changed.launch_at), 0)
        if still >= self.late:
            return None
        return Remedy(words, still, forecast(changed, tried).total - self.was, kind, key)


def _changes(refit: Refit, plan: Plan, verdict: Verdict) -> Iterator[Change]:
    """Changes worth trying: those that touch what drives the launch, then those of all other must-work."""
    driving = [refit.tasks[key] for key in verdict.driving if key in refit.tasks]
    must = [task for job, task in refit.walk() if job.need is Need.MUST and not task.done_at]
    for tasks in (driving, must):
        yield from _of_tasks(refit, plan, tasks)
    jobs = {refit.job_of[task.id].id: refit.job_of[task.id] for task in driving}
    for job in jobs.values():
        if job.recipe in ("haul", "look", "ready", "launch"):
            continue  # no launch without them
        if job.need is Need.MUST and not any(task.begun_at for task in job.tasks):
            words = f"Leave “{job.title}” to the next haul-out"
            yield Change(words, "job", job.id, partial(_less, job=job.id), unwise=keeps_her_sound(refit, job))
            coat = _last_coat(job)
            if coat is not None:
                words = f"One coat less: without “{coat.title}” (its data sheet decides)"
                yield Change(words, "task", coat.id, partial(_without_task, key=coat.id))
    tight = closings(refit)
    for job in jobs.values():
        if any(task.id in tight for task in job.tasks):
            words = f"Close “{job.title}” on the last day before the slings, by your word"
            yield Change(words, "job", job.id, partial(_last_day, job=job.id), unwise=True)
        dry = [task.id for task in job.tasks if task.weather is not None and task.weather.dry and not task.begun_at]
        if len(dry) > 1:
            words = f"Cover all of “{job.title}” against the rain (a tent, the shed)"
            yield Change(words, "job", job.id, partial(_all_covered, keys=tuple(dry)))
    for hours, words in (
        (2.0, "Everybody of the crew works two hours longer"),
        (0.0, "Everybody works on free days too"),
    ):
        change = partial(_everybody, hours=hours)
        if change(refit).people != refit.people:
            yield Change(words, "person", "", change)
    if refit.yard.latitude is not None and any(refit.place_by_id[task.place].outdoors for task in must):
        yield Change("Work outdoors by lamp, as far as the yard's hours go", "yard", "", _by_lamp)
    helper = _helper(refit, plan.now)
    yield Change(f"A helper for {HELPER_DAYS} days from tomorrow", "person", "", partial(_more_people, person=helper))


def _of_tasks(refit: Refit, plan: Plan, tasks: list[Task]) -> Iterator[Change]:
    """What can be done about the pins, parts, people, tools, waits and weather of some tasks."""
    at, keys = plan.by_task(), {task.id for task in tasks}
    for task in tasks:
        if task.pin and not task.begun_at:
            yield Change(f"Take the pin out of “{task.title}”", "task", task.id, partial(_without_pin, key=task.id))
    parts = {key for task in tasks if not task.begun_at for key in task.parts}
    for part in refit.parts:
        if part.id in parts and _sooner(refit, part.id, plan.now) is not None:
            words = f"Have {part.name} sent faster, two days sooner"
            yield Change(words, "part", part.id, partial(_sent_faster, key=part.id, now=plan.now))
    busy = {who for task in tasks if task.id in at for who in at[task.id].people}
    for person in refit.people:
        if person.id in busy and (longer := _seven_days(person)) is not None:
            words = f"{person.name} works on the free days of the week too"
            yield Change(words, "person", person.id, partial(_with_person, person=longer))
    for gear in refit.gear:
        if any(gear.id in task.gear for task in tasks):
            yield Change(f"A second {gear.name.lower()}", "gear", gear.id, partial(_one_more, key=gear.id))
    for link in refit.links:
        if link.first in keys and link.then in refit.tasks and link.min_lag >= LONG_CURE:
            title = refit.tasks[link.first].title
            words = f"A quarter less wait after “{title}” (warmth, fans, another product; its data sheet decides)"
            yield Change(words, "link", link.id, partial(_shorter, key=link.id))
    for task in tasks:
        for person in refit.people if task.id in at and not task.begun_at and not task.people else ():
            could = is_asked_first(refit, person) and may_do(person, task) and person.id not in at[task.id].people
            if could and task.hands == 1:
                hours = refit.hours_to_do(task)
                price = money(round(person.rate * max(hours, person.call_out_hours)), refit.currency)
                words = f"Take {person.name} on for “{task.title}”: {hours:g} h" + (f", {price}" if person.rate else "")
                yield Change(words, "task", task.id, partial(_by, key=task.id, who=person.id))
    for task in tasks:
        if task.weather is not None and task.weather.dry and not task.begun_at:
            words = f"Cover “{task.title}” against the rain (a tent, the shed)"
            yield Change(words, "task", task.id, partial(_covered, key=task.id))


KEEPS_WATER_OUT = frozenset([Spot.BOTTOM, Spot.THROUGH_HULLS, Spot.SHAFT, Spot.KEEL, Spot.RUDDER, Spot.WATERLINE])


def keeps_her_sound(refit: Refit, job: Job) -> bool:
    """Whether a job is of the bottom, or of what keeps water out or steers her: not to be left before all else is tried."""
    graver = any(what in CLOSED_BY for task in job.tasks for what in opened_by(refit, job, task))
    return graver or any(refit.place_by_id[task.place].spot in KEEPS_WATER_OUT for task in job.tasks)


def _last_day(refit: Refit, job: str) -> Refit:
    rows = tuple(one.model_copy(update={"late_because": "tried"}) if one.id == job else one for one in refit.jobs)
    return _with(refit, jobs=rows)


def _all_covered(refit: Refit, keys: tuple[str, ...]) -> Refit:
    for key in keys:
        refit = _covered(refit, key)
    return refit


def _last_coat(job: Job) -> Task | None:
    """The last of three or more coats of a job, if one could be left away; two are the least (common practice)."""
    coats = [task for task in job.tasks if re.fullmatch(r".*-coat[0-9]+", task.id) and not task.begun_at]
    return coats[-1] if len(coats) > 2 else None


def _task_with(refit: Refit, key: str, **fields: object) -> Refit:
    jobs = tuple(
        job.model_copy(
            update={"tasks": tuple(task.model_copy(update=fields) if task.id == key else task for task in job.tasks)}
        )
        if any(task.id == key for task in job.tasks)
        else job
        for job in refit.jobs
    )
    return _with(refit, jobs=jobs)


def _without_task(refit: Refit, key: str) -> Refit:
    """Without one task; what followed it follows what came before it, with its waits."""
    before = [link for link in refit.links if link.then == key]
    links = []
    for link in refit.links:
        if link.then == key:
            continue
        if link.first == key:
            links += [
                link.model_copy(update={"id": f"{link.id}-{n}"[:40], "first": one.first})
                for n, one in enumerate(before)
            ]
        else:
            links.append(link)
    jobs = tuple(
        job.model_copy(update={"tasks": tuple(task for task in job.tasks if task.id != key)}) for job in refit.jobs
    )
    return _with(refit, jobs=jobs, links=tuple(links))


def _by(refit: Refit, key: str, who: str) -> Refit:
    return _task_with(refit, key, people=(who,))


def _covered(refit: Refit, key: str) -> Refit:
    need = refit.tasks[key].weather
    dry = None if need is None else need.model_copy(update={"dry": False})
    return _task_with(refit, key, weather=dry)


def _less(refit: Refit, job: str) -> Refit:
    rows = tuple(one.model_copy(update={"need": Need.COULD}) if one.id == job else one for one in refit.jobs)
    return _with(refit, jobs=rows)


def _sent_faster(refit: Refit, key: str, now: datetime) -> Refit:
    return _sooner(refit, key, now) or refit


def _with_person(refit: Refit, person: Person) -> Refit:
    return _with(refit, people=tuple(person if one.id == person.id else one for one in refit.people))


def _more_people(refit: Refit, person: Person) -> Refit:
    return _with(refit, people=(*refit.people, person))


def _one_more(refit: Refit, key: str) -> Refit:
    rows = tuple(one.model_copy(update={"count": one.count + 1}) if one.id == key else one for one in refit.gear)
    return _with(refit, gear=rows)


def _shorter(refit: Refit, key: str) -> Refit:
    rows = tuple(
        link.model_copy(update={"min_lag": round(link.min_lag * 1.5) / 2}) if link.id == key else link
        for link in refit.links
    )
    return _with(refit, links=rows)


def _everybody(refit: Refit, hours: float) -> Refit:
    rows = tuple((worked_longer(one, hours) if hours else _seven_days(one)) or one for one in refit.people)
    return _with(refit, people=rows)


def _by_lamp(refit: Refit) -> Refit:
    return _with(refit, yard=refit.yard.model_copy(update={"latitude": None, "longitude": None}))


def _with(refit: Refit, **fields: object) -> Refit:
    """The refit with other lists; made anew, for a copy would keep what it had looked up in the old ones."""
    return refit.supposed(**fields)


def _sooner(refit: Refit, key: str, now: datetime) -> Refit | None:
    """The refit with a part that comes two days sooner, where one can be hurried."""
    part, stock = refit.part_by_id[key], stocks(refit)[key]
    if stock.status is PartStatus.NEEDED and part.lead_days > SOONER.days:
        return _with(refit, **expected_on(refit, key, None, part.lead_days - SOONER.days))
    due = stock.arrives
    if stock.status is PartStatus.ORDERED and due is not None and due - SOONER > now:
        return _with(refit, **expected_on(refit, key, due - SOONER))
    return None


def _seven_days(person: Person) -> Person | None:
    worked = {day for shift in person.hours for day in shift.days}
    free = tuple(day for day in Weekday if day not in worked)
    if not free or not person.hours or person.role not in (Role.OWNER, Role.HELPER):
        return None
    like = {(shift.start, shift.end): shift for shift in person.hours}
    more = tuple(Shift(days=free, start=start, end=end) for start, end in like)
    return person.model_copy(update={"hours": (*person.hours, *more)})


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
    return _task_with(refit, key, pin=None)
