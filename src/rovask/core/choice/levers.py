"""What could be done of a refit itself to make the date: each lever a list of acts, none of them judged here."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Annotated

from pydantic import Field

from rovask.core.choice.act_words import act_words
from rovask.core.explain.remedies import keeps_her_sound
from rovask.core.judged.offer_edits import open_offers
from rovask.core.judged.way_edits import of_trades, worked_longer
from rovask.core.plain.half_hours import half_hours
from rovask.core.plan.result import Plan
from rovask.core.readings.stock import stocks, to_buy
from rovask.core.refit.model import Act, Job, Refit
from rovask.core.refit.seen.choices import UnknownState
from rovask.core.refit.stores.choices import OfferState
from rovask.core.refit.values import Day, Frozen, Hours, Key, Minor, Moment
from rovask.core.refit.ways.choices import ActSort
from rovask.core.refit.work.choices import Need
from rovask.core.refit.work.kinds import LeadDays

NEVER_LEFT = ("haul", "look", "ready", "launch")  # recipes without which there is no launch
HIRED = (7, 14)  # days on which one more hand is tried
MOST_LEVERS = 60
BY_PEOPLE = (ActSort.HAND, ActSort.LONGER, ActSort.OWN_HANDS, ActSort.BY)


class Asked(Frozen):
    """What the sailor asks for: how sure to be, from 0 to 1; how much more to spend, minor units; and what may be tried. seconds: how long
    it is looked for, at most; None: as long as usual.

    leave: jobs of should and could may be left for next time; must: those of must that may be, too. own_hands: what trades do,
    which then takes ``own_times`` as long (a judgement: who does it seldom takes half as long again).
    hand_day: minor units a day of one more hand, None: nobody is to be had; hand_from: from which day on. longer: hours by which owners and
    helpers could work longer each day. express_days, express_money: what a courier takes and costs, None: there is none.
    slots: later launches that would do. acts: whatever else the sailor thinks of, each tried by itself and with the rest.
    """

    odds: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] = 0.9
    seconds: Annotated[int, Field(ge=5, le=600)] | None = None
    money: Minor = 0
    leave: bool = True
    must: Annotated[tuple[Key, ...], Field(max_length=400)] = ()
    own_hands: bool = True
    own_times: Annotated[float, Field(ge=0.5, le=5, allow_inf_nan=False)] = 1.5
    hand_day: Minor | None = None
    hand_from: Day | None = None
    longer: Hours = 0
    express_days: LeadDays = 2
    express_money: Minor | None = None
    slots: Annotated[tuple[Moment, ...], Field(max_length=4)] = ()
    looks: bool = True
    offers: bool = True
    acts: Annotated[tuple[Act, ...], Field(max_length=12)] = ()


@dataclass(frozen=True, slots=True)
class Lever:
    """One thing that could be done. group: of which at most one is done at a time. people: whether somebody works more by it."""

    key: str
    title: str
    acts: tuple[Act, ...]
    group: str
    people: bool = False


def levers_of(refit: Refit, plan: Plan, asked: Asked) -> tuple[Lever, ...]:
    """Everything of the kinds that are asked for; what keeps water out is never left. At most MOST_LEVERS, O(size)."""
    out: dict[str, Lever] = {}
    for lever in _every(refit, plan, asked):
        out.setdefault(lever.key, lever)
    return tuple(out.values())[:MOST_LEVERS]


def _every(refit: Refit, plan: Plan, asked: Asked) -> Iterator[Lever]:
    planned = plan.by_task()
    jobs = [job for job in refit.jobs if any(task.id in planned and not task.begun_at for task in job.tasks)]
    for act in asked.acts:
        yield _lever(refit, act, act.of or act.do.value)
    yield from _people(refit, asked, plan.now)
    yield from (_lever(refit, Act(do=ActSort.SLOT, at=at), "slot") for at in asked.slots)
    if asked.looks:
        yield from _looks(refit, planned)
    for job in jobs:
        if may_be_left(refit, job) and ((asked.leave and job.need is not Need.MUST) or job.id in asked.must):
            yield _lever(refit, Act(do=ActSort.NEXT_TIME, of=job.id), job.id)
        theirs = of_trades(refit, job)
        if asked.own_hands and theirs:
            hours = half_hours(asked.own_times * sum(refit.hours_to_do(task) for task in theirs))
            yield _lever(refit, Act(do=ActSort.OWN_HANDS, of=job.id, hours=hours), job.id)
    yield from _parts(refit, asked, {key for task in planned for key in getattr(refit.tasks.get(task), "parts", ())})


def may_be_left(refit: Refit, job: Job) -> bool:
    """Whether a job may be left for next time at all: not begun, not what keeps water out or steers her, not the launch list."""
    begun = any(task.begun_at for task in job.tasks)
    return not begun and job.recipe not in NEVER_LEFT and not keeps_her_sound(refit, job)


def _people(refit: Refit, asked: Asked, now: datetime) -> Iterator[Lever]:
    if asked.hand_day is not None:
        first = asked.hand_from or now.astimezone(refit.yard.zone).date() + timedelta(days=1)
        for days in HIRED:
            last = min(first + timedelta(days=days - 1), _last_day(refit))
            if last >= first:
                act = Act(do=ActSort.HAND, name="One more hand", first=first, last=last, money=asked.hand_day)
                yield _lever(refit, act, "hand")
    if asked.longer:
        for person in refit.people:
            if worked_longer(person, asked.longer) is not None:
                yield _lever(refit, Act(do=ActSort.LONGER, of=person.id, hours=asked.longer), person.id)


def _last_day(refit: Refit) -> date:
    return refit.launch_at.astimezone(refit.yard.zone).date()


def _looks(refit: Refit, planned: Iterable[str]) -> Iterator[Lever]:
    known = set(planned)
    for one in refit.unknowns:
        if one.state is UnknownState.OPEN and one.task in known and refit.tasks[one.task].begun_at is None:
            yield _lever(refit, Act(do=ActSort.LOOK_FIRST, of=one.task), f"look {one.task}")


def _parts(refit: Refit, asked: Asked, wanted: set[str]) -> Iterator[Lever]:
    found = stocks(refit)
    for part in refit.parts:
        if part.id not in wanted:
            continue
        if asked.offers:
            for offer in open_offers(refit, part.id):
                if offer.state is OfferState.OFFERED:
                    yield _lever(refit, Act(do=ActSort.OFFER, of=offer.id), f"part {part.id}")
        coming = any(one.at is not None for one in found[part.id].coming)
        if asked.express_money is not None and (coming or to_buy(refit, part.id) > 0):
            act = Act(do=ActSort.EXPRESS, of=part.id, days=asked.express_days, money=asked.express_money)
            yield _lever(refit, act, f"part {part.id}")


def _lever(refit: Refit, act: Act, group: str) -> Lever:
    name = act.model_dump_json(exclude_defaults=True)
    return Lever(name, act_words(refit, act), (act,), group, act.do in BY_PEOPLE)
