"""Trouble in the slings and another night in them; the account that closes a refit, and the next one made of it."""

from __future__ import annotations

from datetime import datetime, timedelta

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import ValidationError

from rovask.core.books.pace import paces
from rovask.core.explain.moves import moves
from rovask.core.explain.visits import calls
from rovask.core.gate.gate import gate_of
from rovask.core.gate.mishaps import MISHAPS, mishap
from rovask.core.judged.next_refit import NextGivens, next_refit
from rovask.core.plain.faults import Fault, RefitFaults, faults_of
from rovask.core.refit import typed
from rovask.core.refit.days.edits import is_paid_person
from rovask.core.refit.givens.choices import Charge
from rovask.core.refit.launch.edits import next_slots
from rovask.core.refit.model import Baseline, Person, Refit, Task
from rovask.core.refit.whole import Whole
from rovask.core.refit.work.choices import State
from rovask.core.reports.closing_account import account_of
from rovask.desk.commands.closing import CloseRefit, HangAnotherNight, NoteSurprise, ReopenRefit
from rovask.desk.keeping import new_id
from rovask.desk.rights import Right
from rovask.store.errors import NotFound
from rovask.web.acting import acted, faults_of_form, let_in, on_to
from rovask.web.asking import Pk, RecordId, actor_of, desk_of
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.routes.task import read, when_typed
from rovask.web.security import Form, Who

router = APIRouter()

A_YEAR = timedelta(days=364)  # the same day of the week


@router.get("/r/{pk}/trouble")
def troubles(request: Request, who: Who, pk: Pk) -> Response:
    """What may go wrong in the slings and in the first minutes."""
    return render(request, "troubles.html", page_here(request, who, pk).context(mishaps=MISHAPS, chosen=None))


