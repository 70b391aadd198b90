"""What is done with a task at work: begin, done, hours, pin, split, move. Three taps at most."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime, timedelta

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from rovask.core import edits
from rovask.core.faults import Fault, RefitFaults
from rovask.core.model import HoursEntry, Refit
from rovask.core.records import Kind
from rovask.store import refits
from rovask.store.database import transaction
from rovask.store.refits import Kept, half_hour
from rovask.web.routes.edit import WORDS, kind_of, new_id
from rovask.web.security import Form, Posted, Who, local_path, settings_of
from rovask.web.spelling import read_moment

router = APIRouter()

Edit = Callable[[Refit, datetime], Refit]


def _changed(request: Request, who: Who, posted: Posted, pk: int, told: str, edit: Edit) -> Response:
    """Make one change at the refit's own present moment and go back to where it was asked for."""
    settings = settings_of(request)
    clock = settings.clock()
    with transaction(settings.database_url) as session:
        kept: Kept = refits.load(session, pk)
        now = half_hour(kept.now(clock))
        refits.change(session, pk, lambda refit: edit(refit, now), who=who.account, what=told, clock=clock)
    return RedirectResponse(local_path(posted.text("next"), f"/r/{pk}/morning"), status_code=303)


def _title(request: Request, pk: int, key: str) -> str:
    with transaction(settings_of(request).database_url) as session:
        return edits.task_of(refits.load(session, pk).refit, key).title


def _crew(request: Request, posted: Posted, pk: int, key: str) -> tuple[str, ...]:
    """Who is at it: the people ticked, else those the plan chose."""
    chosen = tuple(str(who) for who in posted.form.getlist("crew"))
    if chosen:
        return chosen
    settings = settings_of(request)
    with transaction(settings.database_url) as session:
        planned = refits.current_plan(session, refits.load(session, pk), settings.clock())
    item = planned.plan.by_task().get(key)
    return item.people if item else ()


@router.post("/r/{pk}/task/{key}/begin")
def begin(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """It is begun, now."""
    crew = _crew(request, posted, pk, key)
    told = f"began “{_title(request, pk, key)}”"
    return _changed(request, who, posted, pk, told, lambda refit, now: edits.begin_task(refit, key, now, crew))


@router.post("/r/{pk}/task/{key}/done")
def done(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """It is done, now."""
    crew = _crew(request, posted, pk, key)
    told = f"ticked “{_title(request, pk, key)}”"
    return _changed(request, who, posted, pk, told, lambda refit, now: edits.finish_task(refit, key, now, crew))


@router.post("/r/{pk}/task/{key}/reopen")
def reopen(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """Take the tick back."""
    told = f"took the tick off “{_title(request, pk, key)}”"
    return _changed(request, who, posted, pk, told, lambda refit, now: edits.reopen_task(refit, key))


@router.post("/r/{pk}/task/{key}/hours")
def hours(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """Log hours of one person; how much is left may be said too."""
    worked = _hours(posted.text("hours"), "hours")
    left = _hours(posted.text("remaining"), "hours left") if posted.text("remaining").strip() else None
    person = posted.text("person")
    told = f"logged {worked:g} h on “{_title(request, pk, key)}”"

    def edit(refit: Refit, now: datetime) -> Refit:
        if person not in refit.persons:
            raise RefitFaults([Fault("", "Choose whose hours these are.")])
        entry = HoursEntry(
            id=new_id("hours"), task=key, person=person, at=now, hours=worked, note=posted.text("note")[:200]
        )
        return edits.log_hours(refit, entry, left)

    return _changed(request, who, posted, pk, told, edit)


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
    text, title = posted.text("at"), _title(request, pk, key)

    def edit(refit: Refit, now: datetime) -> Refit:
        try:
            at = read_moment(text, refit.yard.zone)
        except ValueError as error:
            raise RefitFaults([Fault("", f"“{text}” {error}")]) from None
        if at < now:
            raise RefitFaults([Fault("", "That time has passed; pin it to a later one.")])
        return edits.update_task(refit, key, pin=at)

    return _changed(request, who, posted, pk, f"pinned “{title}” to {text.replace('T', ' ')}", edit)


@router.post("/r/{pk}/task/{key}/nudge")
def nudge(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """Pin a task some hours from where the plan has it: for the arrow keys."""
    settings = settings_of(request)
    step = timedelta(hours=int(posted.text("hours", "0") or 0))
    with transaction(settings.database_url) as session:
        planned = refits.current_plan(session, refits.load(session, pk), settings.clock())
    item = planned.plan.by_task().get(key)
    if item is None:
        raise RefitFaults([Fault("", "It is not planned, so there is nothing to move.")])
    told = f"moved “{_title(request, pk, key)}”"

    def edit(refit: Refit, now: datetime) -> Refit:
        return edits.update_task(refit, key, pin=max(item.start + step, now))

    return _changed(request, who, posted, pk, told, edit)


@router.post("/r/{pk}/task/{key}/unpin")
def unpin(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """Let the plan choose the time again."""
    told = f"took the pin out of “{_title(request, pk, key)}”"
    return _changed(request, who, posted, pk, told, lambda refit, now: edits.update_task(refit, key, pin=None))


@router.post("/r/{pk}/task/{key}/split")
def split(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """Split a task in two, one after the other."""
    first = _hours(posted.text("hours"), "hours")
    told = f"split “{_title(request, pk, key)}”"
    return _changed(
        request, who, posted, pk, told, lambda refit, now: edits.split_task(refit, key, first, lambda: new_id("task"))
    )


@router.post("/r/{pk}/{kind}/{key}/move")
def move(request: Request, who: Who, posted: Form, pk: int, kind: str, key: str) -> Response:
    """Move a task in its job, or anything else in its list, one up or down."""
    what = kind_of(kind)
    steps = -1 if posted.text("way") == "up" else 1

    def edit(refit: Refit, now: datetime) -> Refit:
        return edits.move_task(refit, key, steps) if what is Kind.TASK else edits.move(refit, what, key, steps)

    return _changed(request, who, posted, pk, f"moved a {WORDS[what]}", edit)
