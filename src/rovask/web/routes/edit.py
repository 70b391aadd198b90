"""Adding, editing and removing everything that has a sheet; both versions when two people edit one thing."""

from __future__ import annotations

import secrets
from collections.abc import Mapping
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError

from rovask.core.refit import edits
from rovask.core.refit.faults import RefitFaults
from rovask.core.refit.model import Job, Refit, Task
from rovask.core.refit.records import HEADER_FIELDS, LISTS, Key, Kind
from rovask.store import refits
from rovask.store.accounts import dismiss
from rovask.store.database import transaction
from rovask.store.errors import Conflict, NotFound
from rovask.web import sheets
from rovask.web.page import Page, open_page, page_here
from rovask.web.rendering import render
from rovask.web.security import Form, Who, local_path, settings_of
from rovask.web.sheet_fields import FIELDS
from rovask.work.queue import ask_for_search

router = APIRouter()

WORDS = {
    Kind.TASK: "task",
    Kind.JOB: "job",
    Kind.LINK: "tie",
    Kind.PERSON: "person",
    Kind.PART: "part",
    Kind.PLACE: "place",
    Kind.GEAR: "piece of equipment",
    Kind.APPOINTMENT: "appointment",
    Kind.INSPECTION: "thing to look at",
    Kind.FINDING: "finding",
    Kind.UNKNOWN: "unknown",
    Kind.OFF_BOAT: "thing off the boat",
    Kind.PARKED: "parked job",
    Kind.BOAT: "boat",
    Kind.YARD: "yard",
    Kind.HEADER: "dates and budget",
}
_ONLY_ONE = (Kind.BOAT, Kind.YARD, Kind.HEADER)
# What a new thing starts as, by field; the sheet shows it, nothing is kept before it is saved.
_FRESH: dict[Kind, dict[str, Any]] = {
    Kind.TASK: {"state": "ashore", "hands": 1, "units": 1, "units_done": 0, "tender": 0},
    Kind.JOB: {"need": "must"},
    Kind.LINK: {"kind": "FS", "min_lag": 0},
    Kind.PERSON: {"role": "helper", "call_out_hours": 0, "longest_run": 9},
    Kind.GEAR: {"count": 1},
    Kind.PART: {"quantity": 1, "lead_days": 3, "status": "needed"},
    Kind.PLACE: {"capacity": 2},
    Kind.APPOINTMENT: {"hours": 1},
    Kind.INSPECTION: {"repair_hours": 0, "lead_days": 0},
    Kind.FINDING: {"severity": "watch"},
    Kind.UNKNOWN: {"chance": 0.2, "hours": 2, "lead_days": 0, "state": "open"},
    Kind.PARKED: {"state": "ashore", "hours": 2},
}
_HOMES = {
    Kind.PART: "stores",
    Kind.INSPECTION: "look",
    Kind.FINDING: "findings",
    Kind.UNKNOWN: "findings",
    Kind.OFF_BOAT: "off",
    Kind.PARKED: "parked",
    Kind.BOAT: "boat",
}


def new_id(kind: str) -> str:
    """An id that nothing else has."""
    return f"{kind[0]}-{secrets.token_hex(4)}"


def kind_of(text: str) -> Kind:
    """The kind of thing an address names. Raises NotFound."""
    try:
        kind = Kind(text)
    except ValueError:
        raise NotFound("There is no such page.") from None
    if kind not in WORDS:
        raise NotFound("There is no such page.")
    return kind


def item_of(refit: Refit, kind: Kind, key: str) -> Mapping[str, Any] | None:
    """The model values of one thing by field name; None if it is gone."""
    if kind is Kind.HEADER:
        return {name: getattr(refit, name) for name in HEADER_FIELDS}
    if kind is Kind.BOAT:
        return dict(refit.boat)
    if kind is Kind.YARD:
        return dict(refit.yard)
    if kind is Kind.TASK:
        return dict(refit.tasks[key]) if key in refit.tasks else None
    found = next((row for row in getattr(refit, LISTS[kind]) if row.id == key), None)
    return dict(found) if found is not None else None


def _home(page: Page, kind: Kind, key: str, query: Mapping[str, str]) -> str:
    """Where one goes after saving, when the form doesn't say."""
    if kind is Kind.TASK:
        job = page.refit.job_of[key].id if key in page.refit.job_of else query.get("job", "")
        return f"{page.root}/jobs/{job}"
    if kind is Kind.JOB:
        return f"{page.root}/jobs/{key}" if key else f"{page.root}/jobs"
    if kind is Kind.LINK:
        return f"{page.root}/jobs"
    return f"{page.root}/{_HOMES.get(kind, 'yard')}"


