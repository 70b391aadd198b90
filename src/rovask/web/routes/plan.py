"""The plan as a whole: the search for a better one, adopting it or putting the old one back, what would help."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from typing import Any

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import RedirectResponse, Response
from sse_starlette import EventSourceResponse

from rovask.core.plan.explain.remedies import remedies
from rovask.core.plan.result import Outcome
from rovask.store import refits
from rovask.store.database import transaction
from rovask.web.events import Bell
from rovask.web.page import Page, page_here
from rovask.web.rendering import render, templates
from rovask.web.security import Form, Who, local_path, settings_of
from rovask.work.queue import ask_for_search, stop_search

router = APIRouter()

LONGEST_SEARCH = 600.0
SILENCE = 5.0  # seconds after which the state is looked up without being told


def search_context(page: Page) -> dict[str, Any]:
    """What the search fragment shows."""
    return page.context(search=page.search, path=f"{page.root}/slip")


@router.get("/r/{pk}/search")
def search_state(request: Request, who: Who, pk: int) -> Response:
    """The search's own lines, for a page without events."""
    page = page_here(request, who, pk)
    return render(request, "_search.html", search_context(page))


@router.get("/r/{pk}/search/events")
async def search_events(request: Request, who: Who, pk: int) -> Response:
    """The same lines at each news, until the search is over: event ``news``, then ``over``."""
    settings = settings_of(request)
    bell: Bell = request.app.state.bell

    def lines() -> tuple[str, bool, str]:
        page = page_here(request, who, pk)
        text = templates.get_template("_search.html").render(
            search_context(page) | {"request": request, "light": "day"}
        )
        return text, page.searching, f"{page.planned.plan.value}-{page.kept.revision}"

    async def events() -> AsyncIterator[dict[str, str]]:
        async with bell.on(pk) as news:
            while not await request.is_disconnected():
                news.clear()
                text, going, mark = await run_in_threadpool(lines)
                yield {"event": "news" if going else "over", "id": mark, "data": text}
                if not going:
                    return
                try:
                    await asyncio.wait_for(news.wait(), SILENCE)
                except TimeoutError:
                    continue
                await asyncio.sleep(0.2)  # several news in a row are one

    if not settings.database_url:
        return Response(status_code=204)
    return EventSourceResponse(events(), ping=15)


@router.post("/r/{pk}/search/start")
def start(request: Request, who: Who, posted: Form, pk: int) -> Response:
    """Look longer for a better plan."""
    text = posted.text("seconds")
    seconds = min(float(text), LONGEST_SEARCH) if text.replace(".", "", 1).isdigit() else None
    page = page_here(request, who, pk)
    ask_for_search(settings_of(request).database_url, pk, seconds)
    return RedirectResponse(local_path(posted.text("next"), f"{page.root}/slip#search"), status_code=303)


@router.post("/r/{pk}/search/stop")
def stop(request: Request, who: Who, posted: Form, pk: int) -> Response:
    """Stop looking and keep the best there is."""
    with transaction(settings_of(request).database_url) as session:
        stop_search(session, pk)
    return RedirectResponse(local_path(posted.text("next"), f"/r/{pk}/slip#search"), status_code=303)


@router.post("/r/{pk}/plan/adopt")
def adopt(request: Request, who: Who, posted: Form, pk: int) -> Response:
    """Adopt the better plan that was found."""
    settings = settings_of(request)
    with transaction(settings.database_url) as session:
        refits.adopt(session, pk, settings.clock())
    return RedirectResponse(f"/r/{pk}/slip#moved", status_code=303)


@router.post("/r/{pk}/plan/back")
def back(request: Request, who: Who, posted: Form, pk: int) -> Response:
    """Put the plan back that a better one took the place of."""
    settings = settings_of(request)
    with transaction(settings.database_url) as session:
        stop_search(session, pk)
        refits.put_back(session, pk, settings.clock())
    return RedirectResponse(f"/r/{pk}/slip#moved", status_code=303)


@router.get("/r/{pk}/remedies")
def what_helps(request: Request, who: Who, pk: int) -> Response:
    """The three cheapest single changes that bring a late launch nearer, tried one by one."""
    page = page_here(request, who, pk)
    late = page.verdict.outcome is Outcome.SHORT
    found = remedies(page.refit, page.plan, page.verdict) if late else []
    return render(request, "_remedies.html", page.context(remedies=found, late=late))
