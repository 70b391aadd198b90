"""What is done with a task at work: begin, done, hours, pin, split, move."""

from __future__ import annotations

from abc import abstractmethod
from dataclasses import dataclass
from datetime import datetime, timedelta

from rovask.core.explain.nudged import nudged
from rovask.core.judged.leaps import Doubtful, at_once, doubts, too_quick
from rovask.core.plain.faults import refused
from rovask.core.plain.half_hours import nearest
from rovask.core.plan.verdict.services import too_long
from rovask.core.refit import edits, lists
from rovask.core.refit.model import HoursEntry, Refit, Task
from rovask.core.refit.records import RecordKey, find
from rovask.core.refit.register import KINDS
from rovask.core.refit.work import edits as work_edits
from rovask.core.refit.work.titles import title_in
from rovask.desk.command import ChangeCommand, Situation


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
        return self.words.replace("{}", f"“{work_edits.task_of(refit, self.task).title}”")

    def crew_or(self, crew: tuple[str, ...], at: Situation) -> tuple[str, ...]:
        """The people named, else those the plan chose."""
        item = at.planned.plan.by_task().get(self.task)
        return crew or (item.people if item else ())


@dataclass(frozen=True)
class TickCommand(TaskCommand):
    """An act that says something has happened: by whom, when (None: now), and why it was done all the same.

    kept: it was kept on a device until there was a signal. A fact is kept to the second; only plans lie on the half-hours.
    """

    crew: tuple[str, ...] = ()
    when: datetime | None = None
    anyway: bool = False
    reason: str = ""
    kept: bool = False
    begins, ends = True, False

    @property
    def says_how_long(self) -> bool:
        """Whether it comes with its hours, or with when it was begun."""
        return False

    def has_happened(self, task: Task) -> bool:
        """Whether it was said already, by whoever had a signal: of a tick kept without one that is no fault."""
        return self.kept and (task.done_at if self.ends else task.begun_at) is not None

    def at(self, at: Situation) -> datetime:
        """When it happened. Raises RefitFaults for what lies ahead."""
        if self.when is not None and self.when > at.moment:
            raise refused("That lies ahead; give the time at which it happened.", "when")
        return self.when or at.moment

    def looked(self, refit: Refit, at: Situation) -> datetime:
        """When it happened, after looking whether anything speaks against it. Raises Doubtful unless done anyway."""
        task, when = work_edits.task_of(refit, self.task), self.at(at)
        if not self.anyway:
            begins = self.begins and task.begun_at is None
            found = doubts(refit, task, when, begins=begins, ends=self.ends)
            if begins:
                found += too_long(refit, at.planned.plan, task, when)
            if self.ends and not self.says_how_long:
                found += too_quick(refit, task, when)
            if found:
                raise Doubtful(task.title, found)
        return when

    def told_why(self) -> str:
        """What history adds."""
        return f", all the same: {self.reason}" if self.anyway and self.reason else ", all the same" * self.anyway


@dataclass(frozen=True)
class Begin(TickCommand):
    """It is begun."""

    @property
    def words(self) -> str:
        """Which."""
        return "began {}" + self.told_why()

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Begun."""
        if self.has_happened(work_edits.task_of(refit, self.task)):
            return refit
        return work_edits.begin_task(refit, self.task, self.looked(refit, at), self.crew_or(self.crew, at))


@dataclass(frozen=True)
class Finish(TickCommand):
    """It is done. hours: worked by each of the crew, logged when given; begun: when it was begun, if never said."""

    hours: float | None = None
    begun: datetime | None = None
    ends = True

    @property
    def says_how_long(self) -> bool:
        """Whether it comes with its hours, or with when it was begun."""
        return self.hours is not None or self.begun is not None

    @property
    def words(self) -> str:
        """Which."""
        return "ticked {}" + self.told_why()

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Done."""
        if self.has_happened(work_edits.task_of(refit, self.task)):
            return refit
        when, crew = self.looked(refit, at), self.crew_or(self.crew, at)
        begun = self.begun
        if begun is None and self.hours and work_edits.task_of(refit, self.task).begun_at is None:
            begun = when - timedelta(hours=self.hours)
        if not self.anyway:
            task = work_edits.task_of(refit, self.task)
            found = at_once(refit, task, crew, begun or work_edits.begun_then(refit, task, when), when)
            if found:
                raise Doubtful(task.title, found)
        after = work_edits.finish_task(refit, self.task, when, crew, begun)
        entries = tuple(
            HoursEntry(id=at.new_id("hours"), task=self.task, person=who, at=when, hours=self.hours)
            for who in (after.tasks[self.task].crew if self.hours else ())
        )
        return edits.rebuilt(after, hours_log=(*after.hours_log, *entries)) if entries else after


