"""What the refit costs as planned: yard, parts, paid hands, in the refit's currency."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from datetime import date, timedelta

from rovask.core.books.money import Money, total
from rovask.core.plan.problem.calendar import SLOT
from rovask.core.plan.result import Plan
from rovask.core.refit.choices import State
from rovask.core.refit.make_good import with_make_good
from rovask.core.refit.model import Refit


@dataclass(frozen=True, slots=True)
class CostLine:
    """One line of the forecast: what for, how it was worked out, and the amount."""

    title: str
    how: str
    amount: Money


@dataclass(frozen=True, slots=True)
class Forecast:
    """The forecast at completion. It leaves out what nobody has found yet."""

    lines: tuple[CostLine, ...]
    budget: Money

    @property
    def total(self) -> Money:
        """Sum of the lines."""
        return total((line.amount for line in self.lines), self.budget.currency)

    @property
    def left(self) -> Money:
        """Budget less forecast; negative when it is overspent."""
        return self.budget - self.total


def forecast(refit: Refit, plan: Plan) -> Forecast:
    """Lift and lay-days to the planned launch, all parts, and every paid person's hours.

    Lay-days count each local day from haul to launch, both included, less the free ones. A paid person is
    charged, for each day with work, the hours logged or still planned, but at least the call-out minimum.
    """
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
    if refit.parts:
        lines.append(CostLine("Parts", f"{len(refit.parts)} lines", money(sum(part.price for part in refit.parts))))
    for who, by_day in _paid_hours(refit, plan).items():
        person = refit.persons[who]
        hours = sum(max(worked, person.call_out_hours) for worked in by_day.values())
        how = f"{hours:g} h on {len(by_day)} days"
        if person.call_out_hours:
            how += f", at least {person.call_out_hours:g} h a day"
        lines.append(CostLine(person.name, how, money(person.rate).times(hours)))
    return Forecast(tuple(lines), money(refit.budget))


def _nights_in_slings(refit: Refit, plan: Plan) -> int:
    """Nights she hangs: from the day of the first work in the slings to the day of the launch."""
    zone = refit.yard.zone
    lifted = [item.start for item in plan.assignments if refit.tasks[item.task].state is State.SLINGS]
    if not lifted:
        return 0
    return max((plan.launch.astimezone(zone).date() - min(lifted).astimezone(zone).date()).days, 0)


def _paid_hours(refit: Refit, plan: Plan) -> dict[str, dict[date, float]]:
    """Hours per day of everybody who has a rate, logged and still planned."""
    zone = refit.yard.zone
    out: dict[str, dict[date, float]] = defaultdict(lambda: defaultdict(float))
    for entry in refit.hours_log:
        if refit.persons[entry.person].rate:
            out[entry.person][entry.at.astimezone(zone).date()] += entry.hours
    for item in plan.assignments:
        task = refit.tasks[item.task]
        if task.done_at:
            continue
        for who in item.people:
            if not refit.persons[who].rate:
                continue
            for day, hours in work_by_day(refit, item.people, item.resume or item.start, item.end).items():
                out[who][day] += hours
    return {person.id: dict(out[person.id]) for person in refit.people if person.id in out}


def work_by_day(refit: Refit, people: tuple[str, ...], start, end) -> dict[date, float]:  # type: ignore[no-untyped-def]
    """Hours between ``start`` and ``end`` that lie inside everybody's shifts, by local day."""
    zone = refit.yard.zone
    out: dict[date, float] = defaultdict(float)
    moment = start
    while moment < end:
        local = moment.astimezone(zone)
        if all(
            any(
                local.weekday() in {day.number for day in shift.days} and shift.start <= local.time() < shift.end
                for shift in refit.persons[who].hours
            )
            for who in people
        ):
            out[local.date()] += SLOT / timedelta(hours=1)
        moment += SLOT
    return dict(out)
