"""Changes to what is seen, not known, parked or off the boat, as functions from refit to refit."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from itertools import pairwise
from typing import Any

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plain.words import money as in_money
from rovask.core.refit.edits import put, rebuilt
from rovask.core.refit.givens.choices import Role
from rovask.core.refit.model import Finding, Frozen, Inspection, OffBoat, Parked, Refit, Unknown, WorkBy
from rovask.core.refit.records import RecordKey
from rovask.core.refit.removal import removed
from rovask.core.refit.seen.choices import Severity, UnknownState
from rovask.core.refit.seen.kinds import ReadingTaken, judged
from rovask.core.refit.stores.choices import PartStatus
from rovask.core.refit.work.choices import LinkKind, Need, State
from rovask.core.refit.work.edits import remove_job
from rovask.core.refit.work.kinds import Job, Link, Part, Task, WorkTime

INTERIM = "Interim fix: "  # how the title of such a job begins
LONGEST = 4000  # letters of a note (values.py)
_FRESH_LOOK: dict[str, Any] = {"verdict": None, "reading": None, "at": None}


def _the(rows: Sequence[Any], key: str, what: str) -> Any:
    found = next((row for row in rows if row.id == key), None)
    if found is None:
        raise RefitFaults([Fault("", f"This {what} is gone; somebody removed it meanwhile.")])
    return found


def _changed(row: Frozen, **changes: Any) -> Any:
    return type(row).model_validate(row.model_dump() | changes)


def look_at(
    refit: Refit,
    key: str,
    at: datetime,
    *,
    verdict: Severity | None,
    reading: float | None,
    note: str,
    finding_id: str,
    photo: str = "",
) -> Refit:
    """Note what was seen. A reading judges by itself where no verdict is given; what is bad becomes a finding.

    Raises RefitFaults when there is neither a verdict nor a reading that gives one.
    """
    row: Inspection = _the(refit.inspections, key, "thing to look at")
    measured = judged(row, reading) if reading is not None else None
    said = verdict or measured
    if measured is Severity.BAD and said in (Severity.GOOD, Severity.WATCH):
        said = Severity.BAD  # past its limit it is bad, whatever was tapped
    if said is None:
        raise RefitFaults([Fault("verdict", "Say good, watch or bad, or type a reading.")])
    photos = (*row.photos, photo) if photo else row.photos
    series = (*row.readings, ReadingTaken(at=at, value=reading)) if reading is not None else row.readings
    seen = _changed(row, verdict=said, reading=reading, note=note or row.note, at=at, photos=photos, readings=series)
    refit = put(refit, seen)
    old = next((one for one in refit.findings if one.id == finding_id), None)
    if said in (Severity.BAD, Severity.DANGEROUS):
        read = f"{reading:g} {row.unit}. " if reading is not None else ""
        finding = Finding(
            id=finding_id,
            title=row.title,
            place=row.place,
            severity=said,
            note=f"{read}{note}".strip(),
            at=at,
            photos=photos,
            jobs=old.jobs if old else (),
        )
        return put(refit, finding)
    return refit  # a finding of before stays open until somebody settles it: a better reading is not a repair


def take_reading(refit: Refit, key: str, at: datetime, value: float) -> Refit:
    """One reading more of a thing that is read again and again; the last by time is what it reads now.

    Its limits judge it where it has some. Unlike a look it makes no finding: it is one point of a line.
    """
    row: Inspection = _the(refit.inspections, key, "thing to look at")
    series = tuple(sorted((*row.readings, ReadingTaken(at=at, value=value)), key=lambda one: one.at))
    said = judged(row, series[-1].value) or row.verdict
    return put(refit, _changed(row, readings=series, reading=series[-1].value, verdict=said, at=series[-1].at))


def look_again(refit: Refit, key: str) -> Refit:
    """It is to be looked at again; the readings so far, the note and the photos stay."""
    row: Inspection = _the(refit.inspections, key, "thing to look at")
    return put(refit, _changed(row, **_FRESH_LOOK))


def job_came_of(refit: Refit, finding: str, job: str) -> Refit:
    """Note that a job came of a finding."""
    row: Finding = _the(refit.findings, finding, "finding")
    return put(refit, _changed(row, jobs=tuple(dict.fromkeys((*row.jobs, job)))))


def _to_get(
    refit: Refit, key: str, name: str, money: int, lead_days: int, *, named: bool = False
) -> tuple[Refit, tuple[str, ...]]:
    """The refit with what has to be bought, so that the forecast and the order-by dates know it; nothing for nothing."""
    if not money and not lead_days and not named:
        return refit, ()
    part = Part(id=key, name=name[:120], price=money, lead_days=lead_days)
    return rebuilt(refit, parts=(*refit.parts, part)), (key,)


def own_job(
    refit: Refit,
    job_id: str,
    title: str,
    place: str | None,
    hours: float,
    *,
    hands: int = 1,
    money: int = 0,
    wait_days: int = 0,
    need: Need = Need.MUST,
    note: str = "",
    check: str = "",
    further: Sequence[tuple[str, float]] = (),
    part: str = "",
) -> Refit:
    """A job of one task, with what it costs and waits for as a part: a way of one's own, an interim fix, what a finding asks.

    further: steps that follow one another after it, with their hours; part: what is bought, where it has a name.
    """
    refit, parts = _to_get(refit, f"{job_id}-part", part or f"For: {title}", money, wait_days, named=bool(part))
    where = place or (refit.places[0].id if refit.places else "")
    tasks = [
        Task(
            id=f"{job_id}-fix" if not at else f"{job_id}-then-{at}",
            title=name[:120],
            place=where,
            hands=hands,
            work=WorkTime(least=length, likely=length, most=length * 2),
            parts=parts if not at else (),
            check=check if at == len(further) else "",
        )
        for at, (name, length) in enumerate([(title, hours), *further])
    ]
    ties = tuple(
        Link(id=f"{then.id[:35]}-tie", first=first.id, then=then.id, reason="one after the other")
        for first, then in pairwise(tasks)
    )
    job = Job(id=job_id, title=title[:120], need=need, tasks=tuple(tasks), note=note)
    return rebuilt(refit, jobs=(*refit.jobs, job), links=(*refit.links, *ties))


def interim_fix(refit: Refit, finding: Finding, hours: float, money: int, job_id: str, need: Need = Need.MUST) -> Refit:
    """An interim fix of a finding as a job of one task, with what it costs as a part: good until next time."""
    title, check = f"{INTERIM}{finding.title}", "Good until the next haul-out; written on its list."
    return own_job(refit, job_id, title, finding.place, hours, money=money, need=need, note=finding.note, check=check)


def settle_unknown(refit: Refit, key: str, state: UnknownState) -> Refit:
    """An unknown vanishes, becomes real, or is open again."""
    row: Unknown = _the(refit.unknowns, key, "unknown")
    return put(refit, _changed(row, state=state))


def real_work(refit: Refit, key: str, task_id: str, link_id: str) -> Refit:
    """An unknown that turned out real: its hours as a task after the one that settled it, its money as a part."""
    row: Unknown = _the(refit.unknowns, key, "unknown")
    refit = settle_unknown(refit, key, UnknownState.REAL)
    refit, parts = _to_get(refit, f"{task_id}-part", row.title, row.money, row.lead_days)
    if row.task not in refit.tasks or not row.hours:
        return refit
    before = refit.tasks[row.task]
    task = Task(
        id=task_id,
        title=row.title[:120],
        place=before.place,
        state=before.state,
        work=WorkTime(least=row.hours / 2 // 0.5 * 0.5, likely=max(row.hours, 0.5), most=max(row.hours, 0.5) * 2),
        parts=parts,
        note=f"Found when “{before.title}” was done.",
    )
    return follow_up(refit, before.id, task, link_id, "found then")


def follow_up(refit: Refit, before: str, task: Task, link_id: str, reason: str) -> Refit:
    """Work that comes of a task, right after it in its job: what waited for that one and isn't begun waits for it too."""
    job = refit.job_of[before]
    tasks = list(job.tasks)
    tasks.insert([one.id for one in tasks].index(before) + 1, task)
    links = [*refit.links, Link(id=link_id, first=before, then=task.id, reason=reason)]
    after = [link for link in refit.links if link.first == before and link.kind is LinkKind.FS]
    links += [
        Link(id=f"{link_id}-{n}"[:40], first=task.id, then=link.then, reason="waits for it too")
        for n, link in enumerate(after)
        if link.then in refit.tasks and not refit.tasks[link.then].begun_at
    ]
    jobs = tuple(one.model_copy(update={"tasks": tuple(tasks)}) if one.id == job.id else one for one in refit.jobs)
    return rebuilt(refit, jobs=jobs, links=tuple(links))


