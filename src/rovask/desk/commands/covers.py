"""Getting at it: opened once for several jobs; dust kept in."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from rovask.core.craft.covers import cover_of, opened_for, taped_off
from rovask.core.plain.words import count
from rovask.core.refit.craft.kinds import Cover
from rovask.core.refit.edits import put
from rovask.core.refit.model import Refit
from rovask.core.refit.whole import Edited
from rovask.desk.command import ChangeCommand, EditOutcome, RefitCommand, Situation


@dataclass(frozen=True)
class OpenOnce(ChangeCommand):
    """It is opened once for these tasks, and closed when the last is done."""

    cover: str
    tasks: tuple[str, ...]

    def told(self, refit: Refit) -> str:
        """What, for how many."""
        return f"opens “{cover_of(refit, self.cover).title}” once for {count(len(self.tasks), 'task')}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """So. Raises RefitFaults."""
        return opened_for(refit, self.cover, self.tasks)


@dataclass(frozen=True)
class NoteCover(RefitCommand):
    """Something is in the way: noted, and opened once for the tasks that need it, in one act."""

    data: Mapping[str, object]
    tasks: tuple[str, ...] = ()

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """Kept; in the plan where tasks were ticked. Raises ValidationError."""
        row = Cover.model_validate({**self.data, "id": at.new_id("cover"), "at": at.moment})
        after = put(refit, row)
        if self.tasks:
            after = opened_for(after, row.id, self.tasks)
        return EditOutcome(Edited(after), f"noted that “{row.title}” is in the way", row.id)


@dataclass(frozen=True)
class TapeOff(RefitCommand):
    """Tape or tent before some dusty work, and away after it."""

    tasks: tuple[str, ...]
    hours: float = 1.5

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """What they give off stays inside. Raises RefitFaults."""
        job = at.new_id("job")
        return EditOutcome(
            Edited(taped_off(refit, self.tasks, self.hours, job, at.moment)),
            f"taped off {count(len(self.tasks), 'task')}",
            job,
        )
