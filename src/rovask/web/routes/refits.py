"""The list of refits; a new one, a file in, a file out."""

from __future__ import annotations

import re
import secrets
from collections.abc import Mapping
from dataclasses import replace
from functools import lru_cache
from typing import Any
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Request
from fastapi.responses import FileResponse, Response

from rovask.core.plain.faults import Fault, RefitFaults
from rovask.core.readings.standings import standings
from rovask.core.recipes.places import places_of
from rovask.core.refit import edits, typed
from rovask.core.refit.givens.boats_like import LIKE
from rovask.core.refit.givens.slot import date_doubts
from rovask.core.refit.model import Refit
from rovask.core.refit.register import KINDS
from rovask.core.refit.whole import Whole
from rovask.desk.commands.refits import RemoveRefit
from rovask.desk.importing import imported
from rovask.formats.recipe_file import library
from rovask.formats.refit_file import refit_from
from rovask.store.refits import list_refits
from rovask.web import sheets
from rovask.web.acting import on_to, ran
from rovask.web.asking import Pk, actor_of, desk_of
from rovask.web.assets import STATIC
from rovask.web.boat.drawing import Drawing, draw
from rovask.web.rendering import render
from rovask.web.security import Form, Who, settings_of
from rovask.web.sheet_fields import FIELDS, Field

router = APIRouter()

