"""Stays: a helper for four days, a trade's call, guests; and what happens when somebody comes later."""

from __future__ import annotations

from datetime import date, timedelta

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.explain.moves import matter_first, moves
from rovask.core.explain.visits import VisitView, calls, stay_done, visit_view
from rovask.core.plain.faults import RefitFaults
from rovask.core.refit import typed
from rovask.core.refit.days.edits import next_stay
from rovask.core.refit.givens.choices import Role
from rovask.core.refit.model import Person, Refit, Visit
from rovask.desk.commands.days import ComeTogether, Slips
from rovask.store.errors import NotFound
from rovask.web.acting import acted, faults_of_form, let_in, on_to
from rovask.web.asking import Pk, RecordId
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.routes.days import planned_for
from rovask.web.routes.task import read
from rovask.web.security import Form, Who

router = APIRouter()


@router.get("/r/{pk}/visits")
def visits(request: Request, who: Who, pk: Pk) -> Response:
    """Every stay in order of time, and who of the people has none."""
    page = page_here(request, who, pk)
    return _visits(request, page, {}, {})


def _visits(
    request: Request, page: Page, faults: dict[str, list[str]], was: dict[str, str], status: int = 200
) -> Response:
    refit, today = page.refit, page.now.astimezone(page.zone).date()
    rows = sorted(refit.visits, key=lambda one: (one.first, one.id))
    staying = {one.person for one in rows}
    context = page.context(
        views=[visit_view(refit, page.plan, one) for one in rows if one.last >= today],
        past=[one for one in rows if one.last < today],
        others=[person for person in refit.people if person.id not in staying and person.role is not Role.OWNER],
        today=today,
        faults=faults,
        was=was,
    )
    return render(request, "visits.html", context, status)


@router.get("/r/{pk}/visits/{key}")
def one_visit(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """One stay: what only then can be done, what must be ready, hour by hour, what else fits in, what was done."""
    page = page_here(request, who, pk)
    visit = next((one for one in page.refit.visits if one.id == key), None)
    if visit is None:
        raise NotFound("This stay is gone; somebody removed it meanwhile.")
    today = page.now.astimezone(page.zone).date()
    past = []
    if visit.person is not None and visit.first <= today:
        past = stay_done(page.refit, visit, lambda on: planned_for(request, page, on), page.now)
    context = page.context(view=_view(page, visit, today), today=today, faults={}, was={}, past=past)
    return render(request, "visit.html", context)


def _view(page: Page, visit: Visit, today: date) -> VisitView:
    """A stay, with what fits in it that was not proposed for one before it already."""
    taken = frozenset[str]()
    for one in sorted(page.refit.visits, key=lambda one: (one.first, one.id)):
        if one.id == visit.id:
            break
        if one.last >= today:
            taken |= {row.task.id for row in visit_view(page.refit, page.plan, one, taken).fits}
    return visit_view(page.refit, page.plan, visit, taken)


@router.post("/r/{pk}/visits/together")
def together(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Several people who come together: a stay for each."""
    let_in(request, who, pk, ComeTogether.needs)
    today = page_here(request, who, pk).today
    command = ComeTogether(
        posted.words("title", 120),
        tuple(posted.many("person")),
        read(lambda text: typed.day(text, today), posted, "first"),
        read(lambda text: typed.day(text, today), posted, "last"),
        posted.words("ready", 4000),
    )
    try:
        acted(request, who, pk, command)
    except RefitFaults as error:
        page = page_here(request, who, pk)
        was = {name: posted.text(name) for name in ("title", "first", "last", "ready")}
        return _visits(request, page, faults_of_form(error), was | {"people": " ".join(posted.many("person"))}, 422)
    return on_to(f"/r/{pk}/visits")


@router.post("/r/{pk}/slip/{key}")
def slip(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Somebody comes back later; what it moves and whom to call is shown then."""
    let_in(request, who, pk, Slips.needs)
    try:
        today = page_here(request, who, pk).today
        back = read(lambda text: typed.day(text, today), posted, "back")
        acted(request, who, pk, Slips(key, back, posted.words("reason", 120), posted.text("word")))
    except RefitFaults as error:
        page = page_here(request, who, pk)
        was = {"back": posted.text("back"), "reason": posted.text("reason"), "person": key}
        return _visits(request, page, faults_of_form(error), was, 422)
    return on_to(f"/r/{pk}/slip/{key}")


def _gap(refit: Refit, person: Person, stay: Visit | None, today: date) -> tuple[date, date]:
    """The days somebody who comes later was to be there: from the first of them to the day they come."""
    if stay is not None and stay.was is not None:
        return stay.was, stay.first
    away = [span for span in person.absences if span.last >= today]
    return (away[-1].first, away[-1].last + timedelta(days=1)) if away else (today, today)


@router.get("/r/{pk}/slip/{key}")
def slipped(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """What the last change moved, seen from somebody who comes later: the tasks, whom to call, and what was put into the gap."""
    page = page_here(request, who, pk, before=True)
    person = page.refit.persons.get(key)
    if person is None:
        raise NotFound("This person is gone; somebody removed them meanwhile.")
    moved = moves(page.refit, page.before, page.plan) if page.before is not None else []
    told = calls(page.refit, page.before, moved) if page.before is not None else []
    today = page.now.astimezone(page.zone).date()
    stay = next_stay(page.refit, key, today)
    first, last = _gap(page.refit, person, stay, today)
    sooner = [
        one
        for one in moved
        if one.was is not None
        and one.now is not None
        and one.now < one.was
        and first <= one.now.astimezone(page.zone).date() < last
    ]
    moved = matter_first(page.refit, page.verdict, moved)
    context = page.context(person=person, moved=moved, calls=told, stay=stay, sooner=sooner, tasks=page.refit.tasks)
    return render(request, "slipped.html", context)
