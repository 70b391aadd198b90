"""What acts of ways are done by, where no other page has a command of its own for it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from rovask.core.choice.look_first import looked_at_first
from rovask.core.judged.offer_edits import offer_of, ordered_from
from rovask.core.judged.part_edits import part_of
from rovask.core.judged.season_edit import moved_to
from rovask.core.judged.way_edits import (
    by_express,
    done_by,
    done_otherwise,
    in_own_hands,
    interim_instead,
    job_of,
    longer_days,
    one_more_hand,
    under_cover,
)
from rovask.core.refit.model import Act, Refit
from rovask.desk.command import ChangeCommand, Situation
from rovask.desk.rights import Right


@dataclass(frozen=True)
class InterimInstead(ChangeCommand):
    """An interim fix in a job's place, the rest of it left to the next haul-out. hours: with all hands; money: of its things."""

    job: str
    hours: float
    money: int = 0
    wait_days: int = 0
    title: str = ""
    reason: str = ""

    def told(self, refit: Refit) -> str:
        """Which."""
        return f"chose an interim fix for “{job_of(refit, self.job).title}”"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """In its place."""
        return interim_instead(
            refit, self.job, self.hours, self.money, self.wait_days, self.title, at.new_id, self.reason
        )


@dataclass(frozen=True)
class DoneOtherwise(ChangeCommand):
    """Do a job another way, for good. hours: with all hands at it; money: of its things."""

    job: str
    title: str
    hours: float
    hands: int = 1
    money: int = 0
    wait_days: int = 0

    def told(self, refit: Refit) -> str:
        """Which, and how."""
        return f"does “{job_of(refit, self.job).title}” otherwise: {self.title}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """In its place."""
        return done_otherwise(
            refit, self.job, self.hours, self.hands, self.money, self.wait_days, self.title, at.new_id
        )


@dataclass(frozen=True)
class OwnHands(ChangeCommand):
    """Do oneself what a trade was to do of a job. hours: that takes in all, 0: as long as the trade."""

    job: str
    hours: float = 0

    def told(self, refit: Refit) -> str:
        """Which."""
        return f"took “{job_of(refit, self.job).title}” into own hands"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """By owners and helpers; never what is reserved."""
        return in_own_hands(refit, self.job, self.hours, at.library().common.reserved)


@dataclass(frozen=True)
class ByExpress(ChangeCommand):
    """Have a part come sooner, for more."""

    part: str
    days: int
    money: int = 0

    def told(self, refit: Refit) -> str:
        """Which."""
        return f"has {part_of(refit, self.part).name} sent by express"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Ordered so, or under way so."""
        return by_express(refit, self.part, self.days, self.money, at.moment, at.new_id)


@dataclass(frozen=True)
class OrderOffered(ChangeCommand):
    """Take an offer: it is ordered, its ties taken over. The decision beside it is whoever's who compares."""

    offer: str

    def told(self, refit: Refit) -> str:
        """Whose."""
        offer = offer_of(refit, self.offer)
        return f"ordered {offer.what} of {offer.supplier}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Ordered."""
        return ordered_from(refit, offer_of(refit, self.offer), at.moment, at.new_id)


@dataclass(frozen=True)
class OneMoreHand(ChangeCommand):
    """Somebody more for some days, at so many minor units a day."""

    needs = Right.GIVENS
    name: str
    first: date
    last: date
    day: int = 0
    skills: tuple[str, ...] = ()

    def told(self, refit: Refit) -> str:
        """Who."""
        return f"took on {self.name}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """With the hours of the owners."""
        return one_more_hand(refit, self.name, self.first, self.last, self.day, self.skills, at.moment, at.new_id)


@dataclass(frozen=True)
class LongerDays(ChangeCommand):
    """Somebody works so many hours longer each day."""

    needs = Right.GIVENS
    person: str
    hours: float

    def told(self, refit: Refit) -> str:
        """Who."""
        who = refit.persons.get(self.person)
        return f"{who.name if who is not None else 'somebody'} works {self.hours:g} h longer each day"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """The last shift of each day."""
        return longer_days(refit, self.person, self.hours)


@dataclass(frozen=True)
class UnderCover(ChangeCommand):
    """Work at a task under cover, so that no rain stops it."""

    task: str

    def told(self, refit: Refit) -> str:
        """Which."""
        return f"covers “{refit.tasks[self.task].title}”" if self.task in refit.tasks else "covers a task"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Dry."""
        return under_cover(refit, self.task)


@dataclass(frozen=True)
class DoneBy(ChangeCommand):
    """Name somebody for a task."""

    task: str
    person: str

    def told(self, refit: Refit) -> str:
        """Who, and which."""
        who, task = refit.persons.get(self.person), refit.tasks.get(self.task)
        return f"gave “{task.title if task else 'a task'}” to {who.name if who else 'somebody'}"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Nobody else."""
        return done_by(refit, self.task, self.person)


@dataclass(frozen=True)
class LookFirst(ChangeCommand):
    """Do a task in which something may come to light as early as there is room for it."""

    task: str

    def told(self, refit: Refit) -> str:
        """Which."""
        return f"looks first: “{refit.tasks[self.task].title}”" if self.task in refit.tasks else "looks first"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """Pinned to then."""
        return looked_at_first(refit, self.task, at.planned.plan)


@dataclass(frozen=True)
class MoveToSeason(ChangeCommand):
    """Haul out and launch in another season."""

    needs = Right.GIVENS
    season: Act

    def told(self, refit: Refit) -> str:
        """When."""
        launch = self.season.at
        return f"moved the haul-out: launch {launch.astimezone(refit.yard.zone):%-d %b %Y}" if launch else "moved it"

    def change(self, refit: Refit, at: Situation) -> Refit:
        """All of it."""
        return moved_to(refit, self.season, at.moment)