SOME_DATES = {"haul_at": "2026-01-05T08:00Z", "launch_at": "2026-02-05T08:00Z"}  # of a refit that is only drawn
_NEW = {
    "header": ("name", "haul_at", "launch_at", "currency", "budget"),
    "boat": (
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
    "yard": ("name", "town", "time_zone", "hours", "lift_and_launch", "lay_day"),
}
_CURRENCY_FIELD = Field("currency", "Currency", help="three letters, like EUR")


@router.get("/")
def all_refits(request: Request, who: Who) -> Response:
    """Every refit of one's own, or what to do first when there is none."""
    return _list(request, who)


def _list(request: Request, who: Who, faults: tuple[Fault, ...] = (), file: str = "", status: int = 200) -> Response:
    with desk_of(request).looking() as session:
        found = list_refits(session, who.account)
    return render(request, "refits.html", {"who": who, "refits": found, "faults": faults, "file": file}, status)


@router.post("/import")
def import_refit(request: Request, who: Who, posted: Form) -> Response:
    """A refit file in: whole, or refused with every fault listed."""
    upload = posted.upload("file")
    name = typed.shown_name(upload.filename or "") if upload is not None else ""
    try:
        if upload is None:
            raise RefitFaults([Fault("", "no file was chosen; choose a .refit.json file first")])
        kept = imported(desk_of(request), actor_of(who, request), upload.file, name)
    except RefitFaults as error:
        return _list(request, who, error.faults, name, 422)
    return on_to(f"/r/{kept.pk}/morning")


def _fields(kind: str) -> tuple[Field, ...]:
    """The fields of a sheet of a new refit; its currency is chosen here and later changed by an act of its own."""
    return (*FIELDS[kind], _CURRENCY_FIELD) if kind == "header" else FIELDS[kind]


def _parts(values: dict[str, dict[str, Any]], faults: dict[str, list[str]]) -> list[dict[str, Any]]:
    """The fields of the new-refit form, under names made unique by their kind."""
    return [
        {
            "kind": kind,
            "field": replace(field, label="Boat’s name") if (kind, field.name) == ("boat", "name") else field,
            "name": f"{kind}-{field.name}",
            "value": values[kind][field.name],
            "faults": faults.get(f"{kind}-{field.name}", []),
        }
        for kind, names in _NEW.items()
        for field in _fields(kind)
        if field.name in names
    ]


def _defaults() -> dict[str, dict[str, Any]]:
    values: dict[str, dict[str, Any]] = {
        kind: {field.name: "" if field.name in names else None for field in _fields(kind)}
        for kind, names in _NEW.items()
    }
    values["header"] |= {"currency": "EUR"}
    values["boat"] |= {
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
    values["yard"] |= {"time_zone": "Europe/Lisbon", "hours": "mon-sat 07:00-20:00", "free_days": "0"}
    return values


@lru_cache(maxsize=1)
def _boats() -> tuple[tuple[str, str, Drawing], ...]:
    """The boats one may begin from, drawn."""
    out = []
    for key, (title, boat) in LIKE.items():
        whole = {"name": title, "boat": _boat(boat), "yard": {"name": "Yard", "time_zone": "UTC"}} | SOME_DATES
        refit = refit_from(whole)
        refit = edits.rebuilt(refit, places=places_of(refit.boat, library().common))
        out.append((key, title, draw(refit, standings(refit, refit.haul_at), 230, whole=True)))
    return tuple(out)


def _boat(boat: Mapping[str, Any]) -> dict[str, Any]:
    return {"name": "Boat"} | dict(boat)


def _like(key: str) -> dict[str, dict[str, Any]]:
    """What stands in the form when one begins from a boat much like hers."""
    values = _defaults()
    for name, value in LIKE.get(key, ("", {}))[1].items():
        values["boat"][name] = value if isinstance(value, list) else str(value)
    return values


def _with_figures_of(values: dict[str, dict[str, Any]], before: str, chosen: str) -> dict[str, dict[str, Any]]:
    """What was typed, with the figures of another boat wherever they are as the boat before had them, or empty."""
    was, now = _like(before)["boat"], _like(chosen)["boat"]

    def as_it_was(name: str, value: Any) -> bool:
        if isinstance(value, list):  # ticks come in the order of the form
            return not value or set(value) == set(was.get(name, ()))
        return value in ("", was.get(name))

    boat = {name: now.get(name, value) if as_it_was(name, value) else value for name, value in values["boat"].items()}
    return values | {"boat": boat}


def _form_of(who: Who, values: dict[str, dict[str, Any]], like: str, **more: Any) -> dict[str, Any]:
    """What the form for a new refit shows."""
    faults = more.pop("faults", {})
    return {
        "who": who,
        "boats": _boats(),
        "like": like,
        "rows": _parts(values, faults),
        "faults": faults.get("", []),
        "owner": who.name,
        "second": "",
        "owner_faults": faults.get("owner", []),
        "asked": False,
    } | more


@router.get("/new")
def new_page(request: Request, who: Who, like: str = "") -> Response:
    """The form for a new, empty refit, begun from a boat much like hers if one is chosen."""
    return render(request, "new.html", _form_of(who, _like(like), like))


@router.post("/new")
def new_refit(request: Request, who: Who, posted: Form) -> Response:
    """A new refit with the places of its boat and its owners, ready for its first job."""
    values = _defaults()
    for kind, names in _NEW.items():
        values[kind] |= {name: posted.text(f"{kind}-{name}") for name in names if f"{kind}-{name}" in posted.form}
    values["boat"]["fitted"] = list(posted.many("boat-fitted"))
    owner, second, like = posted.text("owner").strip(), posted.text("second").strip(), posted.text("like")
    if chosen := posted.text("choose"):  # a boat to begin from: what was typed before stays
        figures = _with_figures_of(values, like, chosen)
        return render(request, "new.html", _form_of(who, figures, chosen, owner=owner, second=second))
    faults: dict[str, list[str]] = {}
    data: dict[str, dict[str, Any]] = {}
    zone, currency = _zone(values["yard"]["time_zone"]), _currency(values["header"]["currency"])
    values["header"]["currency"] = values["header"]["currency"].strip().upper()
    today = settings_of(request).clock().astimezone(zone).date()
    for kind in _NEW:
        data[kind], wrong = sheets.read(KINDS[kind], values[kind], zone, currency, _fields(kind), near=today)
        faults |= {f"{kind}-{name}": messages for name, messages in wrong.items()}
    refit = _started(data, [owner, second] if second else [owner], faults)
    asked = date_doubts(refit, settings_of(request).clock()) if refit is not None and not posted.text("anyway") else {}
    faults |= {f"header-{name}": [told] for name, told in asked.items()}
    if refit is None or asked:
        shown = _form_of(who, values, like, faults=faults, owner=owner, second=second, asked=bool(asked))
        return render(request, "new.html", shown, 422)
    kept = desk_of(request).add(actor_of(who, request), Whole(refit), "began the refit", person=refit.people[0].id)
    return on_to(f"/r/{kept.pk}/jobs")


def _zone(text: str) -> ZoneInfo:
    try:
        return ZoneInfo(text.strip() or "UTC")
    except (KeyError, ValueError, OSError):
        return ZoneInfo("UTC")


def _currency(text: str) -> str:
    """The currency amounts are read in; of one there isn't the form complains by itself."""
    return text.strip().upper() if re.fullmatch(r"[A-Za-z]{3}", text.strip()) else "EUR"


def _started(data: dict[str, dict[str, Any]], owners: list[str], faults: dict[str, list[str]]) -> Refit | None:
    """The new refit, or None with its faults added, each under the form's own field name."""
    given = {kind: {name: value for name, value in data[kind].items() if value is not None} for kind in _NEW}
    week = ["mon", "tue", "wed", "thu", "fri", "sat"]
    shifts = [{"days": week, "start": "08:00", "end": "17:00"}]
    people = [{"id": f"p-{secrets.token_hex(3)}", "name": owner, "role": "owner", "hours": shifts} for owner in owners]
    whole = given["header"] | {"boat": given["boat"], "yard": given["yard"], "people": people}
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
                name = f"header-{top}" if top in _NEW["header"] else ""
            if name == "" or name not in faults:
                faults.setdefault(name, []).append(fault.message)
        return None
    return None if faults else edits.rebuilt(refit, places=places_of(refit.boat, library().common))


@router.get("/no-signal")
def no_signal(request: Request) -> Response:
    """What is shown without a signal in place of a page that isn't kept on the device."""
    return render(request, "no_signal.html", {})


@router.get("/sw.js")
def service_worker() -> Response:
    """The script that keeps pages readable without a signal; from the root, since it must stand over all of them."""
    return FileResponse(STATIC / "sw.js", media_type="text/javascript", headers={"Cache-Control": "no-cache"})


@router.post("/r/{pk}/remove")
def remove_refit(request: Request, who: Who, posted: Form, pk: Pk) -> Response:
    """Remove a refit for good, once its name was typed."""
    ran(request, who, RemoveRefit(posted.text("name")), pk)
    return on_to("/")
