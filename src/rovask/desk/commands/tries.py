"""Tries that are slowed: counted, and forgotten. What the limits are stands in desk/limits.py."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from datetime import timedelta

from sqlalchemy import delete, func, select, text

from rovask.desk.command import DirectCommand, Scene
from rovask.store.safety_tables import AttemptRow


@dataclass(frozen=True, slots=True)
class Limit:
    """So many tries within so long."""

    name: str
    most: int
    within: timedelta

    def of(self, *who: str) -> tuple[Limit, bytes]:
        """Somebody's count."""
        return self, hashlib.sha256("\0".join((self.name, *who)).encode("utf-8", "replace")).digest()


@dataclass(frozen=True)
class CountTry(DirectCommand):
    """Count a try by each of some limits, unless one of them is full."""

    by: tuple[tuple[Limit, bytes], ...]

    def run(self, scene: Scene, pk: int) -> bool:
        """Whether it may be tried. One that may not is not counted."""
        for _, who in sorted(self.by, key=lambda one: one[1]):  # in one order, so that no two wait for each other
            scene.session.execute(text("select pg_advisory_xact_lock(hashtextextended(:who, 1))"), {"who": who.hex()})
        for limit, who in self.by:
            since = scene.clock - limit.within
            query = select(func.count()).where(AttemptRow.who == who, AttemptRow.at > since)
            if scene.session.scalars(query).one() >= limit.most:
                return False
        scene.session.add_all(AttemptRow(who=who, at=scene.clock) for _, who in self.by)
        return True


@dataclass(frozen=True)
class ForgetTries(DirectCommand):
    """Forget the wrong tries before a right one."""

    of: tuple[bytes, ...]

    def run(self, scene: Scene, pk: int) -> None:
        """Forgotten."""
        scene.session.execute(delete(AttemptRow).where(AttemptRow.who.in_(self.of)))
