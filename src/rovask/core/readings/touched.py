"""What was opened by what has happened: by tasks that were begun, and by what was found."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from datetime import datetime

from rovask.core.readings.closes import BY_SPOT, opened_by
from rovask.core.refit.model import Refit, Task
from rovask.core.refit.seen.choices import Severity
from rovask.core.refit.work.choices import Opens


@dataclass(frozen=True, slots=True)
class Touched:
    """One sort of thing that one job or finding opened.

    mark: the id of the job or finding. title: what that is called; places: where. at: when it was last begun or done
    something to: what was seen of it before that counts no more. closed: whether all work that opens it is done.
    """

    what: Opens
    mark: str
    title: str
    places: tuple[str, ...]
    at: datetime
    closed: bool


def touched(refit: Refit) -> list[Touched]:
    """Everything that was opened, in the order of the jobs, then of the findings. O(tasks + findings)."""
    out = []
    for job in refit.jobs:
        work: dict[Opens, list[Task]] = defaultdict(list)
        for task in job.tasks:
            for what in opened_by(refit, job, task) if task.begun_at else ():
                work[what].append(task)
        for what, tasks in work.items():
            places = tuple(dict.fromkeys(refit.place_by_id[task.place].name for task in tasks))
            at = max(moment for task in tasks for moment in (task.begun_at, task.done_at) if moment is not None)
            out.append(Touched(what, job.id, job.title, places, at, all(task.done_at for task in tasks)))
    for finding in refit.findings:
        place = refit.place_by_id.get(finding.place or "")
        if finding.severity is Severity.GOOD or finding.jobs or place is None or place.spot is None:
            continue  # what became a job is opened by that job's work
        for what in BY_SPOT.get(place.spot, ()):
            out.append(Touched(what, finding.id, finding.title, (place.name,), finding.at, finding.settled))
    return out
