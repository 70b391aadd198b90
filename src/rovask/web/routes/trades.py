"""Trades: the links they get, what they see and say by them, their sheets on paper; calendars as files and as feeds."""

from __future__ import annotations

from collections.abc import AsyncIterator
from datetime import timedelta
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import RedirectResponse, Response

from rovask.core.books.order_by import part_needs
from rovask.core.books.paid_work import hourly_totals
from rovask.core.plain.faults import RefitFaults, refused
from rovask.core.plan.planner import Planned
from rovask.core.readings.commitments import commitments
from rovask.core.refit import typed
from rovask.core.refit.days.choices import Said
from rovask.core.refit.model import Photo, Refit
from rovask.core.refit.register import kind_of
from rovask.core.reports.trade_sheet import trade_sheet
from rovask.desk.command import Actor
from rovask.desk.commands.secrets import (
    AnswerWord,
    CountSent,
    GiveCalendar,
    GiveTradeLink,
    NoteUsed,
    TradeSays,
    WithdrawSecret,
)
from rovask.desk.rights import Right
from rovask.formats.calendar_file import DELIVERIES, entries_of, write_calendar
from rovask.store.account_tables import SecretUse
from rovask.store.errors import NotFound
from rovask.store.quotas import link_room
from rovask.store.records import load_aside
from rovask.store.refits import Kept
from rovask.store.secrets import GONE, Secret, find_secret, secrets_of
from rovask.web.acting import acted, back_to, faults_of_form, let_in, picture_in, ran
from rovask.web.asking import NO_PAGE, Pk, RecordId, address_of, desk_of, helpers_of, sending_in
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.routes.task import read
from rovask.web.security import Form, Posted, Who, from_our_pages
from rovask.web.sent_once import sent_once

router = APIRouter()

CALENDAR = "text/calendar; charset=utf-8"
SAID = {one.value: one for one in Said}
SEEN_AGAIN = timedelta(minutes=10)
PRIVATE = {"Cache-Control": "no-store", "Referrer-Policy": "no-referrer", "X-Robots-Tag": "noindex"}


async def _posted_by_link(request: Request) -> AsyncIterator[Posted]:
    """A form of a trade's page: its address is what lets it in, so it needs no token; only from our own origin."""
    from_our_pages(request)
    form = await request.form(max_files=1, max_fields=40)
    try:
        await sent_once(request, form, f"link {request.path_params['token'][:12]}")
        yield Posted(form)
    finally:
        await form.close()


LinkForm = Annotated[Posted, Depends(_posted_by_link)]


# Those aboard: links and calendars


@router.get("/r/{pk}/links")
def links(request: Request, who: Who, pk: Pk) -> Response:
    """The addresses that open without an account, and the calendars."""
    return _links(request, page_here(request, who, pk), "", "", {})


def _links(
    request: Request, page: Page, token: str, purpose: str, faults: dict[str, list[str]], status: int = 200
) -> Response:
    desk = desk_of(request)
    with desk.looking() as session:
        rows = secrets_of(session, page.kept.pk, desk.settings.clock())
    base = str(request.base_url).rstrip("/")
    address = ""
    if token:
        address = f"{base}/t/{token}" if purpose == SecretUse.TRADE else f"{base}/feed/{token}.ics"
    context = page.context(rows=rows, address=address, purpose=purpose, faults=faults)
    response = render(request, "links.html", context, status)
    response.headers["Cache-Control"] = "no-store"
    return response


