"""What is seen, not known, parked, off the boat or decided: what work comes from and what must not be forgotten."""

from __future__ import annotations

from typing import Annotated, Self

from pydantic import Field, StringConstraints, model_validator

from rovask.core.refit.register import Gone, To, kept
from rovask.core.refit.seen.choices import OffSort, Severity, UnknownState
from rovask.core.refit.values import (
    IN_CURRENCY,
    MOST_MINOR,
    Frozen,
    Hours,
    Key,
    Label,
    Line,
    Minor,
    Moment,
    Remark,
    Skill,
    Text,
    Unit,
)
from rovask.core.refit.work.choices import State, Sureness

Days = Annotated[int, Field(strict=True, ge=0, le=365)]
Photos = Annotated[tuple[Key, ...], Field(max_length=60), To("photo", Gone.FORGET)]
AtPlace = Annotated[Key, To("place", Gone.ASK)]
InTask = Annotated[Key, To("task", Gone.FORGET)]
Reading = Annotated[float, Field(strict=True, ge=0, le=1e6, allow_inf_nan=False)]


class ReadingTaken(Frozen):
    """One reading of a series: when, and what."""

    at: Moment
    value: Reading


@kept("photo", "photos", page="log", aside=True, most=5000)
class Photo(Frozen):
    """A picture, kept beside the database under its checksum; re-encoded, without the place where it was taken."""

    id: Key
    title: Label = ""
    sha256: Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]
    width: Annotated[int, Field(strict=True, ge=1, le=20000)]
    height: Annotated[int, Field(strict=True, ge=1, le=20000)]
    size: Annotated[int, Field(strict=True, ge=1, le=10**9)]
    at: Moment


@kept(
    "inspection",
    "inspections",
    word="thing to look at",
    page="look",
    fresh={"repair_hours": 0, "lead_days": 0},
    most=500,
)
class Inspection(Frozen):
    """One thing to look at on the first walk round the boat, in walking order.

    unit, good_to, bad_from: a reading up to good_to is good, from bad_from on it is bad, between them to be watched.
    repair_hours: elapsed hours the repair takes that it may reveal; lead_days: how long the part for it takes to come.
    task: the task of the plan in which it is looked at; recipe: what a bad one leads to. readings: all that were taken,
    in order of time; reading is the last.
    """

    id: Key
    title: Line
    place: AtPlace | None = None
    task: InTask | None = None
    how: Remark = ""
    unit: Unit = ""
    good_to: Reading | None = None
    bad_from: Reading | None = None
    repair_hours: Hours = 0
    lead_days: Days = 0
    recipe: Key | None = None
    verdict: Severity | None = None
    reading: Reading | None = None
    note: Text = ""
    at: Moment | None = None
    photos: Photos = ()
    readings: Annotated[tuple[ReadingTaken, ...], Field(max_length=200)] = ()

    @model_validator(mode="after")
    def _limits(self) -> Self:
        if self.good_to is not None and self.bad_from is not None and self.bad_from < self.good_to:
            raise ValueError("bad begins below what is still good")
        return self


@kept("finding", "findings", page="findings", fresh={"severity": "watch"}, most=2000)
class Finding(Frozen):
    """Something that was seen: where, how bad, and the jobs that came of it. settled: nothing more is to be done."""

    id: Key
    title: Line
    place: AtPlace | None = None
    severity: Severity = Severity.WATCH
    note: Text = ""
    at: Moment
    photos: Photos = ()
    jobs: Annotated[tuple[Key, ...], Field(max_length=60), To("job", Gone.FORGET)] = ()
    settled: Annotated[bool, Field(strict=True)] = False

    @property
    def blocks(self) -> bool:
        """Whether she may not float before it is settled."""
        return self.severity is Severity.DANGEROUS and not self.settled


@kept(
    "unknown", "unknowns", page="findings", fresh={"chance": 0.2, "hours": 2, "lead_days": 0, "state": "open"}, most=500
)
class Unknown(Frozen):
    """A finding not yet made: how likely, what it would cost in work, money and waiting, and what settles it.

    hours, lead_days, money: as likely, if it is so; *_least, *_most: between what they lie, where that is known; sureness: else.
    after: it can only be so if that other unknown is: its chance is then counted from there.
    """

    id: Key
    title: Line
    chance: Annotated[float, Field(strict=True, ge=0, le=1, allow_inf_nan=False)]
    hours: Hours = 0
    lead_days: Days = 0
    money: Minor = 0
    task: InTask | None = None
    recipe: Key | None = None
    state: UnknownState = UnknownState.OPEN
    hours_least: Hours | None = None
    hours_most: Hours | None = None
    lead_least: Days | None = None
    lead_most: Days | None = None
    money_least: Minor | None = None
    money_most: Minor | None = None
    sureness: Sureness | None = None
    after: Annotated[Key, To("unknown", Gone.FORGET)] | None = None

    @model_validator(mode="after")
    def _spreads(self) -> Self:
        for likely, least, most, what in (
            (self.hours, self.hours_least, self.hours_most, "hours that do"),
            (self.lead_days, self.lead_least, self.lead_most, "a wait for parts that does"),
            (self.money, self.money_least, self.money_most, "money that does"),
        ):
            if (least is not None and least > likely) or (most is not None and most < likely):
                raise ValueError(f"has {what} not lie between the least and the most")
        if self.after == self.id:
            raise ValueError("can't come after itself")
        return self


