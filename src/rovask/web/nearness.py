"""What of a long list lies near the sheet that asks for it: that is shown first, the rest is folded away and searched."""

from __future__ import annotations

from dataclasses import dataclass

from rovask.core.recipes.likely import telling_words
from rovask.core.refit.model import Job, Refit, Task

SHOWN = 12  # a list up to here is shown whole: judgement, what a phone shows at once


@dataclass(frozen=True, slots=True)
class Near:
    """Ids of parts and of jobs, the nearest first; what is not among them is far."""

    parts: tuple[str, ...] = ()
    jobs: tuple[str, ...] = ()


def near(refit: Refit, job: Job | None, task: Task | None, title: str = "") -> Near:
    """What lies near a task of a job, also one that is only being typed. O(parts + tasks).

    Parts: those it has, those the other tasks of its job take, those whose name shares a word with it or its job, those
    that no task takes yet. Jobs: its own, then those that work in the same places.
    """
    tasks = job.tasks if job else ()
    taken = [key for one in tasks for key in one.parts]
    words = telling_words(f"{title or (task.title if task else '')} {job.title if job else ''}")
    alike = [part.id for part in refit.parts if words & telling_words(part.name)]
    used = {key for one in refit.tasks.values() for key in one.parts}
    loose = [part.id for part in refit.parts if part.id not in used]
    own = task.parts if task else ()
    places = {one.place for one in tasks} | ({task.place} if task else set())
    beside = [one.id for one in refit.jobs if one is not job and any(row.place in places for row in one.tasks)]
    return Near(
        tuple(dict.fromkeys([*own, *taken, *alike, *loose])),
        tuple(dict.fromkeys([*([job.id] if job else []), *beside])),
    )
