"""Which tasks can't stand each other: dust on wet paint, sparks near fumes, a lift and whoever is aboard or under her."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

from rovask.core.plain.derived import derived
from rovask.core.plan.problem.calendar import slots_of
from rovask.core.readings.kept_away import kept_apart
from rovask.core.refit.model import Refit, Task
from rovask.core.refit.work.choices import Emission


@dataclass(frozen=True, slots=True)
class Rivalry:
    """Two tasks that must not overlap; ``first_after`` and ``then_after``: slots after their ends that this still holds."""

    first: str
    then: str
    first_after: int
    then_after: int


def shunned_by(task: Task) -> frozenset[Emission]:
    """What a task can't stand. Hot work never shares a place with solvent fumes, said or not (common practice)."""
    more = {Emission.FUMES} if Emission.SPARKS in task.emits else set()
    return frozenset(task.shuns) | more


def reaches(refit: Refit) -> dict[str, set[str]]:
    """For each place, those that dust and fumes from it reach: itself, those it opens onto either way, all outdoors."""
    out: dict[str, set[str]] = {place.id: {place.id} for place in refit.places}
    for place in refit.places:
        for other in place.opens_onto:
            out[place.id].add(other)
            out[other].add(place.id)
    outdoors = [place.id for place in refit.places if place.outdoors]
    for key in outdoors:
        out[key].update(outdoors)
    return out


@derived(lambda refit: (refit.jobs, refit.places, refit.gear))
def rivalries(refit: Refit) -> list[Rivalry]:
    """Every pair, once, in the order of the refit. O((emitting tasks + lifts) x tasks)."""
    near = reaches(refit)
    shy: dict[Emission, list[Task]] = defaultdict(list)
    for task in refit.tasks.values():
        for what in shunned_by(task):
            shy[what].append(task)
    out: dict[tuple[str, str], Rivalry] = {}
    for task in refit.tasks.values():
        if task.contained_by:
            continue
        for what in task.emits:
            for other in shy[what]:
                if other.id == task.id or other.place not in near[task.place]:
                    continue
                if (other.id, task.id) in out:
                    old = out[other.id, task.id]
                    after = max(old.first_after, slots_of(other.tender))
                    out[other.id, task.id] = Rivalry(other.id, task.id, after, old.then_after)
                elif (task.id, other.id) in out:
                    old = out[task.id, other.id]
                    after = max(old.then_after, slots_of(other.tender))
                    out[task.id, other.id] = Rivalry(task.id, other.id, old.first_after, after)
                else:
                    out[task.id, other.id] = Rivalry(task.id, other.id, 0, slots_of(other.tender))
    for one, kept, _ in kept_apart(refit):
        if (one.id, kept.id) not in out and (kept.id, one.id) not in out:
            out[one.id, kept.id] = Rivalry(one.id, kept.id, 0, 0)
    return list(out.values())
