"""Purse: where does the money go?"""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import ValidationError

from rovask.core.books.account_sheet import account_sheet
from rovask.core.books.budget import Sums, by_line, grouped
from rovask.core.books.earned_value import earned_value, job_standings
from rovask.core.books.item import ItemKind
from rovask.core.books.items import items
from rovask.core.books.one_more_day import one_more_day
from rovask.core.books.paid_work import hourly_totals
from rovask.core.books.timeline import by_month, timeline
from rovask.core.books.yard_bill import against_invoices, by_day, yard_bill
from rovask.core.judged.leaps import Doubtful
from rovask.core.judged.ledger_edits import loose_bills
from rovask.core.plain.currency import is_currency
from rovask.core.plain.derived import derived
from rovask.core.plain.faults import RefitFaults, faults_of, refused
from rovask.core.plain.money import Money
from rovask.core.readings.commitments import Commitment, CommitmentKind, commitments, in_order
from rovask.core.refit import typed
from rovask.core.refit.givens.choices import Charge
from rovask.core.refit.model import Baseline, Entry, ExchangeRate, Photo, Refit
from rovask.core.refit.purse.choices import EntryKind
from rovask.desk.commands.purse import AcceptWork, NoteRate, ReadMeter, WriteEntry
from rovask.desk.rights import Right
from rovask.store.errors import NotFound
from rovask.store.history import history
from rovask.web.acting import acted, back_to, let_in, paper_in
from rovask.web.asking import Pk, RecordId, desk_of
from rovask.web.moved_money import REST, MovedMoney, moved_money
from rovask.web.page import Page, page_here
from rovask.web.purse_drawing import hold_of
from rovask.web.rendering import render
from rovask.web.security import Form, Who

router = APIRouter()

LAST = 300  # changes among which a week's are looked for
MOST_MOVERS = 5
A_PAGE = 100
MOST_OWED = 20
GROUPS = {
    "line": "budget line",
    "job": "job",
    "section": "section",
    "party": "supplier or trade",
    "person": "person",
    "month": "month",
}


@router.get("/r/{pk}/purse")
def purse(request: Request, who: Who, pk: Pk, by: str = "line") -> Response:
    """The forecast, the drawing, the budget's lines, what moved it, where each job stands."""
    page = page_here(request, who, pk, aside=(Baseline,), odds=True)
    refit, plan = page.refit, page.plan
    by = by if by in GROUPS else "line"
    zone = page.zone
    days = timeline(refit, plan)
    reserve = sum(row.given for row in by_line(refit, plan) if row.line is not None and row.line.contingency)
    context = page.context(
        by=by,
        groups=GROUPS,
        lines=by_line(refit, plan),
        grouped=_grouped(page, by) if by != "line" else [],
        hold=hold_of(
            days,
            refit.haul_at.astimezone(zone).date(),
            plan.launch.astimezone(zone).date(),
            page.now.astimezone(zone).date(),
            refit.budget,
            reserve,
        ),
        day=one_more_day(refit, plan),
        movers=_movers(request, page),
        most_movers=MOST_MOVERS,
        rest_words=REST,
        standings=[row for row in job_standings(refit, plan) if row.hours_done or row.spent],
        earned=earned_value(refit, plan, min(page.aside["baseline"], key=lambda one: one.at, default=None)),
        draws=refit.draws,
        tab="purse",
    )
    return render(request, "purse.html", context)


def _grouped(page: Page, by: str) -> list[tuple[str, str, Sums]]:
    """(what, where it leads, sums) for each group, the dearest first."""
    refit, plan = page.refit, page.plan
    if by == "month":
        return []
    names: dict[str | None, tuple[str, str]] = {None: ("none", "")}
    if by == "job":
        names |= {job.id: (job.title, f"{page.root}/jobs/{job.id}") for job in refit.jobs}
    if by == "person":
        names |= {one.id: (one.name, f"{page.root}/person/{one.id}/edit") for one in refit.people}
    found = grouped(refit, plan, lambda row: getattr(row, by) or None)
    rows = [(*names.get(key, (str(key), "")), sums) for key, sums in found.items()]
    return sorted(rows, key=lambda row: -row[2].will_be)


