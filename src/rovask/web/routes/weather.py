"""The weather: fetch it from the service, bring it in from a file, or say that it rains."""

from __future__ import annotations

from collections.abc import Callable

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response
from starlette.datastructures import UploadFile

from rovask.core.refit.edits import rebuilt
from rovask.core.refit.faults import Fault, RefitFaults
from rovask.core.refit.model import Refit
from rovask.core.refit.sky_edits import said_rain
from rovask.core.refit.weather import Weather
from rovask.formats.weather_csv import read_weather
from rovask.store import refits
from rovask.store.database import transaction
from rovask.web.page import page_here
from rovask.web.security import Form, Posted, Who, local_path, settings_of
from rovask.work.queue import ask_for_search
from rovask.work.weather import WeatherAway, fetch_weather

router = APIRouter()


def _keep(
    request: Request, who: Who, posted: Posted, pk: int, told: str, weather: Callable[[Refit], Weather]
) -> Response:
    settings = settings_of(request)
    with transaction(settings.database_url) as session:
        refits.change(
            session,
            pk,
            lambda refit: rebuilt(refit, weather=weather(refit)),
            who=who.account,
            what=told,
            clock=settings.clock(),
        )
    ask_for_search(settings.database_url, pk)
    return RedirectResponse(local_path(posted.text("next"), f"/r/{pk}/yard#weather"), status_code=303)


@router.post("/r/{pk}/weather/fetch")
def fetch(request: Request, who: Who, posted: Form, pk: int) -> Response:
    """Ask the weather service; what was known before stands when it doesn't answer."""
    url = settings_of(request).weather_url
    page = page_here(request, who, pk)
    yard = page.refit.yard
    if not url:
        raise RefitFaults([Fault("", "No weather service is set (ROVASK_WEATHER_URL); bring a forecast in as a file.")])
    if yard.latitude is None or yard.longitude is None:
        raise RefitFaults([Fault("", "Say where the yard lies first: latitude and longitude, under Yard.")])
    try:
        found = fetch_weather(url, yard.latitude, yard.longitude, page.now)
    except WeatherAway as error:
        raise RefitFaults([Fault("", str(error))]) from None
    return _keep(request, who, posted, pk, "fetched the weather", lambda refit: found)


@router.post("/r/{pk}/weather/file")
def bring_in(request: Request, who: Who, posted: Form, pk: int) -> Response:
    """A forecast as CSV."""
    page = page_here(request, who, pk)
    file = posted.form.get("file")
    if not isinstance(file, UploadFile) or not file.filename:
        raise RefitFaults([Fault("", "Choose a file first.")])
    content, name = file.file.read(), file.filename
    found = read_weather(content, page.zone, page.now, name, page.refit.weather)
    return _keep(request, who, posted, pk, f"brought in the weather of {name[:60]}", lambda refit: found)


@router.post("/r/{pk}/weather/now")
def now(request: Request, who: Who, posted: Form, pk: int) -> Response:
    """It rains, or it doesn't, whatever the forecast says."""
    page = page_here(request, who, pk)
    wet, text = posted.text("wet") == "yes", posted.text("hours")
    hours = int(text) if text.isdigit() else 0
    told = f"said that {'it rains' if wet else 'it is dry'} for {hours} h"
    at = refits.half_hour(page.now)
    return _keep(request, who, posted, pk, told, lambda refit: said_rain(refit.weather, at, hours, wet=wet))
