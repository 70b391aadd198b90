"""Adding, editing and removing everything that has a sheet; both versions when two people edit one thing."""

from __future__ import annotations

from collections.abc import Mapping
from contextlib import suppress
from enum import StrEnum
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import ValidationError

from rovask.core.plain.faults import RefitFaults
from rovask.core.refit import typed
from rovask.core.refit.givens.slot import date_doubts
from rovask.core.refit.records import HEADER, SINGLE, RecordKey, find
from rovask.core.refit.register import KINDS, Kind
from rovask.core.refit.removal import InUse
from rovask.desk.commands.accounts import DismissNote
from rovask.desk.commands.records import RemoveRecord, SaveRecord
from rovask.desk.rights import Right
from rovask.store.errors import Conflict, NotFound
from rovask.store.history import history
from rovask.store.records import load_aside
from rovask.web import sheets
from rovask.web.acting import acted, back_to, let_in, on_to, ran
from rovask.web.asking import NO_PAGE, AskedKind, Pk, RecordId, desk_of
from rovask.web.gone import still_there
from rovask.web.money_spelling import as_posted
from rovask.web.nearness import Near, near
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.security import Form, Who, local_path
from rovask.web.sheet_fields import FIELDS

router = APIRouter()

ONLY_ONE = (HEADER, *SINGLE)


def _with_sheet(kind: Kind) -> Kind:
    """The kind, if it has a sheet. Raises NotFound."""
    if kind.name not in FIELDS:
        raise NotFound(NO_PAGE)
    return kind


def right_for(kind: Kind) -> Right:
    """What it takes to change a record of a kind."""
    return Right.GIVENS if kind.givens else Right.WORK


def item_of(request: Request, page: Page, kind: Kind, key: str) -> Mapping[str, Any] | None:
    """The model values of one thing by field name; None if it is gone."""
    if kind.aside:
        with desk_of(request).looking() as session:
            rows = load_aside(session, page.kept.pk, kind, [key])
        return dict(rows[0]) if rows else None
    found = find(page.refit, RecordKey(kind.name, key))
    return dict(found) if found is not None else None


# What an address may say a new sheet begins with.
ASKED_FOR = frozenset(
    [
        "first",
        "then",
        "place",
        "under",
        "part",
        "order",
        "agreement",
        "against",
        "job",
        "supplier",
        "party",
        "person",
        "source",
        "charge",
    ]
)


SAID_BY_ORDERS = ("status", "arrives")  # of a part that has an order: how far it has come, and when it is due


def _begins_with(page: Page, kind: Kind) -> dict[str, Any]:
    """What a new thing starts as: as its kind says, else each choice as it usually is; now, and in the refit's own currency, where it has such fields."""
    fields = kind.model.model_fields
    said = (StrEnum, bool)  # what a new one is unless somebody says otherwise stands in its form
    fresh = {name: one.default for name, one in fields.items() if isinstance(one.default, said)} | dict(kind.fresh)
    fresh |= {name: page.now for name in ("at", "placed_at") if name in fields}
    fresh |= {"on": page.now.astimezone(page.zone).date()} if "on" in fields else {}
    if (
        kind.name == "person" and page.refit.people
    ):  # as whoever was here first; without any hours nothing is planned for them
        fresh["hours"] = page.refit.people[0].hours
    fresh |= {"currency": page.refit.currency, "rate": "1"} if {"currency", "rate"} <= set(fields) else {}
    fresh |= {"base": page.refit.currency, "currency": "", "rate": ""} if "base" in fields else {}
    return fresh


def _left_empty(page: Page, kind: Kind, data: Mapping[str, Any], faults: dict[str, list[str]]) -> dict[str, Any]:
    """What a new thing has where nothing was typed: now, the refit's currency; a rate of 1, but for another currency."""
    fresh = {
        name: value
        for name, value in _begins_with(page, kind).items()
        if name in ("at", "placed_at", "on", "currency", "base", "rate") and value and data.get(name) in (None, "")
    }
    other = data.get("currency") or fresh.get("currency")
    if "rate" in fresh and "rate" not in faults and other and other != page.refit.currency:
        faults["rate"] = [f"is missing: what one {other} is worth in {page.refit.currency}"]
    return fresh


def _home(page: Page, kind: Kind, key: str, query: Mapping[str, str]) -> str:
    """Where one goes after saving, when the form doesn't say."""
    if kind.name == "task":
        job = page.refit.job_of[key].id if key in page.refit.job_of else query.get("job", "")
        return f"{page.root}/jobs/{job}" if job else f"{page.root}/jobs"
    if kind.name == "job" and key:
        return f"{page.root}/jobs/{key}"
    return f"{page.root}/{kind.page}"


