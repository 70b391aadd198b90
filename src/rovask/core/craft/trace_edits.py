"""A search in the plan: time to look, what closes up over it waiting, and what each look makes of it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import datetime

from rovask.core.craft.whence import NOBODY, Suspect, WhenceTables, in_order, minutes_to_find, suspects
from rovask.core.plain.faults import refused
from rovask.core.plain.half_hours import half_hours
from rovask.core.recipes.formula import Value
from rovask.core.refit.craft.choices import Showed, TraceState
from rovask.core.refit.craft.kinds import Looked, OwnCandidate, Trace
from rovask.core.refit.edits import put, rebuilt
from rovask.core.refit.model import Finding, Job, Link, Refit, Task, Unknown
from rovask.core.refit.seen.choices import Severity
from rovask.core.refit.work.choices import LinkKind, Need, State
from rovask.core.refit.work.edits import finish_task, update_task
from rovask.core.refit.work.interrupted import some_place
from rovask.core.refit.work.kinds import WorkTime
from rovask.core.refit.work.rings import ring_of, ring_told

MEND_HOURS, MEND_DAYS = 4.0, 4  # what a source usually takes to mend, and days until its part is there (judgement)
WAITS = "closed up only when it is known where it comes from"
Facts = Mapping[str, Value]


def trace_of(refit: Refit, key: str) -> Trace:
    """The search. Raises RefitFaults when it is gone."""
    row = next((one for one in refit.traces if one.id == key), None)
    if row is None:
        raise refused("This search is gone; somebody removed it meanwhile.")
    return row


def _open(row: Trace) -> Trace:
    if row.state is not TraceState.OPEN:
        raise refused("This search is over; open it again first.")
    return row


def is_ashore(refit: Refit, at: datetime) -> bool:
    """Whether she stands ashore by her dates, so that what shows only afloat is looked at last."""
    return refit.haul_at <= at < refit.launch_at


def hours_to_look(found: list[Suspect], *, ashore: bool) -> float:
    """Hours of looking to be expected, in the best order, in half-hours: on the page and in the plan."""
    return half_hours(minutes_to_find(in_order(found, ashore=ashore)) / 60)


def begun(refit: Refit, tables: WhenceTables, facts: Facts, row: Trace) -> Refit:
    """A search, with a job of one task in the plan for it: as long as looking is to be expected. It may be done in any state she is in.

    What mends it is an unknown that the search settles, so that odds and looks know that it is worth looking soon.
    """
    hours = hours_to_look(suspects(tables, row, facts), ashore=is_ashore(refit, row.at))
    place = row.place or some_place(refit)
    task = Task(
        id=f"{row.id}-look", title=f"{row.title}: looked for, one thing at a time"[:120], place=place, state=State.EITHER,
        work=WorkTime(least=0.5, likely=hours, most=hours * 3), note=tables.first[row.about],
        check="The source is seen, not guessed: it comes, and it stops when that alone is shut.",
    )  # fmt: skip
    job = Job(id=f"{row.id}-job", title=row.title, need=Need.MUST, tasks=(task,))
    refit = _to_mend(rebuilt(refit, jobs=(*refit.jobs, job)), row, task.id)
    return put(refit, row.model_copy(update={"task": task.id}))


def _to_mend(refit: Refit, row: Trace, task: str) -> Refit:
    """What mends it, as an unknown that the search settles."""
    mend = Unknown(
        id=f"{row.id}-mend",
        title=f"{row.title}: what mends it"[:120],
        chance=0.9,
        hours=MEND_HOURS,
        lead_days=MEND_DAYS,
        task=task,
    )
    return rebuilt(refit, unknowns=(*(one for one in refit.unknowns if one.id != mend.id), mend))


def answered(refit: Refit, tables: WhenceTables, facts: Facts, key: str, clues: Iterable[str], at: datetime) -> Refit:
    """What is known of it; of each question one answer, the last. Raises RefitFaults for an answer nobody knows."""
    row = _open(trace_of(refit, key))
    by_group: dict[str, str] = {}
    for clue in clues:
        if clue not in tables.clue:
            raise refused("Nobody knows that answer; choose one of those shown.")
        by_group[tables.clue[clue].group] = clue
    return _timed(refit, tables, facts, row.model_copy(update={"clues": tuple(by_group.values())}), at)


def thought_of(refit: Refit, tables: WhenceTables, facts: Facts, key: str, one: OwnCandidate, at: datetime) -> Refit:
    """Where it may come from besides, on this boat."""
    row = _open(trace_of(refit, key))
    return _timed(refit, tables, facts, row.model_copy(update={"own": (*row.own, one)}), at)


def looked_at(
    refit: Refit,
    tables: WhenceTables,
    facts: Facts,
    key: str,
    candidate: str,
    showed: Showed,
    note: str,
    at: datetime,
    finding: str,
) -> Refit:
    """One look. The source is a finding, and the search is over; else the others are the likelier.

    Raises RefitFaults for a candidate there isn't, or where the search is over.
    """
    row = _open(trace_of(refit, key))
    found = {one.name: one for one in suspects(tables, row, facts)}
    if candidate not in found or candidate == NOBODY:
        raise refused("Name what was looked at.")
    look = Looked(candidate=candidate, showed=showed, at=at, note=note)
    row = row.model_copy(update={"looks": (*row.looks, look)})
    if showed is not Showed.SOURCE:
        return _timed(refit, tables, facts, row, at)
    source = found[candidate]
    spots = [place.id for place in refit.places if place.spot is not None and place.spot is source.spot]
    place = row.place if row.place in spots or not spots else spots[0]
    seen = Finding(
        id=finding, title=f"{row.title}: {source.title[0].lower()}{source.title[1:]}"[:120], place=place,
        severity=Severity.BAD, note=note, at=at,
    )  # fmt: skip
    refit = put(refit, seen)
    refit = put(refit, row.model_copy(update={"state": TraceState.FOUND, "found": candidate}))
    return _over(refit, row, at)


def closed_anyway(refit: Refit, key: str, why: str, at: datetime) -> Refit:
    """Closed up without knowing: what waited waits no longer, and why stands beside it. Raises RefitFaults without a reason."""
    row = _open(trace_of(refit, key))
    if not why.strip():
        raise refused("Say why it is closed up without knowing.", "why")
    refit = put(refit, row.model_copy(update={"state": TraceState.GIVEN_UP, "why_not": why}))
    return _over(refit, row, at)


def opened_again(refit: Refit, tables: WhenceTables, facts: Facts, key: str) -> Refit:
    """It was not that, or one looks again after all: the looks so far stay, the last that showed the source counts as unclear.

    What closes up over it and isn't begun waits again.
    """
    row = trace_of(refit, key)
    looks = tuple(
        look.model_copy(update={"showed": Showed.UNCLEAR}) if look.showed is Showed.SOURCE else look
        for look in row.looks
    )
    row = row.model_copy(update={"state": TraceState.OPEN, "found": "", "why_not": "", "looks": looks})
    refit = put(refit, row)
    task = refit.tasks.get(row.task or "")
    if task is None:
        others = tuple(job for job in refit.jobs if job.id != f"{row.id}-job")
        refit = begun(rebuilt(refit, jobs=others), tables, facts, row)
    elif task.done_at:
        refit = update_task(refit, task.id, done_at=None, begun_at=None, crew=(), remaining=None)
        refit = _to_mend(refit, row, task.id)
    return waited_for(refit, key, row.waits)


def waited_for(refit: Refit, key: str, tasks: Iterable[str]) -> Refit:
    """What closes up over it, and waits until it is found. Raises RefitFaults for a ring."""
    row = trace_of(refit, key)
    wanted = [
        one for one in dict.fromkeys(tasks) if one in refit.tasks and one != row.task and not refit.tasks[one].begun_at
    ]
    links = [link for link in refit.links if not (link.first == row.task and link.reason == WAITS)]
    if row.state is TraceState.OPEN and row.task in refit.tasks:
        known = {(link.first, link.then, link.kind) for link in links}
        links += [
            Link(id=f"{row.id}-w{at}", first=row.task or "", then=one, reason=WAITS)
            for at, one in enumerate(wanted)
            if (row.task, one, LinkKind.FS) not in known
        ]
    refit = rebuilt(put(refit, row.model_copy(update={"waits": tuple(wanted)})), links=tuple(links))
    ring = ring_of(refit)
    if ring:
        raise refused(ring_told(refit, ring))
    return refit


def closes_up(refit: Refit, row: Trace) -> list[Task]:
    """Work to come in its place that may close up over it: what covers, seals or coats there, by what it does or its title."""
    words = ("down", "back", "close", "cover", "ceiling", "coat", "paint", "bed", "seal", "panel")
    return [
        task for task in refit.tasks.values()
        if task.place == row.place and not task.begun_at and task.id != row.task
        and ({one.value for one in task.does} & {"covers", "seals", "coats"} or any(word in task.title.lower() for word in words))
    ]  # fmt: skip


def _timed(refit: Refit, tables: WhenceTables, facts: Facts, row: Trace, at: datetime) -> Refit:
    """The search with what it now takes to go on with it."""
    refit = put(refit, row)
    task = refit.tasks.get(row.task or "")
    if task is None or task.begun_at:
        return refit
    hours = hours_to_look(suspects(tables, row, facts), ashore=is_ashore(refit, at))
    return update_task(refit, task.id, work=WorkTime(least=0.5, likely=hours, most=hours * 3).model_dump())


def _over(refit: Refit, row: Trace, at: datetime) -> Refit:
    """Its task is done, and what might mend it is no longer unknown: the finding says it."""
    refit = rebuilt(refit, unknowns=tuple(one for one in refit.unknowns if one.id != f"{row.id}-mend"))
    task = refit.tasks.get(row.task or "")
    if task is None or task.done_at:
        return refit
    return finish_task(refit, task.id, at, ())
