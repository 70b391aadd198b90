"""What was refused, in a page of its refit with what was typed still in its fields, to be mended and sent again."""

from __future__ import annotations

import logging
import re
from collections.abc import Iterable
from dataclasses import dataclass

from fastapi import Request
from fastapi.responses import Response
from sqlalchemy.exc import OperationalError
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import UploadFile

from rovask.core.plain.faults import Fault, RovaskError
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.security import local_path

log = logging.getLogger("rovask")
_OF_A_REFIT = re.compile(r"/r/([0-9]{1,9})/")
# The fields of the small forms that stand in a page's rows, as they are called there; all others go along unseen.
WORDS = {
    "hours": "Hours",
    "remaining": "Left",
    "when": "When",
    "begun": "Begun",
    "done": "Done",
    "at": "At",
    "note": "Note",
    "reason": "Why",
    "reading": "Reading",
    "days": "Days",
    "money": "Money",
    "lines": "One job a line",
    "title": "What",
}


@dataclass(frozen=True, slots=True)
class Typed:
    """One field of the form as it was sent: its word for those that are shown, and what is wrong with it."""

    name: str
    value: str
    word: str
    faults: tuple[str, ...]

    @property
    def long(self) -> bool:
        """Whether it wants more than a line."""
        return len(self.value) > 60 or "\n" in self.value


async def in_its_form(request: Request, status: int, faults: Iterable[Fault]) -> Response:
    """The refusal of a form. Nothing was changed; a form of a refit comes back with its fields, in the refit's own frame."""
    told = list(faults)
    fields: list[Typed] = []
    back, page = "/", None
    found = _OF_A_REFIT.match(request.url.path)
    who = getattr(request.state, "who", None)
    if request.method == "POST" and found and who is not None:
        form = await request.form()
        rows = [
            (name, value)
            for name, value in form.multi_items()
            if not isinstance(value, UploadFile) and name not in ("csrf", "password", "old_password")
        ]
        fields = [
            Typed(name, value, WORDS.get(name, ""), tuple(one.message for one in told if one.path == name))
            for name, value in rows
        ]
        back = local_path(dict(rows).get("next", ""), f"/r/{found[1]}/morning")
        page = await run_in_threadpool(_frame, request, int(found[1]))
    shown = {one.name for one in fields if one.word}
    context = {
        "title": "That can't be done",
        "faults": [str(one) for one in told if one.path not in shown],
        "typed": fields,
        "mendable": bool(shown),
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
