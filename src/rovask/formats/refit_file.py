"""The refit file ``*.refit.json``: everything of one refit in one documented file.

Reading takes the whole file or nothing and lists every fault by path. Writing is canonical: the same refit
gives the same bytes, so export, import, export is identical.
"""

from __future__ import annotations

import json
from typing import Any

from pydantic import ValidationError

from rovask.core.refit.faults import Fault, RefitFaults, faults_of
from rovask.core.refit.model import Refit

MOST_BYTES = 8 * 1024 * 1024
MOST_DEPTH = 20
MOST_FAULTS = 200


def write_refit(refit: Refit) -> bytes:
    """The refit as UTF-8 JSON with a newline at the end, two spaces deep, fields in the order of the schema."""
    return (json.dumps(refit.model_dump(mode="json"), ensure_ascii=False, indent=2) + "\n").encode()


def read_refit(content: bytes) -> Refit:
    """The refit in ``content``. Raises RefitFaults with everything that is wrong; reads nothing twice."""
    if len(content) > MOST_BYTES:
        size = len(content) / 1024 / 1024
        raise RefitFaults([Fault("", f"the file is {size:.1f} MB; a refit file has at most {MOST_BYTES >> 20} MB")])
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise RefitFaults([Fault("", f"is not UTF-8 text (byte {error.start}); export it again as UTF-8")]) from None
    try:
        data = json.loads(text, object_pairs_hook=_no_double_keys, parse_constant=_no_constants)
    except json.JSONDecodeError as error:
        where = f"line {error.lineno}, column {error.colno}"
        raise RefitFaults([Fault(where, f"is not JSON: {error.msg.lower()}")]) from None
    except RecursionError:
        raise RefitFaults([Fault("", "is nested far too deep to be a refit file")]) from None
    except ValueError as error:
        raise RefitFaults([Fault("", str(error))]) from None
    if not isinstance(data, dict):
        raise RefitFaults([Fault("", "is not a refit file: the outermost thing must be an object")])
    if _depth(data) > MOST_DEPTH:
        raise RefitFaults([Fault("", "is nested far too deep to be a refit file")])
    faults = _wrong_format(data)
    if faults:
        raise RefitFaults(faults)
    return refit_from(data)


def refit_from(data: dict[str, Any]) -> Refit:
    """The refit in plain data. Raises RefitFaults."""
    try:
        return Refit.model_validate(data)
    except ValidationError as error:
        faults = faults_of(error)
        more = len(faults) - MOST_FAULTS
        if more > 0:
            faults = (*faults[:MOST_FAULTS], Fault("", f"and {more} faults more"))
        raise RefitFaults(faults) from None


def _wrong_format(data: dict[str, Any]) -> list[Fault]:
    if data.get("format") != "rovask-refit":
        return [Fault("format", 'is not "rovask-refit", so this is not a refit file')]
    if data.get("version") != 1:
        return [Fault("version", f"is {data.get('version')!r}; this Rovask reads version 1")]
    return []


def _no_double_keys(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    out = dict(pairs)
    if len(out) != len(pairs):
        keys = [key for key, _ in pairs]
        double = next(key for key in keys if keys.count(key) > 1)
        raise ValueError(f"holds the key {double!r} twice in one object; which one is meant?")
    return out


def _no_constants(name: str) -> Any:
    raise ValueError(f"holds {name}, which is not a number JSON knows")


def _depth(data: Any) -> int:
    deepest, todo = 0, [(data, 1)]
    while todo:
        item, level = todo.pop()
        deepest = max(deepest, level)
        if isinstance(item, dict):
            todo += [(value, level + 1) for value in item.values()]
        elif isinstance(item, list):
            todo += [(value, level + 1) for value in item]
    return deepest


def json_schema() -> str:
    """The JSON Schema of the refit file, as kept in docs/."""
    schema = Refit.model_json_schema()
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    schema["title"] = "Rovask refit file, version 1"
    return json.dumps(schema, indent=2) + "\n"


def plan_json(plan: Any) -> str:
    """A plan (or any of the planner's answers) as readable JSON."""
    return json.dumps(plan.model_dump(mode="json"), ensure_ascii=False, indent=2) + "\n"
