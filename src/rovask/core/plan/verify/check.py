"""Check a plan against the refit, rule by rule, from the refit's own words.

Written apart from the planner and sharing no code with it: no slots, no arrays, its own reading of the
calendars and the forecast. No plan is stored, shown or tested without it. What is done or under way is a fact; of a
fact only its faithful copy is checked. The clock is read in verify_clock.py, what lies between tasks in
verify_between.py.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta

from rovask.core.plain.half_hours import HALF_HOUR
from rovask.core.plan.result import Assignment, Plan
from rovask.core.plan.verify.between import Between
from rovask.core.plan.verify.clock import Clock
from rovask.core.plan.verify.rules import Breach, Rule
from rovask.core.readings.acceptance import looked_at_from, waits_for_look
from rovask.core.readings.open_days import open_days
from rovask.core.readings.stock import stocks
from rovask.core.refit.givens.choices import Role
from rovask.core.refit.givens.slot import ashore_from, yard_launches
from rovask.core.refit.model import Link, OffBoat, Refit, Task
from rovask.core.refit.work.choices import Need, State
from rovask.core.refit.work.make_good import with_make_good

__all__ = ["Breach", "Rule", "verify"]

FIT_TRIAL = timedelta(minutes=30)


def verify(refit: Refit, plan: Plan) -> list[Breach]:
    """Every breach of every rule, in no particular order; empty for a valid plan. O(tasks x hours planned)."""
    return list(_Check(with_make_good(refit, plan.made_good), plan).run())


class _Check:
    def __init__(self, refit: Refit, plan: Plan) -> None:
        self.refit, self.plan = refit, plan
        self.clock = Clock(refit)
        self.stands, self.tomorrow = ashore_from(refit), looked_at_from(plan.now, self.clock.zone)
        self.into: dict[str, list[Link]] = defaultdict(list)
        for link in refit.links:
            self.into[link.then].append(link)
        self.missing: dict[str, list[OffBoat]] = defaultdict(list)
        for thing in refit.off_boat:
            if thing.back_task and thing.missing_since:
                self.missing[thing.back_task].append(thing)
        self.at: dict[str, Assignment] = plan.by_task()
        self.stocks = stocks(refit, plan)
        self.between = Between(refit, plan, self.clock)

    def run(self) -> Iterator[Breach]:
        yield from self.completeness()
        if self.plan.launch < self.refit.launch_at:
            yield Breach(Rule.LAUNCH, "", "the plan launches before the slot")
        if self.plan.launch >= self.plan.now and self.ashore and not yard_launches(self.refit, self.plan.launch):
            yield Breach(Rule.LAUNCH, "", "the plan launches while the yard is shut")
        for item in self.plan.assignments:
            task = self.refit.tasks.get(item.task)
            if task is None:
                yield Breach(Rule.COMPLETE, item.task, "is not a task of this refit")
            elif task.done_at:
                if (item.start, item.end) != (task.begun_at, task.done_at):
                    yield Breach(Rule.FACT, task.id, "is done, and the plan moves it")
            else:
                yield from self.one(task, item)
        yield from self.between.all()

    @property
    def ashore(self) -> bool:
        """Whether anything is still to be done before she floats."""
        dry = (State.ASHORE, State.LIFTING, State.SLINGS)
        return any(task.state in dry and not task.done_at for task in self.refit.tasks.values())

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
        rank = {Need.MUST: 0, Need.SHOULD: 1, Need.COULD: 2}
        bound = [(task.contained_by, task.id) for task in self.refit.tasks.values() if task.contained_by]
        bound += [(task.until, task.id) for task in self.refit.tasks.values() if task.until]
        for first, then in [*((link.first, link.then) for link in self.refit.links), *bound]:
            before, after = self.refit.job_of.get(first), self.refit.job_of.get(then)
            if before is None or after is None or before.id not in left_out or then not in self.at:
                continue
            # a job that may be left out is not waited for by one that is needed more
            goes_on = rank[after.need] < rank[before.need] and (first, then) not in bound
            goes_on |= any(task.begun_at for task in after.tasks)
            if not goes_on and not self.refit.tasks[then].begun_at:
                yield Breach(Rule.LEFT_OUT, then, f"waits for {first!r}, which is left out")

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
            if moment.astimezone(self.clock.zone).minute % 30 or moment.second or moment.microsecond:
                yield Breach(Rule.GRID, task.id, "does not lie on a half-hour of the yard's clock")
        yield from self.crew(task, item)
        yield from self.hours(task, item)
        yield from self.weather(task, item, begin)
        if not task.begun_at:
            yield from self.before_it_starts(task, item)
        if task.state in (State.ASHORE, State.LIFTING, State.SLINGS) and item.end > plan.launch:
            yield Breach(Rule.LAUNCH, task.id, "is ashore work and ends after the launch")
        if task.state is State.AFLOAT_BEFORE and plan.now < self.refit.haul_at < item.end:
            yield Breach(Rule.STATE, task.id, "is work before the haul-out and ends after it")

    def before_it_starts(self, task: Task, item: Assignment) -> Iterator[Breach]:
        if task.pin and task.pin >= self.plan.now and item.start != task.pin:
            yield Breach(Rule.PIN, task.id, "is pinned to another time")
        if task.state is State.LIFTING and item.start < self.refit.haul_at:
            yield Breach(Rule.STATE, task.id, "is the lifting and starts before the haul-out")
        if task.state in (State.ASHORE, State.SLINGS) and item.start < self.stands:
            yield Breach(Rule.STATE, task.id, "is ashore work and starts before she stands")
        if task.state is State.AFLOAT_BEFORE and self.plan.now >= self.refit.haul_at:
            yield Breach(Rule.STATE, task.id, "is work before the haul-out, which is past")
        if task.state is State.AFLOAT_AFTER and item.start < self.plan.launch:
            yield Breach(Rule.STATE, task.id, "needs the boat afloat and starts before the launch")
        hang = timedelta(hours=self.refit.yard.slings_hours)
        if task.state is State.SLINGS and item.start < self.plan.launch - hang:
            yield Breach(Rule.SLINGS, task.id, "would have her hanging in the slings longer than the yard holds her")
        for thing in self.missing.get(task.id, ()):
            if not thing.back_at:
                yield Breach(Rule.PART, task.id, f"puts {thing.id!r} back, which is missing")
        for link in self.into.get(task.id, ()) if item.start < self.tomorrow else ():
            found = waits_for_look(self.refit, link)
            if found is not None:
                yield Breach(Rule.ACCEPTED, task.id, f"would cover {found.task.id!r}, which nobody has accepted")
        for key in task.parts:
            if not task.begun_at and item.start < self.usable(key, task.id):
                yield Breach(Rule.PART, task.id, f"starts before {key!r} is aboard and tried for fit")

    def usable(self, key: str, task: str) -> datetime:
        """From when a task can use a part: fit tried; overdue parcels are taken to come a day from now."""
        now, never, part = self.plan.now, datetime.min.replace(tzinfo=UTC), self.refit.part_by_id[key]
        cover = self.stocks[key].by_task.get(task)
        if cover is None:
            return never
        trip = self.refit.tasks.get(part.fetch or "")
        fetched = trip is not None and not trip.done_at  # the tie to the trip is a rule of its own
        latest = max(
            (one.at if one.at and one.at > now else now + timedelta(days=1) for one in cover.coming), default=never
        )
        if cover.untried:
            latest = max(latest, now)
        if cover.away and not fetched:
            latest = max(latest, now + timedelta(days=1))
        if cover.short and not fetched:
            latest = max(latest, open_days(self.refit, part.supplier).after(now, part.lead_days))
        return latest if latest == never or not part.must_fit else latest + FIT_TRIAL

    def crew(self, task: Task, item: Assignment) -> Iterator[Breach]:
        unknown = [who for who in item.people if who not in self.refit.persons]
        expected = len(task.crew) if task.begun_at and task.crew else task.hands
        if unknown or len(set(item.people)) != len(item.people) or len(item.people) != expected:
            yield Breach(Rule.HANDS, task.id, f"needs {expected} different people and has {list(item.people)}")
        if task.begun_at and task.crew:
            return  # who began it may end it
        own = {Role.OWNER, Role.HELPER}
        for who in item.people:
            person = self.refit.persons.get(who)
            if person is None:
                continue
            if task.people:
                fits = who in task.people
            elif task.skill:
                fits = task.skill in person.skills
            else:
                fits = person.role in own or any(skill in person.skills for skill in task.skilled)
            if not fits:
                yield Breach(Rule.SKILL, task.id, f"is not for {person.name}")
        if task.skilled and not unknown and not self.each_skill_has_a_hand(task, item.people):
            yield Breach(Rule.SKILL, task.id, f"needs somebody for each of {', '.join(task.skilled)}")

    def each_skill_has_a_hand(self, task: Task, people: tuple[str, ...]) -> bool:
        """Whether the crew can be told off, skill by skill, with nobody left over who may not do the rest."""
        crowds: list[frozenset[str]] = [frozenset()]
        for skill in task.skilled:
            able = [who for who in people if skill in self.refit.persons[who].skills]
            crowds = [taken | {who} for taken in crowds for who in able if who not in taken]
        own = {Role.OWNER, Role.HELPER}
        return any(
            bool(task.people) or all(self.refit.persons[who].role in own for who in people if who not in taken)
            for taken in crowds
        )

    # -- hours and weather -------------------------------------------------------------------------

    def hours(self, task: Task, item: Assignment) -> Iterator[Breach]:
        wanted = self.refit.hours_to_do(task) * 2
        halves = self.clock.halves(task, item)
        if not halves or not halves[0] or not halves[-1]:
            yield Breach(Rule.HOURS, task.id, "begins or ends while somebody is off, the yard shut or the weather bad")
        if sum(halves) != wanted:
            yield Breach(Rule.WORK, task.id, f"takes {wanted / 2:g} h and is given {sum(halves) / 2:g} h")
        if task.unbroken and not task.begun_at and not all(halves):
            yield Breach(Rule.UNBROKEN, task.id, "must be done in one go and is interrupted")

    def weather(self, task: Task, item: Assignment, begin: datetime) -> Iterator[Breach]:
        """Dry for its tender hours after the end, and in its pauses unless it can be covered."""
        need = task.weather
        if need is None or not need.dry:
            return
        dry_from = begin if not need.coverable and not task.begun_at else item.end
        moment, until = dry_from, item.end + timedelta(hours=task.tender)
        while moment < until:
            if self.clock.rains(moment):
                yield Breach(Rule.WEATHER, task.id, "would be rained on before it has dried, or in a pause")
                return
            moment += HALF_HOUR
