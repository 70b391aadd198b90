"""What is written down day by day: the day itself, hours lost, people's stays, looks at work done, ticks at the launch;
and plans kept to measure by.
"""

from __future__ import annotations

from typing import Annotated, Self

from pydantic import Field, model_validator

from rovask.core.refit.days.choices import LostTo, Said
from rovask.core.refit.register import Gone, To, kept
from rovask.core.refit.seen.kinds import Photos
from rovask.core.refit.values import Day, Frozen, Hours, Key, Label, Line, Moment, Remark, Text

Yes = Annotated[bool, Field(strict=True)]


@kept("day", "days", title="on", page="log", unique=(("on",),), most=800)
class DayEntry(Frozen):
    """A day as it was. here: who was there (what they worked is in the hours); weather: as it was, in words.

    closed_at: when it was written down; a closed day may be set right.
    """

    id: Key
    on: Day
    here: Annotated[tuple[Key, ...], Field(max_length=60), To("person", Gone.FORGET)] = ()
    weather: Label = ""
    words: Text = ""
    photos: Photos = ()
    closed_at: Moment


@kept(
    "lost", "lost", planned=False, word="entry of hours lost", title="note", page="log", fresh={"hours": 1}, most=2000
)
class Lost(Frozen):
    """Working hours of a day that came to nothing, of one person or of everybody there, on one job or on any."""

    id: Key
    on: Day
    reason: LostTo
    hours: Annotated[Hours, Field(gt=0, le=24)] = 1
    person: Annotated[Key, To("person", Gone.FORGET)] | None = None
    job: Annotated[Key, To("job", Gone.FORGET)] | None = None
    note: Remark = ""


@kept("visit", "visits", page="people", fresh={"guests": 0}, most=300)
class Visit(Frozen):
    """A stay of somebody: a helper for four days, a trade's call, guests. First and last day belong to it.

    person: who of the people; somebody who has visits is here in them and at no other time. None: guests, who take
    ``guests`` berths. ready: what should be ready before they come, in the sailor's words. was: the first day it was
    to begin on, before it slipped.
    """

    id: Key
    title: Line
    person: Annotated[Key, To("person", Gone.GO)] | None = None
    first: Day
    last: Day
    guests: Annotated[int, Field(strict=True, ge=0, le=20)] = 0
    ready: Text = ""
    note: Text = ""
    was: Day | None = None

    @model_validator(mode="after")
    def _forwards(self) -> Self:
        if self.last < self.first:
            raise ValueError("leaves before it comes")
        return self


@kept("check", "checks", table="acceptance", word="look at work done", page="jobs", index=("task",), most=6000)
class Check(Frozen):
    """One look at one thing of a task that is done: who looked, when, what was seen, and whether it passed.

    A later look at the same thing counts instead. snag: the task that puts right what did not pass; until: by when.
    """

    id: Key
    task: Annotated[Key, To("task", Gone.GO)]
    title: Line
    at: Moment
    person: Annotated[Key, To("person", Gone.ASK)] | None = None
    passed: Yes
    seen: Text = ""
    photos: Photos = ()
    snag: Annotated[Key, To("task", Gone.FORGET)] | None = None
    until: Day | None = None


@kept("gate-tick", "gate_ticks", planned=False, word="tick at the launch gate", title="item", page="launch", most=6000)
class GateTick(Frozen):
    """What somebody saw of one item of the launch gate. Nothing is overwritten: the last word on an item counts.

    item: which, by the gate's own mark (core/gate). passed: it is as it should be. overruled: she may go all the same,
    by whom and for what reason (``seen``).
    """

    id: Key
    item: Annotated[Label, Field(min_length=1)]
    at: Moment
    person: Annotated[Key, To("person", Gone.ASK)] | None = None
    passed: Yes = True
    overruled: Yes = False
    seen: Remark = ""
    photos: Photos = ()

    @model_validator(mode="after")
    def _by_name(self) -> Self:
        if self.overruled and not (self.person and self.seen.strip()):
            raise ValueError("is overruled, so it needs a name and a reason")
        return self


@kept("word", "words", planned=False, table="trade_word", word="word from a trade", title="note", page="log", most=3000)
class TradeWord(Frozen):
    """What a trade said by its own link: that it comes, that it is late and until when, that something is done or found.

    task: of which of its tasks, where it is of one. answered: somebody aboard has dealt with it.
    """

    id: Key
    person: Annotated[Key, To("person", Gone.GO)]
    task: Annotated[Key, To("task", Gone.FORGET)] | None = None
    said: Said
    at: Moment
    day: Day | None = None
    note: Remark = ""
    photos: Photos = ()
    answered: Yes = False

    @model_validator(mode="after")
    def _until(self) -> Self:
        if self.said is Said.LATE and self.day is None:
            raise ValueError("is late, so it needs the day on which it comes")
        return self


class PlannedTask(Frozen):
    """A task as a plan had it. hours: of work left for all its hands then."""

    task: Key
    title: Line
    job: Label = ""
    people: Annotated[tuple[Key, ...], Field(max_length=60)] = ()
    start: Moment
    end: Moment
    hours: Hours = 0


@kept("baseline", "baselines", page="progress", aside=True, most=60)
class Baseline(Frozen):
    """A plan kept to measure by: when and why, the slot it aimed at, when the must-work was to be ready, and every task.

    The people and tasks in it are those of its day; what is gone since is still in it. unplanned: tasks there were that the
    plan had no room for.
    """

    id: Key
    title: Line
    at: Moment
    launch_at: Moment
    ready_at: Moment | None = None
    why: Remark = ""
    tasks: Annotated[tuple[PlannedTask, ...], Field(max_length=4000)] = ()
    unplanned: Annotated[tuple[Key, ...], Field(max_length=4000)] = ()

    @property
    def known(self) -> frozenset[str]:
        """Every task there was then."""
        return frozenset([*(row.task for row in self.tasks), *self.unplanned])
