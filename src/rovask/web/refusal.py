"""What was refused, in a page of its refit with what was typed still in its fields, to be mended and sent again."""

from __future__ import annotations

import logging
import re
from collections.abc import Iterable

from fastapi import Request
from fastapi.responses import Response
from sqlalchemy.exc import OperationalError
from starlette.concurrency import run_in_threadpool

from rovask.core.plain.faults import Fault, RovaskError
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.security import local_path
from rovask.web.what_was_typed import WORDS, Typed, to_read, typed_in

log = logging.getLogger("rovask")
_OF_A_REFIT = re.compile(r"/r/([0-9]{1,9})/")


async def kept_to_send_again(request: Request, status: int, title: str, message: str) -> Response:
    """A fault page that holds what was typed, to be sent again."""
    who = getattr(request.state, "who", None)
    fields = await typed_in(request)
    context = {
        "title": title,
        "message": message,
        "faults": [],
        "fields": fields,
        "shown": to_read(fields),
        "files": request.scope.get("rovask.files", []),
        "again": request.url.path if fields else None,
        "csrf": who.csrf if who else "",
    }
    return render(request, "fault.html", context, status)


async def in_its_form(
    request: Request, status: int, faults: Iterable[Fault], title: str = "That can't be done"
) -> Response:
    """The refusal of a form. Nothing was changed; a form of a refit comes back with its fields, in the refit's own frame."""
    told = list(faults)
    fields: list[Typed] = []
    rows: list[tuple[str, str]] = []
    back, page = "/", None
    found = _OF_A_REFIT.match(request.url.path)
    who = getattr(request.state, "who", None)
    if found and who is not None:
        rows = await typed_in(request)
        fields = [
            Typed(name, value, WORDS.get(name, ""), tuple(one.message for one in told if one.path == name))
            for name, value in rows
        ]
        back = local_path(dict(rows).get("next", ""), f"/r/{found[1]}/morning")
        page = await run_in_threadpool(_frame, request, int(found[1]))
    may_mend = status != 403
    shown = {one.name for one in fields if one.word} if may_mend else set()
    context = {
        "title": title,
        "faults": [str(one) for one in told if one.path not in shown],
        "typed": fields,
        "mendable": bool(shown),
        "to_read": [] if shown else to_read(rows),
        "files": request.scope.get("rovask.files", []),
        "again": request.url.path,
        "back": back,
    }
    whole = context if page is None else page.context(**context)
    return render(request, "refused.html", whole, status)


async def in_its_frame(request: Request, name: str) -> Response:
    """A page that needs nothing but the frame of its refit."""
    found = _OF_A_REFIT.match(request.url.path)
    page = await run_in_threadpool(_frame, request, int(found[1])) if found else None
    return render(request, name, page.context() if page is not None else {}, 200)


def _frame(request: Request, pk: int) -> Page | None:
    """The page's frame; None when the refit can't be shown either."""
    try:
        return page_here(request, request.state.who, pk)
    except (RovaskError, OperationalError) as error:
        log.warning("a refusal is shown without its refit: %s", error)
        return None