@router.get("/r/{pk}/trouble/{key}")
def trouble(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """One thing that may go wrong, step by step."""
    page = page_here(request, who, pk)
    found = mishap(key)
    if found is None:
        raise NotFound("There are no steps of that name.")
    return render(request, "troubles.html", page.context(mishaps=MISHAPS, chosen=found))


@router.get("/r/{pk}/night")
def night(request: Request, who: Who, pk: Pk, item: str = "") -> Response:
    """Hang another night: the price, the slots that may be, who stays."""
    page = page_here(request, who, pk, Right.GIVENS)
    return _night(request, page, {}, {"item": item})


def _night(
    request: Request, page: Page, faults: dict[str, list[str]], was: dict[str, str], status: int = 200
) -> Response:
    gate = gate_of(page.refit, page.now)
    failed = [one for state in gate.stages.values() for one in state.items if one.failed]
    slots = next_slots(page.refit, page.now)
    context = page.context(failed=failed, slots=slots, faults=faults, was=was)
    return render(request, "night.html", context, status)


@router.post("/r/{pk}/night")
def hang(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """She hangs another night."""
    let_in(request, who, pk, Right.GIVENS)
    try:
        slot = when_typed(request, who, posted, pk, "slot")
        if slot is None:
            raise RefitFaults([Fault("slot", "Say when the new slot is.")])
        hours = read(typed.hours, posted, "hours") if posted.text("hours").strip() else 1.0
        why = posted.words("why", 100)
        hangs = bool(posted.text("hangs"))
        acted(request, who, pk, HangAnotherNight(slot, why, posted.text("stays"), posted.text("item"), hours, hangs))
    except RefitFaults as error:
        was = {name: value for name, value in posted.form.items() if isinstance(value, str)}
        return _night(request, page_here(request, who, pk), faults_of_form(error), was, 422)
    return on_to(f"/r/{pk}/night/told")


@router.get("/r/{pk}/night/told")
def told(request: Request, who: Who, pk: Pk) -> Response:
    """What the night costs, until when, who stays, and what is told to whom."""
    page = page_here(request, who, pk, before=True)
    refit = page.refit
    moved = moves(refit, page.before, page.plan) if page.before is not None else []
    nights = [line for line in page.forecast.lines if "slings" in line.title.lower()]
    stays = [one for one in refit.appointments if one.title == "Aboard in the slings"]
    slings = [task for task in refit.tasks.values() if task.state is State.SLINGS and task.done_at is None]
    context = page.context(
        calls=calls(refit, page.before, moved) if page.before is not None else [],
        nights=nights,
        extras=[one for one in refit.yard_extras if one.charge is Charge.SLINGS],
        stays=stays[-1:],
        slings=slings,
        put_right=_put_right(refit),
        at=page.plan.by_task(),
        guests=[one for one in refit.visits if one.last >= page.now.astimezone(page.zone).date()],
    )
    return render(request, "night_told.html", context)


def _put_right(refit: Refit) -> list[tuple[Person, Task]]:
    """Trades whose work did not pass, each with what is still to be put right."""
    open_ = dict.fromkeys(one.snag for one in refit.checks if one.snag in refit.tasks and not one.passed)
    tasks = [refit.tasks[key] for key in open_ if key is not None and refit.tasks[key].done_at is None]
    return [
        (refit.persons[who], task)
        for task in tasks
        for who in task.people
        if who in refit.persons and is_paid_person(refit.persons[who])
    ]


# The end


@router.get("/r/{pk}/account")
def account(request: Request, who: Who, pk: Pk) -> Response:
    """What it was: planned and done, days, hours, money, what surprised. Closes the refit, and begins the next."""
    return _account(request, page_here(request, who, pk, aside=(Baseline,)), {}, {})


def _account(
    request: Request, page: Page, faults: dict[str, list[str]], was: dict[str, str], status: int = 200
) -> Response:
    kept = sorted(page.aside["baseline"], key=lambda one: one.at)
    refit, zone = page.refit, page.zone
    context = page.context(
        account=account_of(page.kept.refit, page.planned, kept[0] if kept else None),
        first=kept[0] if kept else None,
        paces=[one for one in paces(refit) if one.tasks >= 3],
        next_haul=(refit.haul_at + A_YEAR).astimezone(zone),
        next_launch=(refit.launch_at + A_YEAR).astimezone(zone),
        faults=faults,
        was=was,
    )
    return render(request, "closing.html", context, status)


@router.post("/r/{pk}/close")
def close(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Close the refit; or open it again, or only note what surprised."""
    words = posted.words("surprised", 4000)
    way = posted.text("way")
    command: CloseRefit | ReopenRefit | NoteSurprise = CloseRefit(words)
    if way == "open":
        command = ReopenRefit()
    elif way == "note":
        command = NoteSurprise(words)
    try:
        acted(request, who, pk, command)
    except RefitFaults as error:
        page = page_here(request, who, pk, aside=(Baseline,))
        return _account(request, page, faults_of_form(error), {"surprised": words}, 422)
    return on_to(f"/r/{pk}/account")


@router.post("/r/{pk}/next")
def begin_next(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """The next haul-out's refit, made of this one."""
    let_in(request, who, pk, Right.GIVENS)
    page = page_here(request, who, pk, aside=(Baseline,))
    try:
        given = NextGivens(
            posted.words("name", 120) or f"{page.refit.boat.name}, next haul-out",
            _moment(request, who, posted, pk, "haul_at"),
            _moment(request, who, posted, pk, "launch_at"),
            read(lambda text: typed.minor(text or "0", page.refit.currency), posted, "budget"),
        )
        known: dict[str, list[tuple[str, float, int]]] = {}
        for one in paces(page.refit):
            known.setdefault(one.person, []).append((one.work, round(one.factor, 3), one.tasks))
        made = next_refit(page.kept.refit, given, known, new_id, page.now)
        told = f"began the refit after “{page.refit.name}”"
        kept = desk_of(request).add(actor_of(who, request), Whole(made), told, recipes_of=pk)
    except (RefitFaults, ValidationError) as error:
        found = error if isinstance(error, RefitFaults) else RefitFaults(faults_of(error))
        was = {name: value for name, value in posted.form.items() if isinstance(value, str)}
        return _account(request, page, faults_of_form(found), was, 422)
    return on_to(f"/r/{kept.pk}/findings" if made.findings else f"/r/{kept.pk}/parked")


def _moment(request: Request, who: Who, posted: Form, pk: int, field: str) -> datetime:
    """A moment that must be given. Raises RefitFaults."""
    moment = when_typed(request, who, posted, pk, field)
    if moment is None:
        raise RefitFaults([Fault(field, "Give a day and a time.")])
    return moment
