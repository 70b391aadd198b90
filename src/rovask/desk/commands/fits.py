"""Measured sheets and shapes: what a clash asks for goes into the plan, a shape is kept for the other side."""

from __future__ import annotations

from dataclasses import dataclass

from rovask.core.craft.fit_edits import fit_of, made_for, mirrored, settled_clash
from rovask.core.plain.faults import refused
from rovask.core.refit.edits import put
from rovask.core.refit.model import Refit
from rovask.core.refit.whole import Edited
from rovask.desk.command import ChangeCommand, EditOutcome, RefitCommand, Situation
from rovask.formats.craft_tables import fit_tables


@dataclass(frozen=True)
class MakeFit(ChangeCommand):
    """Take what a clash asks for into the plan. hours of work; money in minor units."""

    fit: str
    clash: str
    hours: float
    money: int = 0

    def told(self, refit: Refit) -> str:
        """For what."""
        return f"planned what makes “{fit_of(refit, self.fit).title}” fit"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Before it is fitted."""
        return made_for(refit, fit_tables(), self.fit, self.clash, self.hours, self.money)


@dataclass(frozen=True)
class LetClash(ChangeCommand):
    """Say that a clash doesn't matter."""

    fit: str
    clash: str

    def told(self, refit: Refit) -> str:
        """Of what."""
        return f"let a clash of “{fit_of(refit, self.fit).title}” be"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """So."""
        return settled_clash(refit, self.fit, self.clash)


@dataclass(frozen=True)
class MirrorShape(RefitCommand):
    """Keep a shape mirrored, for the other side."""

    shape: str

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """One shape more. Raises RefitFaults when the first is gone."""
        row = next((one for one in refit.shapes if one.id == self.shape), None)
        if row is None:
            raise refused("This shape is gone; somebody removed it meanwhile.")
        made = mirrored(row, at.new_id("shape"))
        return EditOutcome(Edited(put(refit, made)), f"kept “{row.title}” mirrored", made.id)
