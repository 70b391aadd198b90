"""Odds: will we make it, what does it hang on, what helps most?"""

from __future__ import annotations

from datetime import datetime
from functools import partial
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.odds.odds import RUNS, odds_of
from rovask.core.odds.source import Sort
from rovask.core.odds.told import Odds, SourceTold
from rovask.core.plan.result import Plan
from rovask.core.refit import typed
from rovask.core.refit.model import Refit
from rovask.web.asking import Pk
from rovask.web.costly import worked_meanwhile
from rovask.web.odds_drawing import dots_of
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.security import Who

router = APIRouter()

ASKED_RUNS = 2_000  # of a slot that somebody asks about
MOST_SHOWN = 8
WORTH, HOURS_WORTH = 0.005, 2.0  # a look or a source that moves odds and hours by less is not told


def asked_of(refit: Refit, plan: Plan, slot: datetime) -> Odds:
    """How sure a launch at another moment is."""
    return odds_of(refit, plan, runs=ASKED_RUNS, slots=(slot,), looks=False, threads=1)


@router.get("/r/{pk}/odds")
def odds_page(request: Request, who: Who, pk: Pk, slot: str = "") -> Response:
    """How sure the launch is; slot: another one that is asked about, as typed."""
    page = page_here(request, who, pk, odds=True)
    asked, fault, waits = None, "", False
    if slot.strip():
        try:
            at = typed.moment(slot, page.zone, page.today)
            if at < page.now:
                fault = f"{slot} lies in the past; type a moment to come"
            else:
                found = worked_meanwhile(
                    page, f"odds at {at.isoformat()}", partial(asked_of, page.kept.refit, page.plan, at)
                )
                waits = found is None
                asked = next((one for one in found.slots if one.at == at), None) if found is not None else None
        except ValueError as error:
            fault = str(error)
    return render(
        request, "odds.html", page.context(**odds_context(page), asked=asked, fault=fault, typed_slot=slot, waits=waits)
    )


@router.get("/r/{pk}/odds/brief")
def odds_brief(request: Request, who: Who, pk: Pk) -> Response:
    """The same in a few lines, for a touch on the standing line."""
    page = page_here(request, who, pk, odds=True)
    found = page.played
    told = deciding(found) if found is not None and found.odds is not None else ()
    return render(request, "_odds_brief.html", page.context(found=found, deciding=told))


def odds_context(page: Page) -> dict[str, Any]:
    """What is told of the odds as they were played last."""
    found = page.played
    if found is None or found.odds is None:
        return {"found": found, "dots": None, "sources": (), "looks": (), "looked": False, "deciding": ()}
    return {
        "found": found,
        "dots": dots_of(found.dots, found.slot, page.zone),
        "sources": tuple(one for one in found.sources if tells(one)),
        "looks": tuple(
            one
            for one in found.looks
            if one.task in page.refit.tasks and ((one.low > 0 and one.gains >= WORTH) or one.hours >= HOURS_WORTH)
        ),
        "looked": found.runs >= RUNS,  # the first answer is without
        "deciding": deciding(found),
    }


def deciding(found: Odds) -> tuple[str, ...]:
    """The three things that decide it, in words."""
    return tuple(dict.fromkeys(one.title for one in found.sources if tells(one) and one.sort != Sort.REFIT))[:3]


def tells(one: SourceTold) -> bool:
    """Whether it is worth telling what a thing is worth."""
    return one.wins >= WORTH or one.hours >= HOURS_WORTH
