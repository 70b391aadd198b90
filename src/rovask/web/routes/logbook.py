"""Log: what happened. Searched and filtered; since one was away; how a job came apart; every change, with undo."""

from __future__ import annotations

from datetime import UTC, datetime, time, timedelta

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.explain.effects import effect_of
from rovask.core.readings.standings import is_back
from rovask.core.refit import typed
from rovask.core.refit.model import Decision, Photo
from rovask.core.reports.handover import handover
from rovask.core.reports.log_lines import LineKind, Wanted, log_lines
from rovask.store import odds
from rovask.store.errors import NotFound
from rovask.store.history import ChangeEntry, changes_around, history
from rovask.store.plans import planned_then
from rovask.web.asking import Pk, RecordId, desk_of
from rovask.web.effect_words import money_told
from rovask.web.moved_money import REST, moved_money
from rovask.web.odds_words import moves_by_change
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.security import Who

router = APIRouter()

MOST_LINES = 200
A_WEEK = timedelta(days=7)


@router.get("/r/{pk}/log")
def log(
    request: Request, who: Who, pk: Pk, text: str = "", person: str = "", job: str = "", place: str = "", kind: str = ""
) -> Response:
    """Every change: who, when, what, what it did, and taking it back; or, asked for, what happened, line by line."""
    wanted = Wanted(text[:120], person, job, place, kind)
    page = page_here(request, who, pk, aside=(Decision, Photo) if wanted.any else ())
    lines = log_lines(page.refit, wanted, page.aside["decision"], page.aside["photo"]) if wanted.any else []
    shown = []
    if not wanted.any:
        with desk_of(request).looking() as session:
            entries, by_change = history(session, pk), moves_by_change(odds.line(session, pk))
        shown = [
            (entry, *effect_of(entry.before, entry.after), money_told(entry.effect), by_change.get(entry.pk, 0))
            for entry in entries
        ]
    context = page.context(
        entries=shown,
        wanted=wanted,
        lines=lines[:MOST_LINES],
        more=max(len(lines) - MOST_LINES, 0),
        kinds=list(LineKind),
    )
    return render(request, "log.html", context)


@router.get("/r/{pk}/since")
def since(request: Request, who: Who, pk: Pk, since: str = "") -> Response:
    """Since I was away: from a day, or from one's own last visit."""
    page = page_here(request, who, pk, aside=(Decision,))
    fault = ""
    try:
        day = typed.day(since) if since else None
    except ValueError as error:
        day, fault = None, str(error)
    begins = datetime.combine(day, time(0), tzinfo=page.zone) if day is not None else _last_here(page)
    with desk_of(request).looking() as session:
        changes, earlier = changes_around(session, pk, begins - page.kept.clock_shift)
        was = planned_then(session, pk, begins.astimezone(page.zone).date(), begins)
    told = handover(page.refit, page.planned, page.needs, begins, page.aside["decision"], was, page.person)
    effect, tone = _launch_then(changes, page)
    context = page.context(
        told=told,
        changes=changes,
        effect=effect,
        tone=tone,
        money=moved_money(page.forecast.total, changes, earlier),
        rest_words=REST,
        typed_since=since,
        fault=fault,
        own=day is None,
    )
    return render(request, "since.html", context, 422 if fault else 200)


def _last_here(page: Page) -> datetime:
    """When whoever looks was here before this visit; a week ago where nobody knows."""
    before = page.who.visit_before
    return page.kept.now(before) if before is not None else (page.now - A_WEEK).astimezone(UTC)


def _launch_then(changes: list[ChangeEntry], page: Page) -> tuple[str, str]:
    """What became of the launch since: the verdict before the first change beside that of now."""
    first = next((one.before for one in reversed(changes) if one.before is not None), None)
    return effect_of(first, page.verdict) if first is not None else ("", "")


@router.get("/r/{pk}/jobs/{key}/apart")
def apart(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """How a job came apart: photos in order, bags, and where each thing lies."""
    page = page_here(request, who, pk, aside=(Photo,))
    job = next((one for one in page.refit.jobs if one.id == key), None)
    if job is None:
        raise NotFound("This job is gone; somebody removed it meanwhile.")
    mine = {task.id for task in job.tasks}
    far = page.now + timedelta(days=9999)
    things = sorted(
        (one for one in page.refit.off_boat if one.off_task in mine or one.back_task in mine),
        key=lambda one: (one.off_at or far, one.id),
    )
    findings = [one for one in page.refit.findings if key in one.jobs and one.photos]
    checks = [one for one in page.refit.checks if one.task in mine and one.photos]
    taken = {photo for thing in things for photo in thing.photos}
    taken |= {photo for finding in findings for photo in finding.photos}
    taken |= {photo for check in checks for photo in check.photos}
    pictures = sorted((photo for photo in taken if photo in page.photos), key=lambda photo: page.photos[photo].at)
    context = page.context(
        job=job, things=things, back={one.id: is_back(page.refit, one) for one in things}, pictures=pictures
    )
    return render(request, "apart.html", context)
