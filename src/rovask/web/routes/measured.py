"""Measured before it is ordered, and made to measure: sheets, shapes, and their templates in true size."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import ValidationError

from rovask.core.craft.fits import clashes, hours_of, unknown_yet
from rovask.core.craft.template import Outline, area, edge, mass, of_foot, of_shape, outside, too_near_edge
from rovask.core.plain.faults import RefitFaults, faults_of, refused
from rovask.core.refit import typed
from rovask.core.refit.model import Fit, Shape
from rovask.core.refit.records import RecordKey
from rovask.desk.commands.fits import LetClash, MakeFit, MirrorShape
from rovask.desk.commands.records import SaveRecord
from rovask.desk.rights import Right
from rovask.formats.craft_tables import fit_tables
from rovask.store.accounts import SignedIn
from rovask.store.errors import Conflict, NotFound
from rovask.web.acting import acted, faults_of_form, let_in, on_to
from rovask.web.asking import Pk, RecordId
from rovask.web.hands_forms import COLUMNS, MEASURED, WAYS, as_typed, fit_shown, fit_typed, shape_shown, shape_typed
from rovask.web.page import Page, page_here
from rovask.web.rendering import render, templates
from rovask.web.security import Form, Posted, Who
from rovask.web.template_drawing import template_of

router = APIRouter()

CHANGED = "Somebody changed it while you typed; below stands what you typed. Save again to keep it so, or open it anew to see theirs."


def _row(page: Page, kind: str, key: str) -> Any:
    rows: tuple[Fit, ...] | tuple[Shape, ...] = page.refit.fits if kind == "fit" else page.refit.shapes
    found = next((one for one in rows if one.id == key), None)
    if found is None:
        raise NotFound("This sheet is gone; somebody removed it meanwhile.")
    return found


def _asked(page: Page, fit: Fit | None, values: dict[str, str], faults: dict[str, list[str]]) -> dict[str, Any]:
    found = clashes(fit) if fit is not None else []
    return page.context(
        row=fit, values=values, faults=faults, measured=MEASURED, columns=COLUMNS, ways=range(WAYS), clashes=found,
        remedies=fit_tables().remedy, source=fit_tables().fits_source, unknown=unknown_yet(fit) if fit is not None else [],
        hours=hours_of([one for one in found if fit is not None and one.key not in fit.settled], fit_tables().remedy),
        revision=page.kept.revisions.get(RecordKey("fit", fit.id), "") if fit is not None else "",
        tasks=[task for task in page.refit.tasks.values() if not task.done_at], prints=fit is not None and _outline(fit, "new") is not None,
    )  # fmt: skip


@router.get("/r/{pk}/hands/fit/new")
def new_fit(request: Request, who: Who, pk: Pk, part: str = "", task: str = "") -> Response:
    """A new measured sheet, of a part or a task where it was asked from there."""
    page = page_here(request, who, pk, Right.WORK)
    values = {}
    if part in page.refit.part_by_id:
        needed = next((one.id for one in page.refit.tasks.values() if part in one.parts), "")
        values = {"part": part, "title": page.refit.part_by_id[part].name, "task": needed}
    if task in page.refit.tasks:
        values |= {"task": task, "title": values.get("title") or page.refit.tasks[task].title}
    return render(request, "fit.html", _asked(page, None, values, {}))


@router.get("/r/{pk}/hands/fit/{key}")
def one_fit(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """Old and new side by side, and every clash."""
    page = page_here(request, who, pk)
    fit = _row(page, "fit", key)
    return render(request, "fit.html", _asked(page, fit, fit_shown(fit), {}))


@router.post("/r/{pk}/hands/fit")
def keep_fit(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Keep a sheet."""
    return _keep(request, who, posted, pk, "fit", fit_typed, _asked)


def _keep(
    request: Request, who: SignedIn, posted: Posted, pk: int, kind: str,
    typed_in: Callable[[Posted], dict[str, Any]], shown: Callable[[Page, Any, dict[str, str], dict[str, list[str]]], dict[str, Any]],
) -> Response:  # fmt: skip
    """A sheet or a shape kept as it was typed; with faults, or where somebody else was first, it stands there as it was typed."""
    let_in(request, who, pk, Right.WORK)
    page = page_here(request, who, pk)
    key = posted.text("key")
    row = _row(page, kind, key) if key else None
    try:
        made = acted(request, who, pk, _save(kind, key, typed_in(posted), posted, page)).made
    except (RefitFaults, ValidationError, Conflict) as error:
        status = 409 if isinstance(error, Conflict) else 422
        return render(request, f"{kind}.html", shown(page, row, as_typed(posted), _told(error)), status)
    return on_to(f"/r/{pk}/hands/{kind}/{made}")


def _save(kind: str, key: str, data: dict[str, Any], posted: Posted, page: Page) -> SaveRecord:
    for name in ("task", "part"):  # one that is gone meanwhile is left out, not refused
        known = page.refit.tasks if name == "task" else page.refit.part_by_id
        if name in data and data[name] not in known:
            data[name] = None
    if not key:
        data = data | {"at": page.now}
    revision = int(posted.text("revision")) if posted.text("revision").isdigit() else None
    return SaveRecord(kind, key, data, str(data["title"]), revision if key else None)


