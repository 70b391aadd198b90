"""What is seen: the first look, found something, findings with what may come of them, unknowns."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from fastapi import APIRouter, Request
from fastapi.responses import Response

from rovask.core.books.items import chance_of, unknowns_that_count
from rovask.core.explain.first_look import LookBy, looks
from rovask.core.judged.leaps import Doubtful
from rovask.core.plain.faults import RefitFaults, refused
from rovask.core.readings.trade_order import closed_after
from rovask.core.recipes.ways import Proposal, proposed
from rovask.core.refit import typed
from rovask.core.refit.model import Decision, Finding, Photo
from rovask.core.refit.register import kind_of
from rovask.core.refit.seen.choices import Severity, UnknownState
from rovask.core.refit.work.choices import Need
from rovask.desk.commands.seen import Found, LookAgain, LookAt, SettleFinding, SettleUnknown
from rovask.desk.commands.several import BelongsToJob, OwnJobOf
from rovask.desk.rights import Right
from rovask.store.errors import NotFound
from rovask.store.recipes import library_for
from rovask.store.records import load_aside
from rovask.web.acting import acted, back_to, faults_of_form, let_in, on_to, picture_in
from rovask.web.asking import Pk, RecordId, desk_of
from rovask.web.boat.drawing import open_findings
from rovask.web.costly import Waits, worked_once
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.security import Form, Posted, Who

router = APIRouter()

_SEVERITIES = {one.value: one for one in Severity}
_STATES = {"real": UnknownState.REAL, "open": UnknownState.OPEN, "nothing": UnknownState.VANISHED}
MOST_READING = 1e6


@router.get("/r/{pk}/photo/{key}.jpg")
def photo(request: Request, who: Who, pk: Pk, key: RecordId, small: str = "") -> Response:
    """A photo of this refit."""
    desk = desk_of(request)
    with desk.looking() as session:
        desk.seen_by(session, who.account, pk)
        found = load_aside(session, pk, kind_of(Photo), [key])
    if not found:
        raise NotFound("This photo is gone; somebody removed it meanwhile.")
    data = desk_of(request).photos.content(found[0].sha256, bool(small))
    headers = {"Cache-Control": "private, max-age=86400", "ETag": f'"{found[0].sha256}"'}
    return Response(data, media_type="image/jpeg", headers=headers)


# First look


@router.get("/r/{pk}/look")
def first_look(request: Request, who: Who, pk: Pk) -> Response:
    """The walk round her, in walking order."""
    return _look_page(request, page_here(request, who, pk, aside=(Photo,), odds=True), {})


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
def looked(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Note what was seen of one thing."""
    let_in(request, who, pk, LookAt.needs)
    try:
        command = LookAt(
            inspection=key,
            verdict=_SEVERITIES.get(posted.text("verdict")),
            reading=_reading(posted.text("reading")),
            note=posted.words("note", 4000),
            picture=picture_in(posted),
        )
        acted(request, who, pk, command)
    except RefitFaults as error:
        page = page_here(request, who, pk, aside=(Photo,), odds=True)
        return _look_page(request, page, faults_of_form(error) | _typed(posted), 422, key)
    page = page_here(request, who, pk)
    following = next((row.inspection.id for row in looks(page.refit, page.plan) if row.inspection.verdict is None), key)
    return on_to(f"/r/{pk}/look#{following}")


def _typed(posted: Posted) -> dict[str, list[str]]:
    """What was typed, to stand in the form again."""
    return {f"typed-{name}": [posted.text(name)] for name in ("reading", "note", "title", "place", "severity")}


def _reading(text: str) -> float | None:
    if not text.strip():
        return None
    try:
        return typed.number(text, 0, MOST_READING)
    except ValueError as error:
        raise refused(f"{error}; type the reading as a number", "reading") from None


