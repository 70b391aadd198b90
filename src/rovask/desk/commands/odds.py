"""What the worker finds of how sure a launch is, kept for the pages."""

from __future__ import annotations

from dataclasses import dataclass

from rovask.core.odds.told import Odds
from rovask.desk.command import DirectCommand, Scene
from rovask.store import odds, refits


@dataclass(frozen=True)
class KeepOdds(DirectCommand):
    """Keep how sure the launch of a refit is, as it stood after a change."""

    found: Odds
    change: int

    def run(self, scene: Scene, pk: int) -> bool:
        """Whether it was kept; not when the refit has changed since, or is gone."""
        if not refits.locked_as_of(scene.session, pk, self.change):
            return False
        odds.keep(scene.session, pk, self.change, self.found, scene.clock)
        return True
