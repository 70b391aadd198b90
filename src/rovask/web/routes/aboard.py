"""Living aboard: which services are out on which day, since when and until when, and where nobody can sleep."""

from __future__ import annotations

from functools import partial

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.explain.opened_early import opened_early
from rovask.core.plain.money import Money
from rovask.core.plan.verdict.services import by_day, outages, said_of_being_ashore
from rovask.core.readings.prices import prices_of
from rovask.web.asking import Pk
from rovask.web.costly import worked_meanwhile
from rovask.web.page import page_here
from rovask.web.rendering import render
from rovask.web.security import Who

router = APIRouter()


@router.get("/r/{pk}/aboard")
def aboard(request: Request, who: Who, pk: Pk) -> Response:
    """The table by day and service, from today on, and every outage with its limit."""
    page = page_here(request, who, pk)
    today = page.now.astimezone(page.zone).date()
    days = [one for one in by_day(page.refit, page.plan) if one.day >= today]
    rows = [one for one in outages(page.refit, page.plan) if one.ends is None or one.ends > page.now]
    services = list(dict.fromkeys(one.service for day in days for one in day.out))
    price = Money(prices_of(page.refit).night_ashore, page.refit.currency)
    nights = len({night.day for day in days for night in day.nights})
    early = worked_meanwhile(page, "opened early", partial(opened_early, page.refit, page.plan))
    context = page.context(
        early=early or [],
        waits=early is None,
        worth=Money(prices_of(page.refit).service_day, page.refit.currency),
        days=days,
        rows=rows,
        services=services,
        night=price,
        nights=nights,
        cost=price.times(nights),
        said=said_of_being_ashore(page.refit.boat) if page.now < page.plan.launch else [],
    )
    return render(request, "aboard.html", context)
