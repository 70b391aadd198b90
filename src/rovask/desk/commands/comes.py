"""Something comes at a fixed time: a crane, a lift, a surveyor, with the task that is done while it is there."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from rovask.core.plain.words import day_and_time
from rovask.core.refit.givens.comes import comes
from rovask.core.refit.model import Refit
from rovask.core.refit.whole import Edited
from rovask.desk.command import EditOutcome, RefitCommand, Situation


@dataclass(frozen=True)
class ComesAt(RefitCommand):
    """Something comes and works with people: one act for the appointment, its task and who is held for it.

    task: one there is that begins then; "": a task of its own, at ``place``. What this made is the task.
    """

    title: str
    at: datetime
    hours: float = 2
    people: tuple[str, ...] = ()
    place: str = ""
    task: str = ""

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """The refit with it. Raises RefitFaults."""
        people = tuple(who for who in self.people if who in refit.persons)
        after, task = comes(refit, self.title, self.at, self.hours, people, self.place, self.task, at.new_id)
        return EditOutcome(
            Edited(after), f"fixed that “{self.title}” comes {day_and_time(self.at, refit.yard.zone)}", task
        )
