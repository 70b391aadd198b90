"""Jobs: what is the work? The list, and a job's own sheet."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.plan.explain.why import why_held
from rovask.core.plan.problem.ties import ties_of as ties_at
from rovask.core.refit.choices import LinkKind
from rovask.core.refit.model import Job, Link, Refit
from rovask.store.errors import NotFound
from rovask.web.asking import Pk, RecordId
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.security import Who

router = APIRouter()


@dataclass(frozen=True, slots=True)
class JobLine:
    """A job in the list: how far it is and how much it can slip. Hours count all hands."""

    job: Job
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
    total = sum(task.work.likely * task.units * task.hands for task in job.tasks)
    left = sum(refit.hours_to_do(task) * task.hands for task in job.tasks)
    spares = [verdict.spare_by_task[task.id] for task in job.tasks if task.id in verdict.spare_by_task]
    places = dict.fromkeys(refit.place_by_id[task.place].name for task in job.tasks)
    return JobLine(
        job,
        sum(task.done_at is not None for task in job.tasks),
        max(total - left, 0),
        total,
        min(spares) if spares else None,
        job.id in page.plan.left_out,
        any(task.id in page.plan.unplanned for task in job.tasks),
        any(task.id in verdict.driving for task in job.tasks),
        ", ".join(list(places)[:2]),
    )


@router.get("/r/{pk}/jobs")
def all_jobs(request: Request, who: Who, pk: Pk) -> Response:
    """Every job in the sailor's order."""
    page = page_here(request, who, pk)
    lines = [job_line(page, job) for job in page.refit.jobs]
    return render(request, "jobs.html", page.context(lines=lines))


@dataclass(frozen=True, slots=True)
class ToldTie:
    """A tie as a job's sheet tells it: what it is to the task shown, and its sentence."""

    link: Link
    sentence: str


def ties_of(refit: Refit, key: str) -> list[ToldTie]:
    """The ties that a task waits for and that wait for it."""

    def name(end: str) -> str:
        return f"“{refit.tasks[end].title}”" if end in refit.tasks else f"the {end}"

    out = []
    for link in refit.links:
        if key not in (link.first, link.then):
            continue
        lag = f" {link.min_lag:g} h" if link.min_lag else ""
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


def _numbers_before(refit: Refit, job: Job) -> dict[str, list[int]]:
    """For each task of a job the numbers, in its list, of those it waits for: the list is one thing, the ties another."""
    number = {task.id: at for at, task in enumerate(job.tasks, 1)}
    out: dict[str, list[int]] = {task.id: [] for task in job.tasks}
    for link in refit.links:
        if link.then in number and link.first in number and link.kind in (LinkKind.FS, LinkKind.SS):
            out[link.then].append(number[link.first])
    return {key: sorted(found) for key, found in out.items()}


@router.get("/r/{pk}/jobs/{key}")
def one_job(request: Request, who: Who, pk: Pk, key: RecordId, task: str = "") -> Response:
    """A job's sheet: its tasks in order, their ties, times and why they lie there."""
    page = page_here(request, who, pk)
    job = next((job for job in page.refit.jobs if job.id == key), None)
    if job is None:
        raise NotFound("This job is gone; somebody removed it meanwhile.")
    ties = ties_at(page.refit)
    context = page.context(
        job=job,
        line=job_line(page, job),
        at=page.plan.by_task(),
        open=task,
        ties={item.id: ties_of(page.refit, item.id) for item in job.tasks},
        before=_numbers_before(page.refit, job),
        why={item.id: why_held(page.refit, page.plan, item.id, ties) for item in job.tasks},
    )
    return render(request, "job.html", context)
