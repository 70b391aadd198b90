"""A form is done once, however often it is sent: by a double click, or again because the answer to it was lost.

Every form that writes carries a mark of its own. What it does is kept together with the mark (store/sendings.py); the
same form again is led to where the first one led, before anything of it is looked at.
"""

from __future__ import annotations

import asyncio
import hashlib
import secrets
from collections.abc import Mapping
from typing import Any

from fastapi import Request
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import FormData, UploadFile
from starlette.types import Message, Scope

from rovask.desk.door import Desk
from rovask.store.sendings import Sending, SentBefore

MOST_MARK = 40
SHOWN_ONCE = "-"  # the answer of a form that led nowhere else: it showed something
TRIES, EACH = 60, 0.05  # how long the answer to the first is waited for


def new_mark() -> str:
    """What a form on a page is called."""
    return secrets.token_hex(8)


def sender_of(account: int) -> str:
    """By whom the forms of an account are sent."""
    return f"account {account}"


def sending_of(form: FormData, path: str, sender: str) -> Sending | None:
    """A form as it was sent; None for one without a mark.

    What a device keeps without a signal (``ticked_at``) goes by its mark alone, for it is sent with another token, or
    with an answer to what spoke against it, and is the same tick still.
    """
    mark = form.get("mark")
    if not isinstance(mark, str) or not 0 < len(mark) <= MOST_MARK or not mark.isalnum():
        return None
    if form.get("ticked_at"):
        return Sending(sender, mark, "")
    said = hashlib.sha256(path.encode())
    for name, value in sorted(form.multi_items(), key=lambda row: row[0]):
        if name not in ("csrf", "mark"):
            told = f"{value.filename} {value.size}" if isinstance(value, UploadFile) else value
            said.update(f"\0{name}\0{told}".encode(errors="replace"))
    return Sending(sender, mark, said.hexdigest())


async def sent_once(request: Request, form: FormData, sender: str) -> None:
    """Take note of a form that came. Raises SentBefore for one that was done already."""
    sending = sending_of(form, request.url.path, sender)
    request.state.sending = sending
    if sending is not None and await run_in_threadpool(request.app.state.desk.answer_to, sending) is not None:
        raise SentBefore(sending)


async def first_answer(desk: Desk, sending: Sending) -> str:
    """Where the first sending led; "" if that is not known, ``SHOWN_ONCE`` if it showed something instead."""
    for _ in range(TRIES):
        found = await run_in_threadpool(desk.answer_to, sending)
        if found:
            return found
        await asyncio.sleep(EACH)
    return ""


async def answer_kept(scope: Scope, message: Message) -> None:
    """Keep where a form that was done leads, as its answer goes out."""
    state: Mapping[str, Any] = scope.get("state", {})
    sending = state.get("sending")
    if not isinstance(sending, Sending) or not sending.done:
        return
    headers = {name.lower(): value for name, value in message["headers"]}
    answer = headers.get(b"location", SHOWN_ONCE.encode()).decode() if message["status"] < 400 else SHOWN_ONCE
    await run_in_threadpool(scope["app"].state.desk.answered, sending, answer)
