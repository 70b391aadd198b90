"""What hands meet: the page of all of it; what will not come off; getting at it; what may lie on what."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import ValidationError

from rovask.core.bench.fastening import breaking_torque, lever_for, opens_by
from rovask.core.craft.covers import behind, cover_of, foul_for, may_need, opened_twice
from rovask.core.craft.seized import heat_harms, ladder
from rovask.core.craft.seized_edits import NewOne
from rovask.core.plain.faults import Fault, RefitFaults, faults_of, refused
from rovask.core.plan.verdict.services import SLEPT_IN
from rovask.core.refit import typed
from rovask.core.refit.craft.choices import CoverSort, Holds, Means, NearIt, OfMetal, Reach, SeizedState, Tried
from rovask.desk.commands.covers import NoteCover, OpenOnce, TapeOff
from rovask.desk.commands.seized import DoesNotCome, LeaveSeized, StepTo, TurnedOut
from rovask.desk.rights import Right
from rovask.formats.craft_tables import coat_tables, seized_tables
from rovask.store.errors import NotFound
from rovask.web.acting import acted, faults_of_form, let_in, on_to
from rovask.web.asking import Pk, RecordId
from rovask.web.hands_forms import as_typed
from rovask.web.page import Page, page_here
from rovask.web.rendering import render
from rovask.web.security import Form, Posted, Who

router = APIRouter()

WARMED = 100.0  # K by which a part is said to open


@router.get("/r/{pk}/hands")
def hands(request: Request, who: Who, pk: Pk) -> Response:
    """Everything of it, the open first."""
    page = page_here(request, who, pk)
    context = page.context(
        twice=opened_twice(page.refit),
        slept=[place for place in page.refit.places if place.spot in SLEPT_IN],
        foul={place.id: foul_for(page.refit, place.id) for place in page.refit.places if place.spot in SLEPT_IN},
        done=(SeizedState.OFF, SeizedState.GIVEN_UP),
    )
    return render(request, "hands.html", context)


# It doesn't come


def _asked_seized(page: Page, task: str, values: dict[str, object], faults: dict[str, list[str]]) -> dict[str, object]:
    return page.context(
        task=page.refit.tasks.get(task), values=values, faults=faults, holds=list(Holds), metals=list(OfMetal), reaches=list(Reach),
        nears=list(NearIt), tasks=[one for one in page.refit.tasks.values() if not one.done_at],
    )  # fmt: skip


@router.get("/r/{pk}/hands/seized/new")
def new_seized(request: Request, who: Who, pk: Pk, task: str = "") -> Response:
    """It doesn't come: what one knows of it."""
    page = page_here(request, who, pk, Right.WORK)
    return render(request, "seized_new.html", _asked_seized(page, task, {"wet": "1", "years": "10", "size": "8"}, {}))


