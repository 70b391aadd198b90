"""The work of a refit: parts, tasks and jobs, the ties between tasks, hours logged."""

from __future__ import annotations

from typing import Annotated, Self

from pydantic import Field, model_validator

from rovask.core.refit.givens.choices import Charge, Service
from rovask.core.refit.register import Gone, To, kept
from rovask.core.refit.stores.choices import Lies, PartStatus
from rovask.core.refit.values import (
    Amount,
    Celsius,
    Frozen,
    Hours,
    Key,
    Label,
    Line,
    MetresPerSecond,
    Minor,
    Moment,
    Percent,
    Remark,
    Skill,
    Text,
    Unit,
    WorkHours,
)
from rovask.core.refit.work.choices import Deed, Emission, LinkKind, Need, Opens, State, Sureness

HAUL, LAUNCH, LIFT = "haul", "launch", "lift"  # what a tie may run to besides a task; no task is called so

Keys = Annotated[tuple[Key, ...], Field(max_length=60)]
LeadDays = Annotated[int, Field(strict=True, ge=0, le=365)]


@kept(
    "part", "parts", title="name", page="stores", fresh={"quantity": 1, "lead_days": 3, "status": "needed"}, most=2000
)
class Part(Frozen):
    """A need, and what there is of it. ``price`` for the whole quantity, as expected; ``arrives``: when, as ``status`` says.

    quantity: how much of ``unit`` the refit takes; pack: what it is sold in. status, arrives: the sailor's word, which
    holds while there is no order (stores.py) and no count. counted: how much there was at counted_at, leftovers too;
    what came and was used since is added and taken off (readings/stock.py). lies, stowed: where what there is of it lies.
    dimension: the measure to match. must_fit: it is tried before use. substitute: another thing may stand for it.
    hazardous: carriers take it only as dangerous goods. price_least, price_most: between what the price lies, until it
    is known. fetch: the trip that brings it. line: the budget line, where it isn't its job's.

    lead_days: as likely; lead_least, lead_most: as short and as long as it may be, where that is known. missing_since:
    it was there and can't be found; what needs it waits until it is found or bought again. sureness: of its lead time, where
    neither of the two is known.
    """

    id: Key
    name: Line
    quantity: Annotated[float, Field(strict=True, gt=0, le=1e6, allow_inf_nan=False)] = 1
    unit: Unit = ""
    supplier: Label = ""
    price: Minor = 0
    lead_days: LeadDays = 0
    status: PartStatus = PartStatus.NEEDED
    arrives: Moment | None = None
    stowed: Label = ""
    lead_least: LeadDays | None = None
    lead_most: LeadDays | None = None
    missing_since: Moment | None = None
    pack: Amount | None = None
    dimension: Label = ""
    must_fit: Annotated[bool, Field(strict=True)] = True
    substitute: Annotated[bool, Field(strict=True)] = False
    hazardous: Annotated[bool, Field(strict=True)] = False
    price_least: Minor | None = None
    price_most: Minor | None = None
    counted: Annotated[float, Field(strict=True, ge=0, le=1e6, allow_inf_nan=False)] | None = None
    counted_at: Moment | None = None
    lies: Lies = Lies.ABOARD
    fetch: Annotated[Key, To("task", Gone.FORGET)] | None = None
    line: Annotated[Key, To("budget-line", Gone.FORGET)] | None = None
    sureness: Sureness | None = None

    @model_validator(mode="after")
    def _ordered_has_a_date(self) -> Self:
        if self.status is PartStatus.ORDERED and self.arrives is None:
            raise ValueError("is ordered, so it needs the date it is expected")
        return self

    @model_validator(mode="after")
    def _lead(self) -> Self:
        least, most = self.lead_least, self.lead_most
        if (least is not None and least > self.lead_days) or (most is not None and most < self.lead_days):
            raise ValueError("has a lead time that does not lie between its shortest and its longest")
        low, high = self.price_least, self.price_most
        if (low is not None and low > self.price) or (high is not None and high < self.price):
            raise ValueError("has a price that does not lie between its least and its most")
        if self.counted is not None and self.counted_at is None:
            raise ValueError("was counted; say when, so that what was used since can be taken off")
        return self


class WorkTime(Frozen):
    """Hours of work on one unit with all hands at it: least, likely, most. The plan uses *likely* of all units, rounded up
    to the half-hour.
    """

    least: WorkHours
    likely: Annotated[WorkHours, Field(gt=0)]
    most: WorkHours

    @model_validator(mode="after")
    def _ordered(self) -> Self:
        if not self.least <= self.likely <= self.most:
            raise ValueError("must run from least over likely to most")
        return self


