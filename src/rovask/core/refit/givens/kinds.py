"""The givens of a refit: boat, yard and its rules, places, people, equipment, appointments."""

from __future__ import annotations

from datetime import time
from typing import Annotated, Self
from zoneinfo import ZoneInfo

from pydantic import Field, model_validator

from rovask.core.refit.givens.choices import (
    Charge,
    Cooling,
    Drive,
    Fitting,
    HullMaterial,
    Keel,
    MastStep,
    Per,
    Propeller,
    Role,
    Rudder,
    Service,
    Spot,
    Weekday,
    Which,
)
from rovask.core.refit.register import Gone, To, kept
from rovask.core.refit.values import (
    Celsius,
    Day,
    Frozen,
    HalfHour,
    Hours,
    Key,
    Label,
    Line,
    Metres,
    Minor,
    Moment,
    Skill,
    TimeZone,
)
from rovask.core.refit.work.choices import Closed, Emission, UsualOf

Count = Annotated[int, Field(strict=True, ge=0, le=99)]


@kept("boat", title="name", page="boat", givens=True)
class Boat(Frozen):
    """The boat that is refitted. Lengths in metres, areas in square metres, displacement in kilograms.

    mast_height_m: of the tallest mast, above the waterline. freeboard_*: from the waterline to the deck.
    bottom_area_m2: wetted area as measured; it overrides every estimate. A figure that is None is estimated from the
    others, and where it is shown it says so. mizzen_step, third_step: where further masts stand, where not as the first;
    rudders: how many (None: one, or one a hull of two).
    """

    name: Line
    rig: Line = "cutter"
    hulls: Annotated[int, Field(strict=True, ge=1, le=3)] = 1
    hull_material: HullMaterial = HullMaterial.GRP
    keel: Keel = Keel.FIN
    rudder: Rudder = Rudder.SKEG
    drive: Drive = Drive.SHAFT
    length_m: Metres
    waterline_m: Metres
    beam_m: Metres
    draft_m: Metres
    displacement_kg: Annotated[int, Field(strict=True, gt=0, le=2_000_000)]
    masts: Annotated[int, Field(strict=True, ge=0, le=3)] = 1
    mast_step: MastStep = MastStep.DECK
    mizzen_step: MastStep | None = None
    third_step: MastStep | None = None
    mast_height_m: Metres | None = None
    freeboard_bow_m: Metres | None = None
    freeboard_stern_m: Metres | None = None
    bottom_area_m2: Annotated[float, Field(strict=True, gt=0, le=2000, allow_inf_nan=False)] | None = None
    engines: Annotated[int, Field(strict=True, ge=0, le=4)] = 1
    rudders: Annotated[int, Field(strict=True, ge=1, le=2)] | None = None
    propeller: Propeller = Propeller.FIXED
    cooling: Cooling = Cooling.HEAT_EXCHANGER
    through_hulls: Count = 8
    heads: Count = 1
    berths: Count = 4
    water_tanks: Count = 1
    fuel_tanks: Count = 1
    fitted: Annotated[tuple[Fitting, ...], Field(max_length=40)] = ()

    @model_validator(mode="after")
    def _plausible(self) -> Self:
        if self.waterline_m > self.length_m:
            raise ValueError("the waterline can't be longer than the boat; look at both lengths")
        if self.draft_m > self.length_m / 2:
            raise ValueError(f"a draft of {self.draft_m:g} m on {self.length_m:g} m looks like swapped units")
        if self.beam_m > self.length_m:
            raise ValueError("the beam can't be larger than the length")
        for height, what in ((self.freeboard_bow_m, "bow"), (self.freeboard_stern_m, "stern")):
            if height is not None and height > self.length_m / 3:
                raise ValueError(f"a freeboard of {height:g} m at the {what} looks like swapped units")
        if self.mast_height_m is not None and not self.length_m / 3 < self.mast_height_m < self.length_m * 3:
            raise ValueError(f"a mast {self.mast_height_m:g} m high on {self.length_m:g} m looks like swapped units")
        return self


MIDNIGHT = time(0)


class Shift(Frozen):
    """Working hours on some weekdays, in the yard's local time; ``end`` after ``start`` on the same day, 00:00 its midnight."""

    days: Annotated[tuple[Weekday, ...], Field(min_length=1, max_length=7)]
    start: HalfHour
    end: HalfHour

    @model_validator(mode="after")
    def _forwards(self) -> Self:
        if self.end <= self.start and self.end != MIDNIGHT:
            raise ValueError("the hours end before they begin; a night shift is written as two")
        return self

    def holds(self, at: time) -> bool:
        """Whether a time of day lies in it, its first and last minute included."""
        return self.start <= at and (self.end == MIDNIGHT or at <= self.end)