@router.post("/r/{pk}/hands/seized")
def doesnt_come(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Note it, with its first means in the plan."""
    let_in(request, who, pk, DoesNotCome.needs)
    page = page_here(request, who, pk)
    try:
        data, new = _seized_typed(posted, page)
        made = acted(request, who, pk, DoesNotCome(data, new)).made
    except (RefitFaults, ValidationError) as error:
        faults = faults_of_form(error if isinstance(error, RefitFaults) else RefitFaults(faults_of(error)))
        faults = {{"size_mm": "size"}.get(name, name): told for name, told in faults.items()}
        values: dict[str, object] = {**as_typed(posted), "near": posted.many("near")}
        return render(request, "seized_new.html", _asked_seized(page, posted.text("task"), values, faults), 422)
    return on_to(f"/r/{pk}/hands/seized/{made}")


def _seized_typed(posted: Posted, page: Page) -> tuple[dict[str, object], NewOne | None]:
    faults: list[Fault] = []

    def figure(name: str, least: float, most: float, otherwise: float) -> float:
        text = posted.text(name).strip()
        if not text:
            return otherwise
        try:
            return typed.number(text, least, most)
        except ValueError as error:
            faults.append(Fault(name, str(error)))
            return otherwise

    title = posted.words("title", 100)
    if not title:
        faults.append(Fault("title", "Name it: what is it that doesn't come?"))
    data: dict[str, object] = {
        "title": title, "task": posted.text("task") or None,
        "place": posted.text("place") or None, "holds": posted.text("holds") or "thread",
        "metal": posted.text("metal") or "stainless", "around": posted.text("around") or "stainless",
        "size_mm": float(figure("size", 2, 200, 8)), "years": int(figure("years", 0, 99, 10)),
        "wet": bool(posted.text("wet")), "reach": posted.text("reach") or "free", "near": posted.many("near"),
        "note": posted.words("note", 200),
    }  # fmt: skip
    new = None
    name = posted.words("new", 120)
    price, days = posted.text("price").strip(), int(figure("days", 0, 365, 0))
    money = 0
    if price:
        try:
            money = typed.minor(price, page.refit.currency)
        except ValueError as error:
            faults.append(Fault("price", str(error)))
    if name or price or days:
        new = NewOne(name or f"New: {title}"[:120], money, days)
    if faults:
        raise RefitFaults(faults)
    return data, new


@router.get("/r/{pk}/hands/seized/{key}")
def one_seized(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """Its ladder, how far one came, and the figures behind it."""
    page = page_here(request, who, pk)
    row = next((one for one in page.refit.seized if one.id == key), None)
    if row is None:
        raise NotFound("This seized thing is gone; somebody removed it meanwhile.")
    tables = seized_tables()
    torque = breaking_torque(row.metal, row.size_mm) if row.holds is Holds.THREAD else None
    at = page.plan.by_task()
    names = (f"{key}-{row.now.value}", f"{key}-{row.now.value}-try") if row.now is not None else ()
    context = page.context(
        row=row, ladder=ladder(tables, row), source=tables.seized_source, torque=torque, lever=lever_for(torque) if torque else None,
        opens=opens_by(row.around, row.size_mm, WARMED) - opens_by(row.metal, row.size_mm, WARMED), harms=heat_harms(row.near),
        rungs=[page.refit.tasks[name] for name in names if name in page.refit.tasks], at=at, open=row.state in (SeizedState.FAST, SeizedState.BROKEN),
        part=page.refit.part_by_id.get(row.part or ""), task=page.refit.tasks.get(row.task or ""),
    )  # fmt: skip
    return render(request, "seized.html", context)


@router.post("/r/{pk}/hands/seized/{key}/tick")
def seized_ticked(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """It came, it held, it broke."""
    let_in(request, who, pk, TurnedOut.needs)
    outcome = {one.value: one for one in Tried}.get(posted.text("outcome"))
    if outcome is None:
        raise refused("Say whether it came, held or broke.")
    acted(request, who, pk, TurnedOut(key, outcome))
    return on_to(f"/r/{pk}/hands/seized/{key}")


@router.post("/r/{pk}/hands/seized/{key}/step")
def seized_stepped(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Another means now."""
    let_in(request, who, pk, StepTo.needs)
    means = {one.value: one for one in Means}.get(posted.text("means"))
    if means is None:
        raise refused("Choose one of the means shown.")
    acted(request, who, pk, StepTo(key, means))
    return on_to(f"/r/{pk}/hands/seized/{key}")


@router.post("/r/{pk}/hands/seized/{key}/stop")
def seized_stopped(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Given up, or gone on with."""
    let_in(request, who, pk, LeaveSeized.needs)
    acted(request, who, pk, LeaveSeized(key, up=posted.text("way") != "on"))
    return on_to(f"/r/{pk}/hands/seized/{key}")


# Getting at it, and dust


def _asked_cover(page: Page, values: dict[str, object], faults: dict[str, list[str]]) -> dict[str, object]:
    place = str(values.get("place") or "")
    rows = [task for task in page.refit.tasks.values() if task.place == place and not task.begun_at]
    return page.context(values=values, faults=faults, sorts=list(CoverSort), rows=rows)


@router.get("/r/{pk}/hands/cover/new")
def new_cover(request: Request, who: Who, pk: Pk, place: str = "") -> Response:
    """What is in the way."""
    page = page_here(request, who, pk, Right.WORK)
    where = place if place in page.refit.place_by_id else ""
    return render(
        request, "cover_new.html", _asked_cover(page, {"place": where, "open": "1", "close": "1", "bunks": "0"}, {})
    )


@router.post("/r/{pk}/hands/cover")
def note_cover(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Note it, opened once for what was ticked."""
    let_in(request, who, pk, NoteCover.needs)
    page = page_here(request, who, pk)
    faults: list[Fault] = []
    figures: dict[str, float] = {}
    for name, most in (("open", 200), ("close", 200), ("bunks", 12)):
        try:
            figures[name] = typed.number(
                posted.text(name) or ("0" if name == "bunks" else "1"), 0 if name == "bunks" else 0.5, most
            )
        except ValueError as error:
            faults.append(Fault(name, str(error)))
    data: dict[str, object] = {
        "title": posted.words("title", 100), "place": posted.text("place") or None, "sort": posted.text("sort") or "locker",
        "open_hours": round(figures.get("open", 1) * 2) / 2, "close_hours": round(figures.get("close", 1) * 2) / 2,
        "bunks": int(figures.get("bunks", 0)), "note": posted.words("note", 200),
    }  # fmt: skip
    try:
        if not data["title"]:
            faults.append(Fault("title", "Name it: which locker, which board?"))
        if faults:
            raise RefitFaults(faults)
        made = acted(request, who, pk, NoteCover(data, posted.many("task"))).made
    except (RefitFaults, ValidationError) as error:
        told = faults_of_form(error if isinstance(error, RefitFaults) else RefitFaults(faults_of(error)))
        values: dict[str, object] = {**as_typed(posted), "task": posted.many("task")}
        return render(request, "cover_new.html", _asked_cover(page, values, told), 422)
    return on_to(f"/r/{pk}/hands/cover/{made}")


@router.get("/r/{pk}/hands/cover/{key}")
def one_cover(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """What it is opened for, and what might need it too."""
    page = page_here(request, who, pk)
    row = next((one for one in page.refit.covers if one.id == key), None)
    if row is None:
        raise NotFound("This is gone; somebody removed it meanwhile.")
    tasks = page.refit.tasks
    context = page.context(
        row=row, behind=behind(page.refit, row), rows=may_need(page.refit, row), at=page.plan.by_task(),
        opening=tasks.get(row.open_task or ""), closing=tasks.get(row.close_task or ""),
    )  # fmt: skip
    return render(request, "cover.html", context)


@router.post("/r/{pk}/hands/cover/{key}/open")
def opened(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Opened once for these."""
    let_in(request, who, pk, OpenOnce.needs)
    cover_of(page_here(request, who, pk).kept.refit, key)
    acted(request, who, pk, OpenOnce(key, posted.many("task")))
    return on_to(f"/r/{pk}/hands/cover/{key}")


@router.post("/r/{pk}/hands/tape")
def taped(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Dust kept in."""
    let_in(request, who, pk, TapeOff.needs)
    try:
        hours = typed.number(posted.text("hours") or "1.5", 0.5, 100)
    except ValueError as error:
        raise refused(f"The hours: {error}.", "hours") from None
    made = acted(request, who, pk, TapeOff(posted.many("task"), round(hours * 2) / 2)).made
    return on_to(f"/r/{pk}/jobs/{made}")


# What may lie on what


@router.get("/r/{pk}/hands/coats")
def coats(request: Request, who: Who, pk: Pk, under: str = "", over: str = "") -> Response:
    """What may lie on what is on her."""
    page = page_here(request, who, pk)
    tables = coat_tables()
    chosen = under if under in tables.kind else ""
    rows = [row for row in tables.on if not chosen or row.under == chosen]
    context = page.context(
        kinds=tables.kind, under=chosen, over=over if over in tables.kind else "", rows=rows, source=tables.coats_source,
        grid={(row.over, row.under): row for row in tables.on}, overs=list(dict.fromkeys(row.over for row in tables.on)),
    )  # fmt: skip
    return render(request, "coats.html", context)