def _movers(request: Request, page: Page) -> MovedMoney:
    """What moved the forecast since last week, by what was done."""
    since = page.now - timedelta(days=7)
    with desk_of(request).looking() as session:
        rows = history(session, page.kept.pk, limit=LAST)
    shift = page.kept.clock_shift
    recent = [entry for entry in rows if entry.at + shift >= since]
    return moved_money(page.forecast.total, recent, rows[len(recent) :])


@router.get("/r/{pk}/purse/months")
def months(request: Request, who: Who, pk: Pk) -> Response:
    """Money by calendar month: paid, and what falls due."""
    page = page_here(request, who, pk)
    rows = by_month(timeline(page.refit, page.plan))
    return render(request, "months.html", page.context(rows=list(rows.values()), tab="purse"))


@router.get("/r/{pk}/purse/bill")
def bill(request: Request, who: Who, pk: Pk) -> Response:
    """The yard's bill by its tariff, day by day, against its invoices."""
    page = page_here(request, who, pk)
    lines = yard_bill(page.refit, page.plan)
    context = page.context(
        lines=lines,
        rows=against_invoices(page.refit, lines),
        days=list(by_day(lines).items()),
        day=one_more_day(page.refit, page.plan),
        account=[one for one in commitments(page.refit) if one.kind is CommitmentKind.YARD],
        charges=list(Charge),
        tab="bill",
    )
    return render(request, "bill.html", context)


