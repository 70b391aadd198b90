"""Jobs: what is the work? The list, and a job's own sheet."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.explain.afloat import better_ashore
from rovask.core.explain.margins import closed_by, margin_told
from rovask.core.explain.why import why_held
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.plan.problem.ties import ties_of as ties_at
from rovask.core.readings.acceptance import acceptances
from rovask.core.refit.givens.choices import Role
from rovask.core.refit.model import Job, Link, Person, Photo, Refit
from rovask.core.refit.work.choices import LinkKind, Need
from rovask.core.refit.work.kinds import HAUL, LAUNCH
from rovask.core.refit.work.titles import end_title
from rovask.desk.commands.prudence import TakeLastDay
from rovask.desk.commands.several import PasteJobs, SetJobs
from rovask.store.errors import NotFound
from rovask.web.acting import acted, back_to, faults_of_form, let_in, on_to
from rovask.web.asking import Pk, RecordId
from rovask.web.odds_drawing import Dots, dots_of
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.security import Form, Who

router = APIRouter()


@dataclass(frozen=True, slots=True)
class JobLine:
    """A job in the list with the jobs that are part of it: how far it is, how much it can slip. Hours count all hands."""

    job: Job
    pieces: int
    tasks: int
    done: int
    hours_done: float
    hours_all: float
    spare: int | None
    left_out: bool
    stuck: bool
    driving: bool
    places: str


def job_line(page: Page, job: Job) -> JobLine:
    """The figures of one job."""
    refit, verdict = page.refit, page.verdict
    pieces = [one for one in refit.jobs if one.under == job.id]
    tasks = [task for one in (job, *pieces) for task in one.tasks]
    total = sum(task.work.likely * task.units * task.hands for task in tasks)
    left = sum(refit.hours_to_do(task) * task.hands for task in tasks)
    spares = [verdict.spare_by_task[task.id] for task in tasks if task.id in verdict.spare_by_task]
    places = dict.fromkeys(refit.place_by_id[task.place].name for task in tasks)
    return JobLine(
        job,
        len(pieces),
        len(tasks),
        sum(task.done_at is not None for task in tasks),
        max(total - left, 0),
        total,
        min(spares) if spares else None,
        job.id in page.plan.left_out,
        any(task.id in page.plan.unplanned for task in tasks),
        any(task.id in verdict.driving for task in tasks),
        ", ".join(list(places)[:2]),
    )


SECTIONS = {
    "rig": ("rig", "mast"),
    "deck": ("foredeck", "deck", "cockpit"),
    "inside": ("forepeak", "saloon", "galley", "heads", "nav", "berths", "tanks", "bilge", "lazarette"),
    "drive": ("engine", "shaft"),
    "hull": ("topsides", "waterline", "bottom", "through-hulls", "keel", "rudder"),
    "ashore": ("ashore",),
}
GROUPS = {"section": "section", "need": "need", "person": "whose", "state": "how far"}
SORTS = {"own": "your order", "spare": "least spare", "hours": "most hours left", "name": "name"}


def section_of(page: Page, job: Job) -> str:
    """The part of the boat in which most of a job is done."""
    spots = [page.refit.place_by_id[task.place].spot for task in job.tasks]
    counts = {
        name: sum(spot is not None and spot.value in inside for spot in spots) for name, inside in SECTIONS.items()
    }
    best = max(counts, key=lambda name: counts[name])
    return best if counts[best] else "elsewhere"


def how_far(line: JobLine) -> str:
    """How far a job is, in words to group by."""
    if line.stuck:
        return "can't be planned"
    if line.left_out:
        return "left out"
    if line.tasks and line.done == line.tasks:
        return "done"
    return "under way" if any(task.begun_at for task in line.job.tasks) else "to do"


def group_of(page: Page, line: JobLine, by: str) -> str:
    """The heading a job stands under."""
    if by == "section":
        return section_of(page, line.job)
    if by == "need":
        return line.job.need.value
    if by == "person":
        return page.refit.persons[line.job.owner].name if line.job.owner else "nobody's yet"
    return how_far(line)


@router.get("/r/{pk}/jobs")
def all_jobs(request: Request, who: Who, pk: Pk) -> Response:
    """Every job: found by words, grouped and sorted as one likes."""
    return _jobs(request, page_here(request, who, pk), dict(request.query_params))


def _jobs(
    request: Request,
    page: Page,
    asked: Mapping[str, str],
    faults: dict[str, list[str]] | None = None,
    pasted: str = "",
    status: int = 200,
) -> Response:
    words = asked.get("q", "").lower().split()
    by = asked.get("by", "") if asked.get("by", "") in GROUPS else ""
    sort = asked.get("sort", "own") if asked.get("sort", "own") in SORTS else "own"
    lines = [
        line
        for line in (job_line(page, job) for job in page.refit.jobs)
        if all(word in _searched(line) for word in words)
    ]
    far = 10**9
    if sort == "own":
        lines = _under_their_heads(lines)
    if sort == "spare":
        lines.sort(key=lambda line: far if line.spare is None else line.spare)
    elif sort == "hours":
        lines.sort(key=lambda line: line.hours_done - line.hours_all)
    elif sort == "name":
        lines.sort(key=lambda line: line.job.title.lower())
    groups: dict[str, list[JobLine]] = {}
    for line in lines:
        groups.setdefault(group_of(page, line, by) if by else "", []).append(line)
    context = page.context(
        groups=groups,
        lines=lines,
        q=asked.get("q", ""),
        by=by,
        sort=sort,
        group_names=GROUPS,
        sorts=SORTS,
        faults=faults or {},
        pasted=pasted,
        needs=[need.value for need in Need],
    )
    return render(request, "jobs.html", context, status)


def _trades_on(page: Page, job: Job) -> list[Person]:
    """The trades and yard hands that the plan has for a job, or that did some of it."""
    at = page.plan.by_task()
    crew = {who for task in job.tasks for who in (*task.crew, *(at[task.id].people if task.id in at else ()))}
    return [one for one in page.refit.people if one.role in (Role.TRADE, Role.YARD) and one.id in crew]


def _under_their_heads(lines: list[JobLine]) -> list[JobLine]:
    """In the sailor's order, what is part of a job right after it."""
    there = {line.job.id for line in lines}
    out = []
    for line in lines:
        if line.job.under not in there:
            out += [line, *(piece for piece in lines if piece.job.under == line.job.id)]
    return out


