"""Whence the water: one search, its candidates, and one look at a time; and the walk over where metals meet."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import ValidationError

from rovask.core.bench.metal import METALS
from rovask.core.craft.contacts import as_it_is, judged, points_of
from rovask.core.craft.trace_edits import closes_up, hours_to_look, is_ashore
from rovask.core.craft.whence import NOBODY, in_order, suspects
from rovask.core.plain.faults import RefitFaults, faults_of, refused
from rovask.core.recipes.facts import facts_of
from rovask.core.refit import typed
from rovask.core.refit.craft.choices import Larger, Showed, TraceAbout, TraceState, Wetness
from rovask.core.refit.craft.kinds import Contact, OwnCandidate
from rovask.desk.commands.contacts import KeepApart, NoteContacts
from rovask.desk.commands.traces import AnswerClues, BeginTrace, EndTrace, LookFor, ThinkOf, WaitForSource
from rovask.desk.rights import Right
from rovask.formats.craft_tables import contact_tables, whence_tables
from rovask.formats.recipe_file import library
from rovask.store.errors import NotFound
from rovask.web.acting import acted, faults_of_form, let_in, on_to
from rovask.web.asking import Pk, RecordId
from rovask.web.hands_forms import as_typed
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.security import Form, Who

router = APIRouter()

MOST_SHOWN = 6  # candidates that stand open; the rest is folded
NAMES = {
    TraceAbout.WATER: "Water in her", TraceAbout.FUMES: "Fumes", TraceAbout.SMELL: "A smell",
    TraceAbout.BATTERY: "Flat battery", TraceAbout.HEAT: "The engine runs warm",
}  # fmt: skip


def _asked(page: Page, values: dict[str, str], faults: dict[str, list[str]]) -> dict[str, Any]:
    return page.context(values=values, faults=faults, abouts=list(TraceAbout), names=NAMES)


@router.get("/r/{pk}/hands/trace/new")
def new_trace(request: Request, who: Who, pk: Pk, about: str = "water", place: str = "") -> Response:
    """What is searched for."""
    page = page_here(request, who, pk, Right.WORK)
    return render(request, "trace_new.html", _asked(page, {"about": about, "place": place}, {}))


@router.post("/r/{pk}/hands/trace")
def begin_trace(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Begin a search."""
    let_in(request, who, pk, BeginTrace.needs)
    page = page_here(request, who, pk)
    try:
        about = {one.value: one for one in TraceAbout}.get(posted.text("about"), TraceAbout.WATER)
        data: dict[str, object] = {"about": about, "title": posted.words("title", 100) or NAMES[about]}
        data["place"] = posted.text("place") if posted.text("place") in page.refit.place_by_id else None
        data["note"] = posted.words("note", 4000)
        if posted.text("since").strip():
            try:
                data["since"] = typed.day(posted.text("since"), page.today)
            except ValueError as error:
                raise refused(str(error), "since") from None
        made = acted(request, who, pk, BeginTrace(data)).made
    except (RefitFaults, ValidationError) as error:
        told = faults_of_form(error if isinstance(error, RefitFaults) else RefitFaults(faults_of(error)))
        return render(request, "trace_new.html", _asked(page, as_typed(posted), told), 422)
    return on_to(f"/r/{pk}/hands/trace/{made}")


