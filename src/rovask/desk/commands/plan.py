"""The plan as a whole: the search for a better one, adopting it, putting the old one back."""

from __future__ import annotations

from dataclasses import dataclass

from rovask.desk.command import DirectCommand, Scene
from rovask.store import plans, queue, refits


@dataclass(frozen=True)
class AskForSearch(DirectCommand):
    """Look (longer) for a better plan."""

    seconds: float | None = None

    def run(self, scene: Scene, pk: int) -> None:
        """Asked."""
        queue.wish_for_search(scene.session, pk, self.seconds)


@dataclass(frozen=True)
class StopSearch(DirectCommand):
    """Stop looking and keep the best there is."""

    def run(self, scene: Scene, pk: int) -> None:
        """Stopped."""
        queue.stop_search(scene.session, pk)


@dataclass(frozen=True)
class AdoptPlan(DirectCommand):
    """Adopt the better plan that was found. Raises NothingToUndo."""

    def run(self, scene: Scene, pk: int) -> None:
        """Adopted."""
        refits.lock(scene.session, pk)
        plans.adopt(scene.session, refits.load(scene.session, pk), scene.clock)


@dataclass(frozen=True)
class PutPlanBack(DirectCommand):
    """Put the plan back that a better one took the place of. Raises NothingToUndo."""

    def run(self, scene: Scene, pk: int) -> None:
        """Back."""
        queue.stop_search(scene.session, pk)
        refits.lock(scene.session, pk)
        plans.put_back(scene.session, refits.load(scene.session, pk), scene.clock)