@router.post("/r/{pk}/links/trade")
def give_trade(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """A trade's link; its address is shown this once."""
    let_in(request, who, pk, Right.PEOPLE)
    try:
        days = read(lambda text: typed.whole(text or "60", 1), posted, "days")
        made = ran(request, who, GiveTradeLink(posted.text("person"), bool(posted.text("agreement")), days), pk)
    except RefitFaults as error:
        return _links(request, page_here(request, who, pk), "", "", faults_of_form(error), 422)
    return _links(request, page_here(request, who, pk), str(made), SecretUse.TRADE, {})


@router.post("/r/{pk}/links/calendar")
def give_calendar(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """A calendar's address; it is shown this once."""
    made = ran(request, who, GiveCalendar(posted.text("person")), pk)
    return _links(request, page_here(request, who, pk), str(made), SecretUse.CALENDAR, {})


@router.post("/r/{pk}/links/withdraw")
def withdraw(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """An address opens no more."""
    try:
        number = typed.whole(posted.text("secret"), 1)
    except ValueError:
        raise refused("Choose which address to withdraw.") from None
    ran(request, who, WithdrawSecret(number), pk)
    return RedirectResponse(f"/r/{pk}/links", status_code=303)


@router.get("/r/{pk}/calendar/{key}.ics")
def calendar_file(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """Somebody's calendar as a file; ``all`` is everybody's with the deliveries, ``deliveries`` these alone."""
    page = page_here(request, who, pk)
    person = {"all": None, "deliveries": DELIVERIES}.get(key, key)
    if person not in {None, DELIVERIES, *page.refit.persons}:
        raise NotFound("This person is gone; somebody removed them meanwhile.")
    content = _calendar(page.kept, page.refit, page.planned, person)
    headers = {"Content-Disposition": f'attachment; filename="{key}.ics"', "Cache-Control": "no-store"}
    return Response(content, media_type=CALENDAR, headers=headers)


def _calendar(kept: Kept, refit: Refit, planned: Planned, person: str | None) -> bytes:
    needs = part_needs(refit, planned.plan, planned.verdict)
    whose = {None: "everybody", DELIVERIES: "deliveries"}.get(person) or refit.persons[person or ""].name
    entries = entries_of(refit, planned.plan, needs, person)
    return write_calendar(f"{refit.boat.name}: {whose}", f"refit-{kept.pk}.rovask", entries, planned.plan.now)


@router.get("/r/{pk}/sheet/{key}")
def sheet(request: Request, who: Who, pk: Pk, key: RecordId, job: str = "") -> Response:
    """What somebody is to do, on one sheet of paper; of one job where one is asked for."""
    page = page_here(request, who, pk, aside=(Photo,), odds=True)
    if key not in page.refit.persons:
        raise NotFound("This person is gone; somebody removed them meanwhile.")
    context = page.context(
        person=page.refit.persons[key],
        rows=trade_sheet(page.refit, page.plan, key, job),
        job=next((one for one in page.refit.jobs if one.id == job), None),
    )
    return render(request, "trade_sheet.html", context)


@router.post("/r/{pk}/words/{key}/answer")
def answer(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """What a trade said is dealt with."""
    acted(request, who, pk, AnswerWord(key))
    return back_to(posted, f"/r/{pk}/morning")


# Those who come by a link


def _by_link(request: Request, token: str, purpose: SecretUse) -> tuple[Secret, Kept, Planned]:
    """What an address leads to, once it is let in. Raises NotFound for any that doesn't open, TooMany for guessing."""
    desk = desk_of(request)
    clock = desk.settings.clock()
    with desk.looking() as session:
        try:
            secret = find_secret(session, token, purpose, clock)
        except NotFound:
            request.app.state.limits.before_link(address_of(request))  # only wrong guesses count
            raise
        kept = desk.seen_by(session, None, secret.refit).kept
    if secret.person not in {None, DELIVERIES, *kept.refit.persons}:
        raise NotFound(GONE)
    if secret.seen_at is None or clock - secret.seen_at > SEEN_AGAIN:
        desk.run(Actor(None, address=address_of(request)), NoteUsed(secret.pk, secret.hint), secret.refit)
    return secret, kept, desk.planning.current(kept, clock)


@router.get("/feed/{token}.ics")
def feed(request: Request, token: str) -> Response:
    """A calendar for whoever has its address."""
    secret, kept, planned = _by_link(request, token, SecretUse.CALENDAR)
    content = _calendar(kept, kept.refit, planned, secret.person)
    return Response(content, media_type=CALENDAR, headers=PRIVATE)


@router.get("/t/{token}")
def trade(request: Request, token: str, told: str = "") -> Response:
    """A trade's own page: its work and nothing else."""
    return _trade(request, token, {}, {}, told)


def _trade(
    request: Request, token: str, faults: dict[str, list[str]], was: dict[str, str], told: str = "", status: int = 200
) -> Response:
    secret, kept, planned = _by_link(request, token, SecretUse.TRADE)
    refit, person = kept.refit, kept.refit.persons[str(secret.person)]
    rows = trade_sheet(refit, planned.plan, person.id)
    clock = desk_of(request).settings.clock()
    with desk_of(request).looking() as session:
        room = link_room(session, secret.pk, desk_of(request).settings.link_mb)
    agreed = [one for one in refit.agreements if one.person == person.id] if secret.agreement else []
    money = {one.key: one for one in commitments(refit, hourly_totals(refit, planned.plan))} if agreed else {}
    context = {
        "refit": refit,
        "person": person,
        "rows": rows,
        "zone": refit.yard.zone,
        "now": kept.now(clock),
        "said": [one for one in refit.words if one.person == person.id][-5:],
        "agreed": [(one, money[one.id]) for one in agreed if one.id in money],
        "root": f"/t/{token}",
        "room": room,
        "told": SAID.get(told),
        "faults": faults,
        "was": was,
    }
    response = render(request, "trade.html", context, status)
    response.headers.update(PRIVATE)
    return response


@router.get("/t/{token}/photo/{key}.jpg")
def trade_photo(request: Request, token: str, key: RecordId) -> Response:
    """A photo of a trade's own work, and of no other."""
    secret, kept, planned = _by_link(request, token, SecretUse.TRADE)
    rows = trade_sheet(kept.refit, planned.plan, str(secret.person))
    if key not in {photo for row in rows for photo in row.photos}:
        raise NotFound(NO_PAGE)
    with desk_of(request).looking() as session:
        found = load_aside(session, secret.refit, kind_of(Photo), [key])
    if not found:
        raise NotFound(NO_PAGE)
    data = desk_of(request).photos.content(found[0].sha256, True)
    return Response(data, media_type="image/jpeg", headers=PRIVATE)


@router.post("/t/{token}/say")
def say(request: Request, token: str, posted: LinkForm) -> Response:
    """Coming, late, done or found."""
    secret, kept, _ = _by_link(request, token, SecretUse.TRADE)
    try:
        said = SAID.get(posted.text("said"))
        if said is None:
            raise refused("Choose what you want to say.")
        today = kept.now(desk_of(request).settings.clock()).astimezone(kept.refit.yard.zone).date()
        day = read(lambda text: typed.day(text, today), posted, "day") if posted.text("day").strip() else None
        upload = posted.upload("photo")
        if upload is not None:  # counted before it is looked at, whatever it turns out to be
            desk_of(request).run(Actor(None), CountSent(secret.pk, upload.size or 0), kept.pk)
        command = TradeSays(
            str(secret.person), said, posted.text("task"), day, posted.words("note", 200), picture_in(posted)
        )
        helpers_of(request).overtaken(kept.pk)
        desk_of(request).act(Actor(None, sending=sending_in(request)), kept.pk, command)
    except RefitFaults as error:
        was = {name: value for name, value in posted.form.items() if isinstance(value, str)}
        return _trade(request, token, faults_of_form(error), was, status=422)
    return RedirectResponse(f"/t/{token}?told={said.value}", status_code=303)