@dataclass(frozen=True)
class FinishUnit(TickCommand):
    """One more unit of it is done."""

    @property
    def words(self) -> str:
        """Which."""
        return "ticked one of {}" + self.told_why()

    def change(self, refit: Refit, at: Situation) -> Refit:
        """One more."""
        return work_edits.finish_unit(refit, self.task, self.looked(refit, at), self.crew_or(self.crew, at))


@dataclass(frozen=True)
class SetRight(TaskCommand):
    """When it was begun and done, and by whom, where that was noted wrongly."""

    begun: datetime
    done: datetime | None = None
    crew: tuple[str, ...] = ()
    words = "set right when {} was done"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """So."""
        for moment, field in ((self.begun, "begun"), (self.done, "done")):
            if moment is not None and moment > at.moment:
                raise refused("That lies ahead; give the time at which it happened.", field)
        return work_edits.set_right(refit, self.task, self.begun, self.done, self.crew)


@dataclass(frozen=True)
class Reopen(TaskCommand):
    """Take the tick back."""

    words = "took the tick off {}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Open again."""
        return work_edits.reopen_task(refit, self.task)


@dataclass(frozen=True)
class LogHours(TaskCommand):
    """Hours of one person; ``remaining``: what is left, as they judge it."""

    person: str
    hours: float
    remaining: float | None = None
    note: str = ""
    when: datetime | None = None

    @property
    def words(self) -> str:
        """How many hours."""
        return f"logged {self.hours:g} h on {{}}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Logged."""
        if self.person not in refit.persons:
            raise refused("Choose whose hours these are.")
        when = self.when or at.moment
        if when > at.moment:
            raise refused("That lies ahead; give the time at which it happened.", "when")
        entry = HoursEntry(
            id=at.new_id("hours"), task=self.task, person=self.person, at=when, hours=self.hours, note=self.note
        )
        return work_edits.log_hours(refit, entry, self.remaining)


@dataclass(frozen=True)
class Pin(TaskCommand):
    """Pin the start to a time; everything else is planned round it. ``typed``: the time as it was typed."""

    start: datetime
    typed: str = ""

    @property
    def words(self) -> str:
        """Where to."""
        return f"pinned {{}} to {self.typed[:20].replace('T', ' ')}" if self.typed else "pinned {}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Pinned."""
        if self.start < at.now:
            raise refused("That time has passed; pin it to a later one.")
        return work_edits.update_task(refit, self.task, pin=self.start)


@dataclass(frozen=True)
class Nudge(TaskCommand):
    """Pin a task to the next hour, some hours from where the plan has it, at which its people work: for the arrow keys."""

    hours: int
    words = "moved {}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Pinned beside where it lay."""
        item = at.planned.plan.by_task().get(self.task)
        if item is None:
            raise refused("It is not planned, so there is nothing to move.")
        there = nudged(refit, item, self.hours, at.now)
        if there is None:
            raise refused(
                f"Its people have no {'later' if self.hours > 0 else 'earlier'} hour in which it could begin."
            )
        return work_edits.update_task(refit, self.task, pin=there)


@dataclass(frozen=True)
class Drop(TaskCommand):
    """Pin a task where it was dragged to, on the nearest half-hour and not in the past."""

    at: datetime
    words = "moved {}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Pinned there."""
        there = nearest(self.at, refit.yard.zone)
        return work_edits.update_task(refit, self.task, pin=max(there, at.now))


@dataclass(frozen=True)
class Unpin(TaskCommand):
    """Let the plan choose the time again."""

    words = "took the pin out of {}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Free."""
        return work_edits.update_task(refit, self.task, pin=None)


@dataclass(frozen=True)
class Split(TaskCommand):
    """Split a task in two, one after the other."""

    hours: float
    words = "split {}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Two of it."""
        return work_edits.split_task(refit, self.task, self.hours, lambda: at.new_id("task"))


@dataclass(frozen=True)
class MoveInList(ChangeCommand):
    """Move a task in its job, or anything else in its list, one up (-1) or down (1); ties: the job's plain ties along."""

    kind: str
    key: str
    steps: int
    ties: bool = False

    def told(self, refit: Refit) -> str:
        """What was moved."""
        kind = KINDS[self.kind]
        item = find(refit, RecordKey(self.kind, self.key))
        title = f" “{title_in(refit, kind, item)}”" if item is not None else ""
        return f"moved {kind.word}{title} in the list" + ", its ties along" * self.ties

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Moved."""
        if self.ties and self.kind == "task":
            return work_edits.move_with_ties(refit, self.key, self.steps)
        return lists.move(refit, KINDS[self.kind], self.key, self.steps)
