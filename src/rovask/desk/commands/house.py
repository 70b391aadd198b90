"""What Rovask itself does by the clock, and notes of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from rovask.desk.command import DirectCommand, Scene
from rovask.store import house, queue


@dataclass(frozen=True)
class ExpireOld(DirectCommand):
    """Take away what has had its time."""

    def run(self, scene: Scene, pk: int) -> Mapping[str, int]:
        """How much of each."""
        return house.expire(scene.session, scene.clock)


@dataclass(frozen=True)
class LiftStarving(DirectCommand):
    """Let whoever has waited long for a search have the next one."""

    def run(self, scene: Scene, pk: int) -> None:
        """Lifted."""
        queue.lift_starving(scene.session)


@dataclass(frozen=True)
class NoteOrphans(DirectCommand):
    """Note which photos no refit names. there: checksums of all there are."""

    there: frozenset[str]

    def run(self, scene: Scene, pk: int) -> list[str]:
        """Those that have had their time."""
        return house.orphans(scene.session, set(self.there), scene.clock)


@dataclass(frozen=True)
class NoteSwept(DirectCommand):
    """A photo's files are gone."""

    sha256: str

    def run(self, scene: Scene, pk: int) -> None:
        """Noted."""
        house.swept(scene.session, self.sha256)


@dataclass(frozen=True)
class NoteCopy(DirectCommand):
    """A backup was made, or could not be (``why``)."""

    file: str
    size: int = 0
    photos: int = 0
    version: str = ""
    why: str = ""

    def run(self, scene: Scene, pk: int) -> None:
        """Noted."""
        house.note_copy(
            scene.session,
            scene.clock,
            file=self.file,
            size=self.size,
            photos=self.photos,
            version=self.version,
            why=self.why,
        )


@dataclass(frozen=True)
class NoteChecked(DirectCommand):
    """A backup was restored beside and compared."""

    file: str

    def run(self, scene: Scene, pk: int) -> None:
        """Noted."""
        house.note_checked(scene.session, self.file, scene.clock)
