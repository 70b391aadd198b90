"""Before this: all that must be done before a fixed time, with the spare to it, and what would be late and why."""

from __future__ import annotations

from functools import partial

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.explain.why import why_held
from rovask.core.plan.verdict.verdict import before_this, fixed_at
from rovask.core.refit.work.kinds import LAUNCH
from rovask.store.errors import NotFound
from rovask.web.asking import Pk, RecordId
from rovask.web.costly import worked_once
from rovask.web.page import page_here
from rovask.web.rendering import render
from rovask.web.security import Who

router = APIRouter()


@router.get("/r/{pk}/before/{key}")
def before(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """What must be done before the launch, or before a task."""
    page = page_here(request, who, pk)
    meeting = next((one for one in page.refit.appointments if one.id == key), None)
    if key != LAUNCH and key not in page.refit.tasks and meeting is None:
        raise NotFound("This task is gone; somebody removed it meanwhile.")
    there = fixed_at(page.refit, page.plan, key) is not None
    rows = (
        worked_once(page, f"before {key}", partial(before_this, page.refit, page.plan, key, page.verdict))
        if there
        else []
    )
    late = next((one for one in rows if one.late), None)
    context = page.context(
        key=key,
        what=page.refit.tasks.get(key) or meeting,
        meeting=meeting,
        when=fixed_at(page.refit, page.plan, key),
        at=page.plan.by_task(),
        rows=rows,
        there=there,
        late=late,
        why=why_held(page.refit, page.plan, late.task) if late is not None else [],
    )
    return render(request, "before.html", context)
