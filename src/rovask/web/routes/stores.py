"""Stores: what do we buy, what have we, where is it? For now every part with its order-by date."""

from __future__ import annotations

from datetime import datetime, timedelta

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from rovask.core.refit import edits
from rovask.core.refit.choices import PartStatus
from rovask.core.refit.faults import Fault, RefitFaults
from rovask.core.refit.model import Part, Refit
from rovask.core.refit.records import Kind
from rovask.store import refits
from rovask.store.database import transaction
from rovask.web.page import page_here
from rovask.web.rendering import render
from rovask.web.security import Form, Who, local_path, settings_of
from rovask.work.queue import ask_for_search

router = APIRouter()


@router.get("/r/{pk}/stores")
def stores(request: Request, who: Who, pk: int) -> Response:
    """Every part, most urgent first."""
    page = page_here(request, who, pk)
    return render(request, "stores.html", page.context())


@router.post("/r/{pk}/part/{key}/now")
def part_now(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """A parcel came, fits, or was ordered: one tap."""
    settings = settings_of(request)
    clock = settings.clock()
    status = PartStatus(posted.text("status")) if posted.text("status") in list(PartStatus) else PartStatus.ABOARD
    with transaction(settings.database_url) as session:
        now = refits.load(session, pk).now(clock).replace(microsecond=0)

        def edit(refit: Refit) -> Refit:
            part = refit.part_by_id.get(key)
            if part is None:
                raise RefitFaults([Fault("", "This part is gone; somebody removed it meanwhile.")])
            return edits.put(refit, Kind.PART, moved_on(part, status, now))

        words = {"aboard": "received", "checked": "found to fit", "ordered": "ordered", "needed": "to be ordered"}
        part = refits.load(session, pk).refit.part_by_id.get(key)
        told = f"{part.name if part else 'part'}: {words[status.value]}"
        refits.change(session, pk, edit, who=who.account, what=told, clock=clock)
    ask_for_search(settings.database_url, pk)
    return RedirectResponse(local_path(posted.text("next"), f"/r/{pk}/stores"), status_code=303)


def moved_on(part: Part, status: PartStatus, now: datetime) -> Part:
    """The part one step further, at ``now``; one ordered now is expected after its lead time."""
    arrives = part.arrives
    if status is PartStatus.ORDERED:
        arrives = now + timedelta(days=part.lead_days)
    elif status in (PartStatus.ABOARD, PartStatus.CHECKED) and (arrives is None or arrives > now):
        arrives = now
    return Part.model_validate(part.model_dump() | {"status": status, "arrives": arrives})
