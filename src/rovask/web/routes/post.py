"""What went out of a refit to services, and what they told that could not be done yet."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response
from starlette.concurrency import run_in_threadpool

from rovask.core.plain.faults import refused
from rovask.desk.callbacks import do_what_was_told
from rovask.desk.commands.post import TryToldAgain
from rovask.store import inbox, outbox
from rovask.web.acting import let_in, on_to, ran
from rovask.web.asking import Pk, desk_of
from rovask.web.page import page_here
from rovask.web.rendering import render
from rovask.web.security import Form, Who

router = APIRouter()


@router.get("/r/{pk}/post")
def post(request: Request, who: Who, pk: Pk) -> Response:
    """What went out and how far it came; what was told and waits, or is tried no more."""
    page = page_here(request, who, pk)
    with desk_of(request).looking() as session:
        out, told = outbox.of_refit(session, pk), inbox.held_up(session, pk)
    orders = {order.id: order for order in page.refit.orders}
    marks = {one.mark: orders.get(one.about) for one in out}
    return render(request, "post.html", page.context(tab="post", out=out, told=told, orders=orders, marks=marks))


@router.post("/r/{pk}/post/again")
async def again(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Try once more to do what was told."""
    await run_in_threadpool(let_in, request, who, pk, TryToldAgain.needs)
    mark, event = posted.words("of", 80), posted.words("event", 80)
    if not mark or not event:
        raise refused("Choose what is to be tried again.")
    await run_in_threadpool(ran, request, who, TryToldAgain(mark, event), pk)
    await run_in_threadpool(do_what_was_told, desk_of(request), mark)
    return on_to(f"/r/{pk}/post")
