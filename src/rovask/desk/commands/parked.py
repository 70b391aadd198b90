"""Jobs that are set aside: parked ones placed, whole jobs done afloat or left to the next haul-out."""

from __future__ import annotations

from dataclasses import dataclass

from rovask.core.explain.afloat import better_ashore, done_afloat, done_ashore
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.refit.model import Decision, Refit
from rovask.core.refit.seen.edits import next_time, place_parked, this_time
from rovask.core.refit.seen.kinds import Alternative
from rovask.core.refit.whole import Edited
from rovask.core.refit.work.choices import State
from rovask.desk.command import ChangeCommand, EditOutcome, RefitCommand, Situation


def _parked_title(refit: Refit, key: str) -> str:
    return next((row.title for row in refit.parked if row.id == key), "a job")


def _job_title(refit: Refit, key: str) -> str:
    title = next((job.title for job in refit.jobs if job.id == key), None)
    if title is None:
        raise RefitFaults([Fault("", "This job is gone; somebody removed it meanwhile.")])
    return title


@dataclass(frozen=True)
class PlaceParked(RefitCommand):
    """Give a parked job its place: a state of this haul-out, or (None) the next one."""

    parked: str
    state: State | None

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """As a job of its own, or left."""
        title = _parked_title(refit, self.parked)
        told = f"left “{title}” to the next haul-out" if self.state is None else f"placed “{title}”"
        job = at.new_id("job")
        after = place_parked(refit, self.parked, self.state, job, at.new_id("task"))
        return EditOutcome(Edited(after), told, "" if self.state is None else job)


@dataclass(frozen=True)
class BackToThisTime(ChangeCommand):
    """Take a job back that was left to the next haul-out."""

    parked: str

    def told(self, refit: Refit) -> str:
        """Which."""
        return f"took back from the next haul-out: {_parked_title(refit, self.parked)}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Parked for this one."""
        return this_time(refit, self.parked)


@dataclass(frozen=True)
class DoAfloat(ChangeCommand):
    """Do a job afloat, before the haul or after the launch; or ashore what was planned afloat."""

    job: str
    state: State

    def told(self, refit: Refit) -> str:
        """Which."""
        title = _job_title(refit, self.job)
        if self.state is State.ASHORE:
            return f"planned “{title}” ashore"
        after = done_afloat(refit, {self.job}, self.state)
        tasks = next(job.tasks for job in after.jobs if job.id == self.job)
        why = next((said for task in tasks if (said := better_ashore(after, task))), "")
        return f"planned “{title}” afloat" + (
            f". {why.removeprefix('It is planned afloat, ').capitalize()}" if why else ""
        )

    def change(self, refit: Refit, at: Situation) -> Refit:
        """So."""
        if self.state is State.ASHORE:
            return done_ashore(refit, {self.job})
        return done_afloat(refit, {self.job}, self.state)


@dataclass(frozen=True)
class LeaveToNextTime(RefitCommand):
    """Leave what isn't begun of a job to the next haul-out: it is parked there, the decision and its reason kept."""

    job: str
    reason: str = ""

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """Parked, with why."""
        title = _job_title(refit, self.job)
        after = next_time(refit, self.job, at.new_id("parked"), self.reason)
        job = next(one for one in refit.jobs if one.id == self.job)
        verdict = at.planned.verdict
        hours = sum(refit.hours_to_do(task) * task.hands for task in job.tasks)
        do = Alternative(
            title="Now.", hours=hours, spare_minutes=verdict.spare_minutes, holds=verdict.spare_minutes >= 0
        )
        leave = do.model_copy(update={"title": "Left to the next haul-out.", "hours": 0.0})
        decision = Decision(
            id=at.new_id("decision"),
            title=f"{title}: now or next time?"[:120],
            alternatives=(do, leave),
            adopted=leave.title,
            reason=self.reason,
            at=at.moment,
        )
        why = f": {self.reason}" if self.reason else ""
        return EditOutcome(Edited(after, (decision,)), f"left “{title}” to the next haul-out{why}")
