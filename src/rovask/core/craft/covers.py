"""Getting at it: what must be emptied or lifted is opened once for all jobs behind it, and closed when the last of them is done."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from rovask.core.plain.faults import refused
from rovask.core.refit.craft.choices import CoverSort
from rovask.core.refit.craft.kinds import Cover
from rovask.core.refit.edits import put, rebuilt
from rovask.core.refit.givens.choices import Service
from rovask.core.refit.model import Job, Link, OffBoat, Place, Refit, Task
from rovask.core.refit.seen.choices import OffSort
from rovask.core.refit.work.choices import Emission, LinkKind
from rovask.core.refit.work.edits import put_task
from rovask.core.refit.work.kinds import WorkTime
from rovask.core.refit.work.rings import ring_of, ring_told

OPENS = {
    CoverSort.LOCKER: ("emptied, its things in marked boxes", "back in, by the boxes"),
    CoverSort.SOLE: ("lifted, screws in a bag, boards numbered", "down again"),
    CoverSort.CEILING: ("taken off, panels marked", "back on"),
    CoverSort.PANEL: ("unscrewed and hung aside", "back in its place"),
    CoverSort.TANK: ("emptied, loosened and moved aside", "back, fastened, hoses on"),
    CoverSort.ENGINE_BOX: ("lifted off, padding covered", "back on, latched"),
}
BECAUSE = "has to be open for it"  # why a tie is there
CLOSED = "closed when the last is done"
TAPED = {Emission.DUST, Emission.FUMES}


def cover_of(refit: Refit, key: str) -> Cover:
    """The record. Raises RefitFaults when it is gone."""
    row = next((one for one in refit.covers if one.id == key), None)
    if row is None:
        raise refused("This is gone; somebody removed it meanwhile.")
    return row


def behind(refit: Refit, cover: Cover) -> list[Task]:
    """The work that needs it open: whatever is tied between its opening and its closing, in the order of the jobs."""
    after = {link.then for link in refit.links if link.first == cover.open_task and link.kind is LinkKind.FS}
    before = {link.first for link in refit.links if link.then == cover.close_task and link.kind is LinkKind.FS}
    return [task for key, task in refit.tasks.items() if key in after & before]


def may_need(refit: Refit, cover: Cover) -> list[Task]:
    """Work in its place that isn't begun and doesn't wait for it yet: it may need it open too."""
    there = {task.id for task in behind(refit, cover)} | {cover.open_task, cover.close_task}
    return [
        task
        for task in refit.tasks.values()
        if task.place == cover.place and not task.begun_at and task.id not in there
    ]


def opened_for(refit: Refit, key: str, tasks: Iterable[str]) -> Refit:
    """It is opened once for these, and closed when the last of them is done; others that needed it no longer do.

    Made when first asked: a job of two tasks, and a thing left open in the register until it is closed, so that the gate
    asks for it. Bunks behind it are out between. Raises RefitFaults for a task that is gone, for one that is done, and for a
    ring.
    """
    row = cover_of(refit, key)
    wanted = list(dict.fromkeys(tasks))
    for one in wanted:
        if one not in refit.tasks:
            raise refused("This task is gone; somebody removed it meanwhile.")
    if not wanted:
        raise refused("Tick at least one task that needs it open.")
    if row.open_task not in refit.tasks or row.close_task not in refit.tasks:
        refit, row = _made(refit, row, refit.tasks[wanted[0]])
    opening, closing = row.open_task or "", row.close_task or ""
    if refit.tasks[closing].done_at:
        raise refused("It is closed again; take that tick back first, or note a new one.")
    links = [
        link
        for link in refit.links
        if not (link.reason in (BECAUSE, CLOSED) and {link.first, link.then} & {opening, closing})
    ]
    known = {(link.first, link.then, link.kind) for link in links}
    for at, one in enumerate(wanted):
        if (opening, one, LinkKind.FS) not in known and not refit.tasks[one].begun_at:
            links.append(Link(id=f"{row.id}-b{at}", first=opening, then=one, reason=BECAUSE))
        if (one, closing, LinkKind.FS) not in known:
            links.append(Link(id=f"{row.id}-a{at}", first=one, then=closing, reason=CLOSED))
    refit = rebuilt(refit, links=tuple(links))
    ring = ring_of(refit)
    if ring:
        raise refused(ring_told(refit, ring))
    return refit


def _made(refit: Refit, row: Cover, first: Task) -> tuple[Refit, Cover]:
    """Its two tasks in a job of their own, and what is left open between."""
    place = row.place or first.place
    words = OPENS[row.sort]
    opening = Task(
        id=f"{row.id}-open", title=f"{row.title}: {words[0]}"[:120], place=place, state=first.state,
        work=WorkTime(least=row.open_hours / 2 // 0.5 * 0.5, likely=row.open_hours, most=row.open_hours * 2),
        takes_out=(Service.BERTH,) if row.bunks else (), until=f"{row.id}-close" if row.bunks else None,
        note="Photo before it is touched; where its things lie is written on Off the boat.",
    )  # fmt: skip
    closing = Task(
        id=f"{row.id}-close", title=f"{row.title}: {words[1]}"[:120], place=place, state=first.state,
        work=WorkTime(least=row.close_hours / 2 // 0.5 * 0.5, likely=row.close_hours, most=row.close_hours * 2),
        check="All behind it is done, looked at and photographed before it is closed.",
    )  # fmt: skip
    job = Job(id=f"{row.id}-job", title=f"Getting at it: {row.title}"[:120], tasks=(opening, closing), note=row.note)
    row = row.model_copy(update={"open_task": opening.id, "close_task": closing.id})
    off = OffBoat(id=f"{row.id}-left", what=row.title, sort=OffSort.OPEN, off_task=opening.id, back_task=closing.id)
    tie = Link(id=f"{row.id}-tie", first=opening.id, then=closing.id, reason="opened before it is closed")
    refit = rebuilt(refit, jobs=(*refit.jobs, job), links=(*refit.links, tie), off_boat=(*refit.off_boat, off))
    return put(refit, row), row


@dataclass(frozen=True, slots=True)
class Shared:
    """A place in which several jobs still have work, so that it may be opened once for all: which, and the tasks."""

    place: Place
    jobs: tuple[Job, ...]
    tasks: tuple[Task, ...]


def opened_twice(refit: Refit) -> list[Shared]:
    """Places inside in which two jobs or more have work to come, and where nothing in the way is noted yet. O(tasks)."""
    noted = {cover.place for cover in refit.covers}
    of_covers = {key for cover in refit.covers for key in (cover.open_task, cover.close_task)}
    found: dict[str, list[Task]] = {}
    for task in refit.tasks.values():
        if not task.begun_at and task.id not in of_covers:
            found.setdefault(task.place, []).append(task)
    out = []
    for place in refit.places:
        tasks = tuple(found.get(place.id, ()))
        jobs = tuple(dict.fromkeys(refit.job_of[task.id].id for task in tasks))
        if len(jobs) > 1 and not place.outdoors and place.id not in noted and place.spot != "ashore":
            out.append(Shared(place, tuple(job for job in refit.jobs if job.id in jobs), tasks))
    return out


def foul_for(refit: Refit, place: str) -> list[Task]:
    """Work to come that fouls a place that is slept in: dust or fumes there or next to it, and nothing that keeps them in."""
    here = refit.place_by_id[place]
    near = {place, *here.opens_onto, *(one.id for one in refit.places if place in one.opens_onto)}
    return [
        task for task in refit.tasks.values()
        if task.place in near and TAPED & set(task.emits) and not task.contained_by and not task.done_at
    ]  # fmt: skip


def taped_off(refit: Refit, tasks: Iterable[str], hours: float, job_id: str, at: datetime) -> Refit:
    """A tape or a tent before some dusty work, and down after the last of it: what they give off stays inside.

    Raises RefitFaults for a task that is gone or begun.
    """
    wanted = [refit.tasks[key] for key in dict.fromkeys(tasks) if key in refit.tasks]
    if not wanted:
        raise refused("Tick the work that is to be taped off.")
    if begun := next((task for task in wanted if task.begun_at and task.begun_at <= at), None):
        raise refused(f"“{begun.title}” is begun; the dust is there already.")
    first = wanted[0]
    up = Task(
        id=f"{job_id}-up", title=f"Taped off, or tented: {refit.place_by_id[first.place].name}"[:120], place=first.place,
        state=first.state, work=WorkTime(least=hours / 2 // 0.5 * 0.5, likely=hours, most=hours * 2),
        note="Sheet on a zip or two layers that overlap, extraction drawing inwards, a wet mat before it.",
        check="A strip of tissue at the opening blows inwards.",
    )  # fmt: skip
    down = Task(
        id=f"{job_id}-down", title=f"Wiped down, tape and tent away: {refit.place_by_id[first.place].name}"[:120],
        place=first.place, state=first.state, work=WorkTime(least=0.5, likely=max(hours / 2, 0.5), most=max(hours, 0.5)),
        note="Top to bottom, wet; the extractor runs on for an hour.",
    )  # fmt: skip
    job = Job(id=job_id, title=f"Dust kept in: {refit.place_by_id[first.place].name}"[:120], tasks=(up, down))
    refit = rebuilt(refit, jobs=(*refit.jobs, job))
    for task in wanted:
        refit = put_task(refit, Task.model_validate(task.model_dump() | {"contained_by": up.id}))
    links = [
        Link(id=f"{job_id}-u{n}", first=up.id, then=task.id, reason="taped off first") for n, task in enumerate(wanted)
    ]
    links += [
        Link(id=f"{job_id}-d{n}", first=task.id, then=down.id, reason="taken down after")
        for n, task in enumerate(wanted)
    ]
    refit = rebuilt(refit, links=(*refit.links, *links))
    ring = ring_of(refit)
    if ring:
        raise refused(ring_told(refit, ring))
    return refit
