"""Edit forms, one for each kind of thing: what stands in them, what was typed, and where its faults go."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date
from typing import Any
from zoneinfo import ZoneInfo

from pydantic import ValidationError

from rovask.core.plain.currency import is_currency
from rovask.core.plain.faults import Fault, faults_of
from rovask.core.refit import typed
from rovask.core.refit.model import Refit
from rovask.core.refit.register import Kind
from rovask.web.money_spelling import (
    COLUMNS,
    meter_rows,
    posted_rows,
    read_meter,
    read_stages,
    read_tariff,
    said,
    spoken_rows,
    stage_rows,
    tariff_rows,
)
from rovask.web.sheet_fields import FIELDS, Field, How
from rovask.web.spelling import (
    by_text,
    day_text,
    limits_text,
    margins_text,
    moment_text,
    ranges_text,
    read_by,
    read_limits,
    read_margins,
    read_ranges,
    read_rules,
    read_shifts,
    read_spreads,
    rules_text,
    shifts_text,
    spreads_text,
)

SHARES = ("chance", "misfit")  # typed in per cent, kept as a share of one
WEATHER_TICKS = ("dry", "coverable")
WEATHER_NUMBERS = ("least_temp", "most_temp", "most_humidity", "dew_margin", "most_wind")


@dataclass
class Sheet:
    """A form as shown: its fields, what stands in them (as typed) and the faults of each; "" for the whole."""

    kind: Kind
    fields: tuple[Field, ...]
    values: dict[str, Any]
    faults: dict[str, list[str]] = field(default_factory=dict)

    def used(self, group: str) -> bool:
        """Whether a group of fields holds a fault or anything but what a new thing begins with."""
        names = [one.name for one in self.fields if one.group == group]
        plain: tuple[object, ...] = ("", "0", [], False, None)
        return any(name in self.faults for name in names) or any(
            self.values.get(name) not in plain for name in [*names, "weather_needed"]
        )


def typed_values(kind: Kind, item: Mapping[str, Any], zone: ZoneInfo, currency: str) -> dict[str, Any]:
    """What stands in the form for a thing; ``item`` holds model values by field name."""
    out: dict[str, Any] = {}
    for field_ in FIELDS[kind.name]:
        value = item.get(field_.name)
        match field_.how:
            case How.MONEY:
                out[field_.name] = "" if value is None and field_.optional else typed.minor_text(value or 0, currency)
            case How.MOMENT:
                out[field_.name] = moment_text(value, zone)
            case How.DATE:
                out[field_.name] = day_text(value)
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
                shown = typed.share_text if field_.name in SHARES else "{:g}".format
                out[field_.name] = shown(value) if value is not None else ""
            case How.WORK:
                for end in ("least", "likely", "most"):
                    out[f"work_{end}"] = f"{getattr(value, end):g}" if value else ""
            case How.WEATHER:
                out["weather_needed"] = value is not None
                for name in WEATHER_TICKS:
                    out[f"weather_{name}"] = bool(getattr(value, name, True))
                for name in WEATHER_NUMBERS:
                    limit = getattr(value, name, None)
                    out[f"weather_{name}"] = f"{limit:g}" if limit is not None else ""
            case How.RULES:
                out[field_.name] = rules_text(value or ())
            case How.LIMITS:
                out[field_.name] = limits_text(value or ())
            case How.MARGINS:
                out[field_.name] = margins_text(value or ())
            case How.SPREADS:
                out[field_.name] = spreads_text(value or ())
            case How.SLOTS:
                out[field_.name] = "\n".join(moment_text(one, zone) for one in value or ())
            case How.BY:
                out[field_.name] = by_text(value or ())
            case How.OWN:
                own = str(item.get("currency") or currency)
                out[field_.name] = "" if value is None else typed.minor_text(value, own)
            case How.TARIFF:
                out[field_.name] = tariff_rows(value or (), currency)
            case How.METER:
                out[field_.name] = meter_rows(value or (), zone)
            case How.STAGES:
                out[field_.name] = stage_rows(value or (), str(item.get("currency") or currency))
            case _:
                out[field_.name] = str(value) if value is not None else ""
    return out


def posted(kind: Kind, form: Any) -> dict[str, Any]:
    """What was typed, field by field, as it was typed; None for a field the form did not hold, which then stays."""
    out: dict[str, Any] = {}
    for field_ in FIELDS[kind.name]:
        if field_.how is How.MANY:
            out[field_.name] = [str(value) for value in form.getlist(field_.name)]
        elif field_.how is How.TICK:
            out[field_.name] = field_.name in form
        elif field_.how is How.WORK:
            for end in ("least", "likely", "most"):
                out[f"work_{end}"] = str(form.get(f"work_{end}", ""))
        elif field_.how is How.WEATHER:
            for name in ("needed", *WEATHER_TICKS):
                out[f"weather_{name}"] = f"weather_{name}" in form
            for name in WEATHER_NUMBERS:
                out[f"weather_{name}"] = str(form.get(f"weather_{name}", ""))
        elif field_.how in COLUMNS:
            out[field_.name] = posted_rows(field_.how, field_.name, form)
        else:
            typed_ = form.get(field_.posted)
            out[field_.name] = None if typed_ is None else str(typed_).replace("\r\n", "\n")
    return out


def read(
    kind: Kind,
    values: Mapping[str, Any],
    zone: ZoneInfo,
    currency: str,
    fields: tuple[Field, ...] = (),
    stood: Mapping[str, Any] | None = None,
    near: date | None = None,
) -> tuple[dict[str, Any], dict[str, list[str]]]:
    """Model data from what was typed, and the faults by field. Nothing typed is changed.

    stood: what the form shows for the thing as it is kept. A field that still says so is not read: a moment is shown to
    the minute and kept to the second, and saving what nobody changed changes nothing. near: the day by which one without
    a year is read.
    """
    data: dict[str, Any] = {}
    faults: dict[str, list[str]] = {}
    for field_ in fields or FIELDS[kind.name]:
        if values.get(field_.name, "") is None or (stood is not None and _stands(field_, values, stood)):
            continue
        if field_.how is How.NUMBER and not values[field_.name].strip() and _may_be_nothing(kind, field_):
            data[field_.name] = 0
            continue
        try:
            data[field_.name] = _read_one(field_, values, zone, currency, near)
        except ValueError as error:
            faults.setdefault(field_.name, []).append(str(error))
            data[field_.name] = None
    return data, faults


def _stands(field_: Field, values: Mapping[str, Any], stood: Mapping[str, Any]) -> bool:
    """Whether a field says what is kept. An amount in another currency is another amount, though it is spelled alike."""
    if field_.how in (How.OWN, How.STAGES, How.RATE) and values.get("currency") != stood.get("currency"):
        return False
    if field_.how in COLUMNS:
        return said(field_.how, values[field_.name]) == said(field_.how, stood[field_.name])
    several = field_.how in (How.WORK, How.WEATHER)
    names = [name for name in stood if name == field_.name or (several and name.startswith(f"{field_.name}_"))]
    return bool(names) and all(_plain(values.get(name)) == _plain(stood[name]) for name in names)


def _plain(value: Any) -> Any:
    return value.strip() if isinstance(value, str) else sorted(value) if isinstance(value, list) else value


def _may_be_nothing(kind: Kind, field_: Field) -> bool:
    """Whether a number that is left empty is nothing: a duty, a tax, a deposit that nobody named."""
    default = kind.model.model_fields[field_.name].default
    return not field_.optional and default == 0 and not isinstance(default, bool)


def _read_one(field_: Field, values: Mapping[str, Any], zone: ZoneInfo, currency: str, near: date | None) -> Any:
    if field_.how is How.WORK:
        likely = typed.number(values["work_likely"])
        least = typed.number(values["work_least"]) if values["work_least"].strip() else likely
        most = typed.number(values["work_most"]) if values["work_most"].strip() else likely
        return {"least": least, "likely": likely, "most": most}
    if field_.how is How.WEATHER:
        if not values["weather_needed"]:
            return None
        need: dict[str, Any] = {name: values[f"weather_{name}"] for name in WEATHER_TICKS}
        for name in WEATHER_NUMBERS:
            text = values[f"weather_{name}"].strip()
            need[name] = float(typed.number(text)) if text else None
        return need
    value = values[field_.name]
    if field_.how in (How.MANY, How.TICK):
        return value
    text = value.strip() if isinstance(value, str) else ""
    own = str(values.get("currency") or "").strip().upper() or currency
    if field_.how in (How.OWN, How.STAGES) and not is_currency(own):
        raise ValueError("can't be read before its currency is known")
    if field_.how is How.STAGES:
        return read_stages(value, own)
    if field_.how is How.TARIFF:
        return read_tariff(value, currency)
    if field_.how is How.METER:
        return read_meter(value, zone)
    if field_.how is How.CURRENCY:
        return text.upper() or (None if field_.optional else currency)
    if field_.how is How.RATE:
        return f"{typed.rate(text):f}" if text else ("1" if own == currency else "")
    if field_.how is How.SHIFTS:
        return read_shifts(text)
    if field_.how is How.RANGES:
        return read_ranges(text)
    if field_.how is How.RULES:
        return read_rules(text)
    if field_.how is How.LIMITS:
        return read_limits(text)
    if field_.how is How.MARGINS:
        return read_margins(text)
    if field_.how is How.SPREADS:
        return read_spreads(text)
    if field_.how is How.SLOTS:
        return [typed.moment(line, zone, near) for line in text.splitlines() if line.strip()]
    if field_.how is How.BY:
        return read_by(text)
    if field_.how is How.WORDS:
        return [word.strip().lower() for word in text.split(",") if word.strip()]
    if field_.optional and not text:
        return None
    if field_.how is How.MONEY:
        return typed.minor(text, currency) if text else 0
    if field_.how is How.OWN:
        return typed.minor(text, own) if text else 0
    if field_.how is How.NUMBER:
        percent = text.removesuffix("%") if field_.unit.startswith("%") else text
        return typed.share(text) if field_.name in SHARES else typed.number(percent)
    if field_.how is How.MOMENT:
        return typed.moment(text, zone, near)
    if field_.how is How.DATE:
        return typed.day(text, near)
    return text.lower() if field_.name == "skill" else text


def other_faults(kind: Kind, data: Mapping[str, Any], faults: Mapping[str, list[str]]) -> list[Fault]:
    """Faults of a sheet's data besides those of the fields that could not be read."""
    try:
        kind.model.model_validate(dict(data))
    except ValidationError as error:
        return [fault for fault in faults_of(error) if fault.path.partition(".")[0].partition("[")[0] not in faults]
    return []


