"""What is done with a task at work: begin, done, hours, pin, split, move. Three taps at most."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.refit import typed
from rovask.desk.command import RefitCommand
from rovask.desk.commands import work
from rovask.web.acting import acted, back_to, let_in, refuse
from rovask.web.asking import AskedKind, Pk, RecordId, desk_of
from rovask.web.security import Form, Posted, Who

router = APIRouter()

Value = TypeVar("Value")


def _done(request: Request, who: Who, posted: Posted, pk: int, command: RefitCommand) -> Response:
    acted(request, who, pk, command)
    return back_to(posted, f"/r/{pk}/morning")


def read(parser: Callable[[str], Value], posted: Posted, field: str) -> Value:
    """A field by one of the typed parsers. Raises RefitFaults, naming the field."""
    try:
        return parser(posted.text(field))
    except ValueError as error:
        raise refuse(str(error), field) from None


@router.post("/r/{pk}/task/{key}/begin")
def begin(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """It is begun, now."""
    return _done(request, who, posted, pk, work.Begin(key, posted.many("crew")))


@router.post("/r/{pk}/task/{key}/done")
def done(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """It is done, now."""
    return _done(request, who, posted, pk, work.Finish(key, posted.many("crew")))


@router.post("/r/{pk}/task/{key}/unit")
def unit(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """One more unit of it is done, now."""
    return _done(request, who, posted, pk, work.FinishUnit(key, posted.many("crew")))


@router.post("/r/{pk}/task/{key}/reopen")
def reopen(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Take the tick back."""
    return _done(request, who, posted, pk, work.Reopen(key))


@router.post("/r/{pk}/task/{key}/hours")
def hours(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Log hours of one person; how much is left may be said too."""
    let_in(request, who, pk, work.LogHours.needs)
    worked = read(typed.hours, posted, "hours")
    left = read(typed.hours, posted, "remaining") if posted.text("remaining").strip() else None
    command = work.LogHours(key, posted.text("person"), worked, left, posted.words("note", 200))
    return _done(request, who, posted, pk, command)


@router.post("/r/{pk}/task/{key}/pin")
def pin(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Pin the start to a time; everything else is planned round it."""
    let_in(request, who, pk, work.Pin.needs)
    desk = desk_of(request)
    with desk.looking() as session:
        zone = desk.seen_by(session, who.account, pk).kept.refit.yard.zone
    start = read(lambda text: typed.moment(text, zone), posted, "at")
    return _done(request, who, posted, pk, work.Pin(key, start, posted.text("at")))


@router.post("/r/{pk}/task/{key}/nudge")
def nudge(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Pin a task some hours from where the plan has it: for the arrow keys."""
    return _done(
        request, who, posted, pk, work.Nudge(key, read(lambda text: typed.whole(text, -1, 1), posted, "hours"))
    )


@router.post("/r/{pk}/task/{key}/drop")
def drop(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Pin a task where it was dragged to, on the nearest half-hour and not in the past."""
    return _done(request, who, posted, pk, work.Drop(key, read(typed.aware, posted, "at")))


@router.post("/r/{pk}/task/{key}/unpin")
def unpin(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Let the plan choose the time again."""
    return _done(request, who, posted, pk, work.Unpin(key))


@router.post("/r/{pk}/task/{key}/split")
def split(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Split a task in two, one after the other."""
    return _done(request, who, posted, pk, work.Split(key, read(typed.hours, posted, "hours")))


@router.post("/r/{pk}/{kind}/{key}/move")
def move(request: Request, who: Who, posted: Form, pk: Pk, kind: AskedKind, key: RecordId) -> Response:
    """Move a task in its job, or anything else in its list, one up or down."""
    return _done(request, who, posted, pk, work.MoveInList(kind.name, key, -1 if posted.text("way") == "up" else 1))
