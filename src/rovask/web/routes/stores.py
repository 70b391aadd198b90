"""Stores: what do we buy, what have we, where is it?"""

from __future__ import annotations

from functools import partial
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.books.later import later_costs
from rovask.core.books.one_more_day import day_costs
from rovask.core.books.order_by import PartNeed, part_needs, reason
from rovask.core.explain.effects import effect_of
from rovask.core.explain.offers import OfferWorked, offer_worked
from rovask.core.judged.offer_edits import offer_of, retied
from rovask.core.judged.trips import Trip, proposals
from rovask.core.plain.derived import derived
from rovask.core.plain.faults import refused
from rovask.core.plan.result import Plan, Verdict
from rovask.core.readings.stock import stocks, to_buy
from rovask.core.readings.uses import uses_of
from rovask.core.refit import typed
from rovask.core.refit.givens.choices import Certainty
from rovask.core.refit.model import Offer, Part, Refit
from rovask.core.refit.stores.choices import OfferState, PartStatus, Remedy, SupplierKind
from rovask.desk.commands.orders import (
    ChooseCertainty,
    ChooseOffer,
    CountPart,
    DoesNotFit,
    Overboard,
    PlanTrip,
    SayUsed,
)
from rovask.desk.commands.parts import GivePart, GotPart, MissPart, MovePartOn
from rovask.store.errors import NotFound
from rovask.web.acting import acted, back_to, let_in, on_to
from rovask.web.asking import Pk, RecordId
from rovask.web.costly import known, searched_meanwhile, worked_meanwhile
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.security import Form, Posted, Who

router = APIRouter()

SHOWN = {
    "": "by urgency",
    "order": "to order",
    "coming": "under way",
    "here": "here",
    "left": "left over",
    "missing": "missing or away",
}
MOST_ROWS = 40
MOST_TRIPS = 8


def _wanted(need: PartNeed, show: str) -> bool:
    stock, part = need.stock, need.part
    match show:
        case "order":
            return need.to_order
        case "coming":
            return bool(stock.coming)
        case "here":
            return stock.here > 0
        case "left":
            return stock.left_over > 0
        case "missing":
            return part.missing_since is not None or stock.away > 0
        case _:
            return True


@derived(of=1)
def _counts(refit: Refit, plan: Plan, verdict: Verdict) -> dict[str, int]:
    """How many parts each choice shows."""
    needs = part_needs(refit, plan, verdict)
    return {key: sum(_wanted(need, key) for need in needs) for key in SHOWN}


@router.get("/r/{pk}/stores")
def stores(request: Request, who: Who, pk: Pk, show: str = "", find: str = "", all: str = "") -> Response:
    """Every part, most urgent first; some of them, or those whose name, supplier or place holds some words."""
    page = page_here(request, who, pk)
    show = show if show in SHOWN else ""
    words = find.casefold().split()
    rows = [
        need
        for need in page.needs
        if _wanted(need, show)
        and all_in(words, f"{need.part.name} {need.part.supplier} {need.part.stowed} {need.part.dimension}")
    ]
    context = page.context(
        rows=rows if all else rows[:MOST_ROWS],
        hidden=0 if all else max(len(rows) - MOST_ROWS, 0),
        show=show,
        find=find,
        shows=SHOWN,
        counts=_counts(page.refit, page.plan, page.verdict),
        reasons={need.part.id: reason(page.refit, need) for need in rows[:MOST_ROWS] if need.order_by},
        day_cost=day_costs(page.refit, page.plan),
        tab="stores",
    )
    return render(request, "stores.html", context)


def all_in(words: list[str], text: str) -> bool:
    """Whether every word stands in a text."""
    return all(word in text.casefold() for word in words)


def part_here(page: Page, key: str) -> Part:
    """The part of that id. Raises NotFound."""
    if key not in page.refit.part_by_id:
        raise NotFound("This part is gone; somebody removed it meanwhile.")
    return page.refit.part_by_id[key]


