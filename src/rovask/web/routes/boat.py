"""Boat: what is going on where? Her drawing, her places, and what was found, is off or is not known."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.readings.standings import Standing, off_now, place_of_off, standings
from rovask.core.refit.givens.choices import Which
from rovask.web.asking import Pk
from rovask.web.boat.drawing import draw, open_findings
from rovask.web.page import page_here
from rovask.web.rendering import render
from rovask.web.security import Who

router = APIRouter()

WIDTH, WHOLE_WIDTH = 820.0, 300.0
SIDES = (Which.PORT, Which.MIDDLE, Which.STARBOARD)  # hulls and what is in them; masts are both drawn


@router.get("/r/{pk}/boat")
def boat(request: Request, who: Who, pk: Pk, place: str = "", whole: str = "", side: str = "") -> Response:
    """The drawing, and beside it the place that was chosen or what is open altogether."""
    page = page_here(request, who, pk)
    refit = page.refit
    stands = standings(refit, page.now)
    chosen = refit.place_by_id.get(place)
    sides = [one for one in SIDES if any(there.which is one for there in refit.places)]
    asked = next((one for one in sides if one.value == side), None)
    shown = asked or (chosen.which if chosen is not None and chosen.which in sides else None) or next(iter(sides), None)
    off = [(item, place_of_off(refit, item)) for item in off_now(refit)]
    context = page.context(
        drawing=draw(refit, stands, WIDTH, whole=bool(whole), side=shown),
        sides=sides,
        shown=shown,
        small=draw(refit, stands, WHOLE_WIDTH, whole=True),
        whole=bool(whole),
        stands=stands,
        chosen=chosen,
        findings=open_findings(refit),
        off=off,
        at=page.plan.by_task(),
        legend=[one for one in Standing if any(stand.standing is one for stand in stands.values())],
        unknowns=[one for one in refit.unknowns if one.state == "open"],
    )
    return render(request, "boat.html", context)