def _told(error: Exception) -> dict[str, list[str]]:
    if isinstance(error, Conflict):
        return {"": [CHANGED]}
    return faults_of_form(error if isinstance(error, RefitFaults) else RefitFaults(faults_of(error)))  # type: ignore[arg-type]


@router.post("/r/{pk}/hands/fit/{key}/take")
def take_clash(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """What a clash asks for, into the plan; or (way) it doesn't matter."""
    let_in(request, who, pk, MakeFit.needs)
    page = page_here(request, who, pk)
    clash = posted.text("clash")
    if posted.text("way") == "let":
        acted(request, who, pk, LetClash(key, clash))
        return on_to(f"/r/{pk}/hands/fit/{key}")
    try:
        hours = typed.number(posted.text("hours") or "1", 0.1, 200)
        money = typed.minor(posted.text("money") or "0", page.refit.currency)
    except ValueError as error:
        raise refused(f"Hours and money: {error}.", "hours") from None
    acted(request, who, pk, MakeFit(key, clash, hours, money))
    return on_to(f"/r/{pk}/hands/fit/{key}")


def _outline(row: Fit | Shape, of: str, *, mirrored: bool = False) -> Outline | None:
    if isinstance(row, Shape):
        return of_shape(row, mirrored=mirrored)
    return of_foot(row.old if of == "old" else row.new, mirrored=mirrored)


def _printed(request: Request, page: Page, row: Fit | Shape, of: str, mirrored: str) -> Response:
    outline = _outline(row, of, mirrored=bool(mirrored))
    if outline is None:
        raise NotFound("Its foot is not measured yet: type its length and width first.")
    context = page.context(
        row=row,
        template=template_of(outline),
        mirrored=bool(mirrored),
        of=of,
        kind="shape" if isinstance(row, Shape) else "fit",
    )
    return render(request, "template.html", context)


@router.get("/r/{pk}/hands/fit/{key}/template")
def fit_template(request: Request, who: Who, pk: Pk, key: RecordId, of: str = "new", mirrored: str = "") -> Response:
    """Its foot with its holes in true size on A4."""
    page = page_here(request, who, pk)
    return _printed(request, page, _row(page, "fit", key), of, mirrored)


# Shapes


def _shape_asked(
    page: Page, shape: Shape | None, values: dict[str, str], faults: dict[str, list[str]]
) -> dict[str, Any]:
    outline = of_shape(shape) if shape is not None else None
    return page.context(
        row=shape, values=values, faults=faults, outline=outline, area=area(outline.corners) if outline else None,
        edge=edge(outline.corners) if outline else None, mass=mass(outline, shape.thick, shape.of) if outline and shape else None,
        thin=too_near_edge(outline) if outline else [], out=outside(outline) if outline else [], revision=page.kept.revisions.get(RecordKey("shape", shape.id), "") if shape else "",
        tasks=[task for task in page.refit.tasks.values() if not task.done_at],
        other=next((one for one in page.refit.shapes if shape is not None and one.id == shape.mirror_of), None),
    )  # fmt: skip


@router.get("/r/{pk}/hands/shape/new")
def new_shape(request: Request, who: Who, pk: Pk, task: str = "") -> Response:
    """A new shape."""
    page = page_here(request, who, pk, Right.WORK)
    return render(request, "shape.html", _shape_asked(page, None, {"task": task}, {}))


@router.get("/r/{pk}/hands/shape/{key}")
def one_shape(request: Request, who: Who, pk: Pk, key: RecordId) -> Response:
    """A shape, drawn, with its measures."""
    page = page_here(request, who, pk)
    shape = _row(page, "shape", key)
    return render(request, "shape.html", _shape_asked(page, shape, shape_shown(shape), {}))


@router.post("/r/{pk}/hands/shape")
def keep_shape(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Keep a shape."""
    return _keep(request, who, posted, pk, "shape", shape_typed, _shape_asked)


@router.post("/r/{pk}/hands/shape/{key}/mirror")
def mirror_shape(request: Request, who: Who, posted: Form, pk: Pk, key: RecordId) -> Response:
    """Kept for the other side."""
    let_in(request, who, pk, MirrorShape.needs)
    return on_to(f"/r/{pk}/hands/shape/{acted(request, who, pk, MirrorShape(key)).made}")


@router.get("/r/{pk}/hands/shape/{key}/template")
def shape_template(request: Request, who: Who, pk: Pk, key: RecordId, mirrored: str = "") -> Response:
    """In true size on A4."""
    page = page_here(request, who, pk)
    return _printed(request, page, _row(page, "shape", key), "", mirrored)


@router.get("/r/{pk}/hands/shape/{key}/file.svg")
def shape_file(request: Request, who: Who, pk: Pk, key: RecordId, mirrored: str = "") -> Response:
    """The whole shape in true size as an SVG file, for whoever cuts it."""
    page = page_here(request, who, pk)
    shape = _row(page, "shape", key)
    text = templates.get_template("shape_file.svg").render(outline=of_shape(shape, mirrored=bool(mirrored)), row=shape)
    headers = {"Content-Disposition": f'attachment; filename="shape-{key}.svg"', "Cache-Control": "no-store"}
    return Response(text, media_type="image/svg+xml", headers=headers)
