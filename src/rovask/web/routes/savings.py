"""What can be saved: the most money for the least harm, each way taken as a decision."""

from __future__ import annotations

from functools import partial

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.books.savings import INTERIM_HOURS, Saving, SavingKind, ranked, savings
from rovask.core.explain.savings_worked import ANSWERED, saving_worked
from rovask.core.plain.faults import refused
from rovask.desk.commands.purse import DecideSaving
from rovask.web.acting import acted, back_to, let_in
from rovask.web.asking import Pk
from rovask.web.costly import known, searched_meanwhile
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.routes.decide import interim_of
from rovask.web.security import Form, Who

router = APIRouter()


@router.get("/r/{pk}/purse/save")
def save(request: Request, who: Who, pk: Pk) -> Response:
    """What can be saved, ranked by money for the harm; settled: one way more that depends on the plan is searched."""
    page = page_here(request, who, pk)
    rows = _rows(page, settle=bool(request.query_params.get("settled")))
    context = page.context(
        rows=ranked(rows),
        left=[row for row in rows if row.kind in ANSWERED and not row.settled],
        useless=[row for row in rows if row.settled and row.money <= 0],
        interim_hours=INTERIM_HOURS,
        tab="save",
    )
    return render(request, "savings.html", context)


def _rows(page: Page, *, settle: bool) -> list[Saving]:
    rows = []
    for row in savings(page.refit, page.plan):
        worked = known(page, _name(row.kind, row.key)) or row
        if row.kind in ANSWERED and not worked.settled and settle:
            work = partial(saving_worked, page.refit, page.planned, row)
            worked = searched_meanwhile(page, _name(row.kind, row.key), work) or row
        rows.append(worked)
    return rows


def _name(kind: SavingKind, key: str) -> str:
    return f"saving {kind.value} {key}"


@router.post("/r/{pk}/purse/save")
def decide_saving(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Decide for one of them."""
    let_in(request, who, pk, DecideSaving.needs)
    try:
        kind = SavingKind(posted.text("kind"))
    except ValueError:
        raise refused("Choose one of the ways on the list.", "kind") from None
    page, key = page_here(request, who, pk), posted.text("key")
    try:
        hours, spent = interim_of(posted.text("hours"), posted.text("spent"), page.refit.currency)
    except ValueError as error:
        raise refused(f"The interim fix: {error}.", "hours") from None
    acted(
        request,
        who,
        pk,
        DecideSaving(kind, key, posted.words("reason", 200), hours, spent, known(page, _name(kind, key))),
    )
    return back_to(posted, f"/r/{pk}/purse/save")
