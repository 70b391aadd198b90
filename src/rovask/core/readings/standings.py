"""How each place of the boat stands: worked at, open, curing, waiting, done."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum

from rovask.core.readings.curing import CureClock
from rovask.core.refit.model import Finding, OffBoat, Person, Refit, Task
from rovask.core.refit.seen.choices import Severity
from rovask.core.refit.work.choices import Emission


class Standing(StrEnum):
    """How a place stands, the strongest first: what one sees of it first."""

    CURING = "curing"
    WORKING = "being worked at"
    OPEN = "open"
    WET = "wet"
    WAITING = "to do"
    DONE = "done"
    NOTHING = "nothing to do"


@dataclass(frozen=True, slots=True)
class PlaceStanding:
    """One place: how it stands and why, its tasks, what is off there, and what was found there and isn't settled."""

    standing: Standing
    why: str
    tasks: tuple[Task, ...]
    off: tuple[OffBoat, ...]
    findings: tuple[Finding, ...]

    @property
    def left(self) -> int:
        """Tasks not done."""
        return sum(task.done_at is None for task in self.tasks)


def off_now(refit: Refit) -> list[OffBoat]:
    """What is off the boat now: said so, or its task is done and the one that puts it back isn't."""
    return [item for item in refit.off_boat if is_off(refit, item)]


def is_off(refit: Refit, item: OffBoat) -> bool:
    """Whether a thing is off the boat."""
    if item.back_at is not None:
        return False
    if item.off_at is not None:
        return True
    off, back = refit.tasks.get(item.off_task or ""), refit.tasks.get(item.back_task or "")
    return off is not None and off.done_at is not None and (back is None or back.done_at is None)


def is_back(refit: Refit, item: OffBoat) -> bool:
    """Whether a thing was off and is on again."""
    task = refit.tasks.get(item.back_task or "")
    return item.back_at is not None or (task is not None and task.done_at is not None)


def missing_for(refit: Refit, task: Task) -> list[tuple[str, datetime]]:
    """What can't be found and a task that isn't begun yet needs: parts, and what it puts back; since when."""
    if task.begun_at:
        return []
    parts = [refit.part_by_id[key] for key in task.parts]
    found = [(part.name, part.missing_since) for part in parts if part.missing_since]
    return found + things_missing_for(refit, task)


def things_missing_for(refit: Refit, task: Task) -> list[tuple[str, datetime]]:
    """Things off the boat that can't be found and that a task not begun yet puts back; since when."""
    off = (one for one in refit.off_boat if one.back_task == task.id and one.back_at is None and not task.begun_at)
    return [(one.what, one.missing_since) for one in off if one.missing_since]


def place_of_off(refit: Refit, item: OffBoat) -> str | None:
    """Where it belongs: the place of the task that puts it back, else of the one that took it off."""
    for key in (item.off_task, item.back_task):
        if key in refit.tasks:
            return refit.tasks[key].place
    return None


def standings(refit: Refit, now: datetime) -> Mapping[str, PlaceStanding]:
    """How every place stands at ``now``."""
    curing = _curing(refit, now)
    off = [(place_of_off(refit, item), item) for item in off_now(refit)]
    out = {}
    for place in refit.places:
        tasks = tuple(task for task in refit.tasks.values() if task.place == place.id)
        gone = tuple(item for where, item in off if where == place.id)
        found = tuple(one for one in refit.findings if one.place == place.id and not one.settled)
        standing, why = _standing(tasks, gone, curing.get(place.id))
        out[place.id] = PlaceStanding(standing, why, tasks, gone, found)
    return out


def _standing(tasks: tuple[Task, ...], gone: tuple[OffBoat, ...], curing: Task | None) -> tuple[Standing, str]:
    if curing is not None:
        return Standing.CURING, f"“{curing.title}” is curing"
    under_way = next((task for task in tasks if task.is_under_way), None)
    if under_way is not None:
        wet = Emission.WATER in under_way.emits
        return (Standing.WET if wet else Standing.WORKING), f"“{under_way.title}” is under way"
    if gone:
        return Standing.OPEN, f"{gone[0].what} is off"
    if any(task.done_at is None for task in tasks):
        following = next(task for task in tasks if task.done_at is None)
        return Standing.WAITING, f"next: “{following.title}”"
    if tasks:
        return Standing.DONE, "all its tasks are done"
    return Standing.NOTHING, "no task here"


def _curing(refit: Refit, now: datetime) -> dict[str, Task]:
    """The place of each task that is done and whose cure, a lag or its tender hours, still runs."""
    clock = CureClock.of(refit)
    until: dict[str, datetime] = {}
    for task in refit.tasks.values():
        if task.done_at and task.tender:
            until[task.id] = task.done_at + timedelta(hours=task.tender)
    for link in refit.waits:
        first, then = refit.tasks.get(link.first), refit.tasks.get(link.then)
        if first is None or first.done_at is None or not link.min_lag or (then is not None and then.begun_at):
            continue
        ends = clock.ready_after(link, first.done_at)
        until[first.id] = max(until.get(first.id, ends), ends)
    return {refit.tasks[key].place: refit.tasks[key] for key, ends in until.items() if ends > now}


def worst(findings: tuple[Finding, ...]) -> Severity | None:
    """The worst of some findings."""
    order = list(Severity)
    return max((one.severity for one in findings), key=order.index, default=None)


def is_agreed_with(refit: Refit, person: Person) -> bool:
    """Whether there is an agreement with somebody: one that names them, or whose party they are."""
    return any(one.person == person.id or one.party == person.name for one in refit.agreements)
