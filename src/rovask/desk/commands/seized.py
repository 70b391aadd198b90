"""It doesn't come: a seized thing noted and in the plan in one act, and how each means turned out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from rovask.core.craft.seized_edits import NewOne, given_up, met, seized_of, stepped_to, still_fast, turned_out
from rovask.core.refit.craft.choices import Means, Tried
from rovask.core.refit.craft.kinds import Seized
from rovask.core.refit.model import Refit
from rovask.core.refit.whole import Edited
from rovask.desk.command import ChangeCommand, EditOutcome, RefitCommand, Situation
from rovask.formats.craft_tables import seized_tables


@dataclass(frozen=True)
class DoesNotCome(RefitCommand):
    """Note a thing that will not come off, and put the first means of its ladder into the plan.

    data: the fields of the record but id and time; new: the new one that is had first.
    """

    data: Mapping[str, object]
    new: NewOne | None = None

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """Kept, with what it makes of the plan. Raises ValidationError for measures that can't be."""
        row = Seized.model_validate({**self.data, "id": at.new_id("seized"), "at": at.moment})
        after = met(refit, at.library().common, seized_tables(), row, at.moment, self.new)
        return EditOutcome(Edited(after), f"noted that “{row.title}” doesn't come", row.id)


@dataclass(frozen=True)
class TurnedOut(ChangeCommand):
    """How the means that is in the plan turned out."""

    seized: str
    outcome: Tried

    def told(self, refit: Refit) -> str:
        """Which thing, and what."""
        words = {Tried.CAME: "it came", Tried.HELD: "it held", Tried.BROKE: "it broke"}[self.outcome]
        row = seized_of(refit, self.seized)
        return f"tried “{row.title}” by {row.now.value if row.now else 'hand'}: {words}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """The rest of the ladder vanishes or comes."""
        return turned_out(refit, at.library().common, seized_tables(), self.seized, self.outcome, at.moment)


@dataclass(frozen=True)
class StepTo(ChangeCommand):
    """Try another means first."""

    seized: str
    means: Means

    def told(self, refit: Refit) -> str:
        """Which."""
        return f"“{seized_of(refit, self.seized).title}”: {self.means.value} next"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """That one in the plan."""
        return stepped_to(refit, at.library().common, seized_tables(), self.seized, self.means)


@dataclass(frozen=True)
class LeaveSeized(ChangeCommand):
    """Give it up, or go on with it."""

    seized: str
    up: bool

    def told(self, refit: Refit) -> str:
        """Which."""
        title = seized_of(refit, self.seized).title
        return f"gave up “{title}”" if self.up else f"went on with “{title}”"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """So."""
        if self.up:
            return given_up(refit, self.seized)
        return still_fast(refit, at.library().common, seized_tables(), self.seized)