def real_finding(refit: Refit, key: str, finding_id: str, at: datetime) -> Refit:
    """An unknown that turned out real and has a recipe: a finding, whose recipe brings the work; so it counts once."""
    row: Unknown = _the(refit.unknowns, key, "unknown")
    refit = settle_unknown(refit, key, UnknownState.REAL)
    place = refit.tasks[row.task].place if row.task in refit.tasks else None
    finding = Finding(id=finding_id, title=row.title, place=place, severity=Severity.BAD, at=at)
    return put(refit, finding)


def place_parked(refit: Refit, key: str, state: State | None, job_id: str, task_id: str) -> Refit:
    """Place a parked job: as a job in a state, or (None) left to the next haul-out.

    Its trades' hours become a task each, one after the other behind what is anybody's; so who does it stays a trade.
    """
    row: Parked = _the(refit.parked, key, "parked job")
    if state is None:
        return put(refit, _changed(row, next_time=True))
    place = row.place or (refit.places[0].id if refit.places else "")
    rest = row.hours - sum(one.hours for one in row.trades)
    steps: list[tuple[float, str | None]] = []
    if rest > 0 or not row.trades:
        steps.append((rest if row.trades else max(rest, 0.5), None))
    steps += [(one.hours, one.skill) for one in row.trades]
    tasks = tuple(
        Task(
            id=task_id if not at else f"{task_id[:36]}-{at}",
            title=(row.title if skill is None or len(steps) == 1 else f"{row.title}: {skill}")[:120],
            place=place,
            state=state,
            work=WorkTime(least=hours, likely=hours, most=hours * 1.5 // 0.5 * 0.5 if hours >= 1 else hours),
            skill=skill,
            note=row.note,
        )
        for at, (hours, skill) in enumerate(steps)
    )
    ties = tuple(
        Link(id=f"{then.id[:35]}-tie", first=first.id, then=then.id, reason="one after the other")
        for first, then in pairwise(tasks)
    )
    job = Job(id=job_id, title=row.title, need=Need.SHOULD, tasks=tasks)
    others = tuple(one for one in refit.parked if one.id != key)
    return rebuilt(refit, parked=others, jobs=(*refit.jobs, job), links=(*refit.links, *ties))


def this_time(refit: Refit, key: str) -> Refit:
    """Take a job back that was left to the next haul-out; it is parked for this one again."""
    row: Parked = _the(refit.parked, key, "parked job")
    return put(refit, _changed(row, next_time=False))


def next_time(refit: Refit, job_id: str, parked_id: str, why: str = "") -> Refit:
    """Leave what isn't begun of a job to the next haul-out: it is parked there with its hours and whose they are.

    Parts that only that takes, and of which nothing was ordered or ever there, are not bought now: its note names them.
    Raises RefitFaults while something of it is under way, or when all of it is done.
    """
    job: Job = _the(refit.jobs, job_id, "job")
    if going := next((task for task in job.tasks if task.is_under_way), None):
        raise RefitFaults([Fault("", f"“{going.title}” is under way; finish it or take it back first.")])
    left = [task for task in job.tasks if not task.begun_at]
    if not left and job.tasks:
        raise RefitFaults([Fault("", "All of it is done; there is nothing to leave.")])
    whole = len(left) == len(job.tasks)
    spared = _only_for(refit, left)
    to_get = [
        f"{part.name}, {part.quantity:g} {part.unit}".strip() + f", {in_money(part.price, refit.currency)}"
        for part in spared
    ]
    said = [
        *([f"Why: {why}"] if why else []),
        *([] if whole else [f"Left of it: {'; '.join(task.title for task in left)}."]),
        *([job.note] if job.note else []),
        *([f"To get then: {'; '.join(to_get)}."] if to_get else []),
    ]
    row = parked_from(refit, job, left, parked_id)
    row = _changed(row, recipe=row.recipe if whole else None, note="\n".join(said)[:LONGEST], next_time=True)
    if whole:
        refit = remove_job(refit, job_id)
    else:
        for task in left:
            refit = removed(refit, RecordKey("task", task.id), take_out=True)
    for part in spared:
        refit = removed(refit, RecordKey("part", part.id))
    return put(refit, row)


MOST_HOURS = 2000.0


def parked_from(refit: Refit, job: Job, left: Sequence[Task], parked_id: str) -> Parked:
    """What is left of a job as a parked one: its hours to do, all hands counted, and those that are a trade's."""
    hours = {task.id: refit.hours_to_do(task) * task.hands for task in left}
    by: dict[str, float] = {}
    for task in left:
        for skill in skills_of(refit, task):
            by[skill] = by.get(skill, 0) + hours[task.id] / task.hands
    total = min(max(sum(hours.values()), 0.5), MOST_HOURS)
    trades = [WorkBy(skill=skill, hours=part) for skill, part in by.items() if part][:8]
    return Parked(
        id=parked_id,
        title=job.title,
        place=left[0].place if left else None,
        hours=total,
        trades=tuple(trades) if sum(one.hours for one in trades) <= total else (),
        recipe=job.recipe,
    )


def skills_of(refit: Refit, task: Task) -> list[str]:
    """For each hand of a task that must know something, what; what only named trades may do is theirs by their skill."""
    if task.skill:
        return [task.skill] * task.hands
    if task.skilled:
        return list(task.skilled)
    named = [who for who in refit.people if who.id in task.people]
    if named and all(who.role in (Role.TRADE, Role.YARD) and who.skills for who in named):
        return [named[0].skills[0]] * task.hands
    return []


def _only_for(refit: Refit, tasks: Sequence[Task]) -> list[Part]:
    """Parts that nothing but these tasks takes, and that are only thought of: nothing ordered, nothing there, nothing used."""
    here = {task.id for task in tasks}
    mine = {key for task in tasks for key in task.parts}
    others = {key for one in refit.jobs for task in one.tasks if task.id not in here for key in task.parts}
    begun = {line.part for line in refit.order_lines}
    return [
        part
        for part in refit.parts
        if part.id in mine - others - begun and part.status is PartStatus.NEEDED and part.counted is None
    ]


def settle_finding(refit: Refit, key: str, *, settled: bool) -> Refit:
    """A finding is settled, or open again."""
    row: Finding = _the(refit.findings, key, "finding")
    return put(refit, _changed(row, settled=settled))


def moved_off(
    refit: Refit,
    key: str,
    way: str,
    now: datetime,
    *,
    lies_at: str | None,
    note: str | None,
    bag: str | None = None,
    photo: str = "",
) -> Refit:
    """Something came ``off``, is ``back``, still ``on``, ``missing`` or ``found`` again; where it lies and how it goes together may be said too."""
    row: OffBoat = _the(refit.off_boat, key, "thing")
    changes: dict[str, Any] = {}
    if lies_at is not None:
        changes["lies_at"] = lies_at[:120]
    if note is not None:
        changes["note"] = note[:LONGEST]
    if bag is not None:
        changes["bag"] = bag[:120]
    if photo:
        changes["photos"] = (*row.photos, photo)
    if way == "off" and (row.off_at is None or row.back_at is not None):  # said again, it is off since it was
        changes |= {"off_at": now, "back_at": None}
    elif way == "back":
        changes |= {"off_at": row.off_at or now, "back_at": row.back_at or now}
    elif way == "on":
        changes |= {"off_at": None, "back_at": None}
    if way in ("off", "back", "on", "found"):
        changes["missing_since"] = None
    elif way == "missing":
        changes["missing_since"] = row.missing_since or now
    return put(refit, _changed(row, **changes))
