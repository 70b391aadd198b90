"""The launch gate: what must be true before she floats and after, what speaks against it, and the one next act.

It grows out of what was really touched; nothing is put on it by hand. What it says follows from the refit at a moment and
is kept nowhere; kept are only the ticks (GateTick), of which the last word on an item counts.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import replace
from datetime import datetime, timedelta
from zlib import crc32

from rovask.core.gate.state import Block, Gate, Item, StageState, Why
from rovask.core.plain.words import count, day_and_time, money
from rovask.core.readings.acceptance import acceptances
from rovask.core.readings.closes import opened_by
from rovask.core.readings.commitments import CommitmentKind, commitments
from rovask.core.readings.curing import CureClock
from rovask.core.readings.looks import ALWAYS, LOOKS
from rovask.core.readings.standings import is_off
from rovask.core.readings.touched import Touched, touched
from rovask.core.refit.craft.choices import SeizedState, TraceState
from rovask.core.refit.givens.choices import Spot
from rovask.core.refit.launch.choices import Stage
from rovask.core.refit.model import GateTick, Link, OffBoat, Refit, Task
from rovask.core.refit.seen.choices import OffSort
from rovask.core.refit.work.choices import LinkKind, Need, State
from rovask.core.refit.work.kinds import LAUNCH

TWO_AT_ONCE = timedelta(minutes=10)  # two people who say different things of one item within this are asked again


LET_GO = "let-go"  # the mark of the tick that says: she floats, the straps are off


AFTER = {
    Stage.BEFORE: timedelta(0),
    Stage.SLINGS: timedelta(0),
    Stage.MINUTES: timedelta(minutes=5),
    Stage.HOUR: timedelta(hours=1),
    Stage.DAY: timedelta(days=1),
    Stage.WEEK: timedelta(days=7),
}


DRY = (State.ASHORE, State.LIFTING)


WET = frozenset(
    [Spot.BOTTOM, Spot.WATERLINE, Spot.THROUGH_HULLS, Spot.SHAFT, Spot.KEEL, Spot.RUDDER, Spot.TOPSIDES, Spot.TANKS]
)


def gate_of(refit: Refit, now: datetime) -> Gate:
    """The gate of a refit at ``now``. O(tasks + ticks + links)."""
    said: dict[str, list[GateTick]] = defaultdict(list)
    for tick in sorted(refit.gate_ticks, key=lambda one: one.at):
        said[tick.item].append(tick)
    afloat = let_go_of(refit)
    slot = afloat.at if afloat is not None else refit.launch_at
    found = touched(refit)
    stages = {}
    for stage in Stage:
        due = slot + AFTER[stage]
        items = [*_of_touched(found, stage, due, said), *_always(refit, stage, due, said)]
        stages[stage] = StageState(stage, due, tuple(items))
    blocks = [*(_as_it_stands(block) for block in _blocks(refit, now)), *_not_right(stages)]
    order = list(Why)
    by_name = []
    for block in sorted(blocks, key=lambda one: order.index(one.why)):
        last = said[block.key][-1] if block.key in said else None
        by_name.append(replace(block, overruled=last) if last is not None and last.overruled else block)
    return Gate(stages, tuple(by_name), afloat, tuple(_warnings(refit)))


def _as_it_stands(block: Block) -> Block:
    """A block whose key is of what is told by it: whoever overruled it took on that, and not what it becomes later."""
    return replace(block, key=f"{block.key}:{crc32(block.words.encode()):08x}")


def let_go_of(refit: Refit) -> GateTick | None:
    """The tick by which she was let go into the water, unless it was taken back since."""
    last = max((tick for tick in refit.gate_ticks if tick.item == LET_GO), key=lambda one: one.at, default=None)
    return last if last is not None and last.passed else None


def hangs_from(refit: Refit) -> datetime:
    """From when she may hang in the slings before the launch: as long before the slot as the yard holds her, or since what
    is done in them was begun.
    """
    begun = [task.begun_at for task in refit.tasks.values() if task.state is State.SLINGS and task.begun_at is not None]
    return min([refit.launch_at - timedelta(hours=refit.yard.slings_hours), *begun])


def hangs(refit: Refit, gate: Gate, now: datetime) -> bool:
    """Whether she may hang by now: it is time, or all that comes before the slings is settled."""
    return now >= hangs_from(refit) or gate.let_go is not None or gate.ready(Stage.BEFORE)


# What is looked at


def _of_touched(
    found: list[Touched], stage: Stage, due: datetime, said: Mapping[str, list[GateTick]]
) -> Iterator[Item]:
    for one in found:
        for when, words in LOOKS[one.what]:
            if when is stage:
                key = f"{one.what.value}:{one.mark}:{stage.value}"
                title = f"{one.what.value.capitalize()}: {one.title}"
                where = ", ".join(place for place in one.places if place.casefold() not in title.casefold())
                yield _item(Item(key, stage, title, words, where, due), said.get(key, []), one.at)


def _always(refit: Refit, stage: Stage, due: datetime, said: Mapping[str, list[GateTick]]) -> Iterator[Item]:
    for one in ALWAYS:
        if one.stage is not stage or not one.fits(refit.boat):
            continue
        key = f"always:{one.key}"
        task = _stands_for(refit, one.step)
        item = Item(key, stage, one.title, one.words, "", due - one.ahead, by_task=task)
        yield _item(item, said.get(key, []), None)


def _stands_for(refit: Refit, step: str) -> Task | None:
    """The task of the plan that a recipe's step became, when it is done."""
    recipe, _, name = step.partition(".")
    for job in refit.jobs:
        if recipe and job.recipe == recipe:
            task = refit.tasks.get(f"{job.id}-{name}")
            if task is not None and task.done_at is not None:
                return task
    return None