class DayRange(Frozen):
    """Whole local days, first and last included."""

    first: Day
    last: Day
    reason: Label = ""

    @model_validator(mode="after")
    def _forwards(self) -> Self:
        if self.last < self.first:
            raise ValueError("the last day lies before the first")
        return self


class YardRule(Frozen):
    """When the yard allows what a task emits: only in some hours, never on some days, not before a permit.

    only: hours in which it is allowed (empty: the yard's own); never: days on which it isn't;
    permit_from: the first day a permit holds, for what needs one.
    """

    emits: Emission
    only: tuple[Shift, ...] = ()
    never: tuple[DayRange, ...] = ()
    permit_from: Day | None = None
    reason: Label = ""


class TariffLine(Frozen):
    """One line of the yard's tariff: so much for something.

    price: minor units per ``per``; of PERCENT hundredths of a per cent. from_day, to_day: of lay-days, the days of her
    stay it holds for, both included, the first of them 1 (None: to the end).
    """

    charge: Charge
    title: Label = ""
    price: Minor
    per: Per = Per.ONCE
    from_day: Annotated[int, Field(strict=True, ge=1, le=999)] = 1
    to_day: Annotated[int, Field(strict=True, ge=1, le=999)] | None = None

    @model_validator(mode="after")
    def _days(self) -> Self:
        if self.to_day is not None and self.to_day < self.from_day:
            raise ValueError("ends before the day it begins with")
        return self


class MeterReading(Frozen):
    """What the yard's power meter said: kWh, at a moment."""

    at: Moment
    kwh: Annotated[float, Field(strict=True, ge=0, le=1e7, allow_inf_nan=False)]


@kept("yard", title="name", givens=True)
class Yard(Frozen):
    """The yard: where its clock stands, when work ashore is allowed, and what it charges.

    latitude, longitude: degrees north and east; with both, outdoor work keeps to daylight.
    lift_hours, block_hours: how long lifting with washing, and then blocking take at the haul-out; nothing under her
    begins before. They count where no task says it better (State.LIFTING).
    slings_hours: how long before the launch slot she may hang in the slings; slings_night: price of a night in them.
    temperature: what cures are reckoned at (°C) where neither forecast nor climate says.
    lift_and_launch, lay_day, free_days, slings_night: the tariff in short; tariff: whatever else it charges, line by line.
    meter: readings of the power meter, in order of time. holds_unpaid: she isn't launched before what is owed the yard is
    paid. storm_from, storm_to: the months, 1 to 12, in which one must be in shelter on this coast, both included; shelter_days: how many
    days it takes to get there.
    """

    name: Line
    town: Label = ""
    time_zone: TimeZone
    hours: tuple[Shift, ...] = ()
    closed: tuple[DayRange, ...] = ()
    latitude: Annotated[float, Field(strict=True, ge=-90, le=90, allow_inf_nan=False)] | None = None
    longitude: Annotated[float, Field(strict=True, ge=-180, le=180, allow_inf_nan=False)] | None = None
    rules: Annotated[tuple[YardRule, ...], Field(max_length=40)] = ()
    temperature: Celsius | None = None
    lift_hours: Annotated[Hours, Field(le=24)] = 1
    block_hours: Annotated[Hours, Field(le=24)] = 1.5
    slings_hours: Hours = 4
    slings_night: Minor = 0
    lift_and_launch: Minor = 0
    lay_day: Minor = 0
    free_days: Annotated[int, Field(strict=True, ge=0, le=366)] = 0
    tariff: Annotated[tuple[TariffLine, ...], Field(max_length=60)] = ()
    meter: Annotated[tuple[MeterReading, ...], Field(max_length=400)] = ()
    holds_unpaid: Annotated[bool, Field(strict=True)] = False
    storm_from: Annotated[int, Field(strict=True, ge=1, le=12)] | None = None
    storm_to: Annotated[int, Field(strict=True, ge=1, le=12)] | None = None
    shelter_days: Annotated[int, Field(strict=True, ge=0, le=120)] = 0

    @model_validator(mode="after")
    def _storms(self) -> Self:
        if (self.storm_from is None) != (self.storm_to is None):
            raise ValueError("needs the first and the last month of the storm season, or neither")
        return self

    @property
    def zone(self) -> ZoneInfo:
        """The yard's time zone."""
        return ZoneInfo(self.time_zone)

    @property
    def night_price(self) -> int:
        """What the tariff, in short or line by line, asks for a night in the slings, in minor units; 0 where it is silent."""
        return self.slings_night + sum(row.price for row in self.tariff if row.per is Per.NIGHT)


