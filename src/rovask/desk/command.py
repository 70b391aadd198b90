"""What a command is. A command holds what was asked for, typed; it knows what right it needs and makes the edit.

The door (door.py) gives it the refit and the situation, and does everything else once, for all of them.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import ClassVar

from sqlalchemy.orm import Session

from rovask.core.plain.money import Money
from rovask.core.plan.planner import Planned
from rovask.core.plan.result import Plan
from rovask.core.recipes.common import Library
from rovask.core.refit.model import Refit
from rovask.core.refit.records import RecordKey
from rovask.core.refit.whole import Edited
from rovask.desk.rights import Right
from rovask.formats.photo import Picture
from rovask.settings import Settings
from rovask.store import journal
from rovask.store.refits import Kept
from rovask.store.safety_tables import Happened
from rovask.store.sendings import Sending


@dataclass(frozen=True, slots=True)
class Actor:
    """Who acts: an account, or Rovask itself (None); sending: the form by which, which is done once however often it comes. address:
    where from. said_at: when it was said, on a device that kept it until there was a signal.
    """

    account: int | None
    name: str = "Rovask"
    sending: Sending | None = None
    address: str = ""
    said_at: datetime | None = None


@dataclass(frozen=True, slots=True)
class Situation:
    """What an edit may need to know besides the refit.

    now: the half-hour it happens in, moment: to the second; planned: the plan and verdict it meets. library: the recipes
    at hand here. new_id: an id nothing else has, for a kind.
    """

    now: datetime
    moment: datetime
    planned: Planned
    library: Callable[[], Library]
    new_id: Callable[[str], str]


@dataclass(frozen=True, slots=True)
class Done:
    """What came of a command: the refit after it, its change (None: nothing was changed), what it made, and the effect.

    made: the id of what came into being, for where to go then.
    """

    kept: Kept
    change: int | None
    made: str = ""
    effect: Effect | None = None


@dataclass(frozen=True, slots=True)
class Effect:
    """What a change did to launch and money, jobs and services.

    money: by how much the forecast changed; own: of that the things that changed themselves, the rest is the plan's answer.

    out, back: titles of jobs that no longer fit, and that fit again. services: by how many minutes longer (negative:
    shorter) each service of life aboard is out. cant: titles of jobs that can't be planned any more. total: what the forecast comes to after it.
    """

    before: Planned
    after: Planned
    money: Money | None
    out: tuple[str, ...] = ()
    back: tuple[str, ...] = ()
    services: Mapping[str, int] = field(default_factory=dict)
    own: Money | None = None
    cant: tuple[str, ...] = ()
    total: Money | None = None


@dataclass(frozen=True, slots=True)
class EditOutcome:
    """What an edit comes to: the refit with what is kept aside, what history says of it, the id of what it made, and that
    of an order to be sent once it is kept. plan: one that was found for just this beforehand.
    """

    edited: Edited
    told: str
    made: str = ""
    send: str = ""
    plan: Plan | None = None


class RefitCommand(ABC):
    """An act that changes a refit."""

    needs: ClassVar[Right] = Right.WORK
    when_closed: ClassVar[bool] = False  # whether it may be done to a refit that is closed
    final: ClassVar[bool] = False  # whether it went out to others, or came from them, so that no undo takes it back

    @property
    def right(self) -> Right:
        """The right it needs; of some it depends on what is changed."""
        return self.needs

    @property
    def seen(self) -> Mapping[RecordKey, int]:
        """Revisions of the records as whoever acts saw them; one that changed since is a conflict."""
        return {}

    @property
    def pictures(self) -> tuple[Picture, ...]:
        """Pictures that came with it: their files are kept before the change, and go again if it fails."""
        return ()

    @abstractmethod
    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """The change. May raise RefitFaults or ValidationError; nothing is kept then."""


class ChangeCommand(RefitCommand):
    """A command whose edit is a function of the refit and the situation alone."""

    @abstractmethod
    def change(self, refit: Refit, at: Situation) -> Refit | Edited:
        """The changed refit."""

    @abstractmethod
    def told(self, refit: Refit) -> str:
        """What history says of it, in the words that follow who did it; ``refit`` is the one before."""

    def made(self) -> str:
        """The id of what it makes."""
        return ""

    def edit(self, refit: Refit, at: Situation) -> EditOutcome:
        """The change, with its words."""
        told = self.told(refit)
        after = self.change(refit, at)
        return EditOutcome(after if isinstance(after, Edited) else Edited(after), told, self.made())


@dataclass(frozen=True, slots=True)
class Scene:
    """What a direct command acts on: the database, who acts, and when."""

    session: Session
    actor: Actor
    clock: datetime
    settings: Settings

    def note(
        self, what: Happened, about: str = "", *, refit: int = 0, account: int | None = None, who: str = ""
    ) -> None:
        """Note in the security journal what is being done, in the same transaction. account, who: where they aren't whoever acts."""
        journal.note(
            self.session,
            self.clock,
            what,
            account=account if account is not None else self.actor.account,
            refit=refit or None,
            who=who or self.actor.name,
            about=about,
            address=self.actor.address,
        )


@dataclass(frozen=True)
class DirectCommand(ABC):
    """An act that changes no record of a refit: its plan, its members, an account, or which refits there are."""

    needs: ClassVar[Right] = Right.WORK

    @abstractmethod
    def run(self, scene: Scene, pk: int) -> object:
        """Do it; ``pk`` is the refit, 0 for what concerns none."""
