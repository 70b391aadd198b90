"""A refit and everything in it: frozen, validated, all faults at once with a path to each.

Units: hours are multiples of half an hour; money is an integer in minor units of the refit's
currency; moments are aware and kept in UTC; dates and shift times are the yard's local ones.
Lists keep their order: places run from masthead to keel, jobs and tasks as the sailor sorted them.
"""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, date, time
from functools import cached_property
from typing import Annotated, Any, Literal, Self
from zoneinfo import ZoneInfo

from pydantic import (
    AfterValidator,
    AwareDatetime,
    BaseModel,
    ConfigDict,
    Field,
    ModelWrapValidatorHandler,
    StringConstraints,
    ValidationError,
    model_validator,
)
from pydantic_core import InitErrorDetails, PydanticCustomError

from rovask.core.choices import Drive, HullMaterial, Keel, LinkKind, Need, PartStatus, Role, Rudder, State, Weekday
from rovask.core.faults import plain_words
from rovask.core.references import reference_faults

FORMAT = "rovask-refit"
VERSION = 1


def _clean(text: str) -> str:
    """Refuse control characters: PostgreSQL can't keep NUL, and nothing on a page needs the rest."""
    if any(ord(sign) < 32 and sign not in "\n\t" for sign in text):
        raise ValueError("holds control characters; type the text again")
    return text


def _time_zone(name: str) -> str:
    try:
        ZoneInfo(name)
    except (KeyError, ValueError, OSError):
        raise ValueError(f"{name!r} is not a time zone; write it like Atlantic/Azores") from None
    return name


def _half_hour(value: time) -> time:
    if value.minute not in (0, 30) or value.second or value.microsecond or value.tzinfo:
        raise ValueError("must lie on a full or half hour, without a zone")
    return value


Line = Annotated[str, StringConstraints(min_length=1, max_length=120, strip_whitespace=True), AfterValidator(_clean)]
Text = Annotated[str, StringConstraints(max_length=4000), AfterValidator(_clean)]
Key = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9_-]{0,39}$")]
Skill = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z -]{0,39}$")]
Hours = Annotated[float, Field(strict=True, ge=0, le=2000, multiple_of=0.5, allow_inf_nan=False)]
Money = Annotated[int, Field(strict=True, ge=0, le=10**12)]
Moment = Annotated[AwareDatetime, AfterValidator(lambda moment: moment.astimezone(UTC))]
HalfHour = Annotated[time, AfterValidator(_half_hour)]
Metres = Annotated[float, Field(strict=True, gt=0, le=100, allow_inf_nan=False)]


class Frozen(BaseModel):
    """Base of everything in a refit: immutable, strict about unknown fields."""

    model_config = ConfigDict(frozen=True, extra="forbid", ser_json_inf_nan="null")


class Boat(Frozen):
    """The boat that is refitted. Lengths in metres, displacement in kilograms."""

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

    @model_validator(mode="after")
    def _plausible(self) -> Self:
        if self.waterline_m > self.length_m:
            raise ValueError("the waterline can't be longer than the boat; look at both lengths")
        if self.draft_m > self.length_m / 2:
            raise ValueError(f"a draft of {self.draft_m:g} m on {self.length_m:g} m looks like swapped units")
        if self.beam_m > self.length_m:
            raise ValueError("the beam can't be larger than the length")
        return self


class Shift(Frozen):
    """Working hours on some weekdays, in the yard's local time; ``end`` after ``start`` on the same day."""

    days: Annotated[tuple[Weekday, ...], Field(min_length=1, max_length=7)]
    start: HalfHour
    end: HalfHour

    @model_validator(mode="after")
    def _forwards(self) -> Self:
        if self.end <= self.start:
            raise ValueError("the hours end before they begin; a night shift is written as two")
        return self


class DayRange(Frozen):
    """Whole local days, first and last included."""

    first: date
    last: date
    reason: Annotated[str, StringConstraints(max_length=120), AfterValidator(_clean)] = ""

    @model_validator(mode="after")
    def _forwards(self) -> Self:
        if self.last < self.first:
            raise ValueError("the last day lies before the first")
        return self


class Yard(Frozen):
    """The yard: where its clock stands, when work ashore is allowed, and what it charges."""

    name: Line
    town: Annotated[str, StringConstraints(max_length=120), AfterValidator(_clean)] = ""
    time_zone: Annotated[str, AfterValidator(_time_zone)]
    hours: tuple[Shift, ...] = ()
    closed: tuple[DayRange, ...] = ()
    lift_and_launch: Money = 0
    lay_day: Money = 0
    free_days: Annotated[int, Field(strict=True, ge=0, le=366)] = 0

    @property
    def zone(self) -> ZoneInfo:
        """The yard's time zone."""
        return ZoneInfo(self.time_zone)


