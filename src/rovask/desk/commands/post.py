"""What goes out to services, and what they tell: kept, tried, settled, tried again."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta
from typing import ClassVar

from rovask.desk.command import DirectCommand, Scene
from rovask.desk.rights import Right
from rovask.desk.services.supplier import SupplierEvent
from rovask.store import inbox, outbox, queue
from rovask.store.errors import NotFound
from rovask.store.post_tables import OutState


@dataclass(frozen=True)
class KeepTold(DirectCommand):
    """Keep what was told of the order with a mark. Raises NotFound for a mark that was never used."""

    mark: str
    event: SupplierEvent

    def run(self, scene: Scene, pk: int) -> None:
        """Kept, once."""
        if outbox.by_mark(scene.session, self.mark) is None:
            raise NotFound("Nobody here waits for this.")
        inbox.keep(scene.session, self.mark, self.event.id, self.event.model_dump(mode="json"), scene.clock)


@dataclass(frozen=True)
class ToldIsDone(DirectCommand):
    """What was told is done."""

    mark: str
    event: str

    def run(self, scene: Scene, pk: int) -> None:
        """Noted."""
        inbox.done(scene.session, self.mark, self.event)


@dataclass(frozen=True)
class ToldFailed(DirectCommand):
    """What was told can't be done now, or ever (``for_good``)."""

    mark: str
    event: str
    why: str
    for_good: bool = False

    def run(self, scene: Scene, pk: int) -> None:
        """Noted; tried later, or given up."""
        inbox.failed(scene.session, self.mark, self.event, self.why, scene.clock, for_good=self.for_good)


@dataclass(frozen=True)
class TryToldAgain(DirectCommand):
    """Try once more to do what was told, after it was given up."""

    mark: str
    event: str
    needs: ClassVar[Right] = Right.WORK

    def run(self, scene: Scene, pk: int) -> None:
        """Raises NotFound for what isn't of this refit."""
        inbox.try_again(scene.session, pk, self.mark, self.event)


@dataclass(frozen=True)
class NoteTry(DirectCommand):
    """Something is about to be sent."""

    mark: str

    def run(self, scene: Scene, pk: int) -> None:
        """Noted."""
        outbox.note_try(scene.session, self.mark, scene.clock)


@dataclass(frozen=True)
class SettleOut(DirectCommand):
    """What came of something that went out."""

    mark: str
    state: OutState
    told: str

    def run(self, scene: Scene, pk: int) -> None:
        """Noted."""
        outbox.settle(scene.session, self.mark, self.state, self.told)


@dataclass(frozen=True)
class SendForgotten(DirectCommand):
    """Have sent what waits and nobody is about to send; what had all its tries is given up. older: seconds it has waited."""

    older: float
    most: int

    def run(self, scene: Scene, pk: int) -> int:
        """How many wait for a worker again."""
        count = 0
        for refit, order, mark, tries in outbox.forgotten(scene.session, scene.clock - timedelta(seconds=self.older)):
            if tries >= self.most:
                outbox.settle(scene.session, mark, OutState.GIVEN_UP, f"no answer after {tries} tries")
            else:
                queue.wish_to_send(scene.session, refit, order)
                count += 1
        return count