def _sheet(
    request: Request,
    page: Page,
    sheet: sheets.Sheet,
    key: str,
    revision: int | None,
    next_: str,
    extra: dict[str, str],
    status: int = 200,
    *,
    asked: bool = False,
) -> Response:
    context = page.context(
        asked=asked,
        sheet=sheet,
        close=_near(page, sheet, key, extra),
        key=key,
        revision=revision,
        next=next_,
        extra=extra,
        word=sheet.kind.word,
        one=sheet.kind.name in ONLY_ONE,
        needed_by=[task for task in page.refit.tasks.values() if key in task.parts]
        if sheet.kind.name == "part"
        else (),
        orders=[
            one
            for one in page.refit.orders
            if sheet.kind.name == "part"
            and any(line.order == one.id and line.part == key for line in page.refit.order_lines)
        ],
        removable=bool(key) and sheet.kind.name not in ONLY_ONE,
    )
    return render(request, "sheet.html", context, status)


def _near(page: Page, sheet: sheets.Sheet, key: str, extra: Mapping[str, str]) -> Near:
    """What lies near the task a sheet is about, or near the one its tie hangs on."""
    refit = page.refit
    at = key if sheet.kind.name == "task" else sheet.values.get("then") or sheet.values.get("first")
    task = refit.tasks.get(str(at))
    job = refit.job_of[task.id] if task else next((one for one in refit.jobs if one.id == extra.get("job")), None)
    return near(refit, job, task, str(sheet.values.get("title") or ""))


@router.get("/r/{pk}/{kind}/new")
def new_sheet(request: Request, who: Who, pk: Pk, kind: AskedKind) -> Response:
    """An empty sheet."""
    page, what = page_here(request, who, pk, right_for(_with_sheet(kind))), kind
    query = dict(request.query_params)
    fresh = _begins_with(page, what) | {
        name: value for name, value in query.items() if name in ASKED_FOR and name in what.model.model_fields
    }
    job = next((job for job in page.refit.jobs if job.id == query.get("job")), None)
    if what.name == "task" and job and job.tasks and "place" not in fresh:
        fresh |= {"place": job.tasks[-1].place}
    values = sheets.typed_values(what, fresh, page.zone, page.refit.currency)
    extra: dict[str, str] = {name: query[name] for name in ("job", "after") if name in query}
    next_ = local_path(query.get("next", ""), _home(page, what, "", query))
    return _sheet(request, page, sheets.Sheet(what, FIELDS[what.name], values), "", None, next_, extra)


@router.get("/r/{pk}/{kind}/edit")
def one_sheet(request: Request, who: Who, pk: Pk, kind: AskedKind) -> Response:
    """The sheet of the boat, the yard or the dates."""
    if kind.name not in ONLY_ONE:
        raise NotFound(NO_PAGE)
    return _edit_sheet(request, who, pk, kind, "")


@router.get("/r/{pk}/{kind}/{key}/edit")
def edit_sheet(request: Request, who: Who, pk: Pk, kind: AskedKind, key: RecordId) -> Response:
    """The sheet of one thing."""
    return _edit_sheet(request, who, pk, kind, key)


def _edit_sheet(request: Request, who: Who, pk: int, what: Kind, key: str) -> Response:
    page = page_here(request, who, pk, right_for(_with_sheet(what)))
    item = item_of(request, page, what, key)
    if item is None:
        raise NotFound(f"This {what.word} is gone; somebody removed it meanwhile.")
    fields = FIELDS[what.name]
    if what.name == "part" and any(line.part == key for line in page.refit.order_lines):
        fields = tuple(field for field in fields if field.name not in SAID_BY_ORDERS)
    sheet = sheets.Sheet(what, fields, sheets.typed_values(what, item, page.zone, page.refit.currency))
    query = dict(request.query_params)
    next_ = local_path(query.get("next", ""), _home(page, what, key, query))
    return _sheet(request, page, sheet, key, page.kept.revisions.get(RecordKey(what.name, key)), next_, {})


@router.post("/r/{pk}/{kind}/save")
def save(request: Request, who: Who, posted: Form, pk: Pk, kind: AskedKind) -> Response:
    """Keep a sheet: a new thing without a key, else the thing of that key as it was seen."""
    let_in(request, who, pk, right_for(_with_sheet(kind)))
    what, page = _with_sheet(kind), page_here(request, who, pk)
    key, next_ = posted.text("key"), posted.text("next")
    try:
        revision = typed.whole(posted.text("revision"), 0) if posted.text("revision") else None
    except ValueError:
        revision = -1  # made up: nobody saw the record like this
    extra = {name: posted.text(name) for name in ("job", "after") if posted.text(name)}
    values = sheets.posted(what, posted.form)
    old = item_of(request, page, what, key) if key or what.name in ONLY_ONE else None
    stood = sheets.typed_values(what, old, page.zone, page.refit.currency) if old is not None else None
    data, faults = sheets.read(what, values, page.zone, page.refit.currency, stood=stood, near=page.today)
    if what.aside and old is not None:  # the edit has nothing of what is kept aside at hand
        data = {name: value for name, value in old.items() if name != "id" and name not in faults} | data
    if not key:
        data |= _left_empty(page, what, data, faults)
    if (
        what.name == "part"
        and data.get("counted") is not None
        and not (data.get("counted_at") or "counted_at" in faults)
    ):
        data["counted_at"] = page.now
    title = values.get("title") or values.get("name") or values.get("what") or what.word
    command = SaveRecord(what.name, key, data, str(title), revision, extra.get("job", ""), extra.get("after", ""))
    asked = _asked(page, data) if what.name == HEADER and not faults and not posted.text("anyway") else {}
    if asked:
        sheet = sheets.Sheet(what, FIELDS[what.name], values, {name: [told] for name, told in asked.items()})
        return _sheet(request, page, sheet, key, revision, next_, extra, 422, asked=True)
    try:
        if faults:
            raise RefitFaults(_other_faults(request, page, command, faults))
        done = acted(request, who, pk, command)
    except Conflict as error:
        return _conflict(request, who, pk, what, key, values, error, next_)
    except (RefitFaults, ValidationError) as error:
        for name, messages in sheets.faults_by_field(what, error).items():
            faults.setdefault(name, []).extend(message for message in messages if message not in faults.get(name, []))
        sheet = sheets.Sheet(what, FIELDS[what.name], values, faults)
        return _sheet(request, page, sheet, key, revision, next_, extra, 422)
    if what.name == "job" and not key and next_ in ("", f"{page.root}/jobs"):
        return on_to(f"{page.root}/jobs/{done.made}")  # one is in what one just made
    if what.name == "part" and not key and done.made and next_ in ("", f"{page.root}/stores"):
        return on_to(f"{page.root}/stores/part/{done.made}")  # where it is given to tasks
    return back_to(posted, _home(page, what, key, extra))


