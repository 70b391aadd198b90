"""Acts on kept refits, for tests: any edit as a command, and what is there afterwards."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import TypeVar

from rovask.core.plan.planner import Planned
from rovask.core.refit.model import Photo, Refit
from rovask.core.refit.records import RecordKey
from rovask.core.refit.register import kind_of
from rovask.core.refit.values import Frozen
from rovask.desk.command import Actor, ChangeCommand, Done, Situation
from rovask.desk.door import Desk
from rovask.desk.taking_back import TakeBack
from rovask.settings import Settings
from rovask.store import refits
from rovask.store.database import reading
from rovask.store.history import ChangeEntry, history
from rovask.store.records import load_aside

Thing = TypeVar("Thing", bound=Frozen)

ROVASK = Actor(None)


@dataclass(frozen=True)
class Edit(ChangeCommand):
    """Any function from refit to refit as a command."""

    function: Callable[[Refit], Refit]
    words: str = "changed"
    saw: Mapping[RecordKey, int] = field(default_factory=dict)

    @property
    def seen(self) -> Mapping[RecordKey, int]:
        return self.saw

    def told(self, refit: Refit) -> str:
        return self.words

    def change(self, refit: Refit, at: Situation) -> Refit:
        return self.function(refit)


def changed(
    settings: Settings,
    pk: int,
    function: Callable[[Refit], Refit],
    words: str = "changed",
    seen: Mapping[RecordKey, int] | None = None,
) -> Done:
    """Make one change."""
    return Desk(settings).act(ROVASK, pk, Edit(function, words, seen or {}))


def undone(settings: Settings, pk: int, change: int | None = None) -> Done:
    """Take a change back, the last one unless it is named."""
    return Desk(settings).act(ROVASK, pk, TakeBack(change))


def redone(settings: Settings, pk: int) -> Done:
    """Do again what was last taken back."""
    return Desk(settings).act(ROVASK, pk, TakeBack(again=True))


def kept_of(settings: Settings, pk: int) -> refits.Kept:
    """A refit as anybody reads it."""
    with reading(settings.database_url) as session:
        return refits.load(session, pk)


def rows_of(settings: Settings, pk: int) -> refits.Kept:
    """A refit straight from its rows, whatever is remembered."""
    with reading(settings.database_url) as session:
        return refits.read_back(session, pk)


def planned(settings: Settings, pk: int, clock: datetime | None = None) -> tuple[refits.Kept, Planned]:
    """A refit and its present plan."""
    kept = kept_of(settings, pk)
    return kept, Desk(settings).planning.current(kept, clock or settings.clock())


def aside_of(settings: Settings, pk: int, model: type[Thing]) -> tuple[Thing, ...]:
    """What is kept aside of a refit, of one kind."""
    with reading(settings.database_url) as session:
        return load_aside(session, pk, kind_of(model))


def photos_of(settings: Settings, pk: int) -> tuple[Photo, ...]:
    """The photos of a refit."""
    return aside_of(settings, pk, Photo)


def log_of(settings: Settings, pk: int, limit: int = 200) -> list[ChangeEntry]:
    """The change history, newest first."""
    with reading(settings.database_url) as session:
        return history(session, pk, limit)
