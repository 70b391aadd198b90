"""What somebody typed into a form, kept with the request, so that whatever refuses it or fails can show it again."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass

from fastapi import Request
from starlette.datastructures import FormData, UploadFile
from starlette.exceptions import HTTPException
from starlette.requests import ClientDisconnect

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


_NOT_TYPED = re.compile(r"csrf|mark|next|by|key|revision|back|saw-.*|seen.*|.*_at|.*password|old")


@dataclass(frozen=True, slots=True)
class Typed:
    """One field of the form as it was sent: its word for those that are shown, and what is wrong with it."""

    name: str
    value: str
    word: str
    faults: tuple[str, ...] = ()

    @property
    def long(self) -> bool:
        """Whether it wants more than a line."""
        return len(self.value) > 60 or "\n" in self.value


def remember_typed(request: Request, form: FormData) -> None:
    """Keep with the request what was typed, for whoever has to answer it when something fails."""
    rows = form.multi_items()
    request.scope["rovask.typed"] = [(name, value) for name, value in rows if isinstance(value, str)]
    request.scope["rovask.files"] = [
        value.filename for _, value in rows if isinstance(value, UploadFile) and value.filename
    ]


async def typed_in(request: Request) -> list[tuple[str, str]]:
    """What was typed into the form of a request, but for its token and passwords; nothing for one that isn't a form."""
    if request.method != "POST":
        return []
    if "rovask.typed" not in request.scope:
        try:
            form = await request.form(max_files=8, max_fields=4000)
            remember_typed(request, form)
            await form.close()
        except (HTTPException, ClientDisconnect, RuntimeError):  # no form, broken, or read already by what failed
            return []
    kept: list[tuple[str, str]] = request.scope["rovask.typed"]
    return [(name, value) for name, value in kept if name not in ("csrf", "password", "old_password", "old")]


def to_read(fields: Iterable[tuple[str, str]]) -> list[Typed]:
    """What somebody really typed or chose, with words for its fields, to be read and copied."""
    return [
        Typed(name, value, WORDS.get(name) or name.replace("_", " ").replace("-", " ").capitalize())
        for name, value in fields
        if value.strip() and not _NOT_TYPED.fullmatch(name)
    ]