class Place(Frozen):
    """A part of the boat where work is done. ``capacity``: hands that fit at once (0: nobody may work there)."""

    id: Key
    name: Line
    capacity: Annotated[int, Field(strict=True, ge=0, le=50)] = 2


class Person(Frozen):
    """Somebody who works on the boat. ``rate`` per hour; ``call_out_hours`` are paid at least, per day."""

    id: Key
    name: Line
    role: Role = Role.OWNER
    skills: tuple[Skill, ...] = ()
    hours: tuple[Shift, ...] = ()
    arrives: date | None = None
    leaves: date | None = None
    absences: tuple[DayRange, ...] = ()
    rate: Money = 0
    call_out_hours: Hours = 0

    @model_validator(mode="after")
    def _stay(self) -> Self:
        if self.arrives and self.leaves and self.leaves < self.arrives:
            raise ValueError("leaves before arriving")
        return self


class Part(Frozen):
    """Something to buy. ``price`` for the whole quantity; ``arrives`` is when it is expected, or came."""

    id: Key
    name: Line
    quantity: Annotated[float, Field(strict=True, gt=0, le=1e6, allow_inf_nan=False)] = 1
    unit: Annotated[str, StringConstraints(max_length=20), AfterValidator(_clean)] = ""
    supplier: Annotated[str, StringConstraints(max_length=120), AfterValidator(_clean)] = ""
    price: Money = 0
    lead_days: Annotated[int, Field(strict=True, ge=0, le=365)] = 0
    status: PartStatus = PartStatus.NEEDED
    arrives: Moment | None = None
    stowed: Annotated[str, StringConstraints(max_length=120), AfterValidator(_clean)] = ""

    @model_validator(mode="after")
    def _ordered_has_a_date(self) -> Self:
        if self.status is PartStatus.ORDERED and self.arrives is None:
            raise ValueError("is ordered, so it needs the date it is expected")
        return self


class WorkTime(Frozen):
    """Hours of work with all hands at it: least, likely, most. The plan uses *likely*."""

    least: Hours
    likely: Annotated[Hours, Field(gt=0)]
    most: Hours

    @model_validator(mode="after")
    def _ordered(self) -> Self:
        if not self.least <= self.likely <= self.most:
            raise ValueError("must run from least over likely to most")
        return self


class Task(Frozen):
    """One step of a job.

    hands: people needed together from beginning to end. skill: what each of them must know
    (none: any owner or helper). people: only these may do it (empty: anybody who fits).
    unbroken: the work may not pause overnight (a coat, a lay-up). crew: who began it. remaining: hours still to do as last judged, once begun.
    """

    id: Key
    title: Line
    place: Key
    state: State = State.ASHORE
    work: WorkTime
    hands: Annotated[int, Field(strict=True, ge=1, le=8)] = 1
    skill: Skill | None = None
    unbroken: Annotated[bool, Field(strict=True)] = False
    people: tuple[Key, ...] = ()
    parts: tuple[Key, ...] = ()
    pin: Moment | None = None
    caution: Text = ""
    note: Text = ""
    begun_at: Moment | None = None
    done_at: Moment | None = None
    crew: tuple[Key, ...] = ()
    remaining: Hours | None = None

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


class Job(Frozen):
    """What the sailor calls a job: some tasks, how much it matters, and whose it is."""

    id: Key
    title: Line
    need: Need = Need.MUST
    owner: Key | None = None
    note: Text = ""
    tasks: tuple[Task, ...] = ()


class Link(Frozen):
    """A tie: the end (or start) of ``to`` lies at least ``min_lag`` and at most ``max_lag`` elapsed hours after ``from``'s.

    FS: s(to) - e(from); SS: s(to) - s(from); FF: e(to) - e(from); SF: e(to) - s(from); each in
    [min_lag, max_lag]. Lags run through nights and Sundays. ``haul`` and ``launch`` may stand for a task.
    """

    id: Key
    first: Key
    then: Key
    kind: LinkKind = LinkKind.FS
    min_lag: Hours = 0
    max_lag: Hours | None = None
    reason: Annotated[str, StringConstraints(max_length=200), AfterValidator(_clean)] = ""

    @model_validator(mode="after")
    def _lags(self) -> Self:
        if self.max_lag is not None and self.max_lag < self.min_lag:
            raise ValueError("the longest wait is shorter than the shortest")
        if self.first == self.then:
            raise ValueError("ties a task to itself")
        return self


