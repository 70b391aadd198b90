"""The ladder of means as data: what a means takes, how it turns out, where it must never be used. Read from _seized.toml."""

from __future__ import annotations

from pydantic import Field

from rovask.core.recipes.recipe import Name
from rovask.core.refit.craft.choices import Holds, Means, NearIt, OfMetal
from rovask.core.refit.values import Frozen, Key, Label, Line, Skill, Text
from rovask.core.refit.work.choices import Emission


class MeansLine(Frozen):
    """One means. hours: of work to apply it; wait: elapsed hours until it is tried, tries: of work then. comes, breaks: chances
    on an easy fastening, 0 to 1. only: for a thread or a press fit. ends: nothing of the old one can be used again. at_hand: what
    must be there before one begins. never_near, never_around, of_metal: where it is not used.
    """

    title: Line
    hours: float = Field(gt=0, le=200)
    wait: float = Field(default=0, ge=0, le=400)
    tries: float = Field(default=0, ge=0, le=200)
    comes: float = Field(ge=0, le=1)
    breaks: float = Field(default=0, ge=0, le=1)
    only: Holds | None = None
    ends: bool = False
    skilled: tuple[Skill, ...] = ()
    cautions: tuple[Name, ...] = ()
    gear: tuple[Key, ...] = ()
    emits: tuple[Emission, ...] = ()
    at_hand: tuple[Label, ...] = ()
    does: Text
    never_near: tuple[NearIt, ...] = ()
    never_around: tuple[OfMetal, ...] = ()
    of_metal: tuple[OfMetal, ...] = ()


class PairLine(Frozen):
    """How readily a metal lets go of what it sits in: 1 easy, towards 0 hardly; because: a sentence."""

    metal: OfMetal
    around: OfMetal
    ease: float = Field(gt=0, le=1)
    because: Line


class SeizedTables(Frozen):
    """All of it: the means in their order, the pairs, where it comes from."""

    means: dict[Means, MeansLine]
    pair: tuple[PairLine, ...]
    seized_source: Text
