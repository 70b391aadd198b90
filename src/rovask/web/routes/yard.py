"""Yard: the givens. Boat, yard, people and hours, places, money, appointments; the currency; and the log of changes."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.plain.currency import currencies
from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.refit import typed
from rovask.core.refit.model import Photo
from rovask.core.refit.recount import amounts, in_currency
from rovask.desk.commands.refits import ChangeCurrency
from rovask.desk.rights import Right
from rovask.desk.taking_back import TakeBack
from rovask.store.quotas import of_refit
from rovask.store.stands import last_copies
from rovask.web.acting import acted, faults_of_form, on_to, refit_of
from rovask.web.asking import Pk, desk_of
from rovask.web.gone import still_there
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.security import Form, Posted, Who, local_path
from rovask.web.spelling import ranges_text, rules_text, shifts_text

router = APIRouter()


@router.get("/r/{pk}/yard")
def yard(request: Request, who: Who, pk: Pk) -> Response:
    """Everything the plan takes as given."""
    page = page_here(request, who, pk, aside=(Photo,))
    desk = desk_of(request)
    with desk.looking() as session:
        room, copies = of_refit(session, pk, desk.settings.refit_mb), last_copies(session, 1)
    context = page.context(
        shifts_text=shifts_text,
        ranges_text=ranges_text,
        rules_text=rules_text,
        room=room,
        copies=copies[0] if copies else {},
    )
    return render(request, "yard.html", context)


@router.post("/r/{pk}/undo")
def undo(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Take the last change back."""
    return _after(request, who, posted, pk, TakeBack(), f"/r/{pk}/morning")


@router.post("/r/{pk}/redo")
def redo(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Do again what was last taken back."""
    return _after(request, who, posted, pk, TakeBack(again=True), f"/r/{pk}/morning")


@router.post("/r/{pk}/log/take-back")
def take_back(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Take any change back, as long as nothing later rests on it."""
    try:
        number = typed.whole(posted.text("change"), 1)
    except ValueError:
        raise RefitFaults([Fault("", "Choose the change to take back in the Log.")]) from None
    return _after(request, who, posted, pk, TakeBack(number), f"/r/{pk}/log")


def _after(request: Request, who: Who, posted: Posted, pk: int, command: TakeBack, otherwise: str) -> Response:
    """Back to where it was asked for, or near it when what that page showed was taken back with the change."""
    before = refit_of(request, who, pk)
    after = acted(request, who, pk, command).kept.refit
    return on_to(still_there(after, local_path(posted.text("next"), otherwise), before))


@router.get("/r/{pk}/currency")
def currency_page(request: Request, who: Who, pk: Pk) -> Response:
    """Counting the refit in another currency: what would happen to what was entered."""
    return _currency(request, page_here(request, who, pk, Right.GIVENS), dict(request.query_params), {})


def _currency(
    request: Request, page: Page, given: dict[str, str], faults: dict[str, list[str]], status: int = 200
) -> Response:
    way = given.get("way", "rate")
    code = given.get("currency", "").strip().upper()
    becomes = None
    if code and not faults:
        try:
            rate = typed.rate(given.get("rate", "")) if way == "rate" else None
            becomes = in_currency(page.refit, code, rate)
        except ValueError as error:
            faults = {"rate": [str(error)]}
        except RefitFaults as error:
            faults = faults_of_form(error)
    context = page.context(
        becomes=becomes,
        count=sum(1 for _ in amounts(page.refit)),
        faults=faults,
        given={"currency": code, "rate": given.get("rate", ""), "way": way},
        names=sorted(currencies().items()),
    )
    return render(request, "currency.html", context, 422 if faults else status)


@router.post("/r/{pk}/currency")
def change_currency(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Do it; it can be undone."""
    given = {name: posted.text(name) for name in ("currency", "rate", "way")}
    try:
        rate = typed.rate(given["rate"]) if given["way"] == "rate" else None
        acted(request, who, pk, ChangeCurrency(given["currency"].strip().upper(), rate))
    except ValueError as error:
        return _currency(request, page_here(request, who, pk, Right.GIVENS), given, {"rate": [str(error)]})
    except RefitFaults as error:
        return _currency(request, page_here(request, who, pk, Right.GIVENS), given, faults_of_form(error))
    return on_to(f"/r/{pk}/yard#money")
