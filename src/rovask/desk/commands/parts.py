"""What happens to parts."""

from __future__ import annotations

from dataclasses import dataclass

from rovask.core.judged.part_edits import STATUS_TOLD, given_to, got, missed, moved_on, part_of
from rovask.core.plain.words import money
from rovask.core.refit.model import Refit
from rovask.core.refit.stores.choices import PartStatus
from rovask.core.refit.work.edits import task_of
from rovask.desk.command import ChangeCommand, Situation


@dataclass(frozen=True)
class MovePartOn(ChangeCommand):
    """A parcel came, fits, or was ordered: one tap."""

    part: str
    status: PartStatus

    def told(self, refit: Refit) -> str:
        """What became of it."""
        return STATUS_TOLD[self.status].replace("{}", f"“{part_of(refit, self.part).name}”")

    def change(self, refit: Refit, at: Situation) -> Refit:
        """One step further."""
        return moved_on(refit, self.part, self.status, at.moment, at.new_id)


@dataclass(frozen=True)
class MissPart(ChangeCommand):
    """A part that was there can't be found, or is found again."""

    part: str
    missing: bool

    def told(self, refit: Refit) -> str:
        """Which."""
        name = part_of(refit, self.part).name
        return f"can't find “{name}”" if self.missing else f"found “{name}” again"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """So."""
        since = part_of(refit, self.part).missing_since or at.moment
        return missed(refit, self.part, since if self.missing else None)


@dataclass(frozen=True)
class GotPart(ChangeCommand):
    """A part was bought over the counter or fetched: it is here. price: what was paid, None when nobody said."""

    part: str
    price: int | None = None

    def told(self, refit: Refit) -> str:
        """What."""
        paid = f" for {money(self.price, refit.currency)}" if self.price else ""
        return f"got “{part_of(refit, self.part).name}”{paid}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """So."""
        return got(refit, self.part, at.moment, at.new_id, self.price)


@dataclass(frozen=True)
class GivePart(ChangeCommand):
    """A task takes so much of a part."""

    part: str
    task: str
    amount: float

    def told(self, refit: Refit) -> str:
        """Which, and how much."""
        part = part_of(refit, self.part)
        return (
            f"gave {self.amount:g} {part.unit}".rstrip() + f" of “{part.name}” to “{task_of(refit, self.task).title}”"
        )

    def change(self, refit: Refit, at: Situation) -> Refit:
        """So."""
        return given_to(refit, self.part, self.task, self.amount, at.new_id("use"))
