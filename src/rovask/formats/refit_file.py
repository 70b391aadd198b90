"""The refit file ``*.refit.json``: everything of one refit in one documented file.

Reading takes the whole file or nothing and lists every fault by path. How large, how deep and how many of everything
is looked at before anything else, so that a file made to keep the server busy is refused at once. Writing is canonical:
the same refit gives the same bytes, so export, import, export is identical. Which lists there are is read off the
register of kinds.
"""

from __future__ import annotations

import json
from functools import lru_cache
from types import GenericAlias
from typing import Any

from pydantic import Field, ValidationError, create_model

from rovask.core.plain.faults import Fault, RefitFaults, faults_of, path_of
from rovask.core.refit.model import Refit
from rovask.core.refit.register import KINDS, Kind, kinds
from rovask.core.refit.whole import Whole

MOST_BYTES = 8 * 1024 * 1024
MOST_DEPTH = 20
MOST_FAULTS = 200
MOST_OBJECTS, MOST_VALUES = 60_000, 600_000  # in a whole file, whatever they are


def file_model() -> type[Refit]:
    """The refit with the lists that are kept aside: what a file holds."""
    return _file_model(tuple(kind for kind in kinds(aside=True)))


@lru_cache(maxsize=4)
def _file_model(aside: tuple[Kind, ...]) -> type[Refit]:
    lists: dict[str, Any] = {}
    for kind in aside:
        rows = GenericAlias(tuple, (kind.model, ...))
        lists[kind.list] = (rows, Field(default=(), max_length=kind.most))
    return create_model("RefitFile", __base__=Refit, **lists)


def write_refit(whole: Whole) -> bytes:
    """The refit as UTF-8 JSON with a newline at the end, two spaces deep; what the file is comes first."""
    data = {"format": whole.refit.format, "version": whole.refit.version} | whole.refit.model_dump(mode="json")
    for kind in kinds(aside=True):
        data[kind.list] = [item.model_dump(mode="json") for item in whole.aside.get(kind.name, ())]
    return (json.dumps(data, ensure_ascii=False, indent=2) + "\n").encode()


def read_refit(content: bytes) -> Whole:
    """The refit in ``content``. Raises RefitFaults with everything that is wrong; reads nothing twice."""
    if len(content) > MOST_BYTES:
        size = len(content) / 1024 / 1024
        raise RefitFaults([Fault("", f"the file is {size:.1f} MB; a refit file has at most {MOST_BYTES >> 20} MB")])
    if content.count(b"{") > MOST_OBJECTS or content.count(b",") > MOST_VALUES:
        raise RefitFaults([Fault("", "holds far more than a refit can have")])
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
    faults = _wrong_format(data) or _too_many(data)
    if faults:
        raise RefitFaults(faults)
    return whole_from(data)


def whole_from(data: dict[str, Any]) -> Whole:
    """The refit and what is kept aside, in plain data. Raises RefitFaults with up to MOST_FAULTS of them."""
    faults = _faults_by_row(data)
    try:
        if len(faults) >= MOST_FAULTS:
            raise RefitFaults([*faults[:MOST_FAULTS], Fault("", "and more faults of the same kind")])
        read = file_model().model_validate(data)
    except ValidationError as error:
        found = faults_of(error)
        more = len(found) - MOST_FAULTS
        raise RefitFaults(
            found if more <= 0 else (*found[:MOST_FAULTS], Fault("", f"and {more} faults more"))
        ) from None
    aside = {kind.name: getattr(read, kind.list) for kind in kinds(aside=True)}
    refit = Refit.model_validate({name: getattr(read, name) for name in Refit.model_fields})
    return Whole(refit, {name: tuple(sorted(rows, key=_by_time)) for name, rows in aside.items() if rows})


def refit_from(data: dict[str, Any]) -> Refit:
    """The refit in plain data, without anything kept aside. Raises RefitFaults."""
    return whole_from(data).refit


def _by_time(item: Any) -> tuple[Any, str]:
    """What is kept aside has no order of a sailor's: it lies by time."""
    return item.at, item.id


def _faults_by_row(data: dict[str, Any]) -> list[Fault]:
    """Faults of single records, as soon as there are too many to be worth more than a look."""
    faults: list[Fault] = []
    for kind in KINDS.values():
        rows = data.get(kind.list) if kind.list and not kind.inside else None
        for at, row in enumerate(rows if isinstance(rows, list) else ()):
            try:
                kind.model.model_validate(row)
            except ValidationError as error:
                faults += [
                    Fault(path_of((kind.list, at)) + "." * bool(one.path) + one.path, one.message)
                    for one in faults_of(error)
                ]
                if len(faults) >= MOST_FAULTS:
                    return faults
    return faults


def _too_many(data: dict[str, Any]) -> list[Fault]:
    """Lists that are longer than any refit's."""
    faults = []
    for kind in KINDS.values():
        rows = data.get(kind.list) if kind.list and not kind.inside else None
        if isinstance(rows, list) and len(rows) > kind.most:
            faults.append(Fault(kind.list, f"has {len(rows)} entries; a refit has at most {kind.most}"))
    jobs = data.get("jobs")
    tasks = [row.get("tasks") for row in jobs if isinstance(row, dict)] if isinstance(jobs, list) else []
    count = sum(len(rows) for rows in tasks if isinstance(rows, list))
    if count > KINDS["task"].most:
        faults.append(Fault("jobs", f"have {count} tasks; a refit has at most {KINDS['task'].most}"))
    return faults


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
    schema = file_model().model_json_schema()
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    schema["title"] = "Rovask refit file, version 1"
    return json.dumps(schema, indent=2) + "\n"


def plan_json(plan: Any) -> str:
    """A plan (or any of the planner's answers) as readable JSON."""
    return json.dumps(plan.model_dump(mode="json"), ensure_ascii=False, indent=2) + "\n"
