"""Yard: the givens. Boat, yard, people and hours, places, money, appointments; and the log of changes."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.store.database import transaction
from rovask.store.refits import history
from rovask.web.page import effect_of, open_page, page_here
from rovask.web.rendering import render
from rovask.web.security import Who, settings_of
from rovask.web.spelling import ranges_text, rules_text, shifts_text

router = APIRouter()


@router.get("/r/{pk}/yard")
def yard(request: Request, who: Who, pk: int) -> Response:
    """Everything the plan takes as given."""
    page = page_here(request, who, pk)
    return render(
        request, "yard.html", page.context(shifts_text=shifts_text, ranges_text=ranges_text, rules_text=rules_text)
    )


@router.get("/r/{pk}/log")
def log(request: Request, who: Who, pk: int) -> Response:
    """Every change: who, when, what, and what it did to the launch."""
    settings = settings_of(request)
    with transaction(settings.database_url) as session:
        page = open_page(session, who, pk, settings.clock())
        entries = history(session, pk)
    shown = [(entry, *effect_of(entry.before, entry.after)) for entry in entries]
    return render(request, "log.html", page.context(entries=shown))
