"""Jinja with our own words: times on the yard's clock, money, lengths of time."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

from fastapi import Request
from fastapi.responses import HTMLResponse
from fastapi.templating import Jinja2Templates
from jinja2 import StrictUndefined
from starlette.routing import BaseRoute, Match

from rovask import __version__
from rovask.core.craft.seized_edits import is_of_seized, tried_in
from rovask.core.explain.effects import effect_of
from rovask.core.odds.told import in_words
from rovask.core.plain.words import count, day, day_and_time, minutes_of, money, shortened, span
from rovask.core.refit.seen.kinds import is_flat
from rovask.core.refit.typed import minor_text
from rovask.web.assets import asset
from rovask.web.effect_words import answered
from rovask.web.money_spelling import columns_of, new_rows
from rovask.web.sent_once import new_mark
from rovask.web.spark import spark
from rovask.web.spelling import moment_text

_OF_A_REFIT = re.compile(r"/r/[0-9]{1,19}")

LIGHTS = ("day", "glare", "red")
LIGHT_COOKIE = "rovask_light"


def device(agent: str) -> str:
    """What a browser says it runs on, short enough for a list.

    >>> device("Browser/5.0 (X11; Linux x86_64) Engine/537.36 (like others)")
    'A computer (X11; Linux x86_64)'
    >>> device("")
    'A browser that says nothing of itself'
    """
    if not agent.strip():
        return "A browser that says nothing of itself"
    kind = "phone" if "Mobile" in agent else "tablet" if "Tablet" in agent else "computer"
    inside = agent.partition("(")[2].partition(")")[0][:40].strip()
    return f"A {kind}" + (f" ({inside})" if inside else "")


templates = Jinja2Templates(directory=Path(__file__).parent / "templates")
templates.env.undefined = StrictUndefined
templates.env.trim_blocks = templates.env.lstrip_blocks = True
templates.env.globals |= {"asset": asset, "version": __version__, "lights": LIGHTS, "new_mark": new_mark} | {
    "columns_of": columns_of,
    "fast_of": is_of_seized,
    "tried_in": tried_in,
    "new_rows": new_rows,
}
templates.env.filters |= {
    "moment": day_and_time,
    "day": day,
    "in_words": in_words,
    "typed_moment": moment_text,
    "typed_minor": minor_text,
    "spark": spark,
    "is_flat": is_flat,
    "money": money,
    "span": span,
    "shortened": shortened,
    "minutes": minutes_of,
    "count": count,
    "effect": effect_of,
    "answered": answered,
    "device": device,
    "a": lambda word: f"{'an' if word[:1] in 'aeiou' else 'a'} {word}",
}


def page_path(request: Request) -> str:
    """The page somebody is on: where its lights, undo and dismiss lead back to.

    What a form is answered with has the form's address, which is no page: it counts as the page it was sent from.
    """
    if request.method in ("GET", "HEAD"):
        return request.url.path
    sent_from = urlsplit(request.headers.get("referer", ""))
    if sent_from.path.startswith("/") and sent_from.netloc == request.headers.get("host", ""):
        return sent_from.path
    if any(_is_page(route, request.url.path) for route in request.app.router.routes):
        return request.url.path
    refit = _OF_A_REFIT.match(request.url.path)
    return f"{refit[0]}/morning" if refit else "/"


def _is_page(route: BaseRoute, path: str) -> bool:
    match, _ = route.matches({"type": "http", "method": "GET", "path": path, "root_path": "", "headers": []})
    return match is Match.FULL


def render(request: Request, name: str, context: dict[str, Any], status: int = 200) -> HTMLResponse:
    """A page. One with faults answers 422 and keeps the browser's address, so that reload shows the form again."""
    light = request.cookies.get(LIGHT_COOKIE, "day")
    base = {"light": light if light in LIGHTS else "day", "who": None, "page": None, "path": page_path(request)}
    response = templates.TemplateResponse(request, name, base | context, status_code=status)
    response.headers["Cache-Control"] = "no-store"
    if status >= 400:
        response.headers["HX-Push-Url"] = "false"
    return response
