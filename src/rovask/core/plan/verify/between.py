"""The verifier's rules between tasks: ties, outages, people and places used twice, rivals, rest days, the slings."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from datetime import date, datetime, timedelta
from itertools import pairwise

from rovask.core.plain.half_hours import HALF_HOUR, number_of
from rovask.core.plan.result import Assignment, Plan
from rovask.core.plan.verify.clock import Clock
from rovask.core.plan.verify.rules import Breach, Rule
from rovask.core.readings.ashore import adds_outage
from rovask.core.readings.closes import closings
from rovask.core.readings.curing import CureClock
from rovask.core.readings.kept_away import lifts
from rovask.core.readings.trade_order import trade_orders
from rovask.core.refit.givens.choices import Spot
from rovask.core.refit.model import Link, Refit, Task
from rovask.core.refit.work.choices import Emission, LinkKind, State

CLOSE = 1e-3  # hours: the planner counts cures in whole parts of half an hour


class Between:
    """What must hold between the assignments of one plan."""

    def __init__(self, refit: Refit, plan: Plan, clock: Clock) -> None:
        self.refit, self.plan, self.clock = refit, plan, clock
        self.at: dict[str, Assignment] = plan.by_task()
        self.cure = CureClock.of(refit)
        self.open: list[tuple[Task, Assignment, datetime]] = [
            (refit.tasks[item.task], item, item.resume or item.start)
            for item in plan.assignments
            if item.task in refit.tasks and not refit.tasks[item.task].done_at
        ]

    def all(self) -> Iterator[Breach]:
        """Every breach between tasks."""
        yield from self.ties()
        yield from self.implied()
        yield from self.orders()
        yield from self.margins()
        yield from self.outages()
        yield from self.people()
        yield from self.room()
        yield from self.rivals()
        yield from self.cleared()
        yield from self.rest()

    # -- ties --------------------------------------------------------------------------------------

    def event(self, key: str, end: bool) -> tuple[datetime | None, bool]:
        """(when the start or end of a task, haul or launch is; whether it has happened)."""
        if key == "haul":
            return self.refit.haul_at, True
        if key == "launch":
            return self.plan.launch, False
        if key not in self.refit.tasks:
            fixed = next(one for one in self.refit.appointments if one.id == key)
            return fixed.at + timedelta(hours=fixed.hours) if end else fixed.at, True
        item, task = self.at.get(key), self.refit.tasks[key]
        if item is None:
            return None, False
        return (item.end, task.done_at is not None) if end else (item.start, task.begun_at is not None)

    def wait(self, link: Link, earlier: datetime, later: datetime) -> tuple[bool, bool]:
        """Whether ``later`` comes too soon, and whether too late, after ``earlier``; a cure counts its own hours' warmth."""
        has = self.cure.worth(earlier, later) if link.cures else (later - earlier) / timedelta(hours=1)
        soon = has < link.min_lag - CLOSE
        late = link.max_lag is not None and has > link.max_lag + CLOSE
        if late and link.cures:  # half-hours show no less than the first one in which the least wait is over
            late = self.cure.worth(earlier, later - HALF_HOUR) >= link.min_lag - CLOSE
        return soon, late

    def ties(self) -> Iterator[Breach]:
        """Every link: its least and its longest wait."""
        for link in self.refit.waits:
            earlier, fact = self.event(link.first, link.kind in (LinkKind.FS, LinkKind.FF))
            later, happened = self.event(link.then, link.kind in (LinkKind.FF, LinkKind.SF))
            if earlier is None or later is None:
                waits = later is not None and not happened and link.then in self.refit.tasks
                one_job = self.refit.job_of.get(link.first) is self.refit.job_of.get(link.then)
                if waits and one_job and link.first in self.plan.unplanned:
                    yield Breach(Rule.TIE, link.then, f"waits for {link.first!r}, which is not planned")
                continue
            if happened and link.then in self.refit.tasks:
                continue
            soon, late = self.wait(link, earlier, later)
            if link.first not in self.refit.tasks and link.first not in ("haul", "launch"):
                late = late and earlier + timedelta(hours=link.max_lag or 0) > self.plan.now
            if link.then not in self.refit.tasks and link.then not in ("haul", "launch"):
                soon = soon and not fact and later - timedelta(hours=link.min_lag) > self.plan.now
            if soon:
                yield Breach(Rule.TIE, link.then, f"comes too soon after {link.first!r}")
            if late and not (fact and link.id in self.plan.broken):
                yield Breach(Rule.WINDOW, link.then, f"comes too late after {link.first!r}")

    def implied(self) -> Iterator[Breach]:
        """Containment is up before what it contains; ashore work ends before she hangs in the slings."""
        lifting = [(one.id, other.end) for one, other, _ in self.open if one.state is State.LIFTING]
        dry = [(one.id, other.end) for one, other, _ in self.open if one.state in (State.ASHORE, State.LIFTING)]
        for task, item, _ in self.open:
            for first, then in ((task.contained_by, task.id), (task.id, task.until)):
                before, after = self.at.get(first or ""), self.at.get(then or "")
                if first and then and after and not self.refit.tasks[then].begun_at:
                    if before is None:
                        yield Breach(Rule.TIE, then, f"waits for {first!r}, which is not planned")
                    elif after.start < before.end:
                        yield Breach(Rule.TIE, then, f"starts before {first!r} is done")
            if task.state is State.ASHORE and not task.begun_at:
                up = [key for key, end in lifting if end > item.start]
                if up:
                    yield Breach(Rule.STATE, task.id, f"starts under her before {up[0]!r} is done")
            if task.state is State.SLINGS and not task.begun_at:
                ashore = [key for key, end in dry if end > item.start]
                if ashore:
                    yield Breach(Rule.SLINGS, task.id, f"has her in the slings while {ashore[0]!r} needs her ashore")

    def orders(self) -> Iterator[Breach]:
        """What the trade does first in a place is done first, whichever job it belongs to."""
        for order in trade_orders(self.refit):
            before, after = self.at.get(order.first), self.at.get(order.then)
            if before and after and after.start < before.end:
                yield Breach(Rule.ORDER, order.then, f"starts before {order.first!r} is done: {order.why}")

    def margins(self) -> Iterator[Breach]:
        """What opens her is closed some working days before she is lifted into the slings, or launched."""
        wanted = closings(self.refit)
        lifted = min([begin for task, _, begin in self.open if task.state is State.SLINGS], default=self.plan.launch)
        for task, item, _ in self.open:
            margin = wanted.get(task.id)
            if margin is not None and self.clock.working_days(item.end, lifted) < margin.days - CLOSE:
                words = (
                    f"closes what is opened ({margin.what}) less than {margin.days:g} working days before the slings"
                )
                yield Breach(Rule.MARGIN, task.id, words)

    def outages(self) -> Iterator[Breach]:
        """No service is out longer in one go than it may be."""
        limits = {limit.service: timedelta(hours=limit.hours) for limit in self.refit.outage_limits}
        for task, item, _ in self.open:
            back = self.at.get(task.until or task.id)
            if task.begun_at or back is None:
                continue  # once it is out, that is a fact
            for service in adds_outage(self.refit, task):
                if service in limits and back.end - item.start > limits[service]:
                    yield Breach(Rule.OUTAGE, task.id, f"takes the {service} out for too long")

    # -- what can't be used twice ------------------------------------------------------------------

    def people(self) -> Iterator[Breach]:
        """Nobody is at two tasks at once."""
        by_person: dict[str, list[tuple[datetime, datetime, str]]] = defaultdict(list)
        for task, item, begin in self.open:
            for who in item.people:
                by_person[who].append((begin, item.end, task.id))
        for who, spans in by_person.items():
            spans.sort()
            for (_, end, first), (start, _, then) in pairwise(spans):
                if start < end:
                    yield Breach(Rule.PERSON_TWICE, then, f"takes {who!r}, who is still at {first!r}")

    def room(self) -> Iterator[Breach]:
        """No place holds more hands, no equipment more tasks, than there is room for."""
        changes: dict[tuple[Rule, str], list[tuple[datetime, int, str]]] = defaultdict(list)
        for task, item, begin in self.open:
            changes[Rule.PLACE, task.place] += [(begin, task.hands, task.id), (item.end, -task.hands, task.id)]
            for key in set(task.gear):
                changes[Rule.GEAR, key] += [(begin, 1, task.id), (item.end, -1, task.id)]
        for (rule, key), steps in changes.items():
            place = rule is Rule.PLACE
            inside, most = 0, self.refit.place_by_id[key].capacity if place else self.refit.gear_by_id[key].count
            for _, count, name in sorted(steps, key=lambda step: (step[0], step[1])):
                inside += count
                if count > 0 and inside > most:
                    what = f"puts {inside} hands into" if place else f"is the {inside}. task to use"
                    yield Breach(rule, name, f"{what} {key!r}, of which there is {most}")

    def near(self, one: str, other: str) -> bool:
        """Whether what is given off in one place reaches the other."""
        here, there = self.refit.place_by_id[one], self.refit.place_by_id[other]
        return one == other or other in here.opens_onto or one in there.opens_onto or (here.outdoors and there.outdoors)

    def rivals(self) -> Iterator[Breach]:
        """Nothing is given off near what can't stand it, from its beginning until its tender hours are over."""
        there = [
            (self.refit.tasks[item.task], item.resume or item.start, item.end)
            for item in self.plan.assignments
            if item.task in self.refit.tasks
        ]
        shy = [
            (task, frozenset(stands_not), begin, end + timedelta(hours=task.tender))
            for task, begin, end in there
            if (stands_not := {*task.shuns, *((Emission.FUMES,) if Emission.SPARKS in task.emits else ())})
        ]
        for task, begin, end in there:
            if not task.emits or task.contained_by:
                continue
            for other, hurts, from_, until in shy:
                if begin >= until or from_ >= end or other.id == task.id or (task.done_at and other.done_at):
                    continue
                bad = [what for what in task.emits if what in hurts]
                if bad and self.near(task.place, other.place):
                    yield Breach(Rule.RIVAL, task.id, f"gives off {bad[0]} while {other.id!r} can't stand it")

    def cleared(self) -> Iterator[Breach]:
        """Nobody is aboard or under her while she or a load hangs; nobody else is where fumes can't get out."""
        rows = [
            (task, begin, item.end, self.refit.place_by_id[task.place])
            for task, item, begin in self.open
            if self.refit.place_by_id[task.place].spot is not Spot.ASHORE
        ]
        hanging = {task.id for task, *_ in self.open if lifts(self.refit, task)}
        for task, item, begin in self.open:
            where = self.refit.place_by_id[task.place]
            stinks = Emission.FUMES in task.emits and not task.contained_by and not where.outdoors
            if task.id not in hanging and not (stinks and where.spot is not Spot.ASHORE):
                continue
            for other, from_, until, there in rows:
                if other.id == task.id or begin >= until or from_ >= item.end or self._stands(task, other):
                    continue
                if task.id in hanging:
                    yield Breach(Rule.CLEARED, other.id, f"has people aboard or under her while {task.id!r} hangs")
                elif stinks and not there.outdoors and self.near(task.place, other.place):
                    yield Breach(Rule.CLEARED, other.id, f"has people in the fumes of {task.id!r}")

    @staticmethod
    def _stands(one: Task, other: Task) -> bool:
        """Whether one is a fact and the other stands at a time that was set: nothing of it is the plan's."""
        facts, pins = (one.begun_at, other.begun_at), (one.pin, other.pin)
        return any(facts) and all(fact or pin for fact, pin in zip(facts, pins, strict=True))

    def rest(self) -> Iterator[Breach]:
        """Nobody works more days on end than they may; days past count as the log and the ticks have them."""
        worked: dict[str, set[date]] = defaultdict(set)
        for entry in self.refit.hours_log:
            worked[entry.person].add(self.clock.day(entry.at))
        for task in self.refit.tasks.values():
            for who in task.crew:
                worked[who].update(self.clock.day(at) for at in (task.begun_at, task.done_at) if at)
        planned: dict[str, dict[date, str]] = defaultdict(dict)
        for task, item, begin in self.open:
            first, halves = number_of(begin, self.clock.zone), self.clock.halves(task, item)
            days_worked = {self.clock.day_of(first + at) for at in (0, len(halves) - 1)}
            if len(days_worked) > 1 or not any(halves):
                days_worked = {self.clock.day_of(first + at) for at, goes in enumerate(halves) if goes}
            for who in item.people:
                planned[who].update(dict.fromkeys(days_worked, task.id))
        for who, days in planned.items():
            most = self.refit.persons[who].longest_run if who in self.refit.persons else 999
            busy = worked[who] | set(days)
            for day, name in sorted(days.items()):
                run = 0
                while day - timedelta(days=run) in busy:
                    run += 1
                if run > most:
                    yield Breach(Rule.REST, name, f"is {who!r}'s day {run} of work on end, more than {most}")
                    break
