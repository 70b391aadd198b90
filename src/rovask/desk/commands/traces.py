"""Searches: begun, answered, looked at one by one, found or closed up without knowing."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from rovask.core.craft.trace_edits import (
    answered,
    begun,
    closed_anyway,
    looked_at,
    opened_again,
    thought_of,
    trace_of,
    waited_for,
)
from rovask.core.recipes.facts import facts_of
from rovask.core.refit.craft.choices import Showed
from rovask.core.refit.craft.kinds import OwnCandidate, Trace
from rovask.core.refit.model import Refit
from rovask.core.refit.whole import Edited
from rovask.desk.command import ChangeCommand, EditOutcome, RefitCommand, Situation
from rovask.formats.craft_tables import whence_tables


@dataclass(frozen=True)
class BeginTrace(RefitCommand):
    """Begin a search. data: title, what about, place, since."""

    data: Mapping[str, object]

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """With time for it in the plan. Raises ValidationError."""
        row = Trace.model_validate({**self.data, "id": at.new_id("trace"), "at": at.moment})
        after = begun(refit, whence_tables(), facts_of(refit), row)
        return EditOutcome(Edited(after), f"began to search: {row.title}", row.id)


@dataclass(frozen=True)
class AnswerClues(ChangeCommand):
    """What is known of it."""

    trace: str
    clues: tuple[str, ...]

    def told(self, refit: Refit) -> str:
        """Of which search."""
        return f"answered what is known of “{trace_of(refit, self.trace).title}”"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """So."""
        return answered(refit, whence_tables(), facts_of(refit), self.trace, self.clues, at.moment)


@dataclass(frozen=True)
class ThinkOf(ChangeCommand):
    """Another candidate."""

    trace: str
    candidate: OwnCandidate

    def told(self, refit: Refit) -> str:
        """Which."""
        return f"thought of “{self.candidate.name}” for “{trace_of(refit, self.trace).title}”"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Among the others."""
        return thought_of(refit, whence_tables(), facts_of(refit), self.trace, self.candidate, at.moment)


@dataclass(frozen=True)
class LookFor(RefitCommand):
    """One look at one candidate, and what it showed."""

    trace: str
    candidate: str
    showed: Showed
    note: str = ""

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """What it rules out. The source is a finding, whose id is what this made."""
        finding = at.new_id("finding")
        title = trace_of(refit, self.trace).title
        after = looked_at(
            refit,
            whence_tables(),
            facts_of(refit),
            self.trace,
            self.candidate,
            self.showed,
            self.note,
            at.moment,
            finding,
        )
        found = self.showed is Showed.SOURCE
        return EditOutcome(
            Edited(after), f"{'found the source of' if found else 'looked for'} “{title}”", finding if found else ""
        )


@dataclass(frozen=True)
class WaitForSource(ChangeCommand):
    """What closes up over it waits until it is found."""

    trace: str
    tasks: tuple[str, ...]

    def told(self, refit: Refit) -> str:
        """Of which search."""
        return f"said what waits for “{trace_of(refit, self.trace).title}”"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """So."""
        return waited_for(refit, self.trace, self.tasks)


@dataclass(frozen=True)
class EndTrace(ChangeCommand):
    """Close up without knowing, and say why; or (no reason) look again."""

    trace: str
    why: str = ""
    again: bool = False

    def told(self, refit: Refit) -> str:
        """Which."""
        title = trace_of(refit, self.trace).title
        return f"looks again: {title}" if self.again else f"closes up without knowing: {title} ({self.why})"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """So. Raises RefitFaults without a reason."""
        if self.again:
            return opened_again(refit, whence_tables(), facts_of(refit), self.trace)
        return closed_anyway(refit, self.trace, self.why, at.moment)