@kept(
    "off-boat",
    "off_boat",
    word="thing off the boat",
    title="what",
    page="off",
    fresh={"sort": "off the boat", "count": 1},
    most=1000,
)
class OffBoat(Frozen):
    """Something that comes off the boat: which task takes it off, where it lies, which task puts it back, and how.

    sort: off her, left open, or borrowed from somebody; none may be so when she floats. count: how many there are of it;
    bag: which bag small parts are in. missing_since: it can't be found; what puts it back waits until it is.
    """

    id: Key
    what: Line
    sort: OffSort = OffSort.OFF
    count: Annotated[int, Field(strict=True, ge=1, le=999)] = 1
    bag: Label = ""
    off_task: InTask | None = None
    back_task: InTask | None = None
    lies_at: Label = ""
    note: Text = ""
    photos: Photos = ()
    off_at: Moment | None = None
    back_at: Moment | None = None
    missing_since: Moment | None = None

    @model_validator(mode="after")
    def _order(self) -> Self:
        if self.back_at and not self.off_at:
            raise ValueError("is back on but never came off; give both times")
        return self


class WorkBy(Frozen):
    """So many hours of a parked job that only somebody with a skill may do: a trade, or the yard."""

    skill: Skill
    hours: Annotated[Hours, Field(gt=0)]


@kept("parked", "parked", word="parked job", page="parked", fresh={"state": "ashore", "hours": 2}, most=500)
class Parked(Frozen):
    """A job found while cruising, waiting for a state she can be in. next_time: left to the haul-out after this one.

    hours: still to do, all hands counted; trades: those of them that are a trade's or the yard's, the rest is anybody's.
    """

    id: Key
    title: Line
    place: AtPlace | None = None
    state: State = State.ASHORE
    hours: Hours = 2
    trades: Annotated[tuple[WorkBy, ...], Field(max_length=8)] = ()
    recipe: Key | None = None
    note: Text = ""
    next_time: Annotated[bool, Field(strict=True)] = False

    @model_validator(mode="after")
    def _trades(self) -> Self:
        if sum(one.hours for one in self.trades) > self.hours:
            raise ValueError("gives trades more hours than there are")
        return self


class Alternative(Frozen):
    """One way to do it, as it was worked out when the decision was made. spare_minutes: of the whole plan with it.

    money: by which the forecast changes, in minor units; negative when it saves some. odds: how sure the launch was with it, 0 to 1;
    None where that was not played.
    """

    title: Line
    hours: Hours = 0
    money: Annotated[int, Field(strict=True, ge=-MOST_MINOR, le=MOST_MINOR), IN_CURRENCY] = 0
    spare_minutes: Annotated[int, Field(strict=True)] = 0
    holds: Annotated[bool, Field(strict=True)] = True
    odds: Annotated[float, Field(strict=True, ge=0, le=1, allow_inf_nan=False)] | None = None


@kept("decision", "decisions", page="findings", aside=True, most=500)
class Decision(Frozen):
    """Alternatives side by side, the one adopted, and why."""

    id: Key
    title: Line
    alternatives: Annotated[tuple[Alternative, ...], Field(min_length=1, max_length=8)]
    adopted: Label = ""
    reason: Remark = ""
    job: Annotated[Key, To("job", Gone.FORGET)] | None = None
    at: Moment


def judged(inspection: Inspection, reading: float) -> Severity | None:
    """What a reading says by the inspection's limits; None when it has none.

    >>> one = Inspection(id="a", title="Play", good_to=1, bad_from=2)
    >>> [judged(one, mm) for mm in (0.5, 1.5, 2)] == [Severity.GOOD, Severity.WATCH, Severity.BAD]
    True
    """
    if inspection.bad_from is not None and reading >= inspection.bad_from:
        return Severity.BAD
    if inspection.good_to is not None:
        return Severity.GOOD if reading <= inspection.good_to else Severity.WATCH
    return None if inspection.bad_from is None else Severity.GOOD


def is_flat(readings: tuple[ReadingTaken, ...], last: int = 3, within: float = 0.05) -> bool:
    """Whether the last readings no longer fall: each within a share of their mean. Drying ends so (common practice).

    >>> from datetime import UTC, datetime
    >>> at = datetime(2026, 5, 4, tzinfo=UTC)
    >>> [is_flat(tuple(ReadingTaken(at=at, value=v) for v in row)) for row in ([28, 20, 14], [28, 14, 14, 13.5])]
    [False, True]
    """
    if len(readings) < last:
        return False
    values = [one.value for one in readings[-last:]]
    mean = sum(values) / last
    return all(abs(value - mean) <= within * max(mean, 1e-9) for value in values)