class Appointment(Frozen):
    """A fixed time that keeps some people busy: a survey, a delivery, the lift."""

    id: Key
    title: Line
    at: Moment
    hours: Annotated[Hours, Field(gt=0)] = 1
    people: tuple[Key, ...] = ()


class HoursEntry(Frozen):
    """Hours somebody put into a task, as logged."""

    id: Key
    task: Key
    person: Key
    at: Moment
    hours: Annotated[Hours, Field(gt=0, le=24)]
    note: Annotated[str, StringConstraints(max_length=200), AfterValidator(_clean)] = ""


class Refit(Frozen):
    """One haul-out of one boat, with its launch slot, budget, yard, people and work."""

    format: Literal["rovask-refit"] = "rovask-refit"
    version: Literal[1] = 1
    name: Line
    currency: Annotated[str, StringConstraints(pattern=r"^[A-Z]{3}$")] = "EUR"
    budget: Money = 0
    haul_at: Moment
    launch_at: Moment
    prepare_from: date | None = None
    boat: Boat
    yard: Yard
    places: Annotated[tuple[Place, ...], Field(max_length=60)] = ()
    people: Annotated[tuple[Person, ...], Field(max_length=60)] = ()
    parts: Annotated[tuple[Part, ...], Field(max_length=2000)] = ()
    jobs: Annotated[tuple[Job, ...], Field(max_length=400)] = ()
    links: Annotated[tuple[Link, ...], Field(max_length=5000)] = ()
    appointments: Annotated[tuple[Appointment, ...], Field(max_length=500)] = ()
    hours_log: Annotated[tuple[HoursEntry, ...], Field(max_length=20000)] = ()

    @model_validator(mode="wrap")
    @classmethod
    def _everything_at_once(cls, data: Any, handler: ModelWrapValidatorHandler[Self]) -> Self:
        """Report wrong fields and dangling references together, not one class of fault at a time."""
        if isinstance(data, Refit):
            return handler(data)
        # A detail that Pydantic hands out may be handed back in: same keys, wider types.
        errors: list[Any] = []
        refit: Self | None = None
        try:
            refit = handler(data)
        except ValidationError as error:
            errors += [
                InitErrorDetails(
                    type=PydanticCustomError("fault", "{why}", {"why": plain_words(item)}), loc=item["loc"], input=None
                )
                for item in error.errors(include_url=False, include_context=False)
            ]
        plain = refit.model_dump() if refit is not None else data
        known = {detail["loc"] for detail in errors}
        for where, why in reference_faults(plain):
            if where not in known:
                errors.append(
                    InitErrorDetails(type=PydanticCustomError("fault", "{why}", {"why": why}), loc=where, input=None)
                )
        if errors or refit is None:
            raise ValidationError.from_exception_data(cls.__name__, errors)
        return refit

    @cached_property
    def tasks(self) -> dict[str, Task]:
        """Every task by id, jobs in order and tasks in the order of their job."""
        return {task.id: task for job in self.jobs for task in job.tasks}

    @cached_property
    def job_of(self) -> dict[str, Job]:
        """The job each task belongs to, by the task's id."""
        return {task.id: job for job in self.jobs for task in job.tasks}

    @cached_property
    def persons(self) -> dict[str, Person]:
        """Every person by id."""
        return {person.id: person for person in self.people}

    @cached_property
    def place_by_id(self) -> dict[str, Place]:
        """Every place by id, from masthead to keel."""
        return {place.id: place for place in self.places}

    @cached_property
    def part_by_id(self) -> dict[str, Part]:
        """Every part by id."""
        return {part.id: part for part in self.parts}

    @cached_property
    def logged(self) -> dict[str, float]:
        """Person-hours logged, by task id."""
        out: dict[str, float] = {}
        for entry in self.hours_log:
            out[entry.task] = out.get(entry.task, 0.0) + entry.hours
        return out

    def hours_to_do(self, task: Task) -> float:
        """Hours of work (all hands at it) a task still takes; 0 when done, at least half an hour otherwise."""
        if task.done_at is not None:
            return 0.0
        if task.begun_at is None:
            return task.work.likely
        if task.remaining is not None:
            return max(task.remaining, 0.5)
        worked = self.logged.get(task.id, 0.0) / task.hands
        return max(round((task.work.likely - worked) * 2) / 2, 0.5)

    def walk(self) -> Iterator[tuple[Job, Task]]:
        """Every task with its job, in order."""
        for job in self.jobs:
            for task in job.tasks:
                yield job, task
