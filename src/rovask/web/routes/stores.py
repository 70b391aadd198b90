"""Stores: what do we buy, what have we, where is it? For now every part with its order-by date."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.refit.choices import PartStatus
from rovask.desk.commands.parts import MissPart, MovePartOn
from rovask.web.acting import acted, back_to, let_in, refuse
from rovask.web.asking import Pk, RecordId
from rovask.web.page import page_here
from rovask.web.rendering import render
from rovask.web.security import Form, Who

router = APIRouter()


@router.get("/r/{pk}/stores")
def stores(request: Request, who: Who, pk: Pk) -> Response:
    """Every part, most urgent first."""
    page = page_here(request, who, pk)
    return render(request, "stores.html", page.context())


@router.post("/r/{pk}/part/{key}/now")
def part_now(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """A parcel came, fits, or was ordered: one tap."""
    let_in(request, who, pk, MovePartOn.needs)
    try:
        status = PartStatus(posted.text("status"))
    except ValueError:
        raise refuse("Say what became of it: ordered, received, or tried and fits.", "status") from None
    acted(request, who, pk, MovePartOn(key, status))
    return back_to(posted, f"/r/{pk}/stores")


@router.post("/r/{pk}/part/{key}/missing")
def part_missing(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """A part can't be found, or is found again."""
    acted(request, who, pk, MissPart(key, posted.text("way") != "found"))
    return back_to(posted, f"/r/{pk}/stores")