def _item(item: Item, ticks: list[GateTick], since: datetime | None) -> Item:
    """An item with what was said of it; what was said before it was touched last counts no more."""
    fresh = [tick for tick in ticks if since is None or tick.at >= since]
    if not fresh:
        return replace(item, again=bool(ticks))
    last = fresh[-1]
    before = fresh[-2] if len(fresh) > 1 else None
    versions: tuple[GateTick, ...] = ()
    if (
        before is not None
        and before.person != last.person
        and before.passed != last.passed
        and not last.overruled
        and last.at - before.at < TWO_AT_ONCE
    ):
        versions = (before, last)
    return replace(item, tick=last, versions=versions)


# What speaks against it


def _blocks(refit: Refit, now: datetime) -> Iterator[Block]:
    for finding in refit.findings:
        if finding.blocks:
            words = f"Dangerous: {finding.title}"
            yield Block(f"finding:{finding.id}", Why.DANGEROUS, words, "Settle it", "finding", finding.id)
    for thing in refit.off_boat:
        yield from _thing(refit, thing)
    yield from _met(refit)
    yield from _work(refit)
    yield from _looks_at_work(refit)
    yield from _cures(refit, now)
    if refit.yard.holds_unpaid:
        for account in commitments(refit):
            if account.kind is CommitmentKind.YARD and account.payable > 0:
                owed = money(account.payable, account.currency)
                words = f"{owed} owed to {refit.yard.name}, who holds her for it"
                yield Block(f"unpaid:{account.currency}", Why.UNPAID, words, "Pay the yard", "yard-bill", "")


def is_loose(refit: Refit, thing: OffBoat) -> bool:
    """Whether a thing is off her, open or borrowed as things stand."""
    if thing.sort is OffSort.OFF or thing.off_task:
        return is_off(refit, thing)
    return thing.back_at is None and (thing.off_at is not None or thing.sort is OffSort.BORROWED)


def _thing(refit: Refit, thing: OffBoat) -> Iterator[Block]:
    if not is_loose(refit, thing):
        return
    much = f"{thing.count} × " if thing.count > 1 else ""
    where = ", ".join([*([f"bag {thing.bag}"] if thing.bag else []), *([thing.lies_at] if thing.lies_at else [])])
    told = f"{much}{thing.what}" + (f" ({where})" if where else "")
    key = f"off-boat:{thing.id}"
    if thing.missing_since is not None:
        yield Block(key, Why.MISSING, f"Missing: {told}", "Find it", "off-boat", thing.id)
        return
    back = refit.tasks.get(thing.back_task or "")
    act = f"Put it back: “{back.title}”" if back is not None and back.done_at is None else "Put it back"
    sorts = {
        OffSort.OFF: (Why.OFF, "Off the boat: ", act),
        OffSort.OPEN: (Why.OPEN, "Open: ", "Close it"),
        OffSort.BORROWED: (Why.BORROWED, "Borrowed: ", "Take it back"),
    }
    why, words, what = sorts[thing.sort]
    yield Block(key, why, words + told, what, "off-boat", thing.id)


