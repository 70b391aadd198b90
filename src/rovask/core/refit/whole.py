"""Everything there is of a refit: what the planner reads, and what is kept aside because only pages read it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, TypeVar

from rovask.core.refit.model import Refit
from rovask.core.refit.records import RecordKey
from rovask.core.refit.register import kind_of
from rovask.core.refit.values import Frozen

Thing = TypeVar("Thing", bound=Frozen)


@dataclass(frozen=True)
class Whole:
    """A refit with what is kept aside, by the name of its kind."""

    refit: Refit
    aside: Mapping[str, tuple[Any, ...]] = field(default_factory=dict)

    def of(self, model: type[Thing]) -> tuple[Thing, ...]:
        """The things of one kind that is kept aside."""
        return self.aside.get(kind_of(model).name, ())


@dataclass(frozen=True)
class Edited:
    """What an edit comes to when it also touches what is kept aside: things put there, and things that go."""

    refit: Refit
    put: tuple[Frozen, ...] = ()
    gone: tuple[RecordKey, ...] = ()
