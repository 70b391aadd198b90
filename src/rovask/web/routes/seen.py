"""What is seen: the first look, found something, findings with what may come of them, unknowns."""

from __future__ import annotations

import secrets
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from rovask.core.plan.explain.first_look import LookBy, looks
from rovask.core.recipes.expand import Library
from rovask.core.recipes.likely import likely_recipes
from rovask.core.recipes.preview import Pick, filled, preview
from rovask.core.recipes.recipe import Recipe
from rovask.core.refit.choices import Severity, UnknownState
from rovask.core.refit.edits import put
from rovask.core.refit.faults import Fault, RefitFaults
from rovask.core.refit.model import Finding, Refit
from rovask.core.refit.records import Kind
from rovask.core.refit.seen_edits import look_again, look_at, real_finding, real_work, settle_unknown
from rovask.store import photos as photo_files
from rovask.store import refits
from rovask.store.database import transaction
from rovask.store.errors import NotFound
from rovask.web.boat.drawing import open_findings
from rovask.web.page import Page, effect_of, page_here
from rovask.web.photos import photo_in, with_photo
from rovask.web.rendering import render
from rovask.web.routes.recipes import library_here
from rovask.web.security import Form, Posted, Who, local_path, settings_of
from rovask.work.queue import ask_for_search

router = APIRouter()

TRIED = 3  # recipes whose effect is worked out beside a finding
_SEVERITIES = {one.value: one for one in Severity}


def changed(request: Request, pk: int, account: int, told: str, edit: Callable[[Refit, datetime], Refit]) -> None:
    """One change of a refit at its own present moment, and a search for a better plan after it."""
    settings = settings_of(request)
    clock = settings.clock()
    with transaction(settings.database_url) as session:
        now = refits.load(session, pk).now(clock).replace(microsecond=0)
        refits.change(session, pk, lambda refit: edit(refit, now), who=account, what=told, clock=clock)
    ask_for_search(settings.database_url, pk)


def token(prefix: str) -> str:
    """An id that nothing else has."""
    return f"{prefix}-{secrets.token_hex(4)}"


@router.get("/r/{pk}/photo/{key}.jpg")
def photo(request: Request, who: Who, pk: int, key: str, small: str = "") -> Response:
    """A photo of this refit."""
    settings = settings_of(request)
    with transaction(settings.database_url) as session:
        refit = refits.load(session, pk).refit
    found = next((one for one in refit.photos if one.id == key), None)
    if found is None:
        raise NotFound("This photo is gone; somebody removed it meanwhile.")
    data = photo_files.content(settings.state, found.sha256, bool(small))
    headers = {"Cache-Control": "private, max-age=86400", "ETag": f'"{found.sha256}"'}
    return Response(data, media_type="image/jpeg", headers=headers)


# First look


@router.get("/r/{pk}/look")
def first_look(request: Request, who: Who, pk: int) -> Response:
    """The walk round her, in walking order."""
    page = page_here(request, who, pk)
    return _look_page(request, page, {})


def _look_page(
    request: Request, page: Page, faults: dict[str, list[str]], status: int = 200, key: str = ""
) -> Response:
    rows = looks(page.refit, page.plan)
    groups: dict[str, list[LookBy]] = {}
    for row in rows:
        place = page.refit.place_by_id.get(row.inspection.place or "")
        groups.setdefault(place.name if place else "Elsewhere", []).append(row)
    context = page.context(
        groups=groups,
        seen=sum(row.inspection.verdict is not None for row in rows),
        rows=rows,
        faults=faults,
        faulty=key,
        following=next((row.inspection.id for row in rows if row.inspection.verdict is None), ""),
    )
    return render(request, "look.html", context, status)