@router.post("/r/{pk}/purse/meter")
def meter(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """What the power meter says."""
    let_in(request, who, pk, ReadMeter.needs)
    try:
        kwh = float(typed.number(posted.text("kwh"), 0, 1e7))
    except ValueError as error:
        raise refused(str(error), "kwh") from None
    acted(request, who, pk, ReadMeter(kwh))
    return back_to(posted, f"/r/{pk}/purse/bill")


@router.get("/r/{pk}/purse/ledger")
def ledger(request: Request, who: Who, pk: Pk, find: str = "", kind: str = "", sheet: str = "1") -> Response:
    """Every entry, the newest first, a page at a time; those that hold some words or are of one kind."""
    page = page_here(request, who, pk)
    words = find.casefold().split()
    owed = sorted((one for one in _commitments(page) if one.owed), key=lambda one: (not one.payable, -one.here.owed))
    rows = [
        entry
        for entry, text in _texts(page.refit)
        if (not kind or entry.kind.value == kind) and all(word in text for word in words)
    ]
    pages = max(-(-len(rows) // A_PAGE), 1)
    try:
        number = min(max(typed.whole(sheet, 1), 1), pages)
    except ValueError:
        number = 1
    context = page.context(
        rows=rows[(number - 1) * A_PAGE : number * A_PAGE],
        found=len(rows),
        sheet=number,
        sheets=pages,
        find=find,
        kind=kind,
        kinds=list(EntryKind),
        back=[one for one in _commitments(page) if one.here.back],
        owed=owed[:MOST_OWED],
        more_owed=max(len(owed) - MOST_OWED, 0),
        tab="ledger",
    )
    return render(request, "ledger.html", context)


@derived(lambda refit: (refit.entries,))
def _texts(refit: Refit) -> list[tuple[Entry, str]]:
    """Every entry with the words it is found by, the newest first."""
    return [(one, f"{one.title} {one.party} {one.number} {one.note}".casefold()) for one in reversed(in_order(refit))]


def _commitments(page: Page) -> tuple[Commitment, ...]:
    return commitments(page.refit, hourly_totals(page.refit, page.plan))


@router.get("/r/{pk}/purse/agreements")
def agreements(request: Request, who: Who, pk: Pk) -> Response:
    """What was agreed with whom, and where each stands."""
    page = page_here(request, who, pk)
    rows = {one.key: one for one in _commitments(page) if one.kind is CommitmentKind.AGREEMENT}
    context = page.context(rows=[(one, rows[one.id]) for one in page.refit.agreements], tab="agreements")
    return render(request, "agreements.html", context)


@router.get("/r/{pk}/purse/agreement/{key}")
def agreement(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """One agreement: one look tells where it stands."""
    page = page_here(request, who, pk, aside=(Photo,))
    one = next((row for row in page.refit.agreements if row.id == key), None)
    if one is None:
        raise NotFound("This agreement is gone; somebody removed it meanwhile.")
    found = next(row for row in _commitments(page) if row.kind is CommitmentKind.AGREEMENT and row.key == key)
    return render(
        request,
        "agreement.html",
        page.context(one=one, account=found, loose=loose_bills(page.refit, one), tab="agreements"),
    )


@router.post("/r/{pk}/agreement/{key}/accept")
def accept(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """The work was looked at and is as agreed; or not after all."""
    command = AcceptWork(
        key, posted.text("way") != "back", anyway=bool(posted.text("anyway")), reason=posted.words("reason", 160)
    )
    try:
        acted(request, who, pk, command)
    except Doubtful as doubtful:
        page = page_here(request, who, pk)
        context = page.context(doubtful=doubtful, action=request.url.path, posted=posted)
        return render(request, "doubt.html", context, status=409)
    return back_to(posted, f"/r/{pk}/purse/agreement/{key}")


@router.get("/r/{pk}/purse/entry")
def new_entry(request: Request, who: Who, pk: Pk) -> Response:
    """A form for an invoice, a payment, a credit note or a refund, filled in as far as one knows."""
    return _entry(request, who, pk, dict(request.query_params))


def _entry(
    request: Request,
    who: Who,
    pk: int,
    given: dict[str, str],
    faults: dict[str, list[str]] | None = None,
    doubts: list[str] | None = None,
    status: int = 200,
) -> Response:
    page = page_here(request, who, pk, Right.WORK, aside=(ExchangeRate,))
    home = next((one for one in _commitments(page) if one.key and one.key == _home_of(given)), None)
    currency = given.get("currency") or (home.currency if home is not None else page.refit.currency)
    rate = given.get("rate", "")
    if not rate and currency != page.refit.currency:
        rate = next(
            (row.rate for row in reversed(page.aside["rate"]) if (row.currency, row.base) == (currency, page.refit.currency)), ""
        )  # fmt: skip
    if not given.get("amount") and home is not None:
        first = given.get("kind", "invoice") == "invoice"
        amount = home.bound if first else home.payable
        given = given | {"amount": typed.minor_text(amount, home.currency) if amount else ""}
    context = page.context(
        given=given | {"currency": currency, "rate": rate},
        home=home,
        kinds=list(EntryKind),
        charges=list(Charge),
        faults=faults or {},
        doubts=doubts or [],
        tab="ledger",
    )
    return render(request, "entry.html", context, status)


def _home_of(given: dict[str, str]) -> str:
    return given.get("order") or given.get("agreement") or given.get("bill") or ""


@router.post("/r/{pk}/purse/entry")
def write_entry(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Write it into the ledger; what speaks against it is asked once."""
    let_in(request, who, pk, WriteEntry.needs)
    page = page_here(request, who, pk)
    given = {name: value for name, value in posted.form.items() if isinstance(value, str) and name != "csrf"}
    data, faults = _read_entry(page, given)
    if faults:
        return _entry(request, who, pk, given, faults, status=422)
    try:
        command = WriteEntry(data, posted.words("why", 160), paper_in(posted))
        done = acted(request, who, pk, command)
    except Doubtful as error:
        return _entry(request, who, pk, given, None, error.doubts, 422)
    except (RefitFaults, ValidationError) as error:
        told = faults_of(error) if isinstance(error, ValidationError) else error.faults
        faults = {}
        for fault in told:
            faults.setdefault(fault.path.rpartition(".")[2], []).append(fault.message)
        return _entry(request, who, pk, given, faults, status=422)
    return back_to(posted, f"/r/{pk}/purse/ledger#{done.made}")


def _read_entry(page: Page, given: dict[str, str]) -> tuple[dict[str, Any], dict[str, list[str]]]:
    """The fields of an entry from what was typed. charged: what the bank took in the refit's currency, for the rate."""
    faults: dict[str, list[str]] = {}
    currency = given.get("currency", "").strip().upper() or page.refit.currency
    data: dict[str, Any] = {
        name: given[name]
        for name in ("order", "agreement", "against", "person", "job", "line", "charge")
        if given.get(name)
    }
    data |= {name: given.get(name, "").strip() for name in ("party", "number", "note", "title")}
    data |= {"kind": given.get("kind", "invoice"), "currency": currency}
    data["title"] = data["title"] or data["party"] or data["kind"]
    if not is_currency(currency):
        return data, {"currency": [f"{currency} is not a currency; write its three letters, like EUR"]}

    def read(name: str, how: Any) -> None:
        try:
            data[name] = how(given.get(name, "").strip())
        except ValueError as error:
            faults.setdefault(name, []).append(str(error))

    read("amount", lambda text: typed.minor(text, currency))
    if data.get("amount") == 0:
        faults["amount"] = ["is nothing; type what the document says"]
    if given.get("at", "").strip():
        read("at", lambda text: typed.moment(text if ":" in text else f"{text} 12:00", page.zone, page.today))
    own = page.refit.currency
    if currency == own:
        data["rate"] = "1"
    elif given.get("charged", "").strip() and data.get("amount"):
        read("charged", lambda text: typed.minor(text, own))
        if "charged" in data:
            whole = Money(data.pop("charged"), own).amount / Money(data["amount"], currency).amount
            data["rate"] = f"{whole:.12f}"
    else:
        read("rate", lambda text: f"{typed.rate(text):f}")
    return data, faults


@router.get("/r/{pk}/purse/account")
def account(request: Request, who: Who, pk: Pk) -> Response:
    """The account on one page, to print."""
    page = page_here(request, who, pk)
    rows = items(page.refit, page.plan)
    context = page.context(
        sheet=account_sheet(page.refit, page.plan),
        owed=[one for one in _commitments(page) if one.owed],
        unknown=[row for row in rows if row.kind is ItemKind.UNKNOWN],
        tab="account",
    )
    return render(request, "account.html", context)


@router.get("/r/{pk}/purse/rates")
def rates(request: Request, who: Who, pk: Pk) -> Response:
    """Rates of exchange that were noted, and what they made of what is paid."""
    page = page_here(request, who, pk, aside=(ExchangeRate,))
    context = page.context(
        rates=list(reversed(page.aside["rate"]))[:A_PAGE],
        moved=[one for one in _commitments(page) if one.here.by_rate],
        used=sorted({one.currency for one in _commitments(page)} - {page.refit.currency}),
        tab="rates",
    )
    return render(request, "rates.html", context)


@router.post("/r/{pk}/purse/rates")
def note_rate(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Keep a rate."""
    let_in(request, who, pk, NoteRate.needs)
    currency = posted.text("currency").strip().upper()
    try:
        rate = f"{typed.rate(posted.text('rate')):f}"
    except ValueError as error:
        raise refused(str(error), "rate") from None
    if not is_currency(currency):
        raise refused(f"{currency or 'Nothing'} is not a currency; write its three letters, like EUR", "currency")
    acted(request, who, pk, NoteRate(currency, rate, posted.words("source", 120)))
    return back_to(posted, f"/r/{pk}/purse/rates")
