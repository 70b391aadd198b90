"""What recipes share: cautions, surfaces, equipment, usual places, the table of danger; and the library of all of them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from pydantic import Field

from rovask.core.recipes.recipe import Condition, Name, Recipe
from rovask.core.refit.givens.choices import Spot
from rovask.core.refit.values import Frozen, Key, Label, Line, Skill, Text
from rovask.core.refit.work.choices import Deed, Emission
from rovask.core.refit.work.kinds import WeatherNeed


class Caution(Frozen):
    """A usual caution: what it guards against, what to do, and whose rule wins."""

    against: Line
    do: Text
    wins: Line

    @property
    def text(self) -> str:
        """All of it in one line."""
        return f"{self.against}: {self.do} {self.wins}"


class Surface(Frozen):
    """What the weather must be like for a kind of surface, with its source."""

    need: WeatherNeed
    source: Line


class GearLine(Frozen):
    """Equipment that recipes ask for, and how many there usually are."""

    name: Line
    count: int = Field(default=1, ge=0, le=50)


class SpotLine(Frozen):
    """A usual place of a boat: its name, how many hands fit, whether it is outdoors, and onto what it opens."""

    spot: Spot
    name: Line
    capacity: int = Field(ge=0, le=50)
    outdoors: bool = False
    opens_onto: tuple[Spot, ...] = ()
    when: Condition = ""


class Danger(Frozen):
    """A row of the table of danger: how a step that does it is known, and what such a step must have (danger.py).

    A step is one of these if any of spots (while she stands ashore; afloat: while she floats), gear, skills, does, cautions or words (a pattern in its
    title) says so; but: a pattern of titles that the words don't count in. Then it must have one of ``has``, so many hands, one of the emissions, one
    of the equipment, the deed and the skill.
    """

    spots: tuple[Spot, ...] = ()
    afloat: bool = False
    gear: tuple[Key, ...] = ()
    skills: tuple[Skill, ...] = ()
    does: Deed | None = None
    cautions: tuple[Name, ...] = ()
    words: str = Field(default="", max_length=200)
    but: str = Field(default="", max_length=200)
    has: tuple[Name, ...]
    hands: int = Field(default=1, ge=1, le=8)
    emits: tuple[Emission, ...] = ()
    with_gear: tuple[Key, ...] = ()
    deed: Deed | None = None
    skill: Skill | None = None


class Common(Frozen):
    """What recipes share: cautions, surfaces, equipment, usual places, skills that owners mustn't take over, the table of
    danger, and the step (``recipe.step``) that work ashore begins after.
    """

    cautions: dict[Name, Caution]
    danger: dict[Name, Danger] = Field(default_factory=dict)
    surfaces: dict[Name, Surface]
    gear: dict[Key, GearLine]
    place: tuple[SpotLine, ...]
    reserved: dict[Skill, Line]
    starts_after: Label


@dataclass(frozen=True, slots=True)
class Library:
    """The recipes at hand by id, and what they share."""

    common: Common
    recipes: Mapping[str, Recipe]
