"""What is done with a task at work: begin, done, hours, pin, split, move."""

from __future__ import annotations

from abc import abstractmethod
from dataclasses import dataclass
from datetime import datetime, timedelta

from rovask.core.refit import edits
from rovask.core.refit.faults import Fault, RefitFaults
from rovask.core.refit.model import HoursEntry, Refit
from rovask.core.refit.register import KINDS
from rovask.desk.command import ChangeCommand, Situation

HALF_HOUR = timedelta(minutes=30)


def refused(message: str, path: str = "") -> RefitFaults:
    """One reason why something can't be done."""
    return RefitFaults([Fault(path, message)])


@dataclass(frozen=True)
class TaskCommand(ChangeCommand):
    """An act on one task. ``words``: what history says of it, with {} where the task's title goes."""

    task: str

    @property
    @abstractmethod
    def words(self) -> str:
        """What history says."""

    def told(self, refit: Refit) -> str:
        """The words with the task's title. Raises RefitFaults when it is gone."""
        return self.words.replace("{}", f"“{edits.task_of(refit, self.task).title}”")

    def crew_or(self, crew: tuple[str, ...], at: Situation) -> tuple[str, ...]:
        """The people named, else those the plan chose."""
        item = at.planned.plan.by_task().get(self.task)
        return crew or (item.people if item else ())


@dataclass(frozen=True)
class Begin(TaskCommand):
    """It is begun, now."""

    crew: tuple[str, ...] = ()
    words = "began {}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Begun."""
        return edits.begin_task(refit, self.task, at.now, self.crew_or(self.crew, at))


@dataclass(frozen=True)
class Finish(TaskCommand):
    """It is done, now."""

    crew: tuple[str, ...] = ()
    words = "ticked {}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Done."""
        return edits.finish_task(refit, self.task, at.now, self.crew_or(self.crew, at))


@dataclass(frozen=True)
class FinishUnit(TaskCommand):
    """One more unit of it is done, now."""

    crew: tuple[str, ...] = ()
    words = "ticked one of {}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """One more."""
        return edits.finish_unit(refit, self.task, at.now, self.crew_or(self.crew, at))


@dataclass(frozen=True)
class Reopen(TaskCommand):
    """Take the tick back."""

    words = "took the tick off {}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Open again."""
        return edits.reopen_task(refit, self.task)


@dataclass(frozen=True)
class LogHours(TaskCommand):
    """Hours of one person; ``remaining``: what is left, as they judge it."""

    person: str
    hours: float
    remaining: float | None = None
    note: str = ""

    @property
    def words(self) -> str:
        """How many hours."""
        return f"logged {self.hours:g} h on {{}}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Logged."""
        if self.person not in refit.persons:
            raise refused("Choose whose hours these are.")
        entry = HoursEntry(
            id=at.new_id("hours"), task=self.task, person=self.person, at=at.now, hours=self.hours, note=self.note
        )
        return edits.log_hours(refit, entry, self.remaining)


@dataclass(frozen=True)
class Pin(TaskCommand):
    """Pin the start to a time; everything else is planned round it. ``typed``: the time as it was typed."""

    start: datetime
    typed: str = ""

    @property
    def words(self) -> str:
        """Where to."""
        return f"pinned {{}} to {self.typed[:16].replace('T', ' ')}" if self.typed else "pinned {}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Pinned."""
        if self.start < at.now:
            raise refused("That time has passed; pin it to a later one.")
        return edits.update_task(refit, self.task, pin=self.start)


@dataclass(frozen=True)
class Nudge(TaskCommand):
    """Pin a task some hours from where the plan has it: for the arrow keys."""

    hours: int
    words = "moved {}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Pinned beside where it lay."""
        item = at.planned.plan.by_task().get(self.task)
        if item is None:
            raise refused("It is not planned, so there is nothing to move.")
        return edits.update_task(refit, self.task, pin=max(item.start + timedelta(hours=self.hours), at.now))


@dataclass(frozen=True)
class Drop(TaskCommand):
    """Pin a task where it was dragged to, on the nearest half-hour and not in the past."""

    at: datetime
    words = "moved {}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Pinned there."""
        past = (self.at - at.now) % HALF_HOUR
        nearest = self.at - past + (HALF_HOUR if past * 2 >= HALF_HOUR else timedelta(0))
        return edits.update_task(refit, self.task, pin=max(nearest, at.now))


@dataclass(frozen=True)
class Unpin(TaskCommand):
    """Let the plan choose the time again."""

    words = "took the pin out of {}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Free."""
        return edits.update_task(refit, self.task, pin=None)


@dataclass(frozen=True)
class Split(TaskCommand):
    """Split a task in two, one after the other."""

    hours: float
    words = "split {}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Two of it."""
        return edits.split_task(refit, self.task, self.hours, lambda: at.new_id("task"))


@dataclass(frozen=True)
class MoveInList(ChangeCommand):
    """Move a task in its job, or anything else in its list, one up (-1) or down (1)."""

    kind: str
    key: str
    steps: int

    def told(self, refit: Refit) -> str:
        """What was moved."""
        return f"moved a {KINDS[self.kind].word}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Moved."""
        return edits.move(refit, KINDS[self.kind], self.key, self.steps)
