"""What is done with a task at work: begin, done, hours, pin, split, move. Three taps at most."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from rovask.core.plan.result import Assignment
from rovask.core.refit import edits
from rovask.core.refit.faults import Fault, RefitFaults
from rovask.core.refit.model import HoursEntry, Refit
from rovask.core.refit.records import Kind
from rovask.store import refits
from rovask.store.database import transaction
from rovask.web.routes.edit import WORDS, kind_of, new_id
from rovask.web.security import Form, Posted, Who, local_path, settings_of
from rovask.web.spelling import read_moment
from rovask.work.queue import ask_for_search

router = APIRouter()


@dataclass(frozen=True, slots=True)
class At:
    """What an edit needs to know besides the refit: the half-hour it happens in, and the plan of the task."""

    now: datetime
    item: Assignment | None
    crew: tuple[str, ...]


Edit = Callable[[Refit, At], Refit]


def _changed(request: Request, who: Who, posted: Posted, pk: int, key: str, told: str, edit: Edit) -> Response:
    """Make one change at the refit's own present moment and go back to where it was asked for.

    ``told`` is what the history says, with {} where the task's title goes. The crew are the people ticked,
    else those the plan chose.
    """
    settings = settings_of(request)
    clock = settings.clock()
    with transaction(settings.database_url) as session:
        kept = refits.load(session, pk)
        item = refits.current_plan(session, kept, clock).plan.by_task().get(key)
        chosen = tuple(str(one) for one in posted.form.getlist("crew"))
        at = At(refits.half_hour(kept.now(clock)), item, chosen or (item.people if item else ()))
        what = told.replace("{}", f"“{edits.task_of(kept.refit, key).title}”") if "{}" in told else told
        refits.change(session, pk, lambda refit: edit(refit, at), who=who.account, what=what, clock=clock)
    ask_for_search(settings.database_url, pk)
    return RedirectResponse(local_path(posted.text("next"), f"/r/{pk}/morning"), status_code=303)


@router.post("/r/{pk}/task/{key}/begin")
def begin(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """It is begun, now."""
    told = "began {}"
    return _changed(
        request, who, posted, pk, key, told, lambda refit, at: edits.begin_task(refit, key, at.now, at.crew)
    )


@router.post("/r/{pk}/task/{key}/done")
def done(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """It is done, now."""
    told = "ticked {}"
    return _changed(
        request, who, posted, pk, key, told, lambda refit, at: edits.finish_task(refit, key, at.now, at.crew)
    )


@router.post("/r/{pk}/task/{key}/unit")
def unit(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """One more unit of it is done, now."""
    told = "ticked one of {}"
    return _changed(
        request, who, posted, pk, key, told, lambda refit, at: edits.finish_unit(refit, key, at.now, at.crew)
    )


@router.post("/r/{pk}/task/{key}/reopen")
def reopen(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """Take the tick back."""
    told = "took the tick off {}"
    return _changed(request, who, posted, pk, key, told, lambda refit, at: edits.reopen_task(refit, key))


@router.post("/r/{pk}/task/{key}/hours")
def hours(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """Log hours of one person; how much is left may be said too."""
    worked = _hours(posted.text("hours"), "hours")
    left = _hours(posted.text("remaining"), "hours left") if posted.text("remaining").strip() else None
    person = posted.text("person")
    told = f"logged {worked:g} h on {{}}"

    def edit(refit: Refit, at: At) -> Refit:
        if person not in refit.persons:
            raise RefitFaults([Fault("", "Choose whose hours these are.")])
        entry = HoursEntry(
            id=new_id("hours"), task=key, person=person, at=at.now, hours=worked, note=posted.text("note")[:200]
        )
        return edits.log_hours(refit, entry, left)

    return _changed(request, who, posted, pk, key, told, edit)


def _hours(text: str, what: str) -> float:
    try:
        value = float(text.strip().replace(",", "."))
    except ValueError:
        value = -1
    if not 0 < value <= 24 or value * 2 != round(value * 2):
        raise RefitFaults([Fault("", f"“{text.strip()}” is no number of {what}: 0.5 to 24, in halves.")])
    return value


@router.post("/r/{pk}/task/{key}/pin")
def pin(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """Pin the start to a time; everything else is planned round it."""
    text = posted.text("at")

    def edit(refit: Refit, at: At) -> Refit:
        try:
            start = read_moment(text, refit.yard.zone)
        except ValueError as error:
            raise RefitFaults([Fault("", f"“{text}” {error}")]) from None
        if start < at.now:
            raise RefitFaults([Fault("", "That time has passed; pin it to a later one.")])
        return edits.update_task(refit, key, pin=start)

    return _changed(request, who, posted, pk, key, f"pinned {{}} to {text[:16].replace('T', ' ')}", edit)


@router.post("/r/{pk}/task/{key}/nudge")
def nudge(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """Pin a task some hours from where the plan has it: for the arrow keys."""
    text = posted.text("hours")
    step = timedelta(hours=int(text) if text in ("-1", "1") else 0)

    def edit(refit: Refit, at: At) -> Refit:
        if at.item is None:
            raise RefitFaults([Fault("", "It is not planned, so there is nothing to move.")])
        return edits.update_task(refit, key, pin=max(at.item.start + step, at.now))

    return _changed(request, who, posted, pk, key, "moved {}", edit)


@router.post("/r/{pk}/task/{key}/drop")
def drop(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """Pin a task where it was dragged to, on the nearest half-hour and not in the past."""
    text = posted.text("at")

    def edit(refit: Refit, at: At) -> Refit:
        try:
            moment = datetime.fromisoformat(text)
        except ValueError:
            raise RefitFaults([Fault("", f"“{text}” is not a time.")]) from None
        if moment.tzinfo is None:
            raise RefitFaults([Fault("", f"“{text}” is not a time on any clock.")])
        nearest = refits.half_hour(moment + timedelta(minutes=15)).astimezone(UTC)
        return edits.update_task(refit, key, pin=max(nearest, at.now))

    return _changed(request, who, posted, pk, key, "moved {}", edit)


@router.post("/r/{pk}/task/{key}/unpin")
def unpin(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """Let the plan choose the time again."""
    told = "took the pin out of {}"
    return _changed(request, who, posted, pk, key, told, lambda refit, at: edits.update_task(refit, key, pin=None))


@router.post("/r/{pk}/task/{key}/split")
def split(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """Split a task in two, one after the other."""
    first = _hours(posted.text("hours"), "hours")
    told = "split {}"
    return _changed(
        request,
        who,
        posted,
        pk,
        key,
        told,
        lambda refit, at: edits.split_task(refit, key, first, lambda: new_id("task")),
    )


@router.post("/r/{pk}/{kind}/{key}/move")
def move(request: Request, who: Who, posted: Form, pk: int, kind: str, key: str) -> Response:
    """Move a task in its job, or anything else in its list, one up or down."""
    what = kind_of(kind)
    steps = -1 if posted.text("way") == "up" else 1

    def edit(refit: Refit, at: At) -> Refit:
        return edits.move_task(refit, key, steps) if what is Kind.TASK else edits.move(refit, what, key, steps)

    return _changed(request, who, posted, pk, key, f"moved a {WORDS[what]}", edit)