@kept("place", "places", title="name", fresh={"capacity": 2}, most=60)
class Place(Frozen):
    """A part of the boat where work is done. ``capacity``: hands that fit at once (0: nobody may work there).

    spot: which part of every boat it is, so that it can be drawn and a recipe finds it; None: one of this boat's own.
    which: of two or three of that part: of which hull, engine or mast. sleeps: whose bunk is there; children: some of them are.

    opens_onto: places that dust, fumes and sparks reach from here, and back. outdoors: in the weather; what is
    emitted outdoors reaches every other outdoor place of the boat.
    """

    id: Key
    name: Line
    spot: Spot | None = None
    which: Which | None = None
    capacity: Annotated[int, Field(strict=True, ge=0, le=50)] = 2
    outdoors: Annotated[bool, Field(strict=True)] = False
    opens_onto: Annotated[tuple[Key, ...], Field(max_length=60), To("place", Gone.FORGET)] = ()
    sleeps: Annotated[tuple[Key, ...], Field(max_length=20), To("person", Gone.FORGET)] = ()
    children: Annotated[bool, Field(strict=True)] = False


@kept("gear", "gear", word="piece of equipment", title="name", fresh={"count": 1}, most=200)
class Gear(Frozen):
    """Equipment there is one or two of: a sander, a scaffold, a pump. ``count``: how many tasks may use it at once."""

    id: Key
    name: Line
    count: Annotated[int, Field(strict=True, ge=0, le=50)] = 1


class OutageLimit(Frozen):
    """The longest a service of life aboard may be out in one go, in elapsed hours."""

    service: Service
    hours: Annotated[Hours, Field(gt=0)]


class Margin(Frozen):
    """How many of the yard's working days before the slings what was opened of one kind is closed and proved."""

    what: Closed
    days: Annotated[float, Field(strict=True, ge=0, le=20, allow_inf_nan=False)] = 1


class UsualSpread(Frozen):
    """How far things of one sort usually come out from what was thought: least and most as parts of the likely figure."""

    of: UsualOf
    least: Annotated[float, Field(strict=True, ge=0.05, le=1, allow_inf_nan=False)]
    most: Annotated[float, Field(strict=True, ge=1, le=20, allow_inf_nan=False)]


class KnownPace(Frozen):
    """A pace that was learned in a haul-out before: at which kind of work, and of how many tasks."""

    work: Label
    factor: Annotated[float, Field(strict=True, ge=0.1, le=10, allow_inf_nan=False)]
    tasks: Annotated[int, Field(strict=True, ge=1, le=10000)]


@kept(
    "person",
    "people",
    title="name",
    fresh={"role": "helper", "call_out_hours": 0, "longest_run": 9},
    givens=True,
    most=60,
)
class Person(Frozen):
    """Somebody who works on the boat. ``rate`` per hour; ``call_out_hours`` are paid at least, per day.

    longest_run: days on end with work before a day without must come; nobody works ten days on end (common practice).
    paces: what was learned of them in haul-outs before.
    """

    id: Key
    name: Line
    role: Role = Role.OWNER
    skills: tuple[Skill, ...] = ()
    hours: tuple[Shift, ...] = ()
    arrives: Day | None = None
    leaves: Day | None = None
    absences: tuple[DayRange, ...] = ()
    rate: Minor = 0
    call_out_hours: Hours = 0
    longest_run: Annotated[int, Field(strict=True, ge=1, le=99)] = 9
    paces: Annotated[tuple[KnownPace, ...], Field(max_length=60)] = ()

    @model_validator(mode="after")
    def _stay(self) -> Self:
        if self.arrives and self.leaves and self.leaves < self.arrives:
            raise ValueError("leaves before arriving")
        return self


@kept("appointment", "appointments", fresh={"hours": 1}, most=500)
class Appointment(Frozen):
    """A fixed time that keeps some people busy: a survey, a delivery, the lift."""

    id: Key
    title: Line
    at: Moment
    hours: Annotated[Hours, Field(gt=0)] = 1
    people: Annotated[tuple[Key, ...], Field(max_length=60), To("person", Gone.ASK)] = ()
