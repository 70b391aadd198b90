"""Prudence given up by name, and taken up again."""

from __future__ import annotations

from dataclasses import dataclass

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.refit.edits import put
from rovask.core.refit.model import Job, Refit
from rovask.core.refit.records import RecordKey, find
from rovask.desk.command import ChangeCommand, Situation


@dataclass(frozen=True)
class TakeLastDay(ChangeCommand):
    """What a job opens may be closed on the last day before the slings: by whose word, and why. No word: no more."""

    job: str
    by: str
    why: str

    def told(self, refit: Refit) -> str:
        """Which job, and why. Raises RefitFaults when it is gone."""
        title = self._job(refit).title
        if not self.why:
            return f"keeps the working day before the slings for “{title}” again"
        return f"lets “{title}” be closed on the last day: {self.why}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """The refit after it. Raises RefitFaults."""
        because = f"{self.by}: {self.why}"[:200] if self.why else ""
        return put(refit, self._job(refit).model_copy(update={"late_because": because}))

    def _job(self, refit: Refit) -> Job:
        job = find(refit, RecordKey("job", self.job))
        if not isinstance(job, Job):
            raise RefitFaults([Fault("", "This job is gone; somebody removed it meanwhile.")])
        return job
