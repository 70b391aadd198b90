"""Look before you leap: what speaks against beginning or ticking a task at a moment, each in a sentence.

Nothing here forbids: what the sailor says has happened is a fact. It is asked once, with what is missing and since or
until when, and whoever does it all the same says why.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import datetime, timedelta

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plain.words import count, day_and_time, minutes_of, span
from rovask.core.readings.acceptance import covered_by
from rovask.core.readings.curing import CureClock
from rovask.core.readings.standings import missing_for
from rovask.core.readings.stock import Cover, stocks
from rovask.core.refit.givens.slot import ashore_from
from rovask.core.refit.model import Part, Refit
from rovask.core.refit.work.choices import LinkKind, State
from rovask.core.refit.work.kinds import HAUL, LAUNCH, Link, Task

DRY = (State.ASHORE, State.LIFTING, State.SLINGS)


class Doubtful(RefitFaults):
    """Something speaks against it: ``doubts``, one sentence each. Asked for again with a reason it is done."""

    def __init__(self, title: str, doubts: list[str]) -> None:
        self.title, self.doubts = title, doubts
        super().__init__([Fault("", doubt) for doubt in doubts])


def doubts(refit: Refit, task: Task, at: datetime, *, begins: bool, ends: bool) -> list[str]:
    """What speaks against a task beginning at ``at``, ending then, or both. Empty when nothing does."""
    found = [*_ties(refit, task, at, begins=begins, ends=ends)]
    if begins:
        found += [*_covered(refit, task)]
        found += [*_parts(refit, task), *_state(refit, task, at)]
        holder = refit.tasks.get(task.contained_by or "")
        if holder is not None and holder.done_at is None:
            found.append(f"What contains it, “{holder.title}”, isn't up.")
    return list(dict.fromkeys(found))


QUICK = 4  # times quicker than thought is asked about
LEAST_ASKED = 2.0  # hours; what takes less may well be done at once


def too_quick(refit: Refit, task: Task, at: datetime) -> list[str]:
    """What speaks against a task being done so soon after it was begun; nothing for a short one."""
    thought = task.work.likely * task.units
    if task.begun_at is None or thought < LEAST_ASKED or refit.logged.get(task.id):
        return []
    took = at - task.begun_at
    if not timedelta(0) <= took < timedelta(hours=thought) / QUICK:
        return []
    return [f"It was begun {span(minutes_of(took))} before, and {thought:g} h were thought for it."]


TWICE = timedelta(hours=1)  # of one person's time in two tasks from which it is asked about


def at_once(refit: Refit, task: Task, crew: Iterable[str], begun: datetime, done: datetime) -> list[str]:
    """What speaks against a task having been worked from ``begun`` to ``done`` by a crew: what else they did then."""
    zone, mine = refit.yard.zone, set(crew)
    out = []
    for other in refit.tasks.values():
        if other.id == task.id or other.begun_at is None or other.done_at is None or not mine & set(other.crew):
            continue
        if min(done, other.done_at) - max(begun, other.begun_at) < TWICE:
            continue
        who = ", ".join(refit.persons[key].name for key in other.crew if key in mine)
        out.append(
            f"Its hours would run from {day_and_time(begun, zone)} to {day_and_time(done, zone)}, and {who} worked at "
            f"“{other.title}” from {day_and_time(other.begun_at, zone)} to {day_and_time(other.done_at, zone)}. "
            "Say when each was done."
        )
    return out[:MOST_AT_ONCE]


MOST_AT_ONCE = 3


def _ties(refit: Refit, task: Task, at: datetime, *, begins: bool, ends: bool) -> Iterator[str]:
    clock, zone = CureClock.of(refit), refit.yard.zone
    for link in refit.waits:
        to_start = link.kind in (LinkKind.FS, LinkKind.SS)
        if link.then != task.id or not (begins if to_start else ends):
            continue
        event, name = _event(refit, link)
        if event is None:
            what = "isn't done" if link.kind in (LinkKind.FS, LinkKind.FF) else "isn't begun"
            yield f"{name} {what}{f' ({link.reason})' if link.reason else ''}."
            continue
        ready, closes = clock.ready_after(link, event), clock.closes_after(link, event)
        if ready > at:
            wait = "cures" if link.cures else "wants its wait"
            yield f"{name} {wait} until {day_and_time(ready, zone)}: {span(minutes_of(ready - at))} to go."
        elif closes is not None and closes < at:
            told = link.make_good or "wash, abrade and wipe a coat first"
            yield f"It should have come by {day_and_time(closes, zone)} after {name}: {told}."


def _event(refit: Refit, link: Link) -> tuple[datetime | None, str]:
    if link.first == HAUL:
        return refit.haul_at, "the haul-out"
    if link.first == LAUNCH:
        return refit.launch_at, "The launch"
    if link.first not in refit.tasks:
        fixed = next(one for one in refit.appointments if one.id == link.first)
        ends = fixed.at + timedelta(hours=fixed.hours)
        return (ends if link.kind in (LinkKind.FS, LinkKind.FF) else fixed.at), f"“{fixed.title}”"
    first = refit.tasks[link.first]
    from_end = link.kind in (LinkKind.FS, LinkKind.FF)
    return (first.done_at if from_end else first.begun_at), f"“{first.title}”"


def _covered(refit: Refit, task: Task) -> Iterator[str]:
    for one in covered_by(refit, task):
        who = ", ".join(refit.persons[key].name for key in one.task.crew if key in refit.persons)
        what = "did not pass" if one.failed else "isn't accepted: nobody has looked at it"
        yield f"“{one.task.title}”{f' by {who}' if who else ''} {what}, and this would cover it."


def _parts(refit: Refit, task: Task) -> Iterator[str]:
    for what, since in missing_for(refit, task):
        yield f"{what} is missing since {day_and_time(since, refit.yard.zone)}."
    for key in task.parts:
        part, cover = refit.part_by_id[key], stocks(refit)[key].by_task.get(task.id)
        if cover is not None and not part.missing_since:
            yield from _uncovered(refit, part, cover)


def _uncovered(refit: Refit, part: Part, cover: Cover) -> Iterator[str]:
    """What a task lacks of a part: not ordered, under way, elsewhere, or here and never tried."""
    much = f", {cover.short:g} {part.unit} of it".rstrip() if cover.taken > cover.short > 0 and cover.taken else ""
    if cover.short:
        yield f"{part.name} isn't ordered{much}."
    for parcel in cover.coming:
        due = f", expected {day_and_time(parcel.at, refit.yard.zone)}" if parcel.at else ""
        yield f"{part.name} isn't aboard{due}."
    if cover.away:
        yield f"{part.name} isn't here: {part.lies.value if not part.lies.is_here else 'it is being made to fit'}."
    if cover.untried and part.must_fit:
        yield f"{part.name} hasn't been tried for fit."


def _state(refit: Refit, task: Task, at: datetime) -> Iterator[str]:
    zone = refit.yard.zone
    open_ = [one for one in refit.tasks.values() if one.state in DRY and one.done_at is None and one.id != task.id]
    if task.state in (State.ASHORE, State.SLINGS):
        lifting = [one for one in open_ if one.state is State.LIFTING]
        if at < refit.haul_at:
            yield f"She isn't out yet: the haul-out is {day_and_time(refit.haul_at, zone)}."
        elif lifting:
            yield f"She doesn't stand yet: “{lifting[-1].title}” isn't done."
        elif at < ashore_from(refit):
            yield f"She doesn't stand before {day_and_time(ashore_from(refit), zone)} by the yard's hours."
    if task.state is State.SLINGS:
        ashore = [one for one in open_ if one.state is State.ASHORE]
        if ashore:
            yield f"{count(len(ashore), 'task')} ashore, “{ashore[0].title}” first, must be done before she hangs."
    if task.state is State.LIFTING and at < refit.haul_at:
        yield f"The haul-out is {day_and_time(refit.haul_at, zone)}."
    if task.state is State.AFLOAT_BEFORE and at >= refit.haul_at:
        yield f"It is work afloat before the haul-out, which was {day_and_time(refit.haul_at, zone)}."
    if task.state is State.AFLOAT_AFTER:
        if at < refit.launch_at:
            yield f"She isn't launched: the slot is {day_and_time(refit.launch_at, zone)}."
        if open_:
            yield f"{count(len(open_), 'task')} ashore or in the slings, “{open_[0].title}” first, aren't done."
    if task.state in (State.AFLOAT_AFTER, State.SLINGS):
        for finding in refit.findings:
            if finding.blocks:
                yield f"Dangerous and open: {finding.title}. She may not float."
