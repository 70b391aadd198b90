"""How an act of a way is typed: which sorts there are, what each asks, and what may be chosen for it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from datetime import date
from typing import Any
from zoneinfo import ZoneInfo

from pydantic import ValidationError

from rovask.core.choice.levers import may_be_left
from rovask.core.judged.offer_edits import open_offers
from rovask.core.judged.way_edits import of_trades
from rovask.core.plain.faults import Fault, RefitFaults, faults_of
from rovask.core.plain.half_hours import half_hours
from rovask.core.plan.result import Plan
from rovask.core.readings.stock import stocks, to_buy
from rovask.core.refit import typed
from rovask.core.refit.givens.choices import Role
from rovask.core.refit.model import Act, Refit
from rovask.core.refit.seen.choices import UnknownState
from rovask.core.refit.ways.choices import ActSort
from rovask.web.field import Field, How

Choices = list[tuple[str, str]]

SORTS: tuple[tuple[ActSort, str], ...] = (
    (ActSort.NEXT_TIME, "Leave a job to the next haul-out"),
    (ActSort.INTERIM, "An interim fix in a job’s place"),
    (ActSort.OTHERWISE, "Do a job another way, for good"),
    (ActSort.OWN_HANDS, "Own hands instead of a trade"),
    (ActSort.HAND, "One more hand for some days"),
    (ActSort.LONGER, "Longer days"),
    (ActSort.EXPRESS, "A part by express"),
    (ActSort.OFFER, "Take an offer"),
    (ActSort.LOOK_FIRST, "Look first"),
    (ActSort.BY, "Give a task to somebody"),
    (ActSort.COVER, "Work under cover"),
    (ActSort.UNPIN, "Take a pin out"),
    (ActSort.SLOT, "Another launch slot"),
    (ActSort.DROP, "Take a job off the list"),
    (ActSort.FOR_FINDING, "Settle a finding: interim, or next time"),
)

_OF = {
    ActSort.NEXT_TIME: "Which job",
    ActSort.DROP: "Which job",
    ActSort.INTERIM: "Instead of which job",
    ActSort.OTHERWISE: "Instead of which job",
    ActSort.OWN_HANDS: "Which job",
    ActSort.LONGER: "Whose days",
    ActSort.EXPRESS: "Which part",
    ActSort.OFFER: "Which offer",
    ActSort.LOOK_FIRST: "Which task",
    ActSort.BY: "Which task",
    ActSort.COVER: "Which task",
    ActSort.UNPIN: "Which task",
    ActSort.FOR_FINDING: "Which finding",
}

_MORE: dict[ActSort, tuple[Field, ...]] = {
    ActSort.INTERIM: (
        Field("hours", "Hours it takes", How.NUMBER, "h, all hands"),
        Field("money", "What it buys", How.MONEY, optional=True),
        Field("days", "Its things come in", How.NUMBER, "days", optional=True),
        Field("name", "What it is called", optional=True, help="Empty: interim fix, and the job’s name."),
    ),
    ActSort.OTHERWISE: (
        Field("name", "What is done", help="As: dig a pit instead of a lift."),
        Field("hours", "Hours it takes", How.NUMBER, "h, all hands at it"),
        Field("hands", "Hands", How.NUMBER, optional=True),
        Field("money", "What it buys", How.MONEY, optional=True),
        Field("days", "Its things come in", How.NUMBER, "days", optional=True),
    ),
    ActSort.OWN_HANDS: (
        Field(
            "hours",
            "Hours it takes you in all",
            How.NUMBER,
            "h",
            optional=True,
            help="Empty: as long as the trade. Who does it seldom often takes half as long again.",
        ),
    ),
    ActSort.HAND: (
        Field("name", "Who"),
        Field("first", "From", How.DATE),
        Field("last", "To", How.DATE),
        Field(
            "money", "What a day costs", How.MONEY, optional=True, help="Paid for each day, whatever there is to do."
        ),
    ),
    ActSort.LONGER: (Field("hours", "Longer each day by", How.NUMBER, "h"),),
    ActSort.EXPRESS: (
        Field("days", "It comes in", How.NUMBER, "days of the shop and its carriers"),
        Field("money", "What that costs more", How.MONEY, optional=True, help="At the boat, with duty and tax."),
    ),
    ActSort.SLOT: (Field("at", "Launch", How.MOMENT),),
    ActSort.BY: (Field("name", "By whom", How.CHOICE),),
    ActSort.FOR_FINDING: (
        Field("name", "How", How.CHOICE),
        Field("hours", "An interim fix takes", How.NUMBER, "h", optional=True),
        Field("money", "and buys", How.MONEY, optional=True),
    ),
}


def sort_of(text: str) -> ActSort | None:
    """The sort of act of that value that can be typed; None for none."""
    return next((sort for sort, _ in SORTS if sort.value == text), None)


def fields_of(sort: ActSort) -> tuple[Field, ...]:
    """What is asked of an act."""
    of = (Field("of", _OF[sort], How.CHOICE),) if sort in _OF else ()
    return (*of, *_MORE.get(sort, ()))


def choices_for(refit: Refit, plan: Plan, sort: ActSort) -> Mapping[str, Choices]:
    """What may be chosen, by the name of the field."""
    out = {"of": _CHOICES[sort](refit, plan)} if sort in _CHOICES else {}
    if sort is ActSort.BY:
        out["name"] = [(one.id, one.name) for one in refit.people]
    if sort is ActSort.FOR_FINDING:
        out["name"] = [("-interim", "an interim fix now"), ("-next-time", "next time")]
    return out


def _jobs(refit: Refit, _: Plan) -> Choices:
    return [
        (job.id, job.title)
        for job in refit.jobs
        if any(not task.begun_at for task in job.tasks) and not any(task.is_under_way for task in job.tasks)
    ]


def _parts(refit: Refit, _: Plan) -> Choices:
    found = stocks(refit)
    return [
        (part.id, part.name)
        for part in refit.parts
        if to_buy(refit, part.id) > 0 or any(one.at is not None for one in found[part.id].coming)
    ]


def _tasks(which: Callable[[Any], bool]) -> Callable[[Refit, Plan], Choices]:
    def found(refit: Refit, plan: Plan) -> Choices:
        there = plan.by_task()
        return [
            (task.id, f"{job.title}: {task.title}")
            for job, task in refit.walk()
            if task.id in there and not task.begun_at and which(task)
        ]

    return found


def _looks(refit: Refit, plan: Plan) -> Choices:
    wanted = {one.task for one in refit.unknowns if one.state is UnknownState.OPEN}
    return _tasks(lambda task: task.id in wanted)(refit, plan) or _tasks(lambda _: True)(refit, plan)


def _offers(refit: Refit, _: Plan) -> Choices:
    return [
        (offer.id, f"{part.name}: {offer.supplier}, {offer.lead_days} d")
        for part in refit.parts
        for offer in open_offers(refit, part.id)
    ]


_CHOICES: dict[ActSort, Callable[[Refit, Plan], Choices]] = {
    ActSort.NEXT_TIME: lambda refit, _: [
        (job.id, job.title) for job in refit.jobs if may_be_left(refit, job) or (job.id, job.title) in _jobs(refit, _)
    ],
    ActSort.DROP: _jobs,
    ActSort.INTERIM: _jobs,
    ActSort.OTHERWISE: _jobs,
    ActSort.OWN_HANDS: lambda refit, _: [(job.id, job.title) for job in refit.jobs if of_trades(refit, job)],
    ActSort.LONGER: lambda refit, _: [
        (one.id, one.name) for one in refit.people if one.role in (Role.OWNER, Role.HELPER) and one.hours
    ],
    ActSort.EXPRESS: _parts,
    ActSort.OFFER: _offers,
    ActSort.LOOK_FIRST: _looks,
    ActSort.BY: _tasks(lambda _: True),
    ActSort.COVER: _tasks(lambda task: task.weather is not None and task.weather.dry),
    ActSort.UNPIN: _tasks(lambda task: task.pin is not None),
    ActSort.FOR_FINDING: lambda refit, _: [(one.id, one.title) for one in refit.findings if not one.settled],
}


def act_typed(refit: Refit, sort: ActSort, given: Mapping[str, str], zone: ZoneInfo, near: date) -> Act:
    """The act as it was typed. Raises RefitFaults with what is wrong in which field."""
    data: dict[str, Any] = {"do": sort}
    faults = []
    for field in fields_of(sort):
        text = given.get(field.name, "").strip()
        if not text:
            if not field.optional:
                faults.append(Fault(field.name, "is missing"))
            continue
        try:
            data[field.name] = _read(refit, field, text, zone, near)
        except ValueError as error:
            faults.append(Fault(field.name, str(error)))
    if faults:
        raise RefitFaults(faults)
    try:
        return Act.model_validate(data)
    except ValidationError as error:
        raise RefitFaults(faults_of(error)) from None


def _read(refit: Refit, field: Field, text: str, zone: ZoneInfo, near: date) -> Any:
    if field.name == "hours":
        return half_hours(typed.number(text, 0.5, 400))
    if field.name == "hands":
        return typed.whole(text, 1, 8)
    if field.name == "days":
        return typed.whole(text, 0, 365)
    readers: dict[How, Callable[[], Any]] = {
        How.MONEY: lambda: typed.minor(text, refit.currency),
        How.DATE: lambda: typed.day(text, near),
        How.MOMENT: lambda: typed.moment(text, zone, near),
    }
    return readers.get(field.how, lambda: typed.plain(text, 120))()