def _searched(line: JobLine) -> str:
    titles = " ".join(task.title for task in line.job.tasks)
    return f"{line.job.title} {line.places} {line.job.note} {titles}".lower()


@router.post("/r/{pk}/jobs/several")
def set_several(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Set what several jobs need, whose they are, or leave them to next time."""
    let_in(request, who, pk, SetJobs.needs)
    need = Need(posted.text("need")) if posted.text("need") in set(Need) else None
    owner = None if posted.text("owner", "=") == "=" else posted.text("owner")
    under = None if posted.text("under", "=") == "=" else posted.text("under")
    command = SetJobs(
        posted.many("job"),
        need,
        owner,
        bool(posted.text("leave")),
        under,
        posted.text("place"),
        posted.words("reason", 200),
    )
    try:
        acted(request, who, pk, command)
    except RefitFaults as error:
        return _jobs(request, page_here(request, who, pk), {}, faults_of_form(error), status=422)
    return back_to(posted, f"/r/{pk}/jobs")


@router.post("/r/{pk}/jobs/paste")
def paste(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Own jobs from a list, one a line."""
    let_in(request, who, pk, PasteJobs.needs)
    text = posted.text("lines")[:40_000]
    need = Need(posted.text("need")) if posted.text("need") in set(Need) else Need.SHOULD
    try:
        acted(request, who, pk, PasteJobs(text, need, posted.text("place")))
    except RefitFaults as error:
        return _jobs(request, page_here(request, who, pk), {}, faults_of_form(error), text, 422)
    return on_to(f"/r/{pk}/jobs")


@router.post("/r/{pk}/jobs/{key}/last-day")
def last_day(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """What the job opens may be closed on the last day before the slings, by somebody's word; or no more."""
    let_in(request, who, pk, TakeLastDay.needs)
    why = posted.text("why")[:120].strip()
    if not why and not posted.text("again"):
        raise RefitFaults([Fault("why", "Say why it may be closed on the last day.")])
    acted(request, who, pk, TakeLastDay(key, who.name, why))
    return on_to(f"/r/{pk}/jobs/{key}")


@dataclass(frozen=True, slots=True)
class ToldTie:
    """A tie as a job's sheet tells it: what it is to the task shown, and its sentence."""

    link: Link
    sentence: str


def ties_of(refit: Refit, key: str) -> list[ToldTie]:
    """The ties that a task waits for and that wait for it."""

    def name(end: str) -> str:
        return f"the {end}" if end in (HAUL, LAUNCH) else f"“{end_title(refit, end)}”"

    out = []
    for link in refit.links:
        if key not in (link.first, link.then):
            continue
        lag = f" {link.min_lag:g} h{_unsure(link)}" if link.min_lag else ""
        if link.reading:
            dry = refit.is_dry(link)
            lag += ", over now: its readings are flat" if dry else ", or until its readings are flat"
        most = f", {link.max_lag:g} h at most" if link.max_lag is not None else ""
        verb = {
            "FS": ("after", "ends"),
            "SS": ("after", "begins"),
            "FF": ("ends after", "ends"),
            "SF": ("ends after", "begins"),
        }
        before, event = verb[link.kind.value]
        if link.then == key:
            out.append(ToldTie(link, f"{before}{lag} {name(link.first)} {event}{most}"))
        else:
            out.append(ToldTie(link, f"then{lag} {name(link.then)}{most}"))
    return out


def _unsure(link: Link) -> str:
    """How short and how long a wait may turn out."""
    if link.least_lag is None and link.most_lag is None:
        return ""
    least = link.min_lag if link.least_lag is None else link.least_lag
    most = link.min_lag if link.most_lag is None else link.most_lag
    return f" ({least:g} to {most:g})"


def _numbers_before(refit: Refit, job: Job) -> dict[str, list[int]]:
    """For each task of a job the numbers, in its list, of those it waits for: the list is one thing, the ties another."""
    number = {task.id: at for at, task in enumerate(job.tasks, 1)}
    out: dict[str, list[int]] = {task.id: [] for task in job.tasks}
    for link in refit.links:
        if link.then in number and link.first in number and link.kind in (LinkKind.FS, LinkKind.SS):
            out[link.then].append(number[link.first])
    return {key: sorted(found) for key, found in out.items()}


def _next_of(refit: Refit, job: Job) -> set[str]:
    """Tasks of a job that may be begun now as far as ties go: whatever each waits for is done, or begun where that is enough."""
    mine = {task.id: task for task in job.tasks if not task.begun_at}
    waits = set()
    for link in refit.links:
        first = refit.tasks.get(link.first)
        if link.then not in mine or first is None or link.kind not in (LinkKind.FS, LinkKind.SS):
            continue
        if (first.done_at if link.kind is LinkKind.FS else first.begun_at) is None:
            waits.add(link.then)
    return mine.keys() - waits


@router.get("/r/{pk}/jobs/{key}")
def one_job(request: Request, who: Who, pk: Pk, key: RecordId, task: str = "") -> Response:
    """A job's sheet: its tasks in order, their ties, times and why they lie there."""
    page = page_here(request, who, pk, aside=(Photo,), odds=True)
    job = next((job for job in page.refit.jobs if job.id == key), None)
    if job is None:
        raise NotFound("This job is gone; somebody removed it meanwhile.")
    ties = ties_at(page.refit)
    context = page.context(
        job=job,
        line=job_line(page, job),
        pieces=[job_line(page, one) for one in page.refit.jobs if one.under == job.id],
        head=next((one for one in page.refit.jobs if one.id == job.under), None),
        at=page.plan.by_task(),
        open=task,
        looked=acceptances(page.refit),
        trades=_trades_on(page, job),
        ties={item.id: ties_of(page.refit, item.id) for item in job.tasks},
        before=_numbers_before(page.refit, job),
        next=_next_of(page.refit, job),
        margins={key: margin_told(page.refit, key, by) for key, by in closed_by(page.refit, page.plan).items()},
        risky={item.id: better_ashore(page.refit, item) for item in job.tasks},
        why={item.id: why_held(page.refit, page.plan, item.id, ties) for item in job.tasks},
        dots=_may_be_over(page, job),
    )
    return render(request, "job.html", context)


def _may_be_over(page: Page, job: Job) -> Dots | None:
    """When a job may be over, as it was played last; None while nobody knows or nothing of it is left."""
    end, over = page.played.end_of.get(job.id) if page.played is not None else None, page.planned_end(job)
    return dots_of(end.dots, over, page.zone) if end is not None and end.dots and over is not None else None
