"""Services of life aboard: out since, until, why, and whether the limit the sailor set is kept.

A service is out from the moment it really went until it is really back: what happened counts as it happened, the rest
as planned. Some are out because she stands ashore, whatever is worked at.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from rovask.core.plan.result import Plan
from rovask.core.readings.ashore import adds_outage, out_ashore
from rovask.core.refit.givens.choices import Cooling, Fitting, Service, Spot
from rovask.core.refit.model import Boat, Place, Refit, Task
from rovask.core.refit.work.choices import Emission
from rovask.core.refit.work.make_good import with_make_good

SLEPT_IN = (Spot.FOREPEAK, Spot.SALOON, Spot.BERTHS)


@dataclass(frozen=True, slots=True)
class Outage:
    """One service out. ends: None when nothing that is planned gives it back. task: what takes it, None for being ashore.

    limit: hours it may be out in one go, None without a limit. began: whether it is out already.
    """

    service: Service
    begins: datetime
    ends: datetime | None
    why: str
    task: str | None
    limit: float | None
    began: bool

    @property
    def lasts(self) -> timedelta | None:
        """How long; None while nobody knows."""
        return None if self.ends is None else self.ends - self.begins

    @property
    def broken(self) -> bool:
        """Whether it is out for longer than it may be; without an end it is."""
        return self.limit is not None and (self.lasts is None or self.lasts > timedelta(hours=self.limit))


def outages(refit: Refit, plan: Plan) -> list[Outage]:
    """Every outage past and to come, in order of time. O(tasks)."""
    refit = with_make_good(refit, plan.made_good)
    limits = {limit.service: limit.hours for limit in refit.outage_limits}
    found = [*_by_tasks(refit, plan, limits), *_by_being_ashore(refit, plan)]
    return sorted(found, key=lambda one: (one.begins, one.service))


def _by_tasks(refit: Refit, plan: Plan, limits: Mapping[Service, float]) -> Iterator[Outage]:
    at = plan.by_task()
    for task in refit.tasks.values():
        if not task.takes_out:
            continue
        begins = task.begun_at or (at[task.id].start if task.id in at else None)
        if begins is None:
            continue
        back = refit.tasks[task.until or task.id]
        ends = back.done_at or (at[back.id].end if back.id in at else None)
        for service in task.takes_out:
            limit = limits.get(service) if service in adds_outage(refit, task) else None
            yield Outage(service, begins, ends, task.title, task.id, limit, task.begun_at is not None)


def _by_being_ashore(refit: Refit, plan: Plan) -> Iterator[Outage]:
    """What needs water under her: a water-cooled fridge; heads that pump overboard, without a tank to hold it."""
    for service, why in out_ashore(refit.boat).items():
        yield Outage(service, refit.haul_at, plan.launch, why, None, None, refit.haul_at <= plan.now)


def said_of_being_ashore(boat: Boat) -> list[str]:
    """What her cooling and tanks imply while she stands, besides services that are out. Common practice."""
    said = []
    if boat.cooling in (Cooling.RAW_WATER, Cooling.HEAT_EXCHANGER):
        said.append(
            "The engine draws its cooling from the sea: ashore it is not run without a hose to it, so it charges nothing."
        )
    elif boat.cooling is Cooling.KEEL:
        said.append("The keel cooler hangs in air: the engine runs warm within minutes, so it charges nothing.")
    if Fitting.HOLDING_TANK in boat.fitted and boat.heads:
        said.append(
            "The heads fill the holding tank, which is pumped out afloat or by the yard: empty it before the lift."
        )
    if boat.water_tanks:
        said.append("Full water tanks weigh on the blocks and are in the way of work on them: top up by the jug.")
    return said


@dataclass(frozen=True, slots=True)
class Night:
    """A night on which some place that is slept in isn't fit for it, and what being elsewhere is reckoned at. whose: bunks are there."""

    day: date
    place: str
    task: str
    whose: str = ""