@router.post("/r/{pk}/look/{key}/again")
def to_look_again(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Take back what was seen of one thing."""
    acted(request, who, pk, LookAgain(key))
    return on_to(f"/r/{pk}/look#{key}")


# Found something


@router.get("/r/{pk}/found")
def found_page(request: Request, who: Who, pk: Pk, place: str = "") -> Response:
    """Found something: where, how bad, and that is enough."""
    page = page_here(request, who, pk, Right.WORK)
    return render(request, "found.html", page.context(place=place, faults={}, typed={}))


@router.post("/r/{pk}/found")
def found(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Keep a finding; its page then proposes what may come of it."""
    let_in(request, who, pk, Found.needs)
    try:
        command = Found(
            picture=picture_in(posted),
            place=posted.text("place"),
            severity=_SEVERITIES.get(posted.text("severity"), Severity.WATCH),
            title=posted.words("title", 120),
            note=posted.words("note", 4000),
            more=tuple(line.strip(" \t-*•") for line in posted.text("more").splitlines() if line.strip(" \t-*•")),
        )
        done = acted(request, who, pk, command)
    except RefitFaults as error:
        page = page_here(request, who, pk)
        context = page.context(
            place=posted.text("place"),
            faults=faults_of_form(error),
            typed={name: posted.text(name) for name in ("title", "note", "severity", "more")},
        )
        return render(request, "found.html", context, 422)
    return on_to(f"/r/{pk}/findings" if command.more else f"/r/{pk}/finding/{done.made}")


@router.get("/r/{pk}/finding/{key}")
def one_finding(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """A finding, and what may come of it."""
    page = page_here(request, who, pk, aside=(Photo,))
    row = next((one for one in page.refit.findings if one.id == key), None)
    if row is None:
        raise NotFound("This finding is gone; somebody removed it meanwhile.")
    jobs = [job for job in page.refit.jobs if job.id in row.jobs]
    waits, proposals = False, list[Proposal]()
    try:
        if not row.settled:
            proposals = worked_once(page, f"finding {key}", _proposals(request, page, key))
    except Waits:
        waits = True
    skills = sorted({skill for person in page.refit.people for skill in person.skills})
    context = page.context(
        finding=row,
        jobs=jobs,
        proposals=proposals,
        waits=waits,
        closing=closed_after(page.refit, row.place),
        skills=skills,
        likely_skill=_likely_skill(page, row, proposals),
    )
    return render(request, "finding.html", context)


def _likely_skill(page: Page, finding: Finding, proposals: list[Proposal]) -> str:
    """The trade of the likeliest recipe where it was found, if that asks for one."""
    place = page.refit.place_by_id.get(finding.place or "")
    for one in proposals[:1]:
        rows = [row for row in one.recipe.task if row.skill and (place is None or row.spot is place.spot)]
        return rows[0].skill or "" if rows else ""
    return ""


def _proposals(request: Request, page: Page, key: str) -> Callable[[], list[Proposal]]:
    with desk_of(request).looking() as session:
        library = library_for(session, page.kept.pk)
    finding = next(one for one in page.refit.findings if one.id == key)
    return partial(proposed, library, page.refit, page.planned, finding)


@router.post("/r/{pk}/finding/{key}/settle")
def settle(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """A finding is settled, or open again."""
    acted(request, who, pk, SettleFinding(key, posted.text("way") != "open"))
    return back_to(posted, f"/r/{pk}/finding/{key}")


@router.post("/r/{pk}/finding/{key}/job")
def own_job(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """A job of one's own made from a finding, in one step."""
    let_in(request, who, pk, OwnJobOf.needs)
    try:
        hours = typed.hours(posted.text("hours") or "2")
    except ValueError as error:
        raise refused(str(error), "hours") from None
    need = Need(posted.text("need")) if posted.text("need") in set(Need) else Need.MUST
    command = OwnJobOf(
        key, posted.words("title", 100), max(hours, 0.5), need, posted.words("skill", 60), posted.text("before")
    )
    done = acted(request, who, pk, command)
    return on_to(f"/r/{pk}/jobs/{done.made}")


@router.post("/r/{pk}/finding/{key}/belongs")
def belongs(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """A finding belongs to a job that is there already."""
    acted(request, who, pk, BelongsToJob(key, posted.text("job")))
    return back_to(posted, f"/r/{pk}/finding/{key}")


@router.get("/r/{pk}/findings")
def findings(request: Request, who: Who, pk: Pk, place: str = "") -> Response:
    """Everything found, by where it was found, and everything nobody knows yet; or one place's, for whoever works there."""
    page = page_here(request, who, pk, aside=(Decision, Photo), odds=True)
    refit = page.refit
    at = page.plan.by_task()
    unknowns = sorted(
        refit.unknowns,
        key=lambda one: (one.state != "open", at[one.task].start.timestamp() if one.task in at else 9e12),
    )
    counted = unknowns_that_count(refit, page.plan)
    by_place: dict[str, list[Finding]] = {}
    for one in open_findings(refit):
        if not place or one.place == place:
            by_place.setdefault(one.place or "", []).append(one)
    names = {row.id: row.name for row in refit.places} | {"": "Somewhere on her"}
    order = {key: at_ for at_, key in enumerate(["", *(row.id for row in refit.places)])}
    context = page.context(
        open=[(key, names[key], by_place[key]) for key in sorted(by_place, key=lambda key: order[key])],
        only=names.get(place, "") if place else "",
        settled=[one for one in refit.findings if one.settled],
        unknowns=unknowns,
        decisions=page.aside["decision"],
        at=at,
        expected_money=page.forecast.expected,
        expected_hours=sum(chance_of(refit, one) * one.hours for one in counted),
    )
    return render(request, "findings.html", context)


@router.post("/r/{pk}/unknown/{key}/settle")
def settle_one(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """An unknown was looked at: nothing there, or it is real; or it is open again."""
    state = _STATES.get(posted.text("way"), UnknownState.VANISHED)
    try:
        done = acted(request, who, pk, SettleUnknown(key, state, bool(posted.text("anyway"))))
    except Doubtful as doubtful:
        context = page_here(request, who, pk).context(
            doubtful=doubtful, action=request.url.path, posted=posted, timeless=True
        )
        return render(request, "doubt.html", context, status=409)
    if done.made:
        recipe = next(one.recipe for one in done.kept.refit.unknowns if one.id == key)
        return on_to(f"/r/{pk}/recipes/{recipe}?finding={done.made}")
    return back_to(posted, f"/r/{pk}/findings#unknown")