class WeatherNeed(Frozen):
    """What the weather must be like while a task is worked at; None: no limit.

    dry: no rain. least_temp, most_temp: surface temperature in °C (the air's, for want of a better). most_humidity:
    relative, in %. dew_margin: °C the surface must be above the dew point. most_wind: mean wind in m/s.
    coverable: it may rain in the pauses of the work, since it is covered then.
    """

    dry: Annotated[bool, Field(strict=True)] = True
    least_temp: Celsius | None = None
    most_temp: Celsius | None = None
    most_humidity: Percent | None = None
    dew_margin: Annotated[float, Field(strict=True, ge=0, le=20, allow_inf_nan=False)] | None = None
    most_wind: MetresPerSecond | None = None
    coverable: Annotated[bool, Field(strict=True)] = True


@kept(
    "task",
    "tasks",
    inside="job",
    page="jobs",
    fresh={"state": "ashore", "hands": 1, "units": 1, "units_done": 0, "tender": 0},
    index=("job",),
    most=4000,
)
class Task(Frozen):
    """One step of a job.

    work: hours for one unit; units: how many there are (four pumps), units_done: how many are finished.
    hands: people needed together from beginning to end. skill: what each of them must know (none: any owner or
    helper). skilled: further skills, one of the hands for each, when ``skill`` is none. people: only these may do it
    (empty: anybody who fits). unbroken: the work may not pause overnight (a coat, a lay-up).
    emits: what it gives off while it lasts. shuns: what it can't stand, in its place and in those it opens onto, from
    its beginning until ``tender`` hours after its end (a wet coat); rain spoils it as long, if it needs dry weather.
    contained_by: the task that tapes off or tents it; once that is done, what it emits stays inside.
    takes_out: services nobody has from its beginning until the end of ``until`` (none: its own end).
    check: what must be true when it is done, and somebody has seen. opens: what must be looked at again before and after
    she floats, once it was begun. does: what it does to its place, by which the order of the trade goes (trade_order.py);
    none said: what its title says.
    charge: what the yard charges for it, once, by its tariff: a second lift, a move. crew: who began it. remaining: hours still to do as last judged, once begun. paced: by what its hours were multiplied
    to go by a pace that was learned; 1: they are as first estimated. sureness: of its hours, where least and most say nothing.
    """

    id: Key
    title: Line
    place: Annotated[Key, To("place")]
    state: State = State.ASHORE
    work: WorkTime
    units: Annotated[int, Field(strict=True, ge=1, le=200)] = 1
    units_done: Annotated[int, Field(strict=True, ge=0, le=200)] = 0
    hands: Annotated[int, Field(strict=True, ge=1, le=8)] = 1
    skill: Skill | None = None
    skilled: Annotated[tuple[Skill, ...], Field(max_length=8)] = ()
    unbroken: Annotated[bool, Field(strict=True)] = False
    people: Annotated[Keys, To("person", Gone.ASK)] = ()
    parts: Annotated[tuple[Key, ...], Field(max_length=200), To("part", Gone.ASK)] = ()
    gear: Annotated[tuple[Key, ...], Field(max_length=20), To("gear", Gone.ASK)] = ()
    weather: WeatherNeed | None = None
    emits: tuple[Emission, ...] = ()
    shuns: tuple[Emission, ...] = ()
    tender: Hours = 0
    contained_by: Annotated[Key, To("task", Gone.FORGET)] | None = None
    takes_out: tuple[Service, ...] = ()
    until: Annotated[Key, To("task", Gone.FORGET)] | None = None
    pin: Moment | None = None
    caution: Text = ""
    check: Remark = ""
    opens: tuple[Opens, ...] = ()
    does: tuple[Deed, ...] = ()
    charge: Charge | None = None
    note: Text = ""
    begun_at: Moment | None = None
    done_at: Moment | None = None
    crew: Annotated[Keys, To("person")] = ()
    remaining: Hours | None = None
    paced: Annotated[float, Field(strict=True, ge=0.2, le=5, allow_inf_nan=False)] = 1
    sureness: Sureness | None = None

    @model_validator(mode="after")
    def _hands(self) -> Self:
        if len(self.skilled) > self.hands:
            raise ValueError(f"needs a hand for each of {len(self.skilled)} skills and has {self.hands}; add hands")
        if self.skill and self.skilled:
            raise ValueError("give one skill for everybody or skills one by one, not both")
        if self.units_done > self.units:
            raise ValueError(f"has {self.units_done} units done of {self.units}")
        if set(self.emits) & set(self.shuns) and not self.contained_by:
            both = ", ".join(sorted(set(self.emits) & set(self.shuns)))
            raise ValueError(f"gives off {both} and can't stand it")
        return self

    @model_validator(mode="after")
    def _progress(self) -> Self:
        if self.done_at and not self.begun_at:
            raise ValueError("is done but was never begun; give both times")
        if self.done_at and self.begun_at and self.done_at < self.begun_at:
            raise ValueError("was done before it was begun")
        return self

    @property
    def is_under_way(self) -> bool:
        """Begun and not done."""
        return self.begun_at is not None and self.done_at is None


