"""Slip: where does everything fall?"""

from __future__ import annotations

from datetime import date, timedelta
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response
from markupsafe import Markup
from pydantic import BaseModel, Field, field_validator

from rovask.core.explain.gains import gains
from rovask.core.explain.moves import matter_first, moved_near, moves
from rovask.core.explain.why import why_held
from rovask.core.plain.derived import derived
from rovask.core.plan.result import Plan
from rovask.core.refit import typed
from rovask.web.asking import Pk
from rovask.web.assets import chart_style
from rovask.web.odds_drawing import Dots, dots_of
from rovask.web.page import Page, page_here
from rovask.web.rendering import render, templates
from rovask.web.security import Who
from rovask.web.slip.chances import MayFall
from rovask.web.slip.chart import draw
from rovask.web.slip.marks import Chart
from rovask.web.slip.view import View, whole_view
from rovask.web.spelling import moment_text

router = APIRouter()

SPANS = {"whole": 0, "fortnight": 14, "week": 7, "day": 1}
MOST_DAYS_OFF = 400
WIDTH = 1240.0
PHONE_DAYS, PHONE_WIDTH, PHONE_LABELS = 4, 720.0, 112.0


class Asked(BaseModel):
    """What the address asks of the chart: how much of it, from which day from today on, and whose blocks alone."""

    span: str = "whole"
    start: int = Field(default=0, ge=-MOST_DAYS_OFF, le=MOST_DAYS_OFF)
    task: str = ""
    person: str = ""
    job: str = ""
    place: str = ""

    @field_validator("start", mode="before")
    @classmethod
    def _near(cls, value: object) -> object:
        """A day far off is the farthest there is, and no day is today: an address typed by hand is not an error."""
        try:
            return max(min(typed.whole(str(value)), MOST_DAYS_OFF), -MOST_DAYS_OFF)
        except ValueError:
            return 0

    def view(self, page: Page) -> View:
        """The days that are shown: the whole haul-out, or ``start`` days from today on."""
        whole = whole_view(page.refit, page.plan, WIDTH)
        first, last = whole.first, whole.last
        if days := SPANS.get(self.span, 0):
            first = min(max(self._from(page), whole.first - timedelta(days=7)), whole.last)
            last = first + timedelta(days=days - 1)
        return View(first, last, WIDTH, whole.label_width, self.person, self.job, self.place)

    def phone_view(self, page: Page) -> View:
        """A few days, as many as fit the hand."""
        first = self._from(page)
        last = first + timedelta(days=PHONE_DAYS - 1)
        return View(first, last, PHONE_WIDTH, PHONE_LABELS, self.person, self.job, self.place)

    def _from(self, page: Page) -> date:
        return page.now.astimezone(page.zone).date() + timedelta(days=self.start)


def chart_for(page: Page, view: View, before: Plan | None, job: str = "") -> Chart:
    """The chart of one view, as of the last five minutes; one that was drawn of the same plan is shown again."""
    now = page.now.replace(minute=page.now.minute // 5 * 5, second=0, microsecond=0)
    return _drawn(page.refit, page.plan, page.verdict, now, view, before, may_fall(page, job))


def may_fall(page: Page, job: str) -> tuple[MayFall, ...]:
    """When she may float, and when a job may be over, as it was played last; empty while nobody knows."""
    played = page.played
    if played is None or played.odds is None or page.odds_old:
        return ()
    found = [MayFall("may float", played.dots, played.slot, "When she may float")]
    chosen, end = next((one for one in page.refit.jobs if one.id == job), None), played.end_of.get(job)
    over = page.planned_end(chosen) if chosen is not None else None
    if chosen is not None and end is not None and over is not None:
        found.append(MayFall("may be over", end.dots, over, f"When “{chosen.title}” may be over", of_job=True))
    return tuple(found)


_drawn = derived(of=1, beside=6)(draw)


@derived(beside=4)
def shown_once(chart: Chart, label: str, chosen: str, link: str, root: str, uid: str) -> Markup:
    """The markup of a chart; of the same chart, chosen block and links it is written once."""
    module = templates.env.get_template("_slip.svg.html").module
    return Markup(module.chart_svg(chart, label, chosen, link, root, uid))  # type: ignore[attr-defined]


templates.env.globals["chart_svg"] = shown_once


def launch_dots(page: Page) -> Dots | None:
    """Where the launch may fall, as it was played last; None while nobody knows."""
    played = page.played
    return dots_of(played.dots, played.slot, page.zone) if played is not None and played.odds is not None else None


@router.get("/r/{pk}/slip")
def slip(request: Request, who: Who, pk: Pk, asked: Annotated[Asked, Query()]) -> Response:
    """The plan chart, and what is known of the task chosen on it."""
    page = page_here(request, who, pk, before=True, odds=True)
    before = page.before
    task = asked.task
    chosen = page.refit.tasks.get(task)
    item = page.plan.by_task().get(task)
    of_job = page.refit.job_of[task].id if task in page.refit.job_of else asked.job
    context = page.context(
        chart=chart_for(page, asked.view(page), before, of_job),
        phone=chart_for(page, asked.phone_view(page), before, of_job),
        span=asked.span,
        start=asked.start,
        chosen=chosen,
        item=item,
        person=asked.person,
        job=asked.job,
        place=asked.place,
        why=why_held(page.refit, page.plan, task) if chosen else [],
        chosen_job=page.refit.job_of.get(task),
        pin_text=moment_text(item.start, page.zone) if item else "",
        spare=page.verdict.spare_by_task.get(task),
        spans=list(SPANS),
        dots=launch_dots(page),
        search=page.search,
        moved=matter_first(page.refit, page.verdict, moves(page.refit, before, page.plan)) if before else [],
        near=moved_near(page.refit, before, page.plan) if before else (0, 0),
        proposed=moves(page.refit, page.plan, page.proposal.plan) if page.proposal else [],
        proposed_near=moved_near(page.refit, page.plan, page.proposal.plan) if page.proposal else (0, 0),
        gained=gains(page.refit, page.plan, page.proposal.plan) if page.proposal else [],
        gained_so_far=gains(page.refit, page.replaced.plan, page.plan) if page.replaced else [],
    )
    return render(request, "slip.html", context)


@router.get("/r/{pk}/slip.svg")
def slip_svg(request: Request, who: Who, pk: Pk, asked: Annotated[Asked, Query()]) -> Response:
    """The chart alone as an SVG file with its styles in it, to keep, print or send."""
    page = page_here(request, who, pk, odds=True)
    context = {"chart": chart_for(page, asked.view(page), None, asked.job), "refit": page.refit, "style": chart_style()}
    text = templates.get_template("slip_file.svg").render(context)
    name = f"slip-{page.now.astimezone(page.zone):%Y-%m-%d}.svg"
    headers = {"Content-Disposition": f'attachment; filename="{name}"', "Cache-Control": "no-store"}
    return Response(text, media_type="image/svg+xml", headers=headers)
