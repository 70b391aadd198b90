"""Seeded refits in which something can't be: for benches and for the tests of what is said when nothing fits.

Each is a generated refit with one thing spoiled, or five at once, the way sailors and files spoil them.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from benches.generate import generated_refit
from rovask.core.refit.edits import rebuilt
from rovask.core.refit.model import Refit
from rovask.core.refit.stores.choices import PartStatus
from rovask.core.refit.work.choices import LinkKind, Need, State
from rovask.core.refit.work.kinds import Link, Part, Task


@dataclass(frozen=True, slots=True)
class Broken:
    """A refit with something that can't be, and the moment it is looked at."""

    name: str
    refit: Refit
    now: datetime


def _with_task(refit: Refit, key: str, **changes: Any) -> Refit:
    jobs = tuple(
        job.model_copy(
            update={
                "tasks": tuple(
                    Task.model_validate(task.model_dump() | changes) if task.id == key else task for task in job.tasks
                )
            }
        )
        for job in refit.jobs
    )
    return rebuilt(refit, jobs=jobs)


def _open_must(refit: Refit, which: int) -> list[str]:
    """The tasks of the ``which``-th must-job that is done ashore."""
    jobs = [job for job in refit.jobs if job.need is Need.MUST and all(t.state is State.ASHORE for t in job.tasks)]
    return [task.id for task in jobs[which].tasks]


def waits_that_collide(refit: Refit) -> Refit:
    """The second step at most four hours after the first is done, and no sooner than four days after it began."""
    first, then, *_ = _open_must(refit, 0)
    rest = tuple(link for link in refit.links if (link.first, link.then) != (first, then))
    most = Link(id="spoilt-most", first=first, then=then, max_lag=4.0)
    least = Link(id="spoilt-least", first=first, then=then, kind=LinkKind.SS, min_lag=96.0)
    return rebuilt(refit, links=(*rest, most, least))


def skill_nobody_has(refit: Refit) -> Refit:
    """A task for somebody who isn't there."""
    return _with_task(refit, _open_must(refit, 1)[0], skill="diving")


def place_without_room(refit: Refit) -> Refit:
    """Four hands in the place that takes fewest."""
    least = min(refit.places, key=lambda place: place.capacity)
    return _with_task(refit, _open_must(refit, 2)[0], place=least.id, hands=4, skill=None, units=1)


def part_that_never_comes(refit: Refit) -> Refit:
    """A part on order until long after the launch."""
    late = Part(
        id="spoilt-part", name="Cast bracket", status=PartStatus.ORDERED, arrives=refit.launch_at + timedelta(days=300)
    )
    return _with_task(rebuilt(refit, parts=(*refit.parts, late)), _open_must(refit, 3)[0], parts=(late.id,))


def pinned_before_its_time(refit: Refit) -> Refit:
    """The last step of a job pinned to the first morning."""
    return _with_task(refit, _open_must(refit, 4)[-1], pin=refit.haul_at + timedelta(hours=6))


ONE_BY_ONE: dict[str, Callable[[Refit], Refit]] = {
    "waits that collide": waits_that_collide,
    "a skill nobody has": skill_nobody_has,
    "a place without room": place_without_room,
    "a part that never comes": part_that_never_comes,
    "a pin before its time": pinned_before_its_time,
}


def broken_refits(tasks: int, seed: int) -> list[Broken]:
    """One refit for each fault, one with all five, and one whose slot has passed. Same arguments, same refits."""
    refit = generated_refit(tasks, seed)
    out = [Broken(name, spoil(refit), refit.haul_at) for name, spoil in ONE_BY_ONE.items()]
    whole = refit
    for spoil in ONE_BY_ONE.values():
        whole = spoil(whole)
    out.append(Broken("all five at once", whole, refit.haul_at))
    out.append(Broken("a slot in the past", refit, refit.launch_at + timedelta(days=2)))
    return out
