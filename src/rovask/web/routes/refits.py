"""The list of refits; a new one, a file in, a file out."""

from __future__ import annotations

import re
import secrets
from typing import Any
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response
from starlette.datastructures import UploadFile

from rovask.core.recipes.places import places_of
from rovask.core.refit import edits
from rovask.core.refit.faults import Fault, RefitFaults
from rovask.core.refit.model import Refit
from rovask.core.refit.records import Kind
from rovask.formats.bundle import is_bundle, read_bundle, write_bundle
from rovask.formats.photo import from_kept
from rovask.formats.recipe_file import library
from rovask.formats.refit_file import read_refit, refit_from, write_refit
from rovask.store import photos as photo_files
from rovask.store import refits
from rovask.store.database import transaction
from rovask.store.errors import NotFound
from rovask.web import sheets
from rovask.web.rendering import render
from rovask.web.security import Form, Who, settings_of
from rovask.web.sheet_fields import FIELDS

router = APIRouter()

_NEW = {
    Kind.HEADER: ("name", "haul_at", "launch_at", "currency", "budget"),
    Kind.BOAT: (
        "name",
        "rig",
        "hulls",
        "hull_material",
        "keel",
        "rudder",
        "drive",
        "masts",
        "mast_step",
        "length_m",
        "waterline_m",
        "beam_m",
        "draft_m",
        "displacement_kg",
        "engines",
        "propeller",
        "cooling",
        "through_hulls",
        "heads",
        "berths",
        "fitted",
    ),
    Kind.YARD: ("name", "town", "time_zone", "hours", "lift_and_launch", "lay_day"),
}


@router.get("/")
def all_refits(request: Request, who: Who) -> Response:
    """Every refit, or what to do first when there is none."""
    with transaction(settings_of(request).database_url) as session:
        found = refits.list_refits(session)
    return render(request, "refits.html", {"who": who, "refits": found, "faults": [], "file": ""})


@router.post("/import")
def import_refit(request: Request, who: Who, posted: Form) -> Response:
    """A refit file in: whole, or refused with every fault listed."""
    settings = settings_of(request)
    upload = posted.form.get("file")
    name = upload.filename or "" if isinstance(upload, UploadFile) else ""
    try:
        if not isinstance(upload, UploadFile) or not name:
            raise RefitFaults([Fault("", "no file was chosen; choose a .refit.json file first")])
        content = upload.file.read()
        refit, photos = read_bundle(content) if is_bundle(content) else (read_refit(content), {})
        for data in photos.values():
            photo_files.keep(settings.state, from_kept(data))
    except RefitFaults as error:
        with transaction(settings.database_url) as session:
            found = refits.list_refits(session)
        context = {"who": who, "refits": found, "faults": error.faults, "file": name}
        return render(request, "refits.html", context, 422)
    with transaction(settings.database_url) as session:
        kept = refits.add(session, refit, who=who.account, what=f"imported {name}", clock=settings.clock())
    return RedirectResponse(f"/r/{kept.pk}/morning", status_code=303)


@router.get("/r/{pk}/export")
def export_refit(request: Request, who: Who, pk: int) -> Response:
    """The whole refit as a file."""
    with transaction(settings_of(request).database_url) as session:
        refit = refits.load(session, pk).refit
    return Response(
        write_refit(refit),
        media_type="application/json",
        headers={
            "Content-Disposition": f'attachment; filename="{_file_name(refit)}.refit.json"',
            "Cache-Control": "no-store",
        },
    )


@router.get("/r/{pk}/bundle")
def export_bundle(request: Request, who: Who, pk: int) -> Response:
    """The whole refit with its photos as one zip."""
    settings = settings_of(request)
    with transaction(settings.database_url) as session:
        refit = refits.load(session, pk).refit
    photos = {}
    for photo in refit.photos:
        try:
            photos[photo.sha256] = photo_files.content(settings.state, photo.sha256)
        except NotFound:
            continue  # a file that is gone can't be sent; the refit still names it
    headers = {
        "Content-Disposition": f'attachment; filename="{_file_name(refit)}.refit.zip"',
        "Cache-Control": "no-store",
    }
    return Response(write_bundle(refit, photos), media_type="application/zip", headers=headers)


def _file_name(refit: Refit) -> str:
    return re.sub(r"[^a-z0-9]+", "-", refit.name.lower()).strip("-") or "refit"


def _parts(values: dict[Kind, dict[str, Any]], faults: dict[str, list[str]]) -> list[dict[str, Any]]:
    """The fields of the new-refit form, under names made unique by their kind."""
    rows = []
    for kind, names in _NEW.items():
        for field in FIELDS[kind]:
            if field.name in names:
                rows.append(
                    {
                        "kind": kind.value,
                        "field": field,
                        "name": f"{kind.value}-{field.name}",
                        "value": values[kind][field.name],
                        "faults": faults.get(f"{kind.value}-{field.name}", []),
                    }
                )
    return rows


