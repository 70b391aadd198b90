"""Edit forms, one definition for each kind of thing: what is shown, how it is typed, where its faults go."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any
from zoneinfo import ZoneInfo

from pydantic import ValidationError

from rovask.core.choices import Drive, HullMaterial, Keel, LinkKind, Need, PartStatus, Role, Rudder, State
from rovask.core.faults import faults_of
from rovask.core.model import Frozen, Refit
from rovask.core.records import MODELS, Kind
from rovask.web.spelling import (
    moment_text,
    money_text,
    ranges_text,
    read_moment,
    read_money,
    read_ranges,
    read_shifts,
    shifts_text,
)


class How(StrEnum):
    """How a field is typed."""

    TEXT = "text"
    AREA = "area"
    NUMBER = "number"
    MONEY = "money"
    CHOICE = "choice"
    MANY = "many"
    TICK = "tick"
    DATE = "date"
    MOMENT = "moment"
    WORDS = "words"
    SHIFTS = "shifts"
    RANGES = "ranges"
    WORK = "work"


Options = Callable[[Refit], list[tuple[str, str]]]


@dataclass(frozen=True, slots=True)
class Field:
    """One field: its name in the model, label, how it is typed; unit, help and choices where it has some."""

    name: str
    label: str
    how: How = How.TEXT
    unit: str = ""
    help: str = ""
    options: Options | None = None
    optional: bool = False
    wide: bool = False


@dataclass
class Sheet:
    """A form as shown: its fields, what stands in them (as typed) and the faults of each; "" for the whole."""

    kind: Kind
    fields: tuple[Field, ...]
    values: dict[str, Any]
    faults: dict[str, list[str]] = field(default_factory=dict)


def _choices(kind: type[StrEnum], words: Mapping[str, str]) -> Options:
    return lambda refit: [(item.value, words.get(item.value, item.value)) for item in kind]


def _places(refit: Refit) -> list[tuple[str, str]]:
    return [(place.id, place.name) for place in refit.places]


def _people(refit: Refit) -> list[tuple[str, str]]:
    return [(who.id, who.name) for who in refit.people]


def _parts(refit: Refit) -> list[tuple[str, str]]:
    return [(part.id, part.name) for part in refit.parts]


def _events(refit: Refit) -> list[tuple[str, str]]:
    tasks = [(task.id, f"{job.title}: {task.title}") for job, task in refit.walk()]
    return [("haul", "the haul-out"), *tasks, ("launch", "the launch")]


STATE_WORDS = {
    "afloat_before": "afloat, before the haul",
    "ashore": "ashore",
    "afloat_after": "afloat, after launch",
    "either": "either",
}
STATUS_WORDS = {
    "needed": "to order",
    "ordered": "ordered",
    "aboard": "aboard, fit not tried",
    "checked": "aboard and fits",
}
KIND_WORDS = {
    "FS": "starts after the end of it",
    "SS": "starts after the start of it",
    "FF": "ends after the end of it",
    "SF": "ends after the start of it",
}
_HOURS_HELP = "One line for each pattern: mon-sat 08:00-12:00, 13:00-18:00"
_DAYS_HELP = "One line each: 2026-05-18 to 2026-05-24, then why"

FIELDS: dict[Kind, tuple[Field, ...]] = {
    Kind.TASK: (
        Field("title", "Task", wide=True),
        Field("place", "Place", How.CHOICE, options=_places),
        Field("state", "Boat is", How.CHOICE, options=_choices(State, STATE_WORDS)),
        Field("work", "Hours of work", How.WORK, "h", "least, likely, most; with all hands at it"),
        Field("hands", "Hands at once", How.NUMBER),
        Field("skill", "Skill needed", optional=True, help="empty: any owner or helper"),
        Field("unbroken", "In one go, no pause overnight", How.TICK),
        Field("people", "Only these people", How.MANY, options=_people, help="none ticked: whoever fits"),
        Field("parts", "Parts it waits for", How.MANY, options=_parts),
        Field("pin", "Pinned to start at", How.MOMENT, optional=True),
        Field("caution", "Caution", How.AREA, wide=True),
        Field("note", "Note", How.AREA, wide=True),
    ),
    Kind.JOB: (
        Field("title", "Job", wide=True),
        Field(
            "need",
            "Need",
            How.CHOICE,
            options=_choices(Need, {"must": "must", "should": "should", "could": "could wait"}),
            help="should and could give way to the launch",
        ),
        Field("owner", "Whose", How.CHOICE, options=_people, optional=True),
        Field("note", "Note", How.AREA, wide=True),
    ),
    Kind.LINK: (
        Field("first", "First", How.CHOICE, options=_events, wide=True),
        Field("then", "Then", How.CHOICE, options=_events, wide=True),
        Field("kind", "The second", How.CHOICE, options=_choices(LinkKind, KIND_WORDS)),
        Field("min_lag", "At least", How.NUMBER, "h later", "elapsed: nights and Sundays count"),
        Field("max_lag", "At most", How.NUMBER, "h later", "empty: no limit", optional=True),
        Field("reason", "Why", wide=True),
    ),
    Kind.PERSON: (
        Field("name", "Name"),
        Field(
            "role",
            "Is",
            How.CHOICE,
            options=_choices(Role, {"trade": "a trade", "yard": "yard crew", "owner": "owner", "helper": "helper"}),
        ),
        Field("skills", "Skills", How.WORDS, help="with commas: paint, mechanics"),
        Field("hours", "Working hours", How.SHIFTS, help=_HOURS_HELP, wide=True),
        Field("arrives", "Arrives", How.DATE, optional=True),
        Field("leaves", "Leaves", How.DATE, optional=True),
        Field("absences", "Away", How.RANGES, help=_DAYS_HELP, wide=True),
        Field("rate", "Rate", How.MONEY, "an hour"),
        Field("call_out_hours", "Call-out minimum", How.NUMBER, "h a day"),
    ),
    Kind.PART: (
        Field("name", "Part", wide=True),
        Field("quantity", "Quantity", How.NUMBER),
        Field("unit", "Unit"),
        Field("supplier", "From"),
        Field("price", "Price", How.MONEY, "for all of it"),
        Field("lead_days", "Lead time", How.NUMBER, "days"),
        Field("status", "It is", How.CHOICE, options=_choices(PartStatus, STATUS_WORDS)),
        Field("arrives", "Arrives", How.MOMENT, optional=True, help="expected, or when it came"),
        Field("stowed", "Stowed at"),
    ),
    Kind.PLACE: (Field("name", "Place", wide=True), Field("capacity", "Room for", How.NUMBER, "hands at once")),
    Kind.APPOINTMENT: (
        Field("title", "What", wide=True),
        Field("at", "When", How.MOMENT),
        Field("hours", "For", How.NUMBER, "h"),
        Field("people", "Keeps busy", How.MANY, options=_people),
    ),
    Kind.BOAT: (
        Field("name", "Name"),
        Field("rig", "Rig"),
        Field("hulls", "Hulls", How.NUMBER),
        Field("hull_material", "Hull", How.CHOICE, options=_choices(HullMaterial, {"grp": "GRP"})),
        Field("keel", "Keel", How.CHOICE, options=_choices(Keel, {})),
        Field("rudder", "Rudder", How.CHOICE, options=_choices(Rudder, {"keel": "on the keel", "skeg": "skeg-hung"})),
        Field("drive", "Drive", How.CHOICE, options=_choices(Drive, {})),
        Field("length_m", "Length overall", How.NUMBER, "m"),
        Field("waterline_m", "Waterline", How.NUMBER, "m"),
        Field("beam_m", "Beam", How.NUMBER, "m"),
        Field("draft_m", "Draft", How.NUMBER, "m"),
        Field("displacement_kg", "Displacement", How.NUMBER, "kg"),
    ),
    Kind.YARD: (
        Field("name", "Yard"),
        Field("town", "Town"),
        Field("time_zone", "Time zone", help="like Europe/Lisbon"),
        Field("hours", "Hours for work ashore", How.SHIFTS, help=_HOURS_HELP + "; empty: any", wide=True),
        Field("closed", "Closed days", How.RANGES, help=_DAYS_HELP, wide=True),
        Field("lift_and_launch", "Lift, block and launch", How.MONEY),
        Field("lay_day", "Lay-day", How.MONEY),
        Field("free_days", "Free days", How.NUMBER, "days"),
    ),
    Kind.HEADER: (
        Field("name", "Name of the refit", wide=True),
        Field("haul_at", "Haul-out", How.MOMENT),
        Field("launch_at", "Launch slot", How.MOMENT, help="the slings, or the tide; fixed"),
        Field("prepare_from", "Plan from", How.DATE, optional=True, help="for work afloat before the haul"),
        Field("currency", "Currency", help="three letters, like EUR"),
        Field("budget", "Budget", How.MONEY),
    ),
}


def typed(kind: Kind, item: Mapping[str, Any], zone: ZoneInfo) -> dict[str, Any]:
    """What stands in the form for a thing; ``item`` holds model values by field name."""
    out: dict[str, Any] = {}
    for field_ in FIELDS[kind]:
        value = item.get(field_.name)
        match field_.how:
            case How.MONEY:
                out[field_.name] = money_text(value or 0)
            case How.MOMENT:
                out[field_.name] = moment_text(value, zone)
            case How.DATE:
                out[field_.name] = value.isoformat() if value else ""
            case How.WORDS:
                out[field_.name] = ", ".join(value or ())
            case How.SHIFTS:
                out[field_.name] = shifts_text(value or ())
            case How.RANGES:
                out[field_.name] = ranges_text(value or ())
            case How.MANY:
                out[field_.name] = list(value or ())
            case How.TICK:
                out[field_.name] = bool(value)
            case How.NUMBER:
                out[field_.name] = f"{value:g}" if value is not None else ""
            case How.WORK:
                for end in ("least", "likely", "most"):
                    out[f"work_{end}"] = f"{getattr(value, end):g}" if value else ""
            case _:
                out[field_.name] = str(value) if value is not None else ""
    return out


def posted(kind: Kind, form: Any) -> dict[str, Any]:
    """What was typed, field by field, as it was typed."""
    out: dict[str, Any] = {}
    for field_ in FIELDS[kind]:
        if field_.how is How.MANY:
            out[field_.name] = [str(value) for value in form.getlist(field_.name)]
        elif field_.how is How.TICK:
            out[field_.name] = field_.name in form
        elif field_.how is How.WORK:
            for end in ("least", "likely", "most"):
                out[f"work_{end}"] = str(form.get(f"work_{end}", ""))
        else:
            out[field_.name] = str(form.get(field_.name, "")).replace("\r\n", "\n")
    return out


def read(kind: Kind, values: Mapping[str, Any], zone: ZoneInfo) -> tuple[dict[str, Any], dict[str, list[str]]]:
    """Model data from what was typed, and the faults by field. Nothing typed is changed."""
    data: dict[str, Any] = {}
    faults: dict[str, list[str]] = {}
    for field_ in FIELDS[kind]:
        try:
            data[field_.name] = _read_one(field_, values, zone)
        except ValueError as error:
            faults.setdefault(field_.name, []).append(str(error))
            data[field_.name] = None
    return data, faults


def _read_one(field_: Field, values: Mapping[str, Any], zone: ZoneInfo) -> Any:
    if field_.how is How.WORK:
        likely = _number(values["work_likely"])
        least = _number(values["work_least"]) if values["work_least"].strip() else likely
        most = _number(values["work_most"]) if values["work_most"].strip() else likely
        return {"least": least, "likely": likely, "most": most}
    value = values[field_.name]
    if field_.how in (How.MANY, How.TICK):
        return value
    text = value.strip()
    if field_.how is How.SHIFTS:
        return read_shifts(text)
    if field_.how is How.RANGES:
        return read_ranges(text)
    if field_.how is How.WORDS:
        return [word.strip().lower() for word in text.split(",") if word.strip()]
    if field_.how is How.MONEY:
        return read_money(text) if text else 0
    if field_.optional and not text:
        return None
    if field_.how is How.NUMBER:
        return _number(text)
    if field_.how is How.MOMENT:
        return read_moment(text, zone)
    return text.lower() if field_.name == "skill" else text


def _number(text: str) -> float:
    plain = text.strip().replace(",", ".")
    try:
        value = float(plain)
    except ValueError:
        raise ValueError(f"“{text.strip()}” is not a number" if plain else "is missing") from None
    if value != value or value in (float("inf"), float("-inf")):
        raise ValueError("is not a number")
    return int(value) if value == int(value) else value


def build(kind: Kind, data: Mapping[str, Any], faults: dict[str, list[str]]) -> Frozen | None:
    """The model of a sheet's data; its faults are added to ``faults`` under the field they belong to."""
    names = {field_.name for field_ in FIELDS[kind]}
    try:
        item = MODELS[kind].model_validate(dict(data))
    except ValidationError as error:
        for fault in faults_of(error):
            name = fault.path.partition(".")[0].partition("[")[0]
            if name not in faults:
                faults.setdefault(name if name in names else "", []).append(fault.message)
        return None
    return None if faults else item


def faults_by_field(kind: Kind, error: ValidationError | Any) -> dict[str, list[str]]:
    """Faults of the whole refit, sorted to the sheet's fields where they name one."""
    names = {field_.name for field_ in FIELDS[kind]}
    out: dict[str, list[str]] = {}
    found = faults_of(error) if isinstance(error, ValidationError) else error.faults
    for fault in found:
        last = fault.path.rpartition(".")[2].partition("[")[0]
        out.setdefault(last if last in names else "", []).append(fault.message)
    return {name: list(dict.fromkeys(messages)) for name, messages in out.items()}


def spoken(field_: Field, values: Mapping[str, Any], refit: Refit) -> str:
    """What stands in a field, in words, to lay two versions side by side."""
    if field_.how is How.WORK:
        return " / ".join(values[f"work_{end}"] or "–" for end in ("least", "likely", "most")) + " h"
    value = values[field_.name]
    names = dict(field_.options(refit)) if field_.options else {}
    if field_.how is How.MANY:
        return ", ".join(names.get(key, key) for key in value) or "–"
    if field_.how is How.TICK:
        return "yes" if value else "no"
    if field_.how is How.MOMENT:
        return str(value).replace("T", " ") or "–"
    return names.get(value, str(value)) or "–"