@router.get("/r/{pk}/stores/part/{key}")
def part(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """One part: what there is, who takes it, offers side by side, orders and deliveries; settled: one offer more searched."""
    page = page_here(request, who, pk, odds=True)
    part_here(page, key)
    settle = bool(request.query_params.get("settled"))
    return render(request, "part.html", page.context(**_part(page, key, settle=settle), tab="stores"))


def _part(page: Page, key: str, *, settle: bool) -> dict[str, Any]:
    refit = page.refit
    need = next(one for one in page.needs if one.part.id == key)
    amounts = uses_of(refit)
    lines = [line for line in refit.order_lines if line.part == key]
    offers = _offers(page, key, settle=settle)
    return {
        "part": refit.part_by_id[key],
        "need": need,
        "stock": need.stock,
        "why": reason(refit, need),
        "later": later_costs(refit, page.plan, need),
        "takers": [
            (task, *amounts[task.id, key], need.stock.by_task.get(task.id))
            for task in refit.tasks.values()
            if key in task.parts
        ],
        "buy": to_buy(refit, key),
        "offers": offers,
        "to_settle": sum(
            offer.state is OfferState.OFFERED and (worked is None or not worked.effect.settled)
            for offer, worked, *_ in offers
        ),
        "retied": {one.id: retied(refit, one) for one in refit.offers if one.part == key},
        "orders": [(next(one for one in refit.orders if one.id == line.order), line) for line in lines],
        "receipts": [row for row in refit.receipts if row.line in {line.id for line in lines}],
        "at": page.plan.by_task(),
        "remedies": list(Remedy),
        "open_tasks": [(job, task) for job, task in refit.walk() if not task.done_at and key not in task.parts],
    }


def _offers(page: Page, key: str, *, settle: bool) -> list[tuple[Offer, OfferWorked | None, str, str]]:
    """Offers with what each does to launch and money; those declined only as they stand.

    What the rest of the plan does in answer is a search, so the first look has the repaired plan's; the page asks again
    and each time one offer more is settled.
    """
    out: list[tuple[Offer, OfferWorked | None, str, str]] = []
    for offer in (one for one in page.refit.offers if one.part == key and one.state is not OfferState.ASKED):
        if offer.state is not OfferState.OFFERED:
            out.append((offer, None, "", ""))
            continue
        work = partial(offer_worked, page.refit, page.plan, offer, page.plan.now, page.now)
        worked: OfferWorked | None = known(page, f"offer {offer.id} settled")
        if worked is None and settle:
            worked = searched_meanwhile(page, f"offer {offer.id} settled", work)
        if worked is None:
            worked = worked_meanwhile(page, f"offer {offer.id}", work)
        effect = (
            effect_of(worked.effect.before.verdict, worked.effect.after.verdict) if worked is not None else ("", "")
        )
        out.append((offer, worked, *effect))
    every = all(worked.effect.settled for _, worked, _, _ in out if worked)  # rows stay where they are until then

    def money(worked: OfferWorked) -> int:
        return (worked.effect.money if every else worked.effect.own).minor

    return sorted(out, key=lambda row: (row[1] is None, money(row[1]) if row[1] else 0))


@router.post("/r/{pk}/offer/{key}/choose")
def choose_offer(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Order from one of several offers, with the reason."""
    let_in(request, who, pk, ChooseOffer.needs)
    acted(request, who, pk, ChooseOffer(key, posted.words("reason", 200)))
    part_of_it = offer_of(page_here(request, who, pk).refit, key).part
    return on_to(f"/r/{pk}/stores/part/{part_of_it}")


@router.get("/r/{pk}/stores/part/{key}/ask")
def ask(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """A request for a quotation as text, for everything that is to be ordered from this part's supplier."""
    page = page_here(request, who, pk)
    supplier = part_here(page, key).supplier
    wanted = [need for need in page.needs if need.to_order and need.part.supplier == supplier] or [
        need for need in page.needs if need.part.id == key
    ]
    buy = {need.part.id: to_buy(page.refit, need.part.id) or need.part.quantity for need in wanted}
    return render(request, "ask.html", page.context(supplier=supplier, wanted=wanted, buy=buy, tab="stores"))


@router.post("/r/{pk}/part/{key}/now")
def part_now(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """A parcel came, fits, or was ordered: one tap."""
    let_in(request, who, pk, MovePartOn.needs)
    try:
        status = PartStatus(posted.text("status"))
    except ValueError:
        raise refused("Say what became of it: ordered, received, or tried and fits.", "status") from None
    acted(request, who, pk, MovePartOn(key, status))
    return back_to(posted, f"/r/{pk}/stores")


@router.post("/r/{pk}/part/{key}/missing")
def part_missing(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """A part can't be found, or is found again."""
    acted(request, who, pk, MissPart(key, posted.text("way") != "found"))
    return back_to(posted, f"/r/{pk}/stores")


@router.post("/r/{pk}/part/{key}/give")
def part_give(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """A task takes so much of a part."""
    let_in(request, who, pk, GivePart.needs)
    page = page_here(request, who, pk)
    if posted.text("task") not in page.refit.tasks:
        raise refused("Choose which task takes it.", "task")
    whole = part_here(page, key).quantity
    given = posted.text("amount").strip()
    amount = _number(posted, "amount", lambda text: float(typed.number(text, 1e-6, 1e6))) if given else whole
    acted(request, who, pk, GivePart(key, posted.text("task"), amount))
    return back_to(posted, f"/r/{pk}/stores/part/{key}")


@router.post("/r/{pk}/part/{key}/misfit")
def part_misfit(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """A part does not fit: by how much, and what is done about it."""
    let_in(request, who, pk, DoesNotFit.needs)
    try:
        remedy = Remedy(posted.text("remedy")) if posted.text("remedy") else None
        hours = typed.hours(posted.text("hours") or "2", 200)
    except ValueError as error:
        raise refused(str(error), "hours") from None
    command = DoesNotFit(key, posted.words("off_by", 120), remedy, hours, posted.words("other", 80))
    acted(request, who, pk, command)
    return back_to(posted, f"/r/{pk}/stores/part/{key}")


@router.post("/r/{pk}/part/{key}/overboard")
def part_overboard(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """So much of a part is lost for good."""
    let_in(request, who, pk, Overboard.needs)
    given = posted.text("amount").strip()
    amount = _number(posted, "amount", lambda text: float(typed.number(text, 1e-6, 1e6))) if given else None
    acted(request, who, pk, Overboard(key, amount))
    return back_to(posted, f"/r/{pk}/stores/part/{key}")


@router.post("/r/{pk}/part/{key}/got")
def part_got(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Bought over the counter or fetched: a thumb on the shopping list."""
    let_in(request, who, pk, GotPart.needs)
    currency = page_here(request, who, pk).refit.currency
    price = _number(posted, "price", lambda text: typed.minor(text, currency)) if posted.text("price").strip() else None
    acted(request, who, pk, GotPart(key, price))
    return back_to(posted, f"/r/{pk}/stores/shopping")


@router.post("/r/{pk}/part/{key}/count")
def part_count(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """So much of it there is."""
    let_in(request, who, pk, CountPart.needs)
    amount = _number(posted, "amount", lambda text: float(typed.number(text, 0, 1e6)))
    acted(request, who, pk, CountPart(key, amount))
    return back_to(posted, f"/r/{pk}/stores/part/{key}")


@router.post("/r/{pk}/part/{key}/use")
def part_use(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """A task takes so much of it, or took so much."""
    let_in(request, who, pk, SayUsed.needs)
    took = posted.text("way") == "took"
    least = 0.0 if took else 1e-6
    amount = _number(posted, "amount", lambda text: float(typed.number(text, least, 1e6)))
    acted(request, who, pk, SayUsed(posted.text("task"), key, amount, took))
    return back_to(posted, f"/r/{pk}/stores/part/{key}")


def _number(posted: Posted, name: str, read: Any) -> Any:
    """A field read as a number. Raises RefitFaults, naming it."""
    try:
        return read(posted.text(name))
    except ValueError as error:
        raise refused(str(error), name) from None


# -- the shopping list and trips --------------------------------------------------------------------


@router.get("/r/{pk}/stores/shopping")
def shopping(request: Request, who: Who, pk: Pk, all: str = "") -> Response:
    """What is to be had, by shop, for a thumb or for paper; and trips worth making."""
    page = page_here(request, who, pk)
    by_shop: dict[str, list[PartNeed]] = {}
    wanted = [need for need in page.needs if need.to_order or (need.stock.away and need.on_trip)]
    for need in wanted if all else wanted[:MOST_ROWS]:
        by_shop.setdefault(need.part.supplier or "anywhere", []).append(need)
    fetching = {part.fetch for part in page.refit.parts}
    trips = [task for task in page.refit.tasks.values() if task.id in fetching]
    context = page.context(
        buy={need.part.id: to_buy(page.refit, need.part.id) for need in wanted},
        by_shop=sorted(by_shop.items(), key=lambda row: (not _counter(page.refit, row[0]), row[0])),
        hidden=0 if all else max(len(wanted) - MOST_ROWS, 0),
        proposals=proposals(page.refit)[:MOST_TRIPS],
        trips=[task for task in trips if not task.done_at],
        at=page.plan.by_task(),
        tab="shopping",
    )
    return render(request, "shopping.html", context)


def _counter(refit: Refit, name: str) -> bool:
    """Whether things are bought there over the counter."""
    return any(
        one.name.casefold() == name.casefold() and one.what in (SupplierKind.SHOP, SupplierKind.STORE)
        for one in refit.suppliers
    )


@router.post("/r/{pk}/trip")
def trip(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Plan a trip for what was ticked."""
    let_in(request, who, pk, PlanTrip.needs)
    hours = _number(posted, "hours", lambda text: typed.hours(text, 48))
    asked = Trip(
        posted.words("to", 80) or "town",
        posted.many("part"),
        hours,
        posted.text("person") or None,
        posted.text("gear") or None,
    )
    acted(request, who, pk, PlanTrip(asked))
    return on_to(f"/r/{pk}/stores/shopping")


@router.post("/r/{pk}/certainty")
def certainty(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Likely or safe lead times."""
    let_in(request, who, pk, ChooseCertainty.needs)
    try:
        chosen = Certainty(posted.text("certainty"))
    except ValueError:
        raise refused("Choose likely or safe.", "certainty") from None
    acted(request, who, pk, ChooseCertainty(chosen))
    return back_to(posted, f"/r/{pk}/stores")


@router.get("/r/{pk}/stores/suppliers")
def suppliers(request: Request, who: Who, pk: Pk) -> Response:
    """Who sells, makes, keeps and carries."""
    page = page_here(request, who, pk)
    short = {key: stock for key, stock in stocks(page.refit).items() if stock.short}
    named = {one.name.casefold() for one in page.refit.suppliers}
    context = page.context(
        counts={
            one.id: sum(
                part.supplier.casefold() == one.name.casefold() for part in page.refit.parts if part.id in short
            )
            for one in page.refit.suppliers
        },
        unnamed=sorted({part.supplier for part in page.refit.parts if part.supplier.casefold() not in named} - {""}),
        tab="suppliers",
    )
    return render(request, "suppliers.html", context)