def _met(refit: Refit) -> Iterator[Block]:
    """What hands met and nobody has settled: something still sits fast or is broken off, water whose source nobody knows."""
    for row in refit.seized:
        if row.state in (SeizedState.FAST, SeizedState.BROKEN):
            words = f"Still {row.state.value}: {row.title}"
            yield Block(f"seized:{row.id}", Why.OPEN, words, "Get it off, or give it up", "seized", row.id)
    for one in refit.traces:
        if one.state is TraceState.OPEN:
            words = f"Nobody knows yet where it comes from: {one.title}"
            yield Block(f"trace:{one.id}", Why.OPEN, words, "Find it, or say why not", "trace", one.id)


def _work(refit: Refit) -> Iterator[Block]:
    """Work that must be done before she hangs: ashore, and whatever closes what was opened, whether ashore or not."""
    for job in refit.jobs:
        begun = any(task.begun_at for task in job.tasks)
        if job.need is not Need.MUST and not begun:
            continue
        opened = begun and any(task.begun_at and opened_by(refit, job, task) for task in job.tasks)
        left = [
            task
            for task in job.tasks
            if task.done_at is None and (task.state in DRY or (opened and task.state is State.EITHER))
        ]
        if left:
            following = next((task for task in left if task.begun_at), left[0])
            much = count(len(left), "task") + (", the next " if left[1:] else ": ")
            words = f"Not done: {job.title}, {much}“{following.title}”"
            yield Block(f"work:{job.id}", Why.WORK, words, "Finish it", "task", following.id)


def _looks_at_work(refit: Refit) -> Iterator[Block]:
    for found in acceptances(refit).values():
        key = f"check:{found.task.id}"
        for one in found.wanted:
            if one.passed:
                continue
            if one.failed:
                snag = f"; put right in “{one.snag.title}”" if one.snag is not None else ""
                words = f"Did not pass: {found.task.title}: {one.title}{snag}"
                yield Block(key, Why.SNAG, words, "Put it right and look again", "check", found.task.id)
            else:
                words = f"Nobody has looked: {found.task.title}: {one.title}"
                yield Block(key, Why.ACCEPTANCE, words, "Look at it", "check", found.task.id)


def _cures(refit: Refit, now: datetime) -> Iterator[Block]:
    """What is wet or cures on her outside, below or in a tank, and isn't ready at ``now``."""
    clock, zone = CureClock.of(refit), refit.yard.zone
    until: dict[str, datetime] = {}
    for task in refit.tasks.values():
        if task.done_at is not None and task.tender and _under(refit, task):
            until[task.id] = task.done_at + timedelta(hours=task.tender)
    for link in refit.waits:
        first = refit.tasks.get(link.first)
        if first is None or first.done_at is None or not _cure(refit, link, first):
            continue
        ready = clock.ready_after(link, first.done_at)
        until[first.id] = max(until.get(first.id, ready), ready)
    for key, ready in until.items():
        if ready > now:
            words = f"Cures until {day_and_time(ready, zone)}: {refit.tasks[key].title}"
            yield Block(f"cure:{key}", Why.CURING, words, "Wait for it", "task", key, ready)


def _under(refit: Refit, task: Task) -> bool:
    return refit.place_by_id[task.place].spot in WET or bool(task.opens)


def _cure(refit: Refit, link: Link, first: Task) -> bool:
    waits = bool(link.min_lag) and link.kind is LinkKind.FS
    return waits and (link.then == LAUNCH or (link.cures and _under(refit, first)))


def _not_right(stages: Mapping[Stage, StageState]) -> Iterator[Block]:
    for state in stages.values():
        for item in state.items:
            if item.failed:
                said = f": {item.tick.seen}" if item.tick is not None and item.tick.seen else ""
                two = "Two people say different things of it: " if item.versions else "Not right: "
                act = "Look again, together" if item.versions else "Put it right and look again"
                words = f"{two}{item.title}{said}"
                yield Block(item.key, Why.NOT_RIGHT, words, act, "item", item.key)


def _warnings(refit: Refit) -> Iterator[str]:
    """What nobody has planned to put back."""
    for thing in refit.off_boat:
        loose = thing.back_at is None and thing.sort is not OffSort.BORROWED
        if loose and thing.back_task not in refit.tasks and (thing.off_task in refit.tasks or thing.off_at):
            yield f"{thing.what}: no task puts it back."
    for job in refit.jobs:
        if job.late_because and any(task.done_at is None for task in job.tasks):
            yield f"{job.title} may be closed on the last day. {job.late_because}"
