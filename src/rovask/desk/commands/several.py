"""Several jobs at once: what they need, whose they are, left to next time; own jobs from a list; one of a finding."""

from __future__ import annotations

import re
from dataclasses import dataclass

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plain.half_hours import half_hours
from rovask.core.plain.words import count
from rovask.core.refit.edits import rebuilt
from rovask.core.refit.model import Finding, Job, Link, Refit
from rovask.core.refit.seen.edits import job_came_of, next_time, own_job
from rovask.core.refit.typed import number
from rovask.core.refit.whole import Edited
from rovask.core.refit.work.choices import Need
from rovask.core.refit.work.edits import update_task
from rovask.desk.command import ChangeCommand, EditOutcome, RefitCommand, Situation

MOST_LINES = 200
MOST_HOURS = 400.0


@dataclass(frozen=True)
class SetJobs(ChangeCommand):
    """Say of several jobs what they need, whose they are, where they are done, what they are part of; or leave them to the next haul-out.

    None: as it is; "" of ``owner`` and ``under``: nobody's, and part of none. place: where what isn't begun of them is
    done ("": as it is); reason: why they are left.
    """

    jobs: tuple[str, ...]
    need: Need | None = None
    owner: str | None = None
    leave: bool = False
    under: str | None = None
    place: str = ""
    reason: str = ""

    def told(self, refit: Refit) -> str:
        """How many."""
        many = count(len(self.jobs), "job")
        if self.leave:
            return f"left {many} to the next haul-out" + (f": {self.reason}" if self.reason else "")
        said = [self.need.value] if self.need is not None else []
        if self.owner is not None:
            said.append(refit.persons[self.owner].name if self.owner in refit.persons else "nobody's yet")
        if self.under is not None:
            head = next((job.title for job in refit.jobs if job.id == self.under), "")
            said.append(f"part of “{head}”" if head else "part of none")
        if self.place in refit.place_by_id:
            said.append(refit.place_by_id[self.place].name)
        return f"set {many}: {', '.join(said) or 'nothing'}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """So. Raises RefitFaults when none is chosen or one is begun and can't be left."""
        known = [job for job in refit.jobs if job.id in self.jobs]
        if not known:
            raise RefitFaults([Fault("", "Tick some jobs first.")])
        if self.leave:
            for job in known:
                refit = next_time(refit, job.id, at.new_id("parked"), self.reason)
            return refit
        fields: dict[str, object] = {}
        if self.need is not None:
            fields["need"] = self.need
        if self.owner is not None:
            fields["owner"] = self.owner or None
        if self.under is not None:
            fields["under"] = self.under or None
        rows = tuple(
            job.model_copy(update=fields | self._there(job)) if job.id in self.jobs else job for job in refit.jobs
        )
        return rebuilt(refit, jobs=rows)

    def _there(self, job: Job) -> dict[str, object]:
        """The job's tasks that aren't begun in the place chosen."""
        if not self.place:
            return {}
        moved = {"place": self.place}
        return {"tasks": tuple(task if task.begun_at else task.model_copy(update=moved) for task in job.tasks)}


def lines_read(text: str) -> list[tuple[str, float]]:
    """Jobs pasted one a line, each with its hours at the end: "Grease the winches 3 h". Two hours where none are said.

    Raises RefitFaults, naming the line.
    """
    out, faults = [], []
    for at, line in enumerate(filter(None, (line.strip(" \t-*•") for line in text.splitlines())), 1):
        match = re.fullmatch(r"(.*?\S)[\s,;:]+([0-9]+(?:[.,][0-9]+)?)\s*(?:h|hours?)?", line)
        title, hours = (match[1], match[2]) if match else (line, "2")
        try:
            worked = half_hours(number(hours, 0, MOST_HOURS))
        except ValueError as error:
            faults.append(Fault("lines", f"line {at}, “{line[:40]}”: {error}"))
            continue
        if len(title) > 100:
            faults.append(Fault("lines", f"line {at} is longer than 100 signs; shorten it"))
        out.append((title, max(worked, 0.5)))
    if len(out) > MOST_LINES:
        faults.append(Fault("lines", f"more than {MOST_LINES} lines at once"))
    if not out and not faults:
        faults.append(Fault("lines", "type or paste one job a line, with its hours"))
    if faults:
        raise RefitFaults(faults)
    return out


@dataclass(frozen=True)
class PasteJobs(RefitCommand):
    """Own jobs from a list, one line each with its hours."""

    text: str
    need: Need
    place: str

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """With a job of one task for each line."""
        rows = lines_read(self.text)
        if self.place not in refit.place_by_id:
            raise RefitFaults([Fault("place", "Choose where they are; it can be changed job by job.")])
        for title, hours in rows:
            refit = own_job(refit, at.new_id("job"), title, self.place, hours, need=self.need)
        return EditOutcome(Edited(refit), f"added {count(len(rows), 'job')} from a list")


@dataclass(frozen=True)
class OwnJobOf(RefitCommand):
    """A job of one's own made from a finding, tied to it. skill: whose trade it is; before: the task that waits for it."""

    finding: str
    title: str
    hours: float
    need: Need
    skill: str = ""
    before: str = ""

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """Makes the job. Raises RefitFaults when the finding is gone."""
        found = _finding(refit, self.finding)
        title, job = self.title or found.title, at.new_id("job")
        after = own_job(refit, job, title, found.place, self.hours, need=self.need, note=found.note)
        made = next(one for one in after.jobs if one.id == job).tasks[0]
        if self.skill:
            after = update_task(after, made.id, skill=self.skill.lower())
        if self.before in refit.tasks:
            tie = Link(id=at.new_id("link"), first=made.id, then=self.before, reason=f"found: {found.title}"[:200])
            after = rebuilt(after, links=(*after.links, tie))
        return EditOutcome(Edited(job_came_of(after, found.id, job)), f"made a job of “{found.title}”", job)


@dataclass(frozen=True)
class BelongsToJob(ChangeCommand):
    """A finding belongs to a job that is in the refit already."""

    finding: str
    job: str

    def told(self, refit: Refit) -> str:
        """Which to which."""
        title = next((job.title for job in refit.jobs if job.id == self.job), "a job")
        return f"put “{_finding(refit, self.finding).title}” to “{title}”"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """So."""
        if all(job.id != self.job for job in refit.jobs):
            raise RefitFaults([Fault("", "This job is gone; somebody removed it meanwhile.")])
        return job_came_of(refit, self.finding, self.job)


def _finding(refit: Refit, key: str) -> Finding:
    found = next((one for one in refit.findings if one.id == key), None)
    if found is None:
        raise RefitFaults([Fault("", "This finding is gone; somebody removed it meanwhile.")])
    return found
