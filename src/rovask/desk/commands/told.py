"""What a service told of an order: kept, and done."""

from __future__ import annotations

from dataclasses import dataclass

from rovask.desk.command import DirectCommand, Scene
from rovask.desk.services.supplier import SupplierEvent
from rovask.store import inbox
from rovask.store.errors import NotFound


@dataclass(frozen=True)
class KeepTold(DirectCommand):
    """Keep what was told of the order with a mark. Raises NotFound for a mark nobody has."""

    mark: str
    event: SupplierEvent

    def run(self, scene: Scene, pk: int) -> None:
        """Kept, once."""
        if inbox.order_marked(scene.session, self.mark) is None:
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