def _sheet(
    request: Request,
    page: Page,
    sheet: sheets.Sheet,
    key: str,
    revision: int | None,
    next_: str,
    extra: dict[str, str],
    status: int = 200,
) -> Response:
    context = page.context(
        sheet=sheet,
        key=key,
        revision=revision,
        next=next_,
        extra=extra,
        word=WORDS[sheet.kind],
        removable=bool(key) and sheet.kind not in _ONLY_ONE,
    )
    return render(request, "sheet.html", context, status)


@router.get("/r/{pk}/{kind}/new")
def new_sheet(request: Request, who: Who, pk: int, kind: str) -> Response:
    """An empty sheet."""
    page, what = page_here(request, who, pk), kind_of(kind)
    query = dict(request.query_params)
    fresh = _FRESH.get(what, {}) | {name: value for name, value in query.items() if name in ("first", "then", "place")}
    job = next((job for job in page.refit.jobs if job.id == query.get("job")), None)
    if what is Kind.TASK and job and job.tasks and "place" not in fresh:
        fresh |= {"place": job.tasks[-1].place}
    sheet = sheets.Sheet(what, FIELDS[what], sheets.typed(what, fresh, page.zone))
    extra: dict[str, str] = {name: query[name] for name in ("job", "after") if name in query}
    next_ = local_path(query.get("next", ""), _home(page, what, "", query))
    return _sheet(request, page, sheet, "", None, next_, extra)


@router.get("/r/{pk}/{kind}/edit")
def one_sheet(request: Request, who: Who, pk: int, kind: str) -> Response:
    """The sheet of the boat, the yard or the dates."""
    return edit_sheet(request, who, pk, kind, "")


@router.get("/r/{pk}/{kind}/{key}/edit")
def edit_sheet(request: Request, who: Who, pk: int, kind: str, key: str) -> Response:
    """The sheet of one thing."""
    page, what = page_here(request, who, pk), kind_of(kind)
    item = item_of(page.refit, what, key)
    if item is None:
        raise NotFound(f"This {WORDS[what]} is gone; somebody removed it meanwhile.")
    sheet = sheets.Sheet(what, FIELDS[what], sheets.typed(what, item, page.zone))
    query = dict(request.query_params)
    next_ = local_path(query.get("next", ""), _home(page, what, key, query))
    return _sheet(request, page, sheet, key, page.kept.revisions.get(Key(what, key)), next_, {})


@router.post("/r/{pk}/{kind}/save")
def save(request: Request, who: Who, posted: Form, pk: int, kind: str) -> Response:
    """Keep a sheet: a new thing without a key, else the thing of that key as it was seen."""
    settings, what, clock = settings_of(request), kind_of(kind), settings_of(request).clock()
    key, next_ = posted.text("key"), posted.text("next")
    revision = int(posted.text("revision")) if posted.text("revision").isdigit() else None
    extra = {name: posted.text(name) for name in ("job", "after") if posted.text(name)}
    with transaction(settings.database_url) as session:
        page = open_page(session, who, pk, clock)
    values = sheets.posted(what, posted.form)
    data, faults = sheets.read(what, values, page.zone)
    made = key or new_id(kind)

    def edit(refit: Refit) -> Refit:
        return _edited(refit, what, made, bool(key), data, faults, extra)

    seen = {Key(what, key): revision} if revision is not None else {}
    title = values.get("title") or values.get("name") or WORDS[what]
    told = f"{'edited' if key or what in _ONLY_ONE else 'added'} {WORDS[what]} “{title}”"
    try:
        if what is Kind.HEADER and faults:
            raise RefitFaults([])
        with transaction(settings.database_url) as session:
            refits.change(session, pk, edit, who=who.account, what=told, clock=clock, seen=seen)
    except Conflict as error:
        return _conflict(request, page, what, key, values, error, next_, pk)
    except (RefitFaults, ValidationError) as error:
        for name, messages in sheets.faults_by_field(what, error).items():
            faults.setdefault(name, []).extend(message for message in messages if message not in faults.get(name, []))
        sheet = sheets.Sheet(what, FIELDS[what], values, faults)
        return _sheet(request, page, sheet, key, revision, next_, extra, 422)
    ask_for_search(settings.database_url, pk)
    return RedirectResponse(local_path(next_, _home(page, what, key, extra)), status_code=303)


