"""Changes to what is seen, not known, parked or off the boat, as functions from refit to refit."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from rovask.core.refit.choices import LinkKind, Need, PartStatus, Severity, State, UnknownState
from rovask.core.refit.edits import put, rebuilt, remove_job
from rovask.core.refit.faults import Fault, RefitFaults
from rovask.core.refit.jobs import Job, Link, Part, Task, WorkTime
from rovask.core.refit.model import Finding, Frozen, Inspection, OffBoat, Parked, Refit, Unknown
from rovask.core.refit.records import RecordKey
from rovask.core.refit.removal import removed
from rovask.core.refit.seen import ReadingTaken, judged
from rovask.core.words import money as in_money

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
    said = verdict or (judged(row, reading) if reading is not None else None)
    if said is None:
        raise RefitFaults([Fault("verdict", "Say good, watch or bad, or type a reading.")])
    photos = (*row.photos, photo) if photo else row.photos
    series = (*row.readings, ReadingTaken(at=at, value=reading)) if reading is not None else row.readings
    seen = _changed(row, verdict=said, reading=reading, note=note or row.note, at=at, photos=photos, readings=series)
    refit = put(refit, seen)
    old = next((one for one in refit.findings if one.id == finding_id), None)
    if said in (Severity.BAD, Severity.DANGEROUS):
        measured = f"{reading:g} {row.unit}. " if reading is not None else ""
        finding = Finding(
            id=finding_id,
            title=row.title,
            place=row.place,
            severity=said,
            note=f"{measured}{note}".strip(),
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


def _to_get(refit: Refit, key: str, name: str, money: int, lead_days: int) -> tuple[Refit, tuple[str, ...]]:
    """The refit with what has to be bought, so that the forecast and the order-by dates know it; nothing for nothing."""
    if not money and not lead_days:
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
) -> Refit:
    """A job of one task, with what it costs and waits for as a part: a way of one's own, an interim fix, what a finding asks."""
    refit, parts = _to_get(refit, f"{job_id}-part", f"For: {title}", money, wait_days)
    where = place or (refit.places[0].id if refit.places else "")
    task = Task(
        id=f"{job_id}-fix",
        title=title[:120],
        place=where,
        hands=hands,
        work=WorkTime(least=hours, likely=hours, most=hours * 2),
        parts=parts,
        check=check,
    )
    return rebuilt(refit, jobs=(*refit.jobs, Job(id=job_id, title=title[:120], need=need, tasks=(task,), note=note)))


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
    """Place a parked job: as a job of one task in a state, or (None) left to the next haul-out."""
    row: Parked = _the(refit.parked, key, "parked job")
    if state is None:
        return put(refit, _changed(row, next_time=True))
    place = row.place or (refit.places[0].id if refit.places else "")
    hours = max(row.hours, 0.5)
    task = Task(
        id=task_id,
        title=row.title,
        place=place,
        state=state,
        work=WorkTime(least=hours, likely=hours, most=hours * 1.5 // 0.5 * 0.5),
        note=row.note,
    )
    job = Job(id=job_id, title=row.title, need=Need.SHOULD, tasks=(task,))
    rest = tuple(one for one in refit.parked if one.id != key)
    return rebuilt(refit, parked=rest, jobs=(*refit.jobs, job))


def this_time(refit: Refit, key: str) -> Refit:
    """Take a job back that was left to the next haul-out; it is parked for this one again."""
    row: Parked = _the(refit.parked, key, "parked job")
    return put(refit, _changed(row, next_time=False))


def next_time(refit: Refit, job_id: str, parked_id: str) -> Refit:
    """Leave a whole job to the next haul-out: it is parked there with its hours. Raises RefitFaults once it is begun.

    Parts that only it takes, and of which nothing was ordered or ever there, are not bought now: its note names them.
    """
    job: Job = _the(refit.jobs, job_id, "job")
    if any(task.begun_at for task in job.tasks):
        raise RefitFaults([Fault("", "It is begun; finish it or remove what is left of it.")])
    spared = _only_for(refit, job)
    to_get = [
        f"{part.name}, {part.quantity:g} {part.unit}".strip() + f", {in_money(part.price, refit.currency)}"
        for part in spared
    ]
    note = "\n".join([*([job.note] if job.note else []), *([f"To get then: {'; '.join(to_get)}."] if to_get else [])])
    row = Parked(
        id=parked_id,
        title=job.title,
        place=job.tasks[0].place if job.tasks else None,
        hours=sum(task.work.likely * task.units for task in job.tasks) or 0.5,
        recipe=job.recipe,
        note=note[:LONGEST],
        next_time=True,
    )
    refit = remove_job(refit, job_id)
    for part in spared:
        refit = removed(refit, RecordKey("part", part.id))
    return put(refit, row)


def _only_for(refit: Refit, job: Job) -> list[Part]:
    """Parts that nothing but a job takes, and that are only thought of: nothing ordered, nothing there, nothing used."""
    mine = {key for task in job.tasks for key in task.parts}
    others = {key for one in refit.jobs if one.id != job.id for task in one.tasks for key in task.parts}
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
