"""Another night in the slings; the refit closed, opened again, and what surprised."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import ClassVar

from rovask.core.gate.gate import LET_GO, gate_of, let_go_of
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plain.words import day_and_time
from rovask.core.refit.edits import put, rebuilt
from rovask.core.refit.launch.choices import Stage
from rovask.core.refit.launch.edits import another_night, is_hanging
from rovask.core.refit.model import GateTick, Refit
from rovask.core.refit.whole import Edited
from rovask.desk.command import ChangeCommand, EditOutcome, RefitCommand, Situation
from rovask.desk.rights import Right

NOT_HANGING = (
    "Nothing in the slings is begun or seen, so by what was said she still stands: a later slot costs lay-days and no night "
    "in the slings, and is set under Yard, dates and budget. Tick it if she hangs already."
)


@dataclass(frozen=True)
class HangAnotherNight(RefitCommand):
    """She hangs another night: a new slot, who stays aboard, what is put right, in one act and all of it planned.

    item: the item of the gate that did not pass, whose job is opened again; "" for something else. hangs: she does, though
    nothing says so yet.
    """

    slot: datetime
    why: str
    stays: str = ""
    item: str = ""
    hours: float = 1
    hangs: bool = False
    needs: ClassVar[Right] = Right.GIVENS

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """The slot moves, the night is charged, the work is opened. Raises RefitFaults."""
        if not self.why:
            raise RefitFaults([Fault("why", "Say why she hangs another night.")])
        if not self.hangs and not is_hanging(refit):
            raise RefitFaults([Fault("hangs", NOT_HANGING)])
        _, _, rest = self.item.partition(":")
        job = rest.rpartition(":")[0]
        if let_go_of(refit) is not None:
            back = GateTick(id=at.new_id("gate-tick"), item=LET_GO, at=at.moment, passed=False, seen=self.why[:200])
            refit = put(refit, back)
        after = another_night(
            refit,
            self.slot,
            at.now,
            stays=self.stays or None,
            why=self.why,
            job=job,
            hours=self.hours,
            new_id=at.new_id,
        )
        told = f"hung her another night: {self.why}; new slot {day_and_time(self.slot, refit.yard.zone)}"
        return EditOutcome(Edited(after), told)


@dataclass(frozen=True)
class CloseRefit(ChangeCommand):
    """The refit is closed: read-only from now on, but for what surprised."""

    surprised: str = ""
    needs: ClassVar[Right] = Right.GIVENS

    def told(self, refit: Refit) -> str:
        """That."""
        return "closed the refit"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Closed. Raises RefitFaults while she doesn't float, or something of the gate after the launch is not right."""
        if let_go_of(refit) is None and at.moment < refit.launch_at:
            raise RefitFaults([Fault("", "She isn't launched yet; a refit is closed when she floats.")])
        held = gate_of(refit, at.moment).held(Stage.WEEK)
        if held:
            raise RefitFaults([Fault("", f"Something is still wrong: {held[0].words}. Settle it first.")])
        return rebuilt(refit, closed_at=at.moment, surprised=self.surprised or refit.surprised)


@dataclass(frozen=True)
class ReopenRefit(ChangeCommand):
    """A closed refit is worked on again."""

    needs: ClassVar[Right] = Right.GIVENS
    when_closed: ClassVar[bool] = True

    def told(self, refit: Refit) -> str:
        """That."""
        return "opened the refit again"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Open."""
        return rebuilt(refit, closed_at=None)


@dataclass(frozen=True)
class NoteSurprise(ChangeCommand):
    """What surprised, in the sailor's words; the one thing that may be written into a closed refit."""

    words: str
    when_closed: ClassVar[bool] = True

    def told(self, refit: Refit) -> str:
        """That."""
        return "noted what surprised"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Kept."""
        return rebuilt(refit, surprised=self.words)
