"""Progress: days gained or lost against a plan that was kept, the work left beside the days left, and everybody's true pace."""

from __future__ import annotations

from datetime import timedelta

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.books.pace import paces, with_paces
from rovask.core.plan.progress import progress, work_left
from rovask.core.refit.model import Baseline, Refit
from rovask.desk.commands.days import KeepBaseline, UsePaces
from rovask.desk.commands.recipes import LearnRecipe
from rovask.store import odds
from rovask.store.history import history
from rovask.web.acting import acted, on_to, ran
from rovask.web.asking import Pk, RecordId, desk_of
from rovask.web.heap_drawing import heap_of
from rovask.web.odds_drawing import line_of
from rovask.web.odds_words import odds_moves
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.security import Form, Posted, Who

router = APIRouter()

WEEK = 7
SIGN = "|"  # between a person and a kind of work in the form


@router.get("/r/{pk}/progress")
def progress_page(request: Request, who: Who, pk: Pk, baseline: str = "") -> Response:
    """Against one baseline, the newest unless another is chosen."""
    page = page_here(request, who, pk, aside=(Baseline,))
    kept = sorted(page.aside["baseline"], key=lambda one: one.at)
    chosen = next((one for one in kept if one.id == baseline), kept[0] if kept else None)
    refit, zone = page.refit, page.zone
    rows = work_left(refit, page.planned, chosen)
    today, launch = page.now.astimezone(zone).date(), refit.launch_at.astimezone(zone).date()
    with desk_of(request).looking() as session:
        rows_of_odds = odds.line(session, pk)
        told = {entry.pk: entry.what for entry in history(session, pk)}
    learned = paces(refit)
    factors = {(one.person, one.work): one.factor for one in learned}
    left = next((row.left for row in rows if row.day == today), 0.0)
    context = page.context(
        kept=kept,
        chosen=chosen,
        against=progress(page.kept.refit, page.planned, chosen) if chosen is not None else None,
        heap=heap_of(rows, today, launch),
        left=left,
        hoped=next((row.hoped for row in rows if row.day == today), None),
        days=max((launch - today).days, 0),
        lately=_lately(page),
        paces=learned,
        others=with_paces(refit, page.plan, factors),
        paced=[task for task in refit.tasks.values() if task.paced != 1],
        recipes=_learnable(refit),
        odds_line=line_of(rows_of_odds, zone),
        odds_moves=odds_moves(rows_of_odds, told),
    )
    return render(request, "progress.html", context)


def _lately(page: Page) -> float:
    """Person-hours logged a day over the last week."""
    since = page.now - timedelta(days=WEEK)
    return sum(entry.hours for entry in page.refit.hours_log if since <= entry.at <= page.now) / WEEK


def _learnable(refit: Refit) -> list[tuple[str, str]]:
    """Jobs of a recipe that are done, with hours logged: what their recipe could learn from."""
    return [
        (job.id, job.title)
        for job in refit.jobs
        if job.recipe and job.tasks and all(task.done_at for task in job.tasks)
        if any(task.id in refit.logged for task in job.tasks)
    ]


@router.post("/r/{pk}/progress/keep")
def keep(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Keep the present plan to measure by."""
    acted(request, who, pk, KeepBaseline(posted.words("title", 120), posted.words("why", 200)))
    return on_to(f"/r/{pk}/progress")


@router.post("/r/{pk}/progress/paces")
def take_paces(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """What is left goes by the paces that are ticked."""
    acted(request, who, pk, UsePaces(_chosen(posted)))
    return on_to(f"/r/{pk}/progress#pace")


def _chosen(posted: Posted) -> tuple[tuple[str, str], ...]:
    rows = (value.partition(SIGN) for value in posted.many("pace"))
    return tuple((person, work) for person, sign, work in rows if sign)


@router.post("/r/{pk}/jobs/{key}/learn")
def learn(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Keep the recipe of a job as one's own, with what was learned."""
    made = ran(request, who, LearnRecipe(key), pk)
    return on_to(f"/r/{pk}/recipes/{made}")
