"""Something comes at a fixed time, and what is done while it is there."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.plain.faults import RefitFaults
from rovask.core.refit import typed
from rovask.desk.commands.comes import ComesAt
from rovask.desk.rights import Right
from rovask.web.acting import acted, faults_of_form, let_in, on_to
from rovask.web.asking import Pk
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.routes.task import read
from rovask.web.security import Form, Who

router = APIRouter()


@router.get("/r/{pk}/comes")
def form(request: Request, who: Who, pk: Pk) -> Response:
    """A form for a crane, a lift or a surveyor."""
    return _form(request, page_here(request, who, pk, Right.WORK), {}, {})


def _form(
    request: Request, page: Page, was: dict[str, str], faults: dict[str, list[str]], status: int = 200
) -> Response:
    open_ = [(job, task) for job, task in page.refit.walk() if task.begun_at is None]
    return render(request, "comes.html", page.context(was=was, faults=faults, open_tasks=open_), status)


@router.post("/r/{pk}/comes")
def come(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Noted, with its task."""
    let_in(request, who, pk, ComesAt.needs)
    page = page_here(request, who, pk)
    try:
        command = ComesAt(
            posted.words("title", 100),
            read(lambda text: typed.moment(text, page.zone, page.today), posted, "at"),
            read(lambda text: typed.hours(text or "2"), posted, "hours"),
            tuple(posted.many("people")),
            posted.text("place"),
            posted.text("task"),
        )
        done = acted(request, who, pk, command)
    except RefitFaults as error:
        was = {name: posted.text(name) for name in ("title", "at", "hours", "place", "task")}
        was["people"] = " ".join(posted.many("people"))
        return _form(request, page_here(request, who, pk), was, faults_of_form(error), 422)
    return on_to(f"/r/{pk}/before/{done.made}")
