"""A refit, whole: frozen, validated, all faults at once with a path to each.

The things in it are defined in givens.py, jobs.py, seen.py and weather.py and may be had from here.
Lists keep their order: places run from masthead to keel, jobs and tasks as the sailor sorted them. A list holds one
kind of record (register.py), under the name the kind says.
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property
from typing import Annotated, Any, Literal, Self

from pydantic import Field, ModelWrapValidatorHandler, ValidationError, ValidationInfo, model_validator
from pydantic_core import InitErrorDetails, PydanticCustomError

from rovask.core.plain.faults import plain_words
from rovask.core.plain.half_hours import half_hours
from rovask.core.refit.craft.kinds import Contact, Cover, Fit, Seized, Shape, Trace
from rovask.core.refit.days.kinds import Baseline, Check, DayEntry, GateTick, Lost, PlannedTask, TradeWord, Visit
from rovask.core.refit.givens.choices import Certainty, Service
from rovask.core.refit.givens.kinds import (
    Appointment,
    Boat,
    DayRange,
    Gear,
    Margin,
    OutageLimit,
    Person,
    Place,
    Shift,
    UsualSpread,
    Yard,
    YardRule,
)
from rovask.core.refit.givens.weather import ClimateMonth, Weather
from rovask.core.refit.purse.kinds import Agreement, BudgetLine, ColumnMatch, Draw, Entry, ExchangeRate, YardExtra
from rovask.core.refit.references import reference_faults
from rovask.core.refit.register import kept
from rovask.core.refit.seen.kinds import Decision, Finding, Inspection, OffBoat, Parked, Photo, Unknown, WorkBy, is_flat
from rovask.core.refit.stores.kinds import Offer, Order, OrderLine, Receipt, Supplier, Use
from rovask.core.refit.values import Currency, Day, Frozen, Key, Line, Minor, Moment, Text
from rovask.core.refit.ways.kinds import Act, ProposedWay, StayThen, Ways
from rovask.core.refit.work.choices import Closed
from rovask.core.refit.work.kinds import HAUL, Choice, HoursEntry, Job, Link, Part, Task, WeatherNeed, WorkTime

__all__ = [
    "Act",
    "Agreement",
    "Appointment",
    "Baseline",
    "Boat",
    "BudgetLine",
    "Check",
    "Choice",
    "ClimateMonth",
    "ColumnMatch",
    "Contact",
    "Cover",
    "DayEntry",
    "DayRange",
    "Decision",
    "Draw",
    "Entry",
    "ExchangeRate",
    "Finding",
    "Fit",
    "Frozen",
    "GateTick",
    "Gear",
    "HoursEntry",
    "Inspection",
    "Job",
    "Key",
    "Link",
    "Lost",
    "Margin",
    "Moment",
    "OffBoat",
    "Offer",
    "Order",
    "OrderLine",
    "OutageLimit",
    "Parked",
    "Part",
    "Person",
    "Photo",
    "Place",
    "PlannedTask",
    "ProposedWay",
    "Receipt",
    "Refit",
    "Seized",
    "Shape",
    "Shift",
    "StayThen",
    "Supplier",
    "Task",
    "Trace",
    "TradeWord",
    "Unknown",
    "Use",
    "UsualSpread",
    "Visit",
    "Ways",
    "Weather",
    "WeatherNeed",
    "WorkBy",
    "WorkTime",
    "Yard",
    "YardExtra",
    "YardRule",
]


GREW_FROM = "grew from"  # in the context of a validation: the sound refit that this one grew out of


@kept("header", table="refit", word="dates and budget", title="name", givens=True)
class Header(Frozen):
    """What is said of a refit itself.

    outage_limits: how long each service may be out in one go. margins: how long before the slings what was opened is
    closed and proved. nobody_without: services without which nobody stays aboard, so that a night elsewhere is paid. usual_spreads: how far things
    usually come out, where the shipped ones (odds/usual.py) are not meant. next_slots: when the yard could launch her if the slot is missed (tides, days
    given); none said: in its hours. ask_first: a better plan that was found is shown
    beside the old one and adopted by hand.
    price_*: what the planner takes what isn't money for (readings/prices.py): a day without a service, a night elsewhere, a
    should- or could-job left out, a task of the coming days moved, must-work done a day sooner. None: the usual.
    certainty: at which lead time order-by is reckoned. closed_at: when the refit was closed; it is then read-only but for
    notes. surprised: what surprised, in the sailor's words.
    """

    name: Line
    currency: Currency = "EUR"
    budget: Minor = 0
    haul_at: Moment
    launch_at: Moment
    prepare_from: Day | None = None
    outage_limits: Annotated[tuple[OutageLimit, ...], Field(max_length=20)] = (
        OutageLimit(service=Service.HEADS, hours=48),
    )
    margins: Annotated[tuple[Margin, ...], Field(max_length=20)] = tuple(Margin(what=one) for one in Closed)
    nobody_without: Annotated[tuple[Service, ...], Field(max_length=20)] = (Service.BERTH,)
    usual_spreads: Annotated[tuple[UsualSpread, ...], Field(max_length=20)] = ()
    next_slots: Annotated[tuple[Moment, ...], Field(max_length=40)] = ()
    ask_first: Annotated[bool, Field(strict=True)] = False
    price_service_day: Minor | None = None
    price_night_ashore: Minor | None = None
    price_leave_should: Minor | None = None
    price_leave_could: Minor | None = None
    price_moved_task: Minor | None = None
    price_day_sooner: Minor | None = None
    certainty: Certainty = Certainty.LIKELY
    closed_at: Moment | None = None
    surprised: Text = ""


class Refit(Header):
    """One haul-out of one boat, with its launch slot, budget, yard, people, weather, work, and what is seen of her.

    What only pages read (photos, decisions) is kept aside: see whole.py.
    """

    format: Literal["rovask-refit"] = "rovask-refit"
    version: Literal[1] = 1
    boat: Boat
    yard: Yard
    weather: Weather = Weather()
    places: Annotated[tuple[Place, ...], Field(max_length=60)] = ()
    people: Annotated[tuple[Person, ...], Field(max_length=60)] = ()
    parts: Annotated[tuple[Part, ...], Field(max_length=2000)] = ()
    jobs: Annotated[tuple[Job, ...], Field(max_length=400)] = ()
    gear: Annotated[tuple[Gear, ...], Field(max_length=200)] = ()
    links: Annotated[tuple[Link, ...], Field(max_length=5000)] = ()
    appointments: Annotated[tuple[Appointment, ...], Field(max_length=500)] = ()
    hours_log: Annotated[tuple[HoursEntry, ...], Field(max_length=20000)] = ()
    inspections: Annotated[tuple[Inspection, ...], Field(max_length=500)] = ()
    findings: Annotated[tuple[Finding, ...], Field(max_length=2000)] = ()
    unknowns: Annotated[tuple[Unknown, ...], Field(max_length=500)] = ()
    off_boat: Annotated[tuple[OffBoat, ...], Field(max_length=1000)] = ()
    parked: Annotated[tuple[Parked, ...], Field(max_length=500)] = ()
    suppliers: Annotated[tuple[Supplier, ...], Field(max_length=400)] = ()
    uses: Annotated[tuple[Use, ...], Field(max_length=6000)] = ()
    offers: Annotated[tuple[Offer, ...], Field(max_length=2000)] = ()
    orders: Annotated[tuple[Order, ...], Field(max_length=1000)] = ()
    order_lines: Annotated[tuple[OrderLine, ...], Field(max_length=4000)] = ()
    receipts: Annotated[tuple[Receipt, ...], Field(max_length=6000)] = ()
    budget_lines: Annotated[tuple[BudgetLine, ...], Field(max_length=100)] = ()
    draws: Annotated[tuple[Draw, ...], Field(max_length=500)] = ()
    agreements: Annotated[tuple[Agreement, ...], Field(max_length=300)] = ()
    entries: Annotated[tuple[Entry, ...], Field(max_length=20000)] = ()
    yard_extras: Annotated[tuple[YardExtra, ...], Field(max_length=300)] = ()
    visits: Annotated[tuple[Visit, ...], Field(max_length=300)] = ()
    days: Annotated[tuple[DayEntry, ...], Field(max_length=800)] = ()
    lost: Annotated[tuple[Lost, ...], Field(max_length=2000)] = ()
    checks: Annotated[tuple[Check, ...], Field(max_length=6000)] = ()
    gate_ticks: Annotated[tuple[GateTick, ...], Field(max_length=6000)] = ()
    words: Annotated[tuple[TradeWord, ...], Field(max_length=3000)] = ()
    ways: Annotated[tuple[Ways, ...], Field(max_length=200)] = ()
    seized: Annotated[tuple[Seized, ...], Field(max_length=400)] = ()
    fits: Annotated[tuple[Fit, ...], Field(max_length=400)] = ()
    shapes: Annotated[tuple[Shape, ...], Field(max_length=400)] = ()
    traces: Annotated[tuple[Trace, ...], Field(max_length=200)] = ()
    contacts: Annotated[tuple[Contact, ...], Field(max_length=400)] = ()
    covers: Annotated[tuple[Cover, ...], Field(max_length=200)] = ()

    @model_validator(mode="wrap")
    @classmethod
    def _everything_at_once(cls, data: Any, handler: ModelWrapValidatorHandler[Self], info: ValidationInfo) -> Self:
        """Report wrong fields and dangling references together, not one class of fault at a time."""
        if isinstance(data, Refit):
            return handler(data)
        # A detail that Pydantic hands out may be handed back in: same keys, wider types.
        errors: list[Any] = []
        before = info.context.get(GREW_FROM) if isinstance(info.context, dict) else None
        refit: Self | None = None
        try:
            refit = handler(data)
        except ValidationError as error:
            errors += [
                InitErrorDetails(
                    type=PydanticCustomError("fault", "{why}", {"why": plain_words(item)}), loc=item["loc"], input=None
                )
                for item in error.errors(include_url=False)
            ]
        known = {detail["loc"] for detail in errors}
        for where, why in reference_faults(refit if refit is not None else data, before):
            if where not in known:
                errors.append(
                    InitErrorDetails(type=PydanticCustomError("fault", "{why}", {"why": why}), loc=where, input=None)
                )
        if errors or refit is None:
            raise ValidationError.from_exception_data(cls.__name__, errors)
        return refit

    def grown(self, **changes: Any) -> Refit:
        """A refit with some fields replaced, validated: where nothing is new it is as sound as this one."""
        data = {name: getattr(self, name) for name in Refit.model_fields} | changes
        made = Refit.model_validate(data, context={GREW_FROM: self.__dict__.get("sound", self)})
        made.__dict__["derived"] = self.derived.heir()
        return made

    def supposed(self, **changes: Any) -> Refit:
        """A refit with some fields replaced, not validated: to work something out on, never to be kept."""
        data = {name: value for name, value in self.__dict__.items() if name in Refit.model_fields} | changes
        made = Refit.model_construct(**data)
        made.__dict__ |= {"derived": self.derived.heir(), "sound": self.__dict__.get("sound", self)}
        return made

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
    def gear_by_id(self) -> dict[str, Gear]:
        """Every piece of equipment by id."""
        return {item.id: item for item in self.gear}

    @cached_property
    def part_by_id(self) -> dict[str, Part]:
        """Every part by id."""
        return {part.id: part for part in self.parts}

    @cached_property
    def waits(self) -> tuple[Link, ...]:
        """The ties as they stand: a drying whose readings no longer fall has no least wait any more."""
        if not any(link.reading for link in self.links):
            return self.links
        return tuple(
            link.model_copy(update={"min_lag": 0.0, "least_lag": None, "most_lag": None}) if self.is_dry(link) else link
            for link in self.links
        )

    def is_dry(self, link: Link) -> bool:
        """Whether the readings a drying is judged by are flat, counting those since it began."""
        if link.reading is None:
            return False
        began = self.haul_at if link.first == HAUL else getattr(self.tasks.get(link.first), "done_at", None)
        series = next(one.readings for one in self.inspections if one.id == link.reading)
        return began is not None and is_flat(tuple(one for one in series if one.at >= began))

    @cached_property
    def logged(self) -> dict[str, float]:
        """Person-hours logged, by task id."""
        out: dict[str, float] = {}
        for entry in self.hours_log:
            out[entry.task] = out.get(entry.task, 0.0) + entry.hours
        return out

    def hours_to_do(self, task: Task, each: float | None = None) -> float:
        """Hours of work (all hands at it) a task still takes; 0 when done, at least half an hour otherwise.

        each: hours of one unit of it; None: as likely. What the units left come to is rounded up to the half-hour.
        """
        if task.done_at is not None:
            return 0.0
        if each is None:
            found = self.asked_hours.get(task.id)
            if found is None or found[0] is not task:  # a copy that isn't this refit's may say something else
                found = self.asked_hours[task.id] = task, self._hours_to_do(task, task.work.likely)
            return found[1]
        return self._hours_to_do(task, each)

    @cached_property
    def asked_hours(self) -> dict[str, tuple[Task, float]]:
        """Hours of work to do, of each task that was asked for."""
        return {}

    def _hours_to_do(self, task: Task, each: float) -> float:
        if task.remaining is not None:
            return max(task.remaining, 0.5)
        if task.begun_at is None or task.units_done:
            return half_hours(each * (task.units - task.units_done))
        worked = self.logged.get(task.id, 0.0) / task.hands
        return max(round((each * task.units - worked) * 2) / 2, 0.5)

    def walk(self) -> Iterator[tuple[Job, Task]]:
        """Every task with its job, in order."""
        for job in self.jobs:
            for task in job.tasks:
                yield job, task