def _asked(page: Page, data: Mapping[str, Any]) -> dict[str, str]:
    """What is asked about the dates of a refit before they are kept: of those that are changed."""
    changed = {name: data[name] for name in ("haul_at", "launch_at") if data.get(name)}
    doubts = date_doubts(page.kept.refit.model_copy(update=changed), page.now)
    return {name: told for name, told in doubts.items() if name in changed}


def _other_faults(request: Request, page: Page, command: SaveRecord, faults: Mapping[str, list[str]]) -> Any:
    """What else is wrong with a sheet some of whose fields can't be read: told together, not one after the other."""
    kind = KINDS[command.kind]
    if kind.name == HEADER:
        return ()
    old = item_of(request, page, kind, command.key) if command.key or kind.single else {}
    whole = dict(old or {}) | dict(command.data) | ({} if kind.single else {"id": command.key or "new"})
    return sheets.other_faults(kind, whole, faults)


def _conflict(
    request: Request, who: Who, pk: int, what: Kind, key: str, mine: dict[str, Any], error: Conflict, next_: str
) -> Response:
    """Both versions side by side; the second editor chooses."""
    page = page_here(request, who, pk)
    item = item_of(request, page, what, key)
    theirs = sheets.typed_values(what, item, page.zone, page.refit.currency) if item is not None else None
    rows = [
        (
            field.label,
            sheets.spoken(field, theirs, page.refit) if theirs else "–",
            sheets.spoken(field, mine, page.refit),
        )
        for field in FIELDS[what.name]
        if mine.get(field.name, "") is not None
    ]
    revision = page.kept.revisions.get(RecordKey(what.name, key))
    with desk_of(request).looking() as session:
        by = next((entry.who for entry in history(session, pk, limit=60) if entry.revision == revision), "")
    context = page.context(
        word=what.word,
        kind=what.name,
        key=key,
        rows=rows,
        by=by,
        gone=theirs is None,
        next=next_,
        fields=posted_pairs(mine),
        revision=revision,
    )
    return render(request, "conflict.html", context, 409)


def posted_pairs(values: Mapping[str, Any]) -> list[tuple[str, str]]:
    """What was typed as hidden fields that post the same again."""
    out: list[tuple[str, str]] = []
    for name, value in values.items():
        if isinstance(value, list) and value and isinstance(value[0], dict):
            out += as_posted(name, value)
        elif isinstance(value, list):
            out += [(name, item) for item in value]
        elif isinstance(value, bool):
            out += [(name, "on")] if value else []
        elif value is not None:
            out.append((name, value))
    return out


@router.post("/r/{pk}/{kind}/{key}/remove")
def remove(request: Request, who: Who, posted: Form, pk: Pk, kind: AskedKind, key: RecordId) -> Response:
    """Remove one thing; it can be undone. Refused, with the reason, while something needs it."""
    if kind.name in ONLY_ONE:
        raise NotFound(NO_PAGE)
    page = page_here(request, who, pk)
    home = _home(page, kind, key if kind.name != "job" else "", {})
    try:
        done = acted(request, who, pk, RemoveRecord(kind.name, key, take_out=posted.text("take_out") == "yes"))
    except InUse as error:
        context = page.context(
            word=kind.word, kind=kind, key=key, error=error, next=local_path(posted.text("next"), home)
        )
        return render(request, "in_use.html", context, 422)
    return on_to(still_there(done.kept.refit, local_path(posted.text("next"), home), page.kept.refit))


@router.post("/r/{pk}/seen")
def seen(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Dismiss what the last change did."""
    page_here(request, who, pk)
    with suppress(ValueError):  # a made-up number dismisses nothing
        ran(request, who, DismissNote(who, typed.whole(posted.text("change"), 0)))
    return back_to(posted, f"/r/{pk}/morning")
