"""What may lie on what: kinds of coating, never brands; with what is done first where it may."""

from __future__ import annotations

from enum import StrEnum

from pydantic import Field, model_validator

from rovask.core.recipes.recipe import Name
from rovask.core.refit.values import Frozen, Line, Text


class May(StrEnum):
    """Whether a coat may lie on another."""

    YES = "yes"
    KEYED = "when it is keyed"
    SEALED = "with a coat between"
    NO = "no"


class CoatKind(Frozen):
    """A kind of coating. hard: 0 soft to 3 hard."""

    title: Line
    hard: int = Field(ge=0, le=3)
    note: Text = ""


class OnWhat(Frozen):
    """Whether one kind may lie on another: may, and what is done first or why not."""

    over: Name
    under: Name
    may: May
    do: Line


class CoatTables(Frozen):
    """Kinds by name, which may lie on which, and where it comes from. Every pair stands in it once."""

    coats_source: Text
    kind: dict[Name, CoatKind]
    on: tuple[OnWhat, ...]

    @model_validator(mode="after")
    def _whole(self) -> CoatTables:
        pairs = [(row.over, row.under) for row in self.on]
        strange = {name for pair in pairs for name in pair} - set(self.kind)
        if strange:
            raise ValueError(f"nobody knows the coating {', '.join(sorted(strange))}")
        twice = {pair for pair in pairs if pairs.count(pair) > 1}
        if twice:
            raise ValueError(f"{sorted(twice)[0]} stands in it twice")
        return self

    def on_top(self, over: str, under: str) -> OnWhat:
        """Whether ``over`` may lie on ``under``. Raises KeyError for a pair that isn't in the table."""
        return next(row for row in self.on if (row.over, row.under) == (over, under))
