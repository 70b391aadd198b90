"""Ways of one's own beside a recipe's or a finding's: for a whole job with its steps, or for one step of a recipe."""

from __future__ import annotations

from dataclasses import dataclass

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.recipes.expand import Expansion, titled
from rovask.core.recipes.sides import apart
from rovask.core.recipes.ties import sided_of
from rovask.core.refit.edits import rebuilt
from rovask.core.refit.model import Refit
from rovask.core.refit.records import RecordKey
from rovask.core.refit.removal import removed
from rovask.core.refit.seen.edits import own_job
from rovask.core.refit.work.edits import update_task
from rovask.core.refit.work.kinds import Part, WorkTime

MOST_OWN = 4  # ways of one's own beside one another; a decision keeps at most eight in all


@dataclass(frozen=True, slots=True)
class OwnWay:
    """A way of one's own: what it takes and what it risks.

    hours: with all ``hands`` at it, of each step. money: what it buys, minor units; part: what that is; wait_days: until
    that is there; misfit: the chance that it doesn't fit, 0 to 1. further: steps that follow, with their hours. step: the
    recipe's step that it stands for ("": for the whole job).
    """

    title: str
    hours: float
    hands: int = 1
    money: int = 0
    wait_days: int = 0
    risk: str = ""
    part: str = ""
    misfit: float = 0.0
    further: tuple[tuple[str, float], ...] = ()
    step: str = ""

    @property
    def worked(self) -> float:
        """Hours of work, every pair of hands counted."""
        return (self.hours + sum(hours for _, hours in self.further)) * self.hands

    @property
    def told(self) -> str:
        """What it is called, its risk with it."""
        return self.title + (f" (risk: {self.risk})" if self.risk else "")

    def said(self, reason: str) -> str:
        """What its job keeps of why and what was minded."""
        return "\n".join([*([f"Risk: {self.risk}"] if self.risk else []), *([f"Why: {reason}"] if reason else [])])


def own_taken(refit: Refit, own: OwnWay, place: str | None, job: str, reason: str = "") -> Refit:
    """The refit with a way of one's own in it as a job."""
    return own_job(
        refit, job, own.title, place, own.hours, hands=own.hands, money=own.money, wait_days=own.wait_days,
        note=own.said(reason), further=own.further, part=own.part,
    )  # fmt: skip


def instead_of_step(refit: Refit, made: Expansion, own: OwnWay) -> Refit:
    """The refit, which holds what a recipe made, with one step of it done one's own way.

    Of a step that is done on two sides, each side is done so, with the hours typed; what is bought is bought once. What only that step bought is not bought. Raises RefitFaults when the recipe has no such step here.
    """
    keys = [key for key, _ in sided_of(made.job, own.step)]
    olds = [task for task in made.job.tasks if task.id in keys]
    if not olds:
        raise RefitFaults([Fault("own_step", "This recipe has no such step on this boat.")])
    mine = {part.id for part in made.parts}
    elsewhere = {part for task in refit.tasks.values() if task.id not in keys for part in task.parts}
    spared = list(dict.fromkeys(part for old in olds for part in old.parts if part in mine and part not in elsewhere))
    bought: tuple[str, ...] = ()
    if own.money or own.wait_days or own.part:
        name = (own.part or f"For: {own.title}")[:120]
        part = Part(id=f"{keys[0][:34]}-own", name=name, price=own.money, lead_days=own.wait_days)
        refit, bought = rebuilt(refit, parts=(*refit.parts, part)), (part.id,)
    hours = own.hours + sum(one for _, one in own.further)
    steps = "\n".join(f"Then: {title}, {one:g} h" for title, one in own.further)
    for old in olds:
        _, side = apart(old.id.removeprefix(f"{made.job.id}-"))
        changes = {
            "title": titled(own.title, side)[:120],
            "work": WorkTime(least=hours, likely=hours, most=hours * 2).model_dump(),
            "units": 1,
            "hands": own.hands,
            "skill": None,
            "skilled": (),
            "gear": (),
            "charge": None,
            "parts": tuple(part for part in old.parts if part not in spared) + bought,
            "note": "\n".join(one for one in (own.said(""), steps, old.note) if one),
        }
        refit = update_task(refit, old.id, **changes)
    for key in spared:
        refit = removed(refit, RecordKey("part", key))
    return refit
