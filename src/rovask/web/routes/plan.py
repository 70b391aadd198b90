"""The plan as a whole: the search for a better one, adopting it or putting the old one back, what would help."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from functools import partial
from typing import Any

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import Response
from sse_starlette import EventSourceResponse

from rovask.core.explain.remedies import remedies
from rovask.core.plain.faults import refused
from rovask.core.plan.result import Outcome
from rovask.core.refit import typed
from rovask.desk.commands.plan import AdoptPlan, AskForSearch, PutPlanBack, StopSearch
from rovask.store.errors import NotFound, TooMany
from rovask.web.acting import back_to, let_in, on_to, ran
from rovask.web.asking import Pk
from rovask.web.costly import worked_once
from rovask.web.events import Bell
from rovask.web.page import Page, page_here
from rovask.web.rendering import render, templates
from rovask.web.security import Form, Who, maybe_signed_in, settings_of

router = APIRouter()

LONGEST_SEARCH = 600.0
SILENCE = 5.0  # seconds after which the state is looked up without being told


def search_context(page: Page) -> dict[str, Any]:
    """What the search fragment shows."""
    return page.context(search=page.search, path=f"{page.root}/slip")


@router.get("/r/{pk}/search")
def search_state(request: Request, who: Who, pk: Pk) -> Response:
    """The search's own lines, for a page without events."""
    page = page_here(request, who, pk)
    return render(request, "_search.html", search_context(page))


@router.get("/r/{pk}/search/events")
async def search_events(request: Request, who: Who, pk: Pk) -> Response:
    """The same lines at each news, until the search is over: event ``news``, then ``over``.

    It ends with the session, and with what the person may see; few are open for one person at a time.
    """
    settings = settings_of(request)
    bell: Bell = request.app.state.bell

    def lines() -> tuple[str, bool, str] | None:
        now = maybe_signed_in(request)
        if now is None or now.session != who.session:
            return None
        try:
            page = page_here(request, now, pk)
        except NotFound:
            return None
        text = templates.get_template("_search.html").render(
            search_context(page) | {"request": request, "light": "day"}
        )
        return text, page.searching, f"{page.planned.plan.value}-{page.kept.revision}"

    async def events() -> AsyncIterator[dict[str, str]]:
        async with bell.on(pk, who.account) as news:
            while not await request.is_disconnected():
                news.clear()
                told = await run_in_threadpool(lines)
                if told is None:
                    yield {"event": "over", "id": "ended", "data": ""}
                    return
                text, going, mark = told
                yield {"event": "news" if going else "over", "id": mark, "data": text}
                if not going:
                    return
                try:
                    await asyncio.wait_for(news.wait(), SILENCE)
                except TimeoutError:
                    continue
                await asyncio.sleep(0.2)  # several news in a row are one

    await run_in_threadpool(page_here, request, who, pk)  # others get not found before anything is streamed
    if not settings.database_url:
        return Response(status_code=204)
    if bell.full(who.account):
        raise TooMany("Too many pages of yours watch a search at once; close one of them.")
    return EventSourceResponse(events(), ping=15)


@router.post("/r/{pk}/search/start")
def start(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Look longer for a better plan."""
    let_in(request, who, pk, AskForSearch.needs)
    text = posted.text("seconds").strip()
    try:
        seconds = typed.number(text, 1, LONGEST_SEARCH) if text else None
    except ValueError as error:
        raise refused(f"Seconds to look: {error}.", "seconds") from None
    ran(request, who, AskForSearch(seconds), pk)
    return back_to(posted, f"/r/{pk}/slip#search")


@router.post("/r/{pk}/search/stop")
def stop(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Stop looking and keep the best there is."""
    ran(request, who, StopSearch(), pk)
    return back_to(posted, f"/r/{pk}/slip#search")


@router.post("/r/{pk}/plan/adopt")
def adopt(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Adopt the better plan that was found."""
    ran(request, who, AdoptPlan(), pk)
    return on_to(f"/r/{pk}/slip#moved")


@router.post("/r/{pk}/plan/back")
def back(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Put the plan back that a better one took the place of."""
    ran(request, who, PutPlanBack(), pk)
    return on_to(f"/r/{pk}/slip#moved")


@router.get("/r/{pk}/remedies")
def what_helps(request: Request, who: Who, pk: Pk) -> Response:
    """The three cheapest single changes that bring a late launch nearer, tried one by one."""
    page = page_here(request, who, pk)
    late = page.verdict.outcome is Outcome.SHORT
    found = worked_once(page, "remedies", partial(remedies, page.refit, page.plan, page.verdict)) if late else []
    return render(request, "remedies.html", page.context(remedies=found, late=late))