class Choice(Frozen):
    """One thing that was chosen when a job was made from a recipe: what, and which of its answers."""

    name: Label
    value: Label


@kept("job", "jobs", page="jobs", fresh={"need": "must"}, most=400)
class Job(Frozen):
    """What the sailor calls a job: some tasks, how much it matters, and whose it is.

    recipe: what it was made from; chosen: the answers it was made with; reason: why that school was chosen.
    under: the job it is part of, which is not itself part of another. line: the budget line it goes on, where that isn't
    the one of its part of the boat. late_because: why, and by whose word, it may be closed on the last day (closes.py).
    """

    id: Key
    title: Line
    need: Need = Need.MUST
    owner: Annotated[Key, To("person", Gone.ASK)] | None = None
    recipe: Key | None = None
    chosen: Annotated[tuple[Choice, ...], Field(max_length=40)] = ()
    reason: Remark = ""
    note: Text = ""
    under: Annotated[Key, To("job", Gone.FORGET)] | None = None
    line: Annotated[Key, To("budget-line", Gone.FORGET)] | None = None
    late_because: Remark = ""
    tasks: Annotated[tuple[Task, ...], Field(max_length=4000)] = ()


@kept(
    "link",
    "links",
    word="tie",
    title="reason",
    page="jobs",
    fresh={"kind": "FS", "min_lag": 0},
    unique=(("first", "then", "kind"),),
    most=5000,
)
class Link(Frozen):
    """A tie: the end (or start) of ``to`` lies at least ``min_lag`` and at most ``max_lag`` elapsed hours after ``from``'s.

    FS: s(to) - e(from); SS: s(to) - s(from); FF: e(to) - e(from); SF: e(to) - s(from); each in
    [min_lag, max_lag]. Lags run through nights and Sundays. ``haul``, ``launch`` or an appointment may stand for a task.
    cures: both lags are for 20 °C and grow or shrink with the temperature (see core.weather.cure_factor).
    make_good_hours: work added to ``then`` when the longest wait is missed (wash, abrade, wipe); make_good says which.
    least_lag, most_lag: the shortest and the longest that ``min_lag`` may turn out to be, where that is known.
    reading: what is read of a drying; once its readings since ``first`` no longer fall, the wait is over (ended_by).
    sureness: of the wait, where neither its shortest nor its longest is known.
    """

    id: Key
    first: Annotated[Key, To("task", Gone.GO, (HAUL, LAUNCH), ("appointment",))]
    then: Annotated[Key, To("task", Gone.GO, (HAUL, LAUNCH), ("appointment",))]
    kind: LinkKind = LinkKind.FS
    min_lag: Hours = 0
    max_lag: Hours | None = None
    reason: Remark = ""
    cures: Annotated[bool, Field(strict=True)] = False
    make_good_hours: Annotated[Hours, Field(gt=0)] | None = None
    make_good: Label = ""
    least_lag: Hours | None = None
    most_lag: Hours | None = None
    reading: Annotated[Key, To("inspection", Gone.FORGET)] | None = None
    sureness: Sureness | None = None

    @model_validator(mode="after")
    def _lags(self) -> Self:
        least, most = self.least_lag, self.most_lag
        if (least is not None and least > self.min_lag) or (most is not None and most < self.min_lag):
            raise ValueError("has a wait that does not lie between its shortest and its longest")
        if self.max_lag is not None and self.max_lag < self.min_lag:
            raise ValueError("the longest wait is shorter than the shortest")
        if self.make_good_hours is not None and (self.max_lag is None or self.kind is not LinkKind.FS):
            raise ValueError("has make-good work and no longest wait from end to start that could be missed")
        if self.first == self.then:
            raise ValueError("ties a task to itself")
        return self


@kept("hours", "hours_log", table="hours_entry", word="entry of hours", title="note", page="log", most=20000)
class HoursEntry(Frozen):
    """Hours somebody put into a task, as logged."""

    id: Key
    task: Annotated[Key, To("task", Gone.GO)]
    person: Annotated[Key, To("person")]
    at: Moment
    hours: Annotated[Hours, Field(gt=0, le=24)]
    note: Remark = ""
