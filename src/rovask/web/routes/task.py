"""What is done with a task at work: begin, done, hours, pin, split, move. Three taps at most."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from typing import Any, TypeVar

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.judged.leaps import Doubtful
from rovask.core.plain.faults import refused
from rovask.core.refit import typed
from rovask.desk.command import RefitCommand
from rovask.desk.commands import work
from rovask.web.acting import acted, back_to, let_in, refit_of
from rovask.web.asking import AskedKind, Pk, RecordId, desk_of
from rovask.web.page import page_here
from rovask.web.rendering import render
from rovask.web.security import Form, Posted, Who
from rovask.web.spelling import moment_text

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
        raise refused(str(error), field) from None


def _ticked(
    request: Request, who: Who, posted: Posted, pk: int, made: Callable[[dict[str, Any]], work.TickCommand]
) -> Response:
    """Do it, or ask once when something speaks against it: with what was typed kept."""
    let_in(request, who, pk, work.TickCommand.needs)
    asked = {
        "crew": posted.many("crew"),
        "when": when_typed(request, who, posted, pk, "when"),
        "anyway": bool(posted.text("anyway")),
        "reason": posted.words("reason", 160),
        "kept": bool(posted.text("ticked_at")),
    }
    command = made(asked)
    try:
        return _done(request, who, posted, pk, command)
    except Doubtful as doubtful:
        page = page_here(request, who, pk)
        context = page.context(doubtful=doubtful, action=request.url.path, posted=posted, task=command.task)
        return render(request, "doubt.html", context, status=409)


def when_typed(request: Request, who: Who, posted: Posted, pk: int, field: str) -> datetime | None:
    """A moment by the yard's clock, as it was typed, or as the device had it that kept a tick; None for nothing.

    When a device kept a tick says when it was, and nothing of when the work was begun; a device whose clock is ahead is
    taken to mean now. Raises RefitFaults.
    """
    ticked = posted.text("ticked_at").strip() if field == "when" else ""
    if not posted.text(field).strip() and not ticked:
        return None
    desk = desk_of(request)
    with desk.looking() as session:
        kept = desk.seen_by(session, who.account, pk).kept
    if not posted.text(field).strip():
        moment = read(typed.aware, posted, "ticked_at")
        return min(kept.now(moment), kept.now(desk.settings.clock())).replace(microsecond=0)
    zone = kept.refit.yard.zone
    today = kept.now(desk.settings.clock()).astimezone(zone).date()
    return read(lambda text: typed.moment(text, zone, today), posted, field)


@router.post("/r/{pk}/task/{key}/begin")
def begin(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """It is begun, now or at a time that is given."""
    return _ticked(request, who, posted, pk, lambda asked: work.Begin(key, **asked))


@router.post("/r/{pk}/task/{key}/done")
def done(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """It is done, now or at a time that is given, with its hours if they are."""
    let_in(request, who, pk, work.Finish.needs)
    worked = read(typed.hours, posted, "hours") if posted.text("hours").strip() else None
    begun = when_typed(request, who, posted, pk, "begun")
    return _ticked(request, who, posted, pk, lambda asked: work.Finish(key, hours=worked, begun=begun, **asked))


@router.post("/r/{pk}/task/{key}/unit")
def unit(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """One more unit of it is done."""
    return _ticked(request, who, posted, pk, lambda asked: work.FinishUnit(key, **asked))


@router.post("/r/{pk}/task/{key}/times")
def times(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """When it was begun and done, and by whom, set right."""
    let_in(request, who, pk, work.SetRight.needs)
    refit = refit_of(request, who, pk)
    task = refit.tasks.get(key)

    def said(field: str, stood: datetime | None) -> datetime | None:
        """As typed; a moment that was left as it was shown, to the minute, is what it is by now, to the second."""
        same = stood is not None and posted.text(field).strip() == moment_text(stood, refit.yard.zone)
        left = stood is not None and f"saw-{field}" in posted.form and not posted.touched(field)
        return stood if same or left else when_typed(request, who, posted, pk, field)

    begun = said("begun", task.begun_at if task else None)
    if begun is None:
        raise refused("Say when it was begun.", "begun")
    ended = said("done", task.done_at if task else None)
    return _done(request, who, posted, pk, work.SetRight(key, begun, ended, posted.many("crew")))


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
    when = when_typed(request, who, posted, pk, "when")
    command = work.LogHours(key, posted.text("person"), worked, left, posted.words("note", 200), when)
    return _done(request, who, posted, pk, command)


@router.post("/r/{pk}/task/{key}/pin")
def pin(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Pin the start to a time; everything else is planned round it."""
    let_in(request, who, pk, work.Pin.needs)
    start = when_typed(request, who, posted, pk, "at")
    if start is None:
        raise refused("Say when it is to start.", "at")
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
    steps = -1 if posted.text("way") == "up" else 1
    return _done(request, who, posted, pk, work.MoveInList(kind.name, key, steps, bool(posted.text("ties"))))