def faults_by_field(kind: Kind, error: ValidationError | Any) -> dict[str, list[str]]:
    """Faults of the whole refit, sorted to the sheet's fields where they name one."""
    names = {field_.name for field_ in FIELDS[kind.name]}
    out: dict[str, list[str]] = {}
    found = faults_of(error) if isinstance(error, ValidationError) else error.faults
    for fault in found:
        steps = [step.partition("[")[0] for step in fault.path.split(".")]
        name = next((step for step in reversed(steps) if step in names), "")
        out.setdefault(name, []).append(fault.message)
    return {name: list(dict.fromkeys(messages)) for name, messages in out.items()}


def spoken(field_: Field, values: Mapping[str, Any], refit: Refit) -> str:
    """What stands in a field, in words, to lay two versions side by side."""
    if field_.how is How.WORK:
        return " / ".join(values[f"work_{end}"] or "–" for end in ("least", "likely", "most")) + " h"
    if field_.how is How.WEATHER:
        if not values["weather_needed"]:
            return "any"
        said = [f"{name.replace('_', ' ')} {values[f'weather_{name}']}" for name in WEATHER_NUMBERS]
        ticks = [name for name in WEATHER_TICKS if values[f"weather_{name}"]]
        return ", ".join([*ticks, *(words for words in said if not words.endswith(" "))]) or "–"
    value = values[field_.name] or ""
    names = dict(field_.options(refit)) if field_.options else {}
    if field_.how is How.MANY:
        return ", ".join(names.get(key, key) for key in value) or "–"
    if field_.how is How.TICK:
        return "yes" if value else "no"
    if field_.how in COLUMNS:
        return spoken_rows(field_.how, values[field_.name] or ()) or "–"
    if field_.how is How.MOMENT:
        return str(value).replace("T", " ") or "–"
    return names.get(value, str(value)) or "–"
