"""Services asked from the pages: an order sent, a parcel looked for, rates fetched; and what services tell unasked."""

from __future__ import annotations

from datetime import date

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import ValidationError
from starlette.concurrency import run_in_threadpool

from rovask.core.plain.faults import RovaskError, refused
from rovask.core.refit.stores.choices import OrderState
from rovask.desk.callbacks import take
from rovask.desk.commands.orders import SendOrder, StepOrder
from rovask.desk.commands.purse import NoteRates
from rovask.desk.services.asking import Line
from rovask.desk.services.carrier import parcel
from rovask.desk.services.rates import rates_of
from rovask.desk.services.supplier import SupplierEvent, standing
from rovask.web.acting import acted, back_to, let_in
from rovask.web.asking import Pk, RecordId, desk_of
from rovask.web.page import page_here
from rovask.web.routes.orders import order_here
from rovask.web.security import Form, Who

router = APIRouter()

ASKED, WAITS = 2, 4.0  # tries and seconds while somebody looks at the page
MOST_TOLD = 8192  # bytes of a callback


def _line(name: str, url: str, setting: str) -> Line:
    if not url:
        raise refused(f"No such service is set (ROVASK_{setting}); note it by hand.")
    return Line(name, url, tries=ASKED, timeout=WAITS)


@router.post("/r/{pk}/order/{key}/send")
def send(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Hand the order to its supplier's service."""
    let_in(request, who, pk, SendOrder.needs)
    if not desk_of(request).settings.supplier_url:
        raise refused("No supplier's service is set (ROVASK_SUPPLIER_URL); order as you usually do, and note it here.")
    acted(request, who, pk, SendOrder(key))
    return back_to(posted, f"/r/{pk}/stores/order/{key}")


@router.post("/r/{pk}/order/{key}/ask")
def ask(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Ask where it is: the carrier by its tracking number, else the supplier by the order's."""
    let_in(request, who, pk, StepOrder.needs)
    settings = desk_of(request).settings
    page = page_here(request, who, pk)
    order = order_here(page, key)
    try:
        if order.tracking:
            found = parcel(
                _line("The carrier", settings.carrier_url, "CARRIER_URL"), order.tracking, order.placed_at, page.now
            )
            state, expected, told = found.ours, found.expected, f"carrier: {found.state}, {found.place}".rstrip(", ")
        elif order.mark and order.number:
            stands = standing(_line("The supplier", settings.supplier_url, "SUPPLIER_URL"), order.number, page.now)
            state, expected, told = stands.ours, stands.expected, f"supplier: {stands.state}"
        else:
            raise refused("Nobody can be asked: it has no tracking number, and was not sent through a service.")
    except RovaskError as error:
        raise refused(str(error)) from None
    ahead = state if state is not None and state is not order.state else order.state
    acted(request, who, pk, StepOrder(key, ahead if order.state.is_open else OrderState.CANCELLED, expected, told))
    return back_to(posted, f"/r/{pk}/stores/order/{key}")


@router.post("/r/{pk}/purse/rates/fetch")
def fetch_rates(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Fetch today's rates of the currencies in use."""
    let_in(request, who, pk, NoteRates.needs)
    page = page_here(request, who, pk)
    line = _line("The rates of exchange", desk_of(request).settings.rates_url, "RATES_URL")
    day: date = page.now.astimezone(page.zone).date()
    refit = page.refit
    quoted = [(one.currency for one in rows) for rows in (refit.orders, refit.agreements, refit.entries, refit.offers)]
    used = {code for codes in quoted for code in codes} | {one.currency for one in refit.suppliers if one.currency}
    try:
        found = rates_of(line, refit.currency, day)
    except RovaskError as error:
        raise refused(str(error)) from None
    wanted = {code: rate for code, rate in found.items() if code in used} or dict(found)
    acted(request, who, pk, NoteRates(wanted, "the rate service"))
    return back_to(posted, f"/r/{pk}/purse/rates")


@router.post("/callbacks/{mark}")
async def told(request: Request, mark: str) -> Response:
    """What a service tells of an order that carries this mark: kept before it is answered, told twice it is kept once."""
    body = await request.body()
    if len(body) > MOST_TOLD:
        return Response(status_code=413)
    try:
        event = SupplierEvent.model_validate_json(body)
    except ValidationError:
        return Response(status_code=422)
    await run_in_threadpool(take, desk_of(request), mark, event)
    return Response(status_code=204)
