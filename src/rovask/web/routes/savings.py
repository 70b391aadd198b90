"""What can be saved: the most money for the least harm, each way taken as a decision."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.books.savings import INTERIM_HOURS, SavingKind, savings
from rovask.core.plan.explain.call_outs import call_outs_worked
from rovask.desk.commands.purse import DecideSaving
from rovask.web.acting import acted, back_to, let_in, refuse
from rovask.web.asking import Pk
from rovask.web.costly import worked_once
from rovask.web.page import page_here
from rovask.web.rendering import render
from rovask.web.routes.decide import interim_of
from rovask.web.security import Form, Who

router = APIRouter()


@router.get("/r/{pk}/purse/save")
def save(request: Request, who: Who, pk: Pk) -> Response:
    """What can be saved, ranked by money for the harm."""
    page = page_here(request, who, pk)
    rows = worked_once(
        page, "savings", lambda: call_outs_worked(page.refit, page.planned, savings(page.refit, page.plan))
    )
    return render(request, "savings.html", page.context(rows=rows, interim_hours=INTERIM_HOURS, tab="save"))


@router.post("/r/{pk}/purse/save")
def decide_saving(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Decide for one of them."""
    let_in(request, who, pk, DecideSaving.needs)
    try:
        kind = SavingKind(posted.text("kind"))
    except ValueError:
        raise refuse("Choose one of the ways on the list.", "kind") from None
    currency = page_here(request, who, pk).refit.currency
    try:
        hours, spent = interim_of(posted.text("hours"), posted.text("spent"), currency)
    except ValueError as error:
        raise refuse(f"The interim fix: {error}.", "hours") from None
    acted(request, who, pk, DecideSaving(kind, posted.text("key"), posted.words("reason", 200), hours, spent))
    return back_to(posted, f"/r/{pk}/purse/save")
