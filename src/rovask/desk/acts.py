"""Acts of a way as what they are: commands of the application layer, run on a refit in memory and never on rows.

What can be done can so be laid out. What is made in memory has ids by number, so that the same way has the same luck
whenever it is laid out; what becomes real has ids of its own.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from datetime import date, datetime
from hashlib import blake2b
from itertools import count

from pydantic import ValidationError

from rovask.core.books.savings import INTERIM_HOURS
from rovask.core.choice.lay import Laying
from rovask.core.choice.levers import Lever
from rovask.core.plain.faults import RefitFaults, faults_of, refused
from rovask.core.plan.planner import Planned
from rovask.core.recipes.common import Library
from rovask.core.refit.model import Act, ProposedWay, Refit
from rovask.core.refit.ways.choices import ActSort
from rovask.desk.command import RefitCommand, Situation
from rovask.desk.commands.parked import LeaveToNextTime
from rovask.desk.commands.recipes import DecideFinding
from rovask.desk.commands.records import RemoveRecord, SaveRecord
from rovask.desk.commands.ways import (
    ByExpress,
    DoneBy,
    DoneOtherwise,
    InterimInstead,
    LongerDays,
    LookFirst,
    MoveToSeason,
    OneMoreHand,
    OrderOffered,
    OwnHands,
    UnderCover,
)
from rovask.desk.commands.work import Unpin
from rovask.desk.rights import Right
from rovask.store.errors import StoreError


def _said(day: date | None) -> date:
    if day is None:
        raise refused("Say from which day to which.")
    return day


COMMANDS: Mapping[ActSort, Callable[[Act, str], RefitCommand]] = {
    ActSort.NEXT_TIME: lambda act, why: LeaveToNextTime(act.of, why),
    ActSort.DROP: lambda act, _: RemoveRecord("job", act.of, take_out=True),
    ActSort.INTERIM: lambda act, why: InterimInstead(act.of, act.hours, act.money, act.days, act.name, why),
    ActSort.OTHERWISE: lambda act, _: DoneOtherwise(act.of, act.name, act.hours, act.hands, act.money, act.days),
    ActSort.FOR_FINDING: lambda act, why: DecideFinding(act.of, act.name, why, (act.hours or INTERIM_HOURS, act.money)),
    ActSort.HAND: lambda act, _: OneMoreHand(act.name, _said(act.first), _said(act.last), act.money, act.skills),
    ActSort.LONGER: lambda act, _: LongerDays(act.of, act.hours),
    ActSort.OFFER: lambda act, _: OrderOffered(act.of),
    ActSort.EXPRESS: lambda act, _: ByExpress(act.of, act.days, act.money),
    ActSort.OWN_HANDS: lambda act, _: OwnHands(act.of, act.hours),
    ActSort.BY: lambda act, _: DoneBy(act.of, act.name),
    ActSort.SLOT: lambda act, _: SaveRecord("header", "", {"launch_at": act.at}, "the launch slot"),
    ActSort.LOOK_FIRST: lambda act, _: LookFirst(act.of),
    ActSort.UNPIN: lambda act, _: Unpin(act.of),
    ActSort.COVER: lambda act, _: UnderCover(act.of),
    ActSort.SEASON: lambda act, _: MoveToSeason(act),
}


@dataclass(frozen=True, slots=True)
class Ran:
    """What some acts come to: the refit after them, what history says of each, and the first order to be sent."""

    refit: Refit
    told: tuple[str, ...]


def command_of(act: Act, why: str) -> RefitCommand:
    """The command that does an act. why: the reason of whoever takes the way."""
    return COMMANDS[act.do](act, why)


def right_for(acts: Iterable[Act]) -> Right:
    """What right doing some acts needs: the most that one of them does."""
    return max((command_of(act, "").right for act in acts), key=list(Right).index, default=Right.WORK)


def run(refit: Refit, acts: Iterable[Act], at: Situation, why: str) -> Ran:
    """The acts done one after the other, their own decisions left away: the way they are of is one.

    Raises RefitFaults, saying which can't be done and why.
    """
    told = []
    for act in acts:
        command = command_of(act, why)
        try:
            outcome = command.edit(refit, at)
        except ValidationError as error:
            raise RefitFaults(faults_of(error)) from None
        except StoreError as error:
            raise refused(str(error)) from None
        refit = outcome.edited.refit
        told.append(outcome.told)
    return Ran(refit, tuple(told))


def supposed(
    refit: Refit, acts: Iterable[Act], planned: Planned, moment: datetime, library: Library, mark: str = "if"
) -> Ran:
    """The refit as it would be: what is made has ids by number, after ``mark``. Raises RefitFaults for what can't be done any more."""
    at = Situation(planned.plan.now, moment, planned, lambda: library, numbered(mark))
    return run(refit, acts, at, "laid out")


def numbered(mark: str) -> Callable[[str], str]:
    """Ids by number, after a mark."""
    numbers = count(1)
    return lambda kind: f"{kind[0]}-{mark}-{next(numbers)}"


def way_mark(ways: str, way: str) -> str:
    """The mark of what a way makes, laid out and taken: so its plan is found again when it becomes real."""
    return blake2b(f"{ways} {way}".encode(), digest_size=5).hexdigest()


def pulling(planned: Planned, moment: datetime, library: Library) -> Callable[[Refit, Lever], Refit]:
    """How a lever is pulled on a refit in memory; what it makes has the same ids, and so the same luck, in every set it is in."""

    def pulled(refit: Refit, lever: Lever) -> Refit:
        mark = blake2b(lever.key.encode(), digest_size=4).hexdigest()
        return supposed(refit, lever.acts, planned, moment, library, mark).refit

    return pulled


def layings(
    refit: Refit, ways: Iterable[ProposedWay], planned: Planned, moment: datetime, library: Library, of: str = ""
) -> list[Laying]:
    """Ways as they would be laid out; one that can't be done any more with the reason. of: the choice they are of."""
    out = []
    for way in ways:
        try:
            ran = supposed(refit, way.acts, planned, moment, library, way_mark(of, way.id))
        except RefitFaults as error:
            out.append(Laying(way.id, way.title, None, reason="; ".join(fault.message for fault in error.faults)))
            continue
        out.append(Laying(way.id, way.title, ran.refit, ran.told))
    return out
