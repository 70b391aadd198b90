"""The weather: fetch it from the service, bring it in from a file, or say that it rains."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.plain.faults import refused
from rovask.core.refit import typed
from rovask.desk.commands.weather import SayWeather, SetWeather, fetched
from rovask.formats.weather_csv import read_weather
from rovask.web.acting import acted, back_to, let_in
from rovask.web.asking import Pk, actor_of, desk_of
from rovask.web.page import page_here
from rovask.web.security import Form, Who

router = APIRouter()


@router.post("/r/{pk}/weather/fetch")
def fetch(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Ask the weather service; what was known before stands when it doesn't answer."""
    fetched(desk_of(request), actor_of(who, request), pk)
    return back_to(posted, f"/r/{pk}/yard#weather")


@router.post("/r/{pk}/weather/file")
def bring_in(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """A forecast as CSV."""
    let_in(request, who, pk, SetWeather.needs)
    page = page_here(request, who, pk)
    upload = posted.upload("file")
    if upload is None:
        raise refused("Choose a file first.")
    name = typed.shown_name(upload.filename or "")
    found = read_weather(upload.file.read(), page.zone, page.now, name, page.refit.weather)
    acted(request, who, pk, SetWeather(found, f"brought in the weather of {name}"))
    return back_to(posted, f"/r/{pk}/yard#weather")


@router.post("/r/{pk}/weather/now")
def now(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """It rains, or it doesn't, whatever the forecast says."""
    try:
        hours = typed.whole(posted.text("hours"), 1, 48)
    except ValueError as error:
        raise refused(f"Say for how long: 1 to 48 hours. {error}.".replace("..", "."), "hours") from None
    acted(request, who, pk, SayWeather(posted.text("wet") == "yes", hours))
    return back_to(posted, f"/r/{pk}/yard#weather")