def nights_elsewhere(refit: Refit, plan: Plan) -> list[Night]:
    """Nights after dust or fumes in a place that is slept in, or that opens onto it, and while what nobody stays without is out."""
    refit = with_make_good(refit, plan.made_good)
    zone = refit.yard.zone
    slept = {place.id: place for place in refit.places if place.spot in SLEPT_IN}
    near: dict[str, set[str]] = {key: {key} for key in slept}
    for place in refit.places:
        for other in place.opens_onto:
            if other in near:
                near[other].add(place.id)
            if place.id in near:
                near[place.id].add(other)
    out: dict[tuple[date, str], Night] = {}
    for item in plan.assignments:
        task = refit.tasks[item.task]
        foul = {Emission.DUST, Emission.FUMES} & set(task.emits) and not task.contained_by
        for key, reach in near.items():
            if not (foul and task.place in reach):
                continue
            day, last = item.start.astimezone(zone).date(), item.end.astimezone(zone).date()
            while day <= last:
                out.setdefault((day, key), Night(day, slept[key].name, task.title, _whose(refit, slept[key])))
                day += timedelta(days=1)
    for one in outages(refit, plan):
        if (
            one.task is not None
            and one.service in refit.nobody_without
            and one.service in adds_outage(refit, refit.tasks[one.task])
        ):
            room = refit.place_by_id[refit.tasks[one.task].place].name
            day = one.begins.astimezone(zone).date()
            until = (one.ends or plan.launch).astimezone(zone).date()
            while day < until:
                out.setdefault((day, room), Night(day, room, one.why))
                day += timedelta(days=1)
    return sorted(out.values(), key=lambda night: (night.day, night.place))


def _whose(refit: Refit, place: Place) -> str:
    """Whose bunks a place has, children said last; "" where nobody noted it."""
    names = [refit.persons[key].name for key in place.sleeps if key in refit.persons]
    return ", ".join([*names, *(["children"] if place.children else [])])


@dataclass(frozen=True, slots=True)
class ServiceDay:
    """One day: what is out, and where nobody can sleep that night."""

    day: date
    out: tuple[Outage, ...]
    nights: tuple[Night, ...]


def by_day(refit: Refit, plan: Plan) -> list[ServiceDay]:
    """The days on which something is out or a bed isn't fit, in order; a service that isn't given back is out to the end."""
    zone = refit.yard.zone
    days: dict[date, list[Outage]] = {}
    for one in outages(refit, plan):
        day = one.begins.astimezone(zone).date()
        last = (one.ends or plan.launch).astimezone(zone).date()
        while day <= last:
            days.setdefault(day, []).append(one)
            day += timedelta(days=1)
    nights: dict[date, list[Night]] = {}
    for night in nights_elsewhere(refit, plan):
        nights.setdefault(night.day, []).append(night)
    return [ServiceDay(day, tuple(days.get(day, ())), tuple(nights.get(day, ()))) for day in sorted({*days, *nights})]


def too_long(refit: Refit, plan: Plan, task: Task, begins: datetime) -> list[str]:
    """What a task's outage would break if it began at ``begins``: a sentence for each limit."""
    back = plan.by_task().get(task.until or task.id)
    out = []
    for limit in refit.outage_limits:
        if limit.service not in adds_outage(refit, task) or back is None:
            continue
        hours = (back.end - begins) / timedelta(hours=1)
        if hours > limit.hours:
            out.append(f"No {limit.service.value} for {hours:g} h as planned; you set {limit.hours:g} h as the most.")
    return out


def days_on_end(refit: Refit, day: date, working: set[str]) -> dict[str, int]:
    """For everybody who works on ``day``: how many days on end that makes, by what is logged and ticked before it."""
    zone = refit.yard.zone
    worked: dict[str, set[date]] = {}
    for entry in refit.hours_log:
        worked.setdefault(entry.person, set()).add(entry.at.astimezone(zone).date())
    for task in refit.tasks.values():
        for at in (task.begun_at, task.done_at):
            for who in task.crew if at is not None else ():
                worked.setdefault(who, set()).add(at.astimezone(zone).date())  # type: ignore[union-attr]
    out = {}
    for who in working:
        run, before = 1, day - timedelta(days=1)
        while before in worked.get(who, ()):
            run, before = run + 1, before - timedelta(days=1)
        out[who] = run
    return out
