"""Trips: what is bought or fetched at one place before it is needed goes into one task, with a person and hours."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.readings.open_days import suppliers_by_name
from rovask.core.readings.stock import stocks
from rovask.core.refit.edits import rebuilt
from rovask.core.refit.givens.choices import Spot
from rovask.core.refit.model import Link, Part, Place, Refit
from rovask.core.refit.stores.choices import Lies, SupplierKind
from rovask.core.refit.work.choices import State
from rovask.core.refit.work.kinds import Job, Task, WorkTime

NewId = Callable[[str], str]
USUAL_HOURS, EACH_HOURS = 2.0, 0.25  # there and back where nobody said; at the counter for each thing


@dataclass(frozen=True, slots=True)
class Trip:
    """Where to, what for, who goes (none: whoever can), hours, and the vehicle it takes, if any."""

    to: str
    parts: tuple[str, ...]
    hours: float
    person: str | None = None
    gear: str | None = None


@dataclass(frozen=True, slots=True)
class Proposal:
    """A trip worth making: to where, what could be had there, and how long it takes."""

    to: str
    parts: tuple[Part, ...]
    hours: float


def proposals(refit: Refit) -> list[Proposal]:
    """For each place things are bought over the counter or lie, what is still to be had there and no trip brings. Most first."""
    suppliers, found = suppliers_by_name(refit), stocks(refit)
    own = [one for one in refit.suppliers if one.what is SupplierKind.STORE]
    at: dict[str, list[Part]] = defaultdict(list)
    for part in refit.parts:
        if part.fetch in refit.tasks and not refit.tasks[part.fetch or ""].done_at:
            continue
        stock = found[part.id]
        supplier = suppliers.get(part.supplier.casefold())
        counter = supplier is not None and supplier.what in (SupplierKind.SHOP, SupplierKind.STORE)
        if stock.away and part.lies is Lies.FAR:
            at[own[0].name if len(own) == 1 else part.lies.value].append(part)
        elif stock.away and part.lies in (Lies.SHOP, Lies.WORKSHOP):
            at[part.supplier or part.lies.value].append(part)
        elif stock.short and counter:
            at[part.supplier].append(part)
    out = []
    for to, parts in at.items():
        row = suppliers.get(to.casefold())
        hours = row.away_hours if row is not None else USUAL_HOURS
        out.append(Proposal(to, tuple(parts), half_hours(hours + EACH_HOURS * len(parts))))
    return sorted(out, key=lambda one: (-len(one.parts), one.to))


def half_hours(hours: float) -> float:
    """Hours rounded up to the half.

    >>> half_hours(2.25), half_hours(3)
    (2.5, 3.0)
    """
    return -(-hours * 2 // 1) / 2


def planned_trip(refit: Refit, trip: Trip, new_id: NewId) -> tuple[Refit, str]:
    """The refit with the trip as a task before all that needs what it brings, and the task's id. Raises RefitFaults."""
    gone = [key for key in trip.parts if key not in refit.part_by_id]
    if not trip.parts or gone:
        raise RefitFaults([Fault("parts", "Tick at least one part to fetch." if not gone else "One of them is gone.")])
    refit, place = _ashore(refit, new_id)
    users = [task for task in refit.tasks.values() if set(trip.parts) & set(task.parts) and not task.begun_at]
    needs = {refit.job_of[task.id].need for task in users}
    task = Task(
        id=new_id("task"),
        title=f"Trip to {trip.to}"[:120],
        place=place,
        state=State.EITHER,
        work=WorkTime(least=trip.hours, likely=trip.hours, most=trip.hours + 1),
        people=(trip.person,) if trip.person else (),
        gear=(trip.gear,) if trip.gear else (),
        note="\n".join(_told(refit.part_by_id[key]) for key in trip.parts),
    )
    need = min(needs, key=lambda one: ["must", "should", "could"].index(one.value), default="must")
    home = next((job for job in refit.jobs if job.recipe is None and job.title == "Trips" and job.need == need), None)
    if home is None:
        jobs = (*refit.jobs, Job(id=new_id("job"), title="Trips", need=need, tasks=(task,)))
    else:
        more = home.model_copy(update={"tasks": (*home.tasks, task)})
        jobs = tuple(more if one is home else one for one in refit.jobs)
    links = tuple(Link(id=new_id("link"), first=task.id, then=user.id, reason="brings its parts") for user in users)
    parts = tuple(part.model_copy(update={"fetch": task.id}) if part.id in trip.parts else part for part in refit.parts)
    return rebuilt(refit, jobs=jobs, links=(*refit.links, *links), parts=parts), task.id


def _told(part: Part) -> str:
    return f"{part.quantity:g} {part.unit} {part.name}{f', {part.dimension}' if part.dimension else ''}".replace(
        "  ", " "
    )


def _ashore(refit: Refit, new_id: NewId) -> tuple[Refit, str]:
    """The refit with a place ashore, and its id."""
    for place in refit.places:
        if place.spot is Spot.ASHORE:
            return refit, place.id
    key = new_id("place")
    return rebuilt(refit, places=(*refit.places, Place(id=key, name="Ashore", spot=Spot.ASHORE, capacity=9))), key