def _edited(
    refit: Refit,
    what: Kind,
    key: str,
    exists: bool,
    data: dict[str, Any],
    faults: dict[str, list[str]],
    extra: dict[str, str],
) -> Refit:
    """The refit with one sheet's data in it. Raises RefitFaults, with the faults gathered in ``faults``."""
    if what is Kind.HEADER:
        return edits.rebuilt(refit, **data)
    old = item_of(refit, what, key) if exists or what in _ONLY_ONE else {}
    whole = dict(old or {}) | data | ({} if what in _ONLY_ONE else {"id": key})
    item = sheets.build(what, whole, faults)
    if item is None:
        raise RefitFaults([])
    if what in (Kind.BOAT, Kind.YARD):
        return edits.rebuilt(refit, **{what.value: item})
    if isinstance(item, Task):
        if exists:
            return edits.put_task(refit, item)
        return edits.add_task(refit, extra.get("job", ""), item, new_id("link"), extra.get("after"))
    if isinstance(item, Job) and exists:
        tasks = next(job.tasks for job in refit.jobs if job.id == key)
        item = item.model_copy(update={"tasks": tasks})
    return edits.put(refit, what, item)


def _conflict(
    request: Request, page: Page, what: Kind, key: str, mine: dict[str, Any], error: Conflict, next_: str, pk: int
) -> Response:
    """Both versions side by side; the second editor chooses."""
    settings = settings_of(request)
    with transaction(settings.database_url) as session:
        page = open_page(session, page.who, pk, settings.clock())
        last = refits.history(session, pk, limit=20)
    item = item_of(page.refit, what, key)
    theirs = sheets.typed(what, item, page.zone) if item is not None else None
    rows = [
        (
            field.label,
            sheets.spoken(field, theirs, page.refit) if theirs else "–",
            sheets.spoken(field, mine, page.refit),
        )
        for field in FIELDS[what]
    ]
    by = next((entry.who for entry in last if entry.revision == page.kept.revisions.get(Key(what, key))), "")
    context = page.context(
        word=WORDS[what],
        kind=what,
        key=key,
        rows=rows,
        by=by,
        gone=theirs is None,
        next=next_,
        fields=[(name, value) for name, value in posted_pairs(mine)],
        revision=page.kept.revisions.get(Key(what, key)),
    )
    return render(request, "conflict.html", context, 409)


def posted_pairs(values: Mapping[str, Any]) -> list[tuple[str, str]]:
    """What was typed as hidden fields that post the same again."""
    out: list[tuple[str, str]] = []
    for name, value in values.items():
        if isinstance(value, list):
            out += [(name, item) for item in value]
        elif isinstance(value, bool):
            out += [(name, "on")] if value else []
        else:
            out.append((name, value))
    return out


@router.post("/r/{pk}/{kind}/{key}/remove")
def remove(request: Request, who: Who, posted: Form, pk: int, kind: str, key: str) -> Response:
    """Remove one thing; it can be undone. Refused, with the reason, while something needs it."""
    settings, what = settings_of(request), kind_of(kind)
    if what in _ONLY_ONE:
        raise NotFound("There is no such page.")
    with transaction(settings.database_url) as session:
        page = open_page(session, who, pk, settings.clock())
        item = item_of(page.refit, what, key)
        if item is None:
            raise NotFound(f"This {WORDS[what]} is gone already.")
        home = _home(page, what, key if what is not Kind.JOB else "", {})
        title = item.get("title") or item.get("name") or f"between {item.get('first')} and {item.get('then')}"

        def edit(refit: Refit) -> Refit:
            if what is Kind.TASK:
                return edits.remove_task(refit, key, lambda: new_id("link"))
            if what is Kind.JOB:
                return edits.remove_job(refit, key)
            return edits.remove(refit, what, key)

        refits.change(
            session, pk, edit, who=who.account, what=f"removed {WORDS[what]} “{title}”", clock=settings.clock()
        )
    ask_for_search(settings.database_url, pk)
    return RedirectResponse(local_path(posted.text("next"), home), status_code=303)


@router.post("/r/{pk}/undo")
def undo(request: Request, who: Who, posted: Form, pk: int) -> Response:
    """Take the last change back."""
    settings = settings_of(request)
    with transaction(settings.database_url) as session:
        refits.undo(session, pk, who=who.account, clock=settings.clock())
    ask_for_search(settings.database_url, pk)
    return RedirectResponse(local_path(posted.text("next"), f"/r/{pk}/morning"), status_code=303)


@router.post("/r/{pk}/seen")
def seen(request: Request, who: Who, posted: Form, pk: int) -> Response:
    """Dismiss what the last change did."""
    change = posted.text("change")
    with transaction(settings_of(request).database_url) as session:
        dismiss(session, who, int(change) if change.isdigit() else 0)
    return RedirectResponse(local_path(posted.text("next"), f"/r/{pk}/morning"), status_code=303)
