"""Refits as such: removed for good, or counted in another currency."""

from __future__ import annotations

from dataclasses import dataclass
from decimal import Decimal
from typing import ClassVar

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.refit.model import Refit
from rovask.core.refit.recount import in_currency
from rovask.desk.command import ChangeCommand, DirectCommand, Scene, Situation
from rovask.desk.rights import Right
from rovask.store import refits
from rovask.store.queue import stop_search
from rovask.store.safety_tables import Happened


@dataclass(frozen=True)
class RemoveRefit(DirectCommand):
    """Remove a refit for good, once its name was typed."""

    typed: str
    needs: ClassVar[Right] = Right.PEOPLE

    def run(self, scene: Scene, pk: int) -> None:
        """Gone. Raises RefitFaults for another name."""
        refits.lock(scene.session, pk)
        name = refits.load(scene.session, pk).refit.name
        if self.typed.strip() != name:
            raise RefitFaults([Fault("", f"Type the name “{name}” to remove it for good. Nothing was removed.")])
        stop_search(scene.session, pk)
        scene.note(Happened.REMOVED, name, refit=pk)
        scene.session.flush()
        refits.remove(scene.session, pk)


@dataclass(frozen=True)
class ChangeCurrency(ChangeCommand):
    """Count the refit in another currency. rate: what one unit of the old is worth in the new; None: the numbers stay."""

    currency: str
    rate: Decimal | None
    needs: ClassVar[Right] = Right.GIVENS

    def told(self, refit: Refit) -> str:
        """From what to what."""
        how = f"at {self.rate} {self.currency} for 1 {refit.currency}" if self.rate is not None else "numbers as typed"
        return f"changed the currency from {refit.currency} to {self.currency}, {how}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Every amount in the other currency."""
        return in_currency(refit, self.currency, self.rate)


@dataclass(frozen=True)
class NoteExport(DirectCommand):
    """Something was taken out of the refit as a file; what, in words."""

    what: str
    needs: ClassVar[Right] = Right.LOOK

    def run(self, scene: Scene, pk: int) -> None:
        """Noted."""
        scene.note(Happened.EXPORTED, self.what, refit=pk)
