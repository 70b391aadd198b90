"""Ways laid side by side: what one may do instead, each a list of acts that have not happened."""

from __future__ import annotations

from typing import Annotated, Self

from pydantic import Field, model_validator

from rovask.core.refit.register import kept
from rovask.core.refit.values import Day, Frozen, Hours, Key, Label, Line, Minor, Moment, Skill
from rovask.core.refit.ways.choices import SAYS, ActSort
from rovask.core.refit.work.kinds import LeadDays

MOST_ACTS = 12
AS_IT_IS = "as-it-is"  # the way that every other is compared with: nothing is done


class StayThen(Frozen):
    """When somebody is there in another season; both None: not at all. person: their id, or that of a stay of guests."""

    person: Key
    first: Day | None = None
    last: Day | None = None

    @model_validator(mode="after")
    def _whole(self) -> Self:
        if (self.first is None) != (self.last is None):
            raise ValueError("needs both its first and its last day")
        if self.first is not None and self.last is not None and self.last < self.first:
            raise ValueError("leaves before arriving")
        return self


class Act(Frozen):
    """One act that has not happened.

    of: the id of what it is done to: a job (next time, leave out, interim fix, done otherwise, own hands), a part (express), an offer, a
    finding, a task (look first, by somebody, unpin, cover), a person (longer days). at: the slot. haul_at, stays: of a season.
    first, last: when one more hand is there. hours: of the interim fix, or of what is done otherwise, with all hands at it, or by which each day is longer; hands: of those.
    money: minor units: of the interim fix's things, of a day of one more hand, of what express costs more; in a season of
    one month's berth. lay_day: what a day ashore costs in a season, None: as now. days: until the part comes, or the interim fix's
    things do. name: of one more hand, of the interim fix; the way a finding is settled; who does it. skills: of one more hand.
    """

    do: ActSort
    of: Label = ""
    at: Moment | None = None
    haul_at: Moment | None = None
    first: Day | None = None
    last: Day | None = None
    hours: Hours = 0
    hands: Annotated[int, Field(strict=True, ge=1, le=8)] = 1
    money: Minor = 0
    lay_day: Minor | None = None
    days: LeadDays = 0
    name: Label = ""
    skills: Annotated[tuple[Skill, ...], Field(max_length=20)] = ()
    stays: Annotated[tuple[StayThen, ...], Field(max_length=60)] = ()

    @model_validator(mode="after")
    def _says_enough(self) -> Self:
        for name in SAYS[self.do]:
            if getattr(self, name) in (None, "", 0) and not (name == "days" and self.do is ActSort.EXPRESS):
                raise ValueError(f"says nothing of its {name.replace('_', ' ')}")
        if self.first is not None and self.last is not None and self.last < self.first:
            raise ValueError("ends before it begins")
        if self.at is not None and self.haul_at is not None and self.at <= self.haul_at:
            raise ValueError("launches before the haul-out")
        return self


class ProposedWay(Frozen):
    """One way: what is done, in this order. id: within its choice."""

    id: Key
    title: Line
    acts: Annotated[tuple[Act, ...], Field(max_length=MOST_ACTS)] = ()


MOST_WAYS = 5  # besides as it is: six side by side


@kept("ways", "ways", word="choice", page="choices", planned=False, most=200)
class Ways(Frozen):
    """A choice: ways side by side, compared with doing nothing of the kind.

    about: where the question arose, as "part:p-12"; "" for none. at: when it was laid out. taken: the way that became real, or
    AS_IT_IS where it was decided to leave it so; "": open. Figures are worked out anew and kept elsewhere (store/laid.py).
    """

    id: Key
    title: Line
    about: Label = ""
    ways: Annotated[tuple[ProposedWay, ...], Field(max_length=MOST_WAYS)] = ()
    at: Moment
    taken: Label = ""

    @model_validator(mode="after")
    def _apart(self) -> Self:
        ids = [one.id for one in self.ways]
        if len(set(ids)) < len(ids) or AS_IT_IS in ids:
            raise ValueError("has two ways of one id")
        if self.taken and self.taken not in (*ids, AS_IT_IS):
            raise ValueError("took a way that it doesn't have")
        return self

    def way(self, key: str) -> ProposedWay | None:
        """The way of that id; doing nothing of the kind is one of no acts."""
        if key == AS_IT_IS:
            return ProposedWay(id=AS_IT_IS, title="As it is")
        return next((one for one in self.ways if one.id == key), None)
