"""Check a plan against the refit, rule by rule, from the refit's own words.

Written apart from the planner and sharing no code with it: no slots, no arrays, its own reading of the
calendars. No plan is stored, shown or tested without it. What is done or under way is a fact; of a fact
only its faithful copy is checked.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from enum import StrEnum
from functools import lru_cache
from itertools import pairwise
from zoneinfo import ZoneInfo

from rovask.core.choices import LinkKind, Need, PartStatus, Role, State
from rovask.core.model import Part, Refit, Shift, Task
from rovask.core.plan.result import Assignment, Plan

HALF_HOUR = timedelta(minutes=30)
FIT_TRIAL = timedelta(minutes=30)


class Rule(StrEnum):
    """What a plan can break."""

    COMPLETE = "complete"
    FACT = "fact"
    PAST = "past"
    GRID = "grid"
    WORK = "work"
    UNBROKEN = "unbroken"
    HOURS = "hours"
    HANDS = "hands"
    SKILL = "skill"
    PERSON_TWICE = "person twice"
    PLACE = "place"
    TIE = "tie"
    WINDOW = "window"
    PART = "part"
    STATE = "state"
    LAUNCH = "launch"
    PIN = "pin"
    LEFT_OUT = "left out"


@dataclass(frozen=True, slots=True)
class Breach:
    """One rule broken by one plan; ``task`` is empty when it concerns the whole plan."""

    rule: Rule
    task: str
    sentence: str


def verify(refit: Refit, plan: Plan) -> list[Breach]:
    """Every breach of every rule, in no particular order; empty for a valid plan. O(tasks x hours planned)."""
    return list(_Check(refit, plan).run())


class _Check:
    def __init__(self, refit: Refit, plan: Plan) -> None:
        self.refit, self.plan = refit, plan
        self.zone: ZoneInfo = refit.yard.zone
        self.at: dict[str, Assignment] = plan.by_task()
        self.works = lru_cache(maxsize=None)(self._works)
        self.open = lru_cache(maxsize=None)(self._open)

    def run(self) -> Iterator[Breach]:
        yield from self.completeness()
        if self.plan.launch < self.refit.launch_at:
            yield Breach(Rule.LAUNCH, "", "the plan launches before the slot")
        for item in self.plan.assignments:
            task = self.refit.tasks.get(item.task)
            if task is None:
                yield Breach(Rule.COMPLETE, item.task, "is not a task of this refit")
            elif task.done_at:
                if (item.start, item.end) != (task.begun_at, task.done_at):
                    yield Breach(Rule.FACT, task.id, "is done, and the plan moves it")
            else:
                yield from self.one(task, item)
        yield from self.ties()
        yield from self.crowding()

    # -- who and what is in the plan ---------------------------------------------------------------

    def completeness(self) -> Iterator[Breach]:
        seen: set[str] = set()
        for item in self.plan.assignments:
            if item.task in seen:
                yield Breach(Rule.COMPLETE, item.task, "is planned twice")
            seen.add(item.task)
        left_out, unplanned = set(self.plan.left_out), set(self.plan.unplanned)
        if unplanned and not self.plan.collisions:
            yield Breach(Rule.COMPLETE, "", "tasks are missing and no reason is given")
        for key, task in self.refit.tasks.items():
            job = self.refit.job_of[key]
            if job.id in left_out:
                if key in seen:
                    yield Breach(Rule.LEFT_OUT, key, "is planned although its job is left out")
                if job.need is Need.MUST or task.begun_at:
                    yield Breach(Rule.LEFT_OUT, key, "belongs to a job that may not be left out")
            elif key not in seen and key not in unplanned:
                yield Breach(Rule.COMPLETE, key, "is not in the plan")
        for link in self.refit.links:
            before, then = self.refit.job_of.get(link.first), self.at.get(link.then)
            if before and before.id in left_out and then and not self.refit.tasks[link.then].begun_at:
                yield Breach(Rule.LEFT_OUT, link.then, f"waits for {link.first!r}, which is left out")

    # -- one task ----------------------------------------------------------------------------------

    def one(self, task: Task, item: Assignment) -> Iterator[Breach]:
        plan = self.plan
        if task.begun_at:
            if item.start != task.begun_at or item.resume is None:
                yield Breach(Rule.FACT, task.id, "is under way, and the plan moves its beginning")
                return
            if task.crew and set(item.people) != set(task.crew):
                yield Breach(Rule.FACT, task.id, "is under way with other people")
        begin = item.resume or item.start
        if begin < plan.now:
            yield Breach(Rule.PAST, task.id, "is planned for a time that has passed")
        for moment in (begin, item.end):
            if moment.astimezone(self.zone).minute % 30 or moment.second or moment.microsecond:
                yield Breach(Rule.GRID, task.id, "does not lie on a half-hour of the yard's clock")
        yield from self.crew(task, item)
        yield from self.hours(task, item, begin)
        if not task.begun_at:
            yield from self.before_it_starts(task, item)
        if task.state is State.ASHORE and item.end > plan.launch:
            yield Breach(Rule.LAUNCH, task.id, "is ashore work and ends after the launch")
        if task.state is State.AFLOAT_BEFORE and not task.begun_at and item.end > self.refit.haul_at:
            yield Breach(Rule.STATE, task.id, "is work before the haul-out and ends after it")

    def before_it_starts(self, task: Task, item: Assignment) -> Iterator[Breach]:
        if task.pin and task.pin >= self.plan.now and item.start != task.pin:
            yield Breach(Rule.PIN, task.id, "is pinned to another time")
        if task.state is State.ASHORE and item.start < self.refit.haul_at:
            yield Breach(Rule.STATE, task.id, "is ashore work and starts before the haul-out")
        if task.state is State.AFLOAT_AFTER and item.start < self.plan.launch:
            yield Breach(Rule.STATE, task.id, "needs the boat afloat and starts before the launch")
        for key in task.parts:
            if item.start < self.usable(self.refit.part_by_id[key]):
                yield Breach(Rule.PART, task.id, f"starts before {key!r} is aboard and tried for fit")

    def usable(self, part: Part) -> datetime:
        """From when a part can be used: fit tried; overdue parcels are taken to come a day from now."""
        now = self.plan.now
        match part.status:
            case PartStatus.CHECKED:
                return datetime.min.replace(tzinfo=UTC)
            case PartStatus.ABOARD:
                return now + FIT_TRIAL
            case PartStatus.NEEDED:
                return now + timedelta(days=part.lead_days) + FIT_TRIAL
            case PartStatus.ORDERED:
                due = part.arrives if part.arrives and part.arrives > now else now + timedelta(days=1)
                return due + FIT_TRIAL

    def crew(self, task: Task, item: Assignment) -> Iterator[Breach]:
        unknown = [who for who in item.people if who not in self.refit.persons]
        expected = len(task.crew) if task.begun_at and task.crew else task.hands
        if unknown or len(set(item.people)) != len(item.people) or len(item.people) != expected:
            yield Breach(Rule.HANDS, task.id, f"needs {expected} different people and has {list(item.people)}")
        if task.begun_at and task.crew:
            return  # who began it may end it
        for who in item.people:
            person = self.refit.persons.get(who)
            if person is None:
                continue
            if task.people:
                fits = who in task.people
            elif task.skill:
                fits = task.skill in person.skills
            else:
                fits = person.role in {Role.OWNER, Role.HELPER}
            if not fits:
                yield Breach(Rule.SKILL, task.id, f"is not for {person.name}")

    # -- hours, read straight off the local clock ----------------------------------------------------

    def _in_shifts(self, shifts: tuple[Shift, ...], moment: datetime) -> bool:
        local = moment.astimezone(self.zone)
        clock = local.time().replace(tzinfo=None)
        return any(
            local.weekday() in {day.number for day in shift.days} and shift.start <= clock < shift.end
            for shift in shifts
        )

    def _open(self, moment: datetime) -> bool:
        """Whether the yard allows work ashore in the half-hour from ``moment``."""
        yard, today = self.refit.yard, moment.astimezone(self.zone).date()
        if any(span.first <= today <= span.last for span in yard.closed):
            return False
        return not yard.hours or self._in_shifts(yard.hours, moment)

    def _works(self, who: str, moment: datetime) -> bool:
        """Whether a person works in the half-hour from ``moment``."""
        person, today = self.refit.persons[who], moment.astimezone(self.zone).date()
        if (person.arrives and today < person.arrives) or (person.leaves and today > person.leaves):
            return False
        if any(span.first <= today <= span.last for span in person.absences):
            return False
        for meeting in self.refit.appointments:
            ends = meeting.at + timedelta(hours=meeting.hours)
            if who in meeting.people and meeting.at < moment + HALF_HOUR and moment < ends:
                return False
        return self._in_shifts(person.hours, moment)

    def all_at_work(self, task: Task, people: tuple[str, ...], moment: datetime) -> bool:
        if task.state is State.ASHORE and not self.open(moment):
            return False
        return all(self.works(who, moment) for who in people if who in self.refit.persons)

    def hours(self, task: Task, item: Assignment, begin: datetime) -> Iterator[Breach]:
        wanted = self.refit.hours_to_do(task) * 2
        halves: list[bool] = []
        moment = begin
        while moment < item.end and len(halves) < 20_000:
            halves.append(self.all_at_work(task, item.people, moment))
            moment += HALF_HOUR
        if not halves or not halves[0] or not halves[-1]:
            yield Breach(Rule.HOURS, task.id, "begins or ends while somebody is off or the yard is shut")
        if sum(halves) != wanted:
            yield Breach(Rule.WORK, task.id, f"takes {wanted / 2:g} h and is given {sum(halves) / 2:g} h")
        if task.unbroken and not task.begun_at and not all(halves):
            yield Breach(Rule.UNBROKEN, task.id, "must be done in one go and is interrupted")

    # -- between tasks -----------------------------------------------------------------------------

    def event(self, key: str, end: bool) -> tuple[datetime | None, bool]:
        """(when the start or end of a task, haul or launch is; whether it has happened)."""
        if key == "haul":
            return self.refit.haul_at, True
        if key == "launch":
            return self.plan.launch, False
        item, task = self.at.get(key), self.refit.tasks[key]
        if item is None:
            return None, False
        return (item.end, task.done_at is not None) if end else (item.start, task.begun_at is not None)

    def ties(self) -> Iterator[Breach]:
        for link in self.refit.links:
            earlier, _ = self.event(link.first, link.kind in (LinkKind.FS, LinkKind.FF))
            later, happened = self.event(link.then, link.kind in (LinkKind.FF, LinkKind.SF))
            if earlier is None or later is None:
                waits = later is not None and not happened and link.then not in ("haul", "launch")
                if waits and link.first in self.plan.unplanned:
                    yield Breach(Rule.TIE, link.then, f"waits for {link.first!r}, which is not planned")
                continue
            if happened and link.then != "haul":
                continue
            if later - earlier < timedelta(hours=link.min_lag):
                yield Breach(Rule.TIE, link.then, f"comes too soon after {link.first!r}")
            if link.max_lag is not None and later - earlier > timedelta(hours=link.max_lag):
                yield Breach(Rule.WINDOW, link.then, f"comes too late after {link.first!r}")

    def crowding(self) -> Iterator[Breach]:
        by_person: dict[str, list[tuple[datetime, datetime, str]]] = defaultdict(list)
        by_place: dict[str, list[tuple[datetime, int, str]]] = defaultdict(list)
        for item in self.plan.assignments:
            task = self.refit.tasks.get(item.task)
            if task is None or task.done_at:
                continue
            begin = item.resume or item.start
            for who in item.people:
                by_person[who].append((begin, item.end, task.id))
            by_place[task.place] += [(begin, task.hands, task.id), (item.end, -task.hands, task.id)]
        for who, spans in by_person.items():
            spans.sort()
            for (_, end, first), (start, _, then) in pairwise(spans):
                if start < end:
                    yield Breach(Rule.PERSON_TWICE, then, f"takes {who!r}, who is still at {first!r}")
        for key, changes in by_place.items():
            inside, room = 0, self.refit.place_by_id[key].capacity
            for _, hands, name in sorted(changes, key=lambda change: (change[0], change[1])):
                inside += hands
                if hands > 0 and inside > room:
                    yield Breach(Rule.PLACE, name, f"puts {inside} hands into {key!r}, which holds {room}")
