"""What the refit costs as planned: yard, parts, paid hands, what nobody has found yet, in the refit's currency."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import date

import numpy as np

from rovask.core.books.money import Money, total
from rovask.core.plan.explain.worked import worked
from rovask.core.plan.result import Plan
from rovask.core.recent import Recent
from rovask.core.refit.choices import Need, PartStatus, Role, State, UnknownState
from rovask.core.refit.make_good import with_make_good
from rovask.core.refit.model import Part, Refit, Unknown
from rovask.core.words import count


@dataclass(frozen=True, slots=True)
class CostLine:
    """One line of the forecast: what for, how it was worked out, and the amount."""

    title: str
    how: str
    amount: Money


@dataclass(frozen=True, slots=True)
class Forecast:
    """The forecast at completion.

    expected: what is not found yet is worth, chance by cost; it is one of the lines. notes: what is counted as nothing
    and why.
    """

    lines: tuple[CostLine, ...]
    budget: Money
    expected: Money
    notes: tuple[str, ...] = ()

    @property
    def total(self) -> Money:
        """Sum of the lines."""
        return total((line.amount for line in self.lines), self.budget.currency)

    @property
    def known(self) -> Money:
        """Without what is not found yet."""
        return self.total - self.expected

    @property
    def left(self) -> Money:
        """Budget less forecast; negative when it is overspent."""
        return self.budget - self.total


@dataclass
class PaidHours:
    """Hours per local day of everybody who has a rate: logged, done without a word of hours, and still planned."""

    by_person: dict[str, dict[date, float]] = field(default_factory=lambda: defaultdict(lambda: defaultdict(float)))

    def add(self, who: str, day: date, hours: float) -> None:
        """So many more."""
        self.by_person[who][day] += hours


_RECENT: Recent[Forecast] = Recent(8)


def forecast(refit: Refit, plan: Plan) -> Forecast:
    """Lift and lay-days to the planned launch, parts, every paid person's hours, and what is expected to be found.

    Lay-days count each local day from haul to launch, both included, less the free ones. A paid person is charged, for
    each day with work, the hours of it, but at least the call-out minimum. Of jobs left out only what is bound counts.
    """
    return _RECENT.of((refit, plan), lambda: _worked_out(refit, plan))


def _worked_out(refit: Refit, plan: Plan) -> Forecast:
    refit = with_make_good(refit, plan.made_good)
    zone = refit.yard.zone
    lines = []

    def money(minor: int) -> Money:
        return Money(minor, refit.currency)

    if refit.yard.lift_and_launch:
        lines.append(CostLine("Lift, block and launch", "the yard's tariff", money(refit.yard.lift_and_launch)))
    days = (plan.launch.astimezone(zone).date() - refit.haul_at.astimezone(zone).date()).days + 1
    charged = max(days - refit.yard.free_days, 0)
    if refit.yard.lay_day:
        how = f"{days} days, {min(refit.yard.free_days, days)} of them free"
        lines.append(CostLine("Lay-days", how, money(charged * refit.yard.lay_day)))
    nights = _nights_in_slings(refit, plan)
    if nights and refit.yard.slings_night:
        lines.append(CostLine("Nights in the slings", f"{nights}", money(nights * refit.yard.slings_night)))
    parts = list(parts_that_count(refit, plan))
    if parts:
        without = len(refit.parts) - len(parts)
        how = count(len(parts), "line") + (f", {without} of jobs left out not counted" if without else "")
        lines.append(CostLine("Parts", how, money(sum(part.price for part in parts))))
    for who, by_day in paid_hours(refit, plan).items():
        person = refit.persons[who]
        hours = sum(max(worked, person.call_out_hours) for worked in by_day.values())
        how = f"{hours:g} h on {count(len(by_day), 'day')}"
        if person.call_out_hours:
            how += f", at least {person.call_out_hours:g} h a day"
        lines.append(CostLine(person.name, how, money(person.rate).times(hours)))
    open_ = unknowns_that_count(refit, plan)
    expected = money(sum(_expected(one) for one in open_))
    if expected:
        lines.append(CostLine("Not found yet", f"{count(len(open_), 'unknown')}, chance by cost", expected))
    return Forecast(tuple(lines), money(refit.budget), expected, tuple(_free(refit, plan)))


def unknowns_that_count(refit: Refit, plan: Plan) -> list[Unknown]:
    """Unknowns that may still cost something: open ones, but for those that only work left out would come upon."""
    out, job_of = _left_out(refit, plan), refit.job_of
    return [
        one
        for one in refit.unknowns
        if one.state is UnknownState.OPEN and not (one.task in job_of and job_of[one.task].id in out)
    ]


def _expected(unknown: Unknown) -> int:
    """What an unknown is expected to cost, in minor units: its money by its chance; own hands are free."""
    return round(unknown.chance * unknown.money)


def _free(refit: Refit, plan: Plan) -> Iterator[str]:
    """Trades and yard crew who work in the plan and have no rate: counted as nothing until one is typed."""
    busy = {who for item in plan.assignments if not refit.tasks[item.task].done_at for who in item.people}
    for person in refit.people:
        if person.id in busy and not person.rate and person.role in (Role.TRADE, Role.YARD):
            yield f"{person.name} has no rate yet and is counted as nothing."


def _left_out(refit: Refit, plan: Plan) -> set[str]:
    """Jobs left out; one that may be, can't be planned whole and isn't begun is as good as that."""
    out = set(plan.left_out)
    for key in plan.unplanned:
        job = refit.job_of.get(key)
        if job is not None and job.need is not Need.MUST and not any(task.begun_at for task in job.tasks):
            out.add(job.id)
    return out


def parts_that_count(refit: Refit, plan: Plan) -> Iterator[Part]:
    """Parts that cost something: bound or bought ones, those of work that is not left out, and those no task names."""
    left_out = _left_out(refit, plan)
    used: dict[str, set[str]] = defaultdict(set)
    for key, task in refit.tasks.items():
        for part in task.parts:
            used[part].add(refit.job_of[key].id)
    for row in refit.parts:
        if row.status is not PartStatus.NEEDED or not used[row.id] or used[row.id] - left_out:
            yield row


def _nights_in_slings(refit: Refit, plan: Plan) -> int:
    """Nights she hangs: from the day of the first work in the slings to the day of the launch."""
    zone = refit.yard.zone
    lifted = [item.start for item in plan.assignments if refit.tasks[item.task].state is State.SLINGS]
    if not lifted:
        return 0
    return max((plan.launch.astimezone(zone).date() - min(lifted).astimezone(zone).date()).days, 0)


def paid_hours(refit: Refit, plan: Plan) -> dict[str, dict[date, float]]:
    """Hours per local day of everybody who has a rate. The one count of paid days and hours there is.

    Logged hours as logged; a task that is done counts its estimate, on the day it was done, for each of its crew who
    logged nothing on it; what is planned counts in the calendars the planner uses: absences, appointments and the
    yard's hours are not paid.
    """
    paid = {person.id for person in refit.people if person.rate}
    if not paid:
        return {}
    zone, out = refit.yard.zone, PaidHours()
    logged = {(entry.task, entry.person) for entry in refit.hours_log}
    for entry in refit.hours_log:
        if entry.person in paid:
            out.add(entry.person, entry.at.astimezone(zone).date(), entry.hours)
    for task in refit.tasks.values():
        if task.done_at:
            for who in task.crew:
                if who in paid and (task.id, who) not in logged:
                    out.add(who, task.done_at.astimezone(zone).date(), task.work.likely * task.units)
    for one in worked(refit, plan, lambda item: not paid.isdisjoint(item.people)):
        days, starts = one.grid.days(), one.grid.day_starts()
        where, halves = np.unique(np.searchsorted(starts, one.slots, side="right") - 1, return_counts=True)
        for day, half in zip(where.tolist(), halves.tolist(), strict=True):
            for who in paid.intersection(one.item.people):
                out.add(who, days[day], half / 2)
    return {person.id: dict(out.by_person[person.id]) for person in refit.people if person.id in out.by_person}