@router.post("/r/{pk}/look/{key}")
def looked(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """Note what was seen of one thing."""
    verdict = _SEVERITIES.get(posted.text("verdict"))
    text = posted.text("reading").strip().replace(",", ".")
    try:
        reading = _number(text)
        picture = photo_in(request, posted)
        page = page_here(request, who, pk)
        title = next((one.title for one in page.refit.inspections if one.id == key), "a thing")

        def edit(refit: Refit, now: datetime) -> Refit:
            refit, photo_id = with_photo(refit, picture, title, now)
            return look_at(
                refit,
                key,
                now,
                verdict=verdict,
                reading=reading,
                note=posted.text("note").strip(),
                finding_id=f"look-{key}"[:40],
                photo=photo_id,
            )

        changed(request, pk, who.account, f"looked at “{title}”", edit)
    except RefitFaults as error:
        faults = {fault.path: [fault.message] for fault in error.faults}
        return _look_page(request, page_here(request, who, pk), faults | _typed(posted), 422, key)
    page = page_here(request, who, pk)
    following = next((row.inspection.id for row in looks(page.refit, page.plan) if row.inspection.verdict is None), key)
    return RedirectResponse(f"/r/{pk}/look#{following}", status_code=303)


def _typed(posted: Posted) -> dict[str, list[str]]:
    """What was typed, to stand in the form again."""
    return {f"typed-{name}": [posted.text(name)] for name in ("reading", "note", "title", "place", "severity")}


def _number(text: str) -> float | None:
    if not text:
        return None
    try:
        value = float(text)
    except ValueError:
        value = -1.0
    if not 0 <= value <= 1e6:
        raise RefitFaults([Fault("reading", f"“{text}” is not a reading; type a number")])
    return value


@router.post("/r/{pk}/look/{key}/again")
def to_look_again(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """Take back what was seen of one thing."""
    changed(request, pk, who.account, "will look again", lambda refit, now: look_again(refit, key))
    return RedirectResponse(f"/r/{pk}/look#{key}", status_code=303)


# Found something


@router.get("/r/{pk}/found")
def found_page(request: Request, who: Who, pk: int, place: str = "") -> Response:
    """Found something: where, how bad, and that is enough."""
    page = page_here(request, who, pk)
    return render(request, "found.html", page.context(place=place, faults={}, typed={}))


@router.post("/r/{pk}/found")
def found(request: Request, who: Who, posted: Form, pk: int) -> Response:
    """Keep a finding; its page then proposes what may come of it."""
    page = page_here(request, who, pk)
    where = posted.text("place") if posted.text("place") in page.refit.place_by_id else None
    severity = _SEVERITIES.get(posted.text("severity"), Severity.WATCH)
    place = page.refit.place_by_id[where].name.lower() if where else "the boat"
    title = posted.text("title").strip()[:120] or f"Something at {place}"
    key = token("f")
    try:
        picture = photo_in(request, posted)

        def edit(refit: Refit, now: datetime) -> Refit:
            refit, photo_id = with_photo(refit, picture, title, now)
            finding = Finding(
                id=key,
                title=title,
                place=where,
                severity=severity,
                note=posted.text("note").strip()[:4000],
                at=now,
                photos=(photo_id,) if photo_id else (),
            )
            return put(refit, Kind.FINDING, finding)

        changed(request, pk, who.account, f"found: {title}", edit)
    except RefitFaults as error:
        context = page.context(
            place=posted.text("place"),
            faults={fault.path: [fault.message] for fault in error.faults},
            typed={name: posted.text(name) for name in ("title", "note", "severity")},
        )
        return render(request, "found.html", context, 422)
    return RedirectResponse(f"/r/{pk}/finding/{key}", status_code=303)


@dataclass(frozen=True, slots=True)
class Proposal:
    """A recipe that may answer a finding, with what it would do where that was worked out."""

    recipe: Recipe
    effect: str = ""
    tone: str = ""
    money: int = 0
    hours: float = 0


def proposed(library: Library, page: Page, finding: Finding, tried: int = TRIED) -> list[Proposal]:
    """Recipes for where it was found, the likeliest first; the first ``tried`` are worked out on the plan."""
    found = likely_recipes(library.recipes.values(), page.refit, finding)
    return [_worked_out(library, page, recipe) if at < tried else Proposal(recipe) for at, recipe in enumerate(found)]


def _worked_out(library: Library, page: Page, recipe: Recipe) -> Proposal:
    try:
        look = preview(page.refit, filled(library, page.refit, [Pick(recipe, {})]), page.planned)
    except RefitFaults:
        return Proposal(recipe)
    effect, tone = effect_of(look.before.verdict, look.after.verdict)
    return Proposal(recipe, effect, tone, look.money, look.hours)


@router.get("/r/{pk}/finding/{key}")
def one_finding(request: Request, who: Who, pk: int, key: str) -> Response:
    """A finding, and what may come of it."""
    page, library = page_here(request, who, pk), library_here(request)
    row = next((one for one in page.refit.findings if one.id == key), None)
    if row is None:
        raise NotFound("This finding is gone; somebody removed it meanwhile.")
    jobs = [job for job in page.refit.jobs if job.id in row.jobs]
    context = page.context(finding=row, jobs=jobs, proposals=proposed(library, page, row) if not row.settled else [])
    return render(request, "finding.html", context)


@router.post("/r/{pk}/finding/{key}/settle")
def settle(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """A finding is settled, or open again."""
    open_again = posted.text("way") == "open"

    def edit(refit: Refit, now: datetime) -> Refit:
        row = next((one for one in refit.findings if one.id == key), None)
        if row is None:
            raise RefitFaults([Fault("", "This finding is gone; somebody removed it meanwhile.")])
        return put(refit, Kind.FINDING, row.model_copy(update={"settled": not open_again}))

    changed(request, pk, who.account, "opened a finding again" if open_again else "settled a finding", edit)
    return RedirectResponse(local_path(posted.text("next"), f"/r/{pk}/finding/{key}"), status_code=303)


@router.get("/r/{pk}/findings")
def findings(request: Request, who: Who, pk: int) -> Response:
    """Everything found, and everything nobody knows yet."""
    page = page_here(request, who, pk)
    refit = page.refit
    at = page.plan.by_task()
    unknowns = sorted(
        refit.unknowns,
        key=lambda one: (one.state != "open", at[one.task].start.timestamp() if one.task in at else 9e12),
    )
    context = page.context(
        open=open_findings(refit),
        settled=[one for one in refit.findings if one.settled],
        unknowns=unknowns,
        at=at,
        expected_money=round(sum(one.chance * one.money for one in refit.unknowns if one.state == "open")),
        expected_hours=sum(one.chance * one.hours for one in refit.unknowns if one.state == "open"),
    )
    return render(request, "findings.html", context)


@router.post("/r/{pk}/unknown/{key}/settle")
def settle_one(request: Request, who: Who, posted: Form, pk: int, key: str) -> Response:
    """An unknown was looked at: nothing there, or it is real; or it is open again."""
    way = posted.text("way")
    page = page_here(request, who, pk)
    row = next((one for one in page.refit.unknowns if one.id == key), None)
    title = row.title if row else "unknown"
    found = token("f")
    if way == "real":
        told = f"found it real: {title}"

        def edit(refit: Refit, now: datetime) -> Refit:
            if row is not None and row.recipe:
                return real_finding(refit, key, found, now)
            return real_work(refit, key, token("t"), token("l"))
    else:
        state = UnknownState.OPEN if way == "open" else UnknownState.VANISHED
        told = f"opened again: {title}" if way == "open" else f"found nothing of it: {title}"

        def edit(refit: Refit, now: datetime) -> Refit:
            return settle_unknown(refit, key, state)

    changed(request, pk, who.account, told, edit)
    if way == "real" and row is not None and row.recipe:
        return RedirectResponse(f"/r/{pk}/recipes/{row.recipe}?finding={found}", status_code=303)
    return RedirectResponse(local_path(posted.text("next"), f"/r/{pk}/findings#unknown"), status_code=303)