@router.get("/r/{pk}/hands/trace/{key}")
def one_trace(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """What is known, who is suspected, what to look at next."""
    page = page_here(request, who, pk)
    row = next((one for one in page.refit.traces if one.id == key), None)
    if row is None:
        raise NotFound("This search is gone; somebody removed it meanwhile.")
    tables = whence_tables()
    found = suspects(tables, row, facts_of(page.refit))
    groups: dict[str, list[tuple[str, str]]] = {}
    asks: dict[str, str] = {}
    told = {name for one in tables.candidate.values() if one.about is row.about for name in one.given}
    for name, clue in tables.clue.items():
        if name in told:
            groups.setdefault(clue.group, []).append((name, clue.label))
            asks[clue.group] = clue.ask
    ashore = is_ashore(page.refit, page.now)
    order = in_order(found, ashore=ashore)
    context = page.context(
        row=row, found=found, order=order, following=order[0] if order else None, groups=groups, asks=asks, tables=tables,
        hours=hours_to_look(found, ashore=ashore), first=tables.first[row.about], most=MOST_SHOWN, nobody=NOBODY, named={one.name: one for one in found},
        closing=closes_up(page.refit, row), ashore=ashore, open=row.state is TraceState.OPEN, task=page.refit.tasks.get(row.task or ""), at=page.plan.by_task(),
        recipes=library().recipes,
    )  # fmt: skip
    return render(request, "trace.html", context)


@router.post("/r/{pk}/hands/trace/{key}/clues")
def clues(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """What is known."""
    let_in(request, who, pk, AnswerClues.needs)
    names = [name for name in posted.form if name.startswith("clue-")]
    acted(request, who, pk, AnswerClues(key, tuple(posted.text(name) for name in names if posted.text(name))))
    return on_to(f"/r/{pk}/hands/trace/{key}")


@router.post("/r/{pk}/hands/trace/{key}/look")
def look(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """One look."""
    let_in(request, who, pk, LookFor.needs)
    showed = {one.value: one for one in Showed}.get(posted.text("showed"))
    if showed is None:
        raise refused("Say what it showed.")
    finding = acted(request, who, pk, LookFor(key, posted.text("candidate"), showed, posted.words("note", 200))).made
    return on_to(f"/r/{pk}/finding/{finding}" if finding else f"/r/{pk}/hands/trace/{key}")


@router.post("/r/{pk}/hands/trace/{key}/own")
def think_of(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Another candidate."""
    let_in(request, who, pk, ThinkOf.needs)
    try:
        minutes = typed.whole(posted.text("minutes") or "30", 1, 2000)
        weight = typed.number(posted.text("weight") or "8", 0.1, 100)
    except ValueError as error:
        raise refused(f"Minutes and weight: {error}.", "minutes") from None
    name = posted.words("name", 120)
    if not name:
        raise refused("Name it.", "name")
    acted(request, who, pk, ThinkOf(key, OwnCandidate(name=name, weight=float(weight), minutes=minutes)))
    return on_to(f"/r/{pk}/hands/trace/{key}")


@router.post("/r/{pk}/hands/trace/{key}/waits")
def waits(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """What closes up over it."""
    let_in(request, who, pk, WaitForSource.needs)
    acted(request, who, pk, WaitForSource(key, posted.many("task")))
    return on_to(f"/r/{pk}/hands/trace/{key}")


@router.post("/r/{pk}/hands/trace/{key}/end")
def end_trace(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Closed up without knowing, or looked for again."""
    let_in(request, who, pk, EndTrace.needs)
    acted(request, who, pk, EndTrace(key, posted.words("why", 200), posted.text("way") == "again"))
    return on_to(f"/r/{pk}/hands/trace/{key}")


# Unlike metals


@router.get("/r/{pk}/hands/contacts")
def contacts(request: Request, who: Who, pk: Pk) -> Response:
    """The walk over where metals meet."""
    page = page_here(request, who, pk)
    tables = contact_tables()
    rows = sorted(
        ((row, judged(tables, row)) for row in (as_it_is(page.refit, one) for one in page.refit.contacts)),
        key=lambda pair: (-pair[1].weighed, pair[0].title),
    )
    titles = {row.title for row in page.refit.contacts}
    usual = [point for point in points_of(tables, facts_of(page.refit)) if point.title not in titles]
    asked = [
        (point, judged(tables, Contact(id="x", title=point.title, one=point.one, other=point.other, wet=point.wet, larger=point.larger, at=page.now)))
        for point in usual
    ]  # fmt: skip
    places = {place.spot: place.id for place in reversed(page.refit.places) if place.spot is not None}
    context = page.context(
        rows=rows, usual=asked, places=places, metals=METALS, wets=list(Wetness), largers=list(Larger), never=tables.never,
        source=tables.contacts_source, jobs={job.id: job for job in page.refit.jobs},
    )  # fmt: skip
    return render(request, "contacts.html", context)


@router.post("/r/{pk}/hands/contacts")
def note_contacts(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """What was seen on the walk: of each usual point whether they touch, or are kept apart; and one of one's own."""
    let_in(request, who, pk, NoteContacts.needs)
    page = page_here(request, who, pk)
    tables = contact_tables()
    places = {place.spot: place.id for place in reversed(page.refit.places) if place.spot is not None}
    by_title = {point.title: point for point in points_of(tables, facts_of(page.refit))}
    rows: list[dict[str, object]] = []
    gone = []
    stood = {row.id: row.apart for row in page.refit.contacts}
    for name in posted.form:
        if name.startswith("usual-") and posted.text(name) in ("touch", "apart"):
            point = by_title.get(posted.text(f"title-{name.removeprefix('usual-')}"))
            if point is not None:
                rows.append({"title": point.title, "place": places.get(point.spot), "one": point.one, "other": point.other, "wet": point.wet, "larger": point.larger, "apart": posted.text(name) == "apart"})  # fmt: skip
        if name.startswith("row-"):
            key, said = name.removeprefix("row-"), posted.text(name)
            if said == "gone":
                gone.append(key)
            elif key in stood and said in ("touch", "apart") and stood[key] != (said == "apart"):
                rows.append({"id": key, "apart": said == "apart"})
    if posted.text("title").strip():
        own: dict[str, object] = {name: posted.text(name) for name in ("one", "other", "wet", "larger")}
        rows.append({**own, "title": posted.words("title", 120), "place": posted.text("place") or None, "apart": False})
    if not rows and not gone:
        raise refused("Nothing was said that is new.")
    acted(request, who, pk, NoteContacts(rows, tuple(gone)))
    return on_to(f"/r/{pk}/hands/contacts")


@router.post("/r/{pk}/hands/contacts/apart")
def keep_apart(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """As one job."""
    let_in(request, who, pk, KeepApart.needs)
    page = page_here(request, who, pk)
    chosen = posted.many("contact")
    eaten = {judged(contact_tables(), row).eaten.key for row in page.refit.contacts if row.id in chosen}
    metal = "aluminium" if "aluminium" in eaten else "steel" if "steel" in eaten else "other"
    return on_to(f"/r/{pk}/jobs/{acted(request, who, pk, KeepApart(chosen, metal)).made}")