def _defaults() -> dict[Kind, dict[str, Any]]:
    values: dict[Kind, dict[str, Any]] = {
        kind: {field.name: "" if field.name in names else None for field in FIELDS[kind]}
        for kind, names in _NEW.items()
    }
    values[Kind.HEADER] |= {"currency": "EUR"}
    values[Kind.BOAT] |= {
        "hull_material": "grp",
        "keel": "fin",
        "rudder": "skeg",
        "drive": "shaft",
        "hulls": "1",
        "rig": "sloop",
        "masts": "1",
        "mast_step": "deck",
        "engines": "1",
        "propeller": "fixed",
        "cooling": "heat exchanger",
        "through_hulls": "8",
        "heads": "1",
        "berths": "4",
        "fitted": ["gas", "stanchions"],
    }
    values[Kind.YARD] |= {"time_zone": "Europe/Lisbon", "hours": "mon-sat 07:00-20:00", "free_days": "0"}
    return values


@router.get("/new")
def new_page(request: Request, who: Who) -> Response:
    """The form for a new, empty refit."""
    context = {
        "who": who,
        "rows": _parts(_defaults(), {}),
        "faults": [],
        "owner": who.name,
        "second": "",
        "owner_faults": [],
    }
    return render(request, "new.html", context)


@router.post("/new")
def new_refit(request: Request, who: Who, posted: Form) -> Response:
    """A new refit with the places of its boat and its owners, ready for its first job."""
    settings = settings_of(request)
    values = _defaults()
    for kind, names in _NEW.items():
        values[kind] |= {
            name: posted.text(f"{kind.value}-{name}") for name in names if f"{kind.value}-{name}" in posted.form
        }
    values[Kind.BOAT]["fitted"] = [str(value) for value in posted.form.getlist("boat-fitted")]
    owner = posted.text("owner").strip()
    faults: dict[str, list[str]] = {}
    try:
        zone = ZoneInfo(values[Kind.YARD]["time_zone"].strip() or "UTC")
    except (KeyError, ValueError, OSError):
        zone = ZoneInfo("UTC")
    data: dict[Kind, dict[str, Any]] = {}
    for kind in _NEW:
        data[kind], wrong = sheets.read(kind, values[kind], zone)
        faults |= {f"{kind.value}-{name}": messages for name, messages in wrong.items()}
    second = posted.text("second").strip()
    refit = _started(data, [owner, second] if second else [owner], faults)
    if refit is None:
        context = {
            "who": who,
            "rows": _parts(values, faults),
            "faults": faults.get("", []),
            "owner": owner,
            "second": second,
            "owner_faults": faults.get("owner", []),
        }
        return render(request, "new.html", context, 422)
    with transaction(settings.database_url) as session:
        kept = refits.add(session, refit, who=who.account, what="began the refit", clock=settings.clock())
    return RedirectResponse(f"/r/{kept.pk}/jobs", status_code=303)


def _started(data: dict[Kind, dict[str, Any]], owners: list[str], faults: dict[str, list[str]]) -> Refit | None:
    """The new refit, or None with its faults added, each under the form's own field name."""
    boat = {name: value for name, value in data[Kind.BOAT].items() if value is not None}
    yard = {name: value for name, value in data[Kind.YARD].items() if value is not None}
    header = {name: value for name, value in data[Kind.HEADER].items() if value is not None}
    week = ["mon", "tue", "wed", "thu", "fri", "sat"]
    shifts = [{"days": week, "start": "08:00", "end": "17:00"}]
    whole = header | {
        "boat": boat,
        "yard": yard,
        "people": [
            {"id": f"p-{secrets.token_hex(3)}", "name": owner, "role": "owner", "hours": shifts} for owner in owners
        ],
    }
    try:
        refit = refit_from(whole)
    except RefitFaults as error:
        for fault in error.faults:
            top, _, rest = fault.path.partition(".")
            if top.startswith("people["):
                name = "owner"
            elif top in ("boat", "yard") and rest:
                name = f"{top}-{rest.partition('[')[0].partition('.')[0]}"
            else:
                name = f"header-{top}" if top in _NEW[Kind.HEADER] else ""
            if name == "" or name not in faults:
                faults.setdefault(name, []).append(fault.message)
        return None
    return None if faults else edits.rebuilt(refit, places=places_of(refit.boat, library().common))


@router.post("/r/{pk}/remove")
def remove_refit(request: Request, who: Who, posted: Form, pk: int) -> Response:
    """Remove a refit for good, once its name was typed."""
    with transaction(settings_of(request).database_url) as session:
        kept = refits.load(session, pk)
        if posted.text("name").strip() != kept.refit.name:
            raise RefitFaults(
                [Fault("", f"Type the name “{kept.refit.name}” to remove it for good. Nothing was removed.")]
            )
        refits.remove(session, pk)
    return RedirectResponse("/", status_code=303)
