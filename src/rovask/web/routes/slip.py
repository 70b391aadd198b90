"""Slip: where does everything fall?"""

from __future__ import annotations

from datetime import timedelta

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.plan.moves import moved_near, moves
from rovask.core.plan.result import Plan
from rovask.core.plan.why import holds
from rovask.store.database import transaction
from rovask.store.refits import plan_before
from rovask.web.assets import chart_style
from rovask.web.page import Page, open_page, page_here
from rovask.web.rendering import render, templates
from rovask.web.security import Who, settings_of
from rovask.web.slip.chart import View, draw, whole_view
from rovask.web.slip.marks import Chart
from rovask.web.spelling import moment_text

router = APIRouter()

SPANS = {"whole": 0, "fortnight": 14, "week": 7, "day": 1}
PHONE_DAYS = 4


def view_for(page: Page, span: str, start: int, width: float) -> View:
    """The days that are shown: the whole haul-out, or ``start`` days from today on."""
    whole = whole_view(page.refit, page.plan, width)
    days = SPANS.get(span, 0)
    if not days:
        return whole
    today = page.now.astimezone(page.zone).date()
    first = min(max(today + timedelta(days=start), whole.first - timedelta(days=7)), whole.last)
    return View(first, first + timedelta(days=days - 1), width)


def chart_for(page: Page, view: View, before: Plan | None) -> Chart:
    """The chart of one view."""
    return draw(page.refit, page.plan, page.verdict, page.now, view, before)


@router.get("/r/{pk}/slip")
def slip(
    request: Request,
    who: Who,
    pk: int,
    span: str = "whole",
    start: int = 0,
    task: str = "",
    person: str = "",
    job: str = "",
    place: str = "",
) -> Response:
    """The plan chart, and what is known of the task chosen on it."""
    settings = settings_of(request)
    with transaction(settings.database_url) as session:
        page = open_page(session, who, pk, settings.clock())
        before = plan_before(session, page.kept) if page.note or page.replaced else None
    start = max(min(start, 400), -400)
    view = view_for(page, span, start, 1240.0)
    view = View(view.first, view.last, view.width, view.label_width, person, job, place)
    today = page.now.astimezone(page.zone).date()
    phone_from = today + timedelta(days=start)
    phone = View(phone_from, phone_from + timedelta(days=PHONE_DAYS - 1), 720.0, 112.0, person, job, place)
    chosen = page.refit.tasks.get(task)
    item = page.plan.by_task().get(task)
    context = page.context(
        chart=chart_for(page, view, before),
        phone=chart_for(page, phone, before),
        span=span,
        start=start,
        chosen=chosen,
        item=item,
        person=person,
        job=job,
        place=place,
        why=holds(page.refit, page.plan, task) if chosen else [],
        chosen_job=page.refit.job_of.get(task),
        pin_text=moment_text(item.start, page.zone) if item else "",
        spare=page.verdict.spare_by_task.get(task),
        spans=list(SPANS),
        search=page.search,
        moved=moves(page.refit, before, page.plan) if before else [],
        near=moved_near(page.refit, before, page.plan) if before else (0, 0),
        proposed=moves(page.refit, page.plan, page.proposal.plan) if page.proposal else [],
    )
    return render(request, "slip.html", context)


@router.get("/r/{pk}/slip.svg")
def slip_svg(
    request: Request,
    who: Who,
    pk: int,
    span: str = "whole",
    start: int = 0,
    person: str = "",
    job: str = "",
    place: str = "",
) -> Response:
    """The chart alone as an SVG file with its styles in it, to keep, print or send."""
    page = page_here(request, who, pk)
    view = view_for(page, span, max(min(start, 400), -400), 1240.0)
    view = View(view.first, view.last, view.width, view.label_width, person, job, place)
    context = {"chart": chart_for(page, view, None), "refit": page.refit, "style": chart_style()}
    text = templates.get_template("slip_file.svg").render(context)
    name = f"slip-{page.now.astimezone(page.zone):%Y-%m-%d}.svg"
    headers = {"Content-Disposition": f'attachment; filename="{name}"', "Cache-Control": "no-store"}
    return Response(text, media_type="image/svg+xml", headers=headers)
