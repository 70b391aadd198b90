"""Between records and rows: one mapping for every kind, read off the tables themselves."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any, NamedTuple

from sqlalchemy import Integer, Table, Text, cast, delete, func, insert, select, text, update
from sqlalchemy import column as sql_column
from sqlalchemy.dialects.postgresql import ARRAY, JSONB
from sqlalchemy.orm import Session

from rovask.core.refit.model import Header, Refit
from rovask.core.refit.records import HEADER, ORDER, SINGLE, Changes, Record, RecordKey
from rovask.core.refit.register import KINDS, Kind, kinds
from rovask.store.record_tables import BOOKKEEPING, RefitRow, kept_kinds, table_of


class Loaded(NamedTuple):
    """A refit as its rows have it, all from one statement and so from one moment."""

    refit: Refit
    revision: int
    revisions: dict[RecordKey, int]
    clock_shift: int
    is_demo: bool
    change: int
    same_as: int | None


def _one_statement() -> str:
    """Everything the planner reads of a refit, in one statement: rows of (kind, revision, fields as JSON)."""
    drop = " - ".join(["to_jsonb(r)", *(f"'{name}'" for name in BOOKKEEPING)])
    parts = [
        "select 'refit' as kind, 0 as at, row_revision, to_jsonb(r) || jsonb_build_object('change', c.pk, 'same_as',"
        " c.same_as) as data from refit r left join change c on c.refit_id = r.pk and c.revision = r.revision"
        " where r.pk = :pk"
    ]
    for kind in kept_kinds():
        if kind.aside:
            continue
        at = "0" if kind.single else "position"
        parts.append(f"select '{kind.name}', {at}, row_revision, {drop} from {kind.table} r where refit_id = :pk")
    return " union all ".join(parts) + " order by 1, 2"


def load_rows(session: Session, pk: int) -> Loaded | None:
    """A refit with the revision of each of its records; None if there is none."""
    rows = session.execute(text(_one_statement()), {"pk": pk}).all()
    found: dict[str, list[dict[str, Any]]] = {}
    revisions: dict[RecordKey, int] = {}
    for name, _, revision, data in rows:
        found.setdefault(name, []).append(data)
        key = HEADER if name == "refit" else name
        revisions[RecordKey(key, data.get("id", "") if key not in (HEADER, *SINGLE) else "")] = revision
    if "refit" not in found:
        return None
    head = found["refit"][0]
    whole: dict[str, Any] = {name: head[name] for name in Header.model_fields}
    for name in SINGLE:
        whole[name] = _fields(KINDS[name], found[name][0])
    tasks: dict[str, list[dict[str, Any]]] = {}
    for row in found.get("task", []):
        tasks.setdefault(row.pop("job"), []).append(_fields(KINDS["task"], row))
    for kind in kinds(aside=False):
        if kind.list and not kind.inside:
            whole[kind.list] = [_fields(kind, row) for row in found.get(kind.name, [])]
    for job in whole["jobs"]:
        job["tasks"] = tasks.get(job["id"], [])
    return Loaded(
        Refit.model_validate(whole),
        head["revision"],
        revisions,
        head["clock_shift"],
        head["is_demo"],
        head["change"] or 0,
        head["same_as"],
    )


def _fields(kind: Kind, row: dict[str, Any]) -> dict[str, Any]:
    """A row's columns as the fields of its model: those of a flattened one put together again."""
    if kind.name == "task":
        row["work"] = {end: row.pop(f"work_{end}") for end in ("least", "likely", "most")}
    return row


def load_aside(session: Session, pk: int, kind: Kind, ids: Iterable[str] | None = None) -> tuple[Any, ...]:
    """The records of a kind that is kept aside, by time; only those with ``ids`` where some are given."""
    table = table_of(kind)
    query = select(*(table.c[name] for name in kind.fields)).where(table.c.refit_id == pk)
    if ids is not None:
        query = query.where(table.c.id.in_(list(ids)))
    rows = session.execute(query.order_by(table.c.at, table.c.id)).mappings()
    return tuple(kind.model.model_validate(dict(row)) for row in rows)


def has_any(session: Session, pk: int, kind: Kind) -> bool:
    """Whether there is any record of a kind in a refit."""
    table = table_of(kind)
    return session.execute(select(table.c.id).where(table.c.refit_id == pk).limit(1)).first() is not None


def aside_that_point(session: Session, pk: int, gone: Iterable[RecordKey]) -> list[tuple[Kind, Any]]:
    """What is kept aside and points at records that go."""
    out = []
    by_kind: dict[str, list[str]] = {}
    for key in gone:
        by_kind.setdefault(key.kind, []).append(key.id)
    for kind in kinds(aside=True):
        for point in kind.points:
            ids = by_kind.get(point.to.kind)
            if not ids:
                continue
            table = table_of(kind)
            where = table.c[point.field].overlap(ids) if point.many else table.c[point.field].in_(ids)
            query = select(*(table.c[name] for name in kind.fields)).where(table.c.refit_id == pk, where)
            out += [(kind, kind.model.model_validate(dict(row))) for row in session.execute(query).mappings()]
    return out


def aside_ids(session: Session, pk: int, kind: Kind, ids: Iterable[str]) -> set[str]:
    """Which of some ids there are of a kind that is kept aside."""
    table = table_of(kind)
    return set(session.scalars(select(table.c.id).where(table.c.refit_id == pk, table.c.id.in_(list(ids)))))


def _values(kind: Kind, record: Record) -> dict[str, Any]:
    """Column values of a record."""
    own = {name: record[name] for name in kind.fields}
    model = kind.model.model_validate(own)
    out: dict[str, Any] = {}
    for column in table_of(kind).columns:
        name = column.name
        if name in BOOKKEEPING:
            continue
        if name == kind.inside:
            out[name] = record[name]
        elif name not in kind.fields:
            field, _, part = name.partition("_")
            out[name] = own[field][part]
        elif isinstance(column.type, JSONB):
            out[name] = own[name]
        else:
            value = getattr(model, name)
            out[name] = list(own[name]) if isinstance(value, tuple) else value
    return out


def apply_changes(session: Session, row: RefitRow, changes: Changes, revision: int) -> None:
    """Write ``changes`` as rows of the refit; each changed row gets ``revision``. The caller holds the refit's lock."""
    new: dict[str, list[dict[str, Any]]] = {}
    changed: list[Any] = []
    gone: list[Any] = []
    for key, (before, after) in changes.items():
        if key.kind == ORDER:
            continue
        if key.kind == HEADER:
            if after is not None:
                _write_header(row, after, revision)
            continue
        kind = KINDS[key.kind]
        table = table_of(kind)
        if before is None and after is not None:
            values = _values(kind, after) | {"refit_id": row.pk, "row_revision": revision}
            ordered = kind.inside or kind.aside or RecordKey(ORDER, kind.list) in changes
            at = {} if kind.single else {"position": 0 if ordered else _behind(session, row.pk, table)}
            new.setdefault(kind.name, []).append(values | at)
            continue
        mine = [table.c.refit_id == row.pk] + ([] if kind.single else [table.c.id == key.id])
        if after is None:
            gone.append(delete(table).where(*mine))
        else:
            changed.append(update(table).where(*mine).values(**_values(kind, after), row_revision=revision))
    for kind in kept_kinds():
        if kind.name in new:
            session.execute(insert(table_of(kind)), new[kind.name])
    for statement in changed + gone:  # a task may move to a job that is new, and out of one that goes
        session.execute(statement)
    for key, (_, after) in changes.items():
        if key.kind == ORDER and after is not None:
            _write_order(session, row.pk, key.id, after["ids"])


def _behind(session: Session, pk: int, table: Table) -> int:
    """The place behind the last row of a list."""
    last = session.scalar(select(func.max(table.c.position)).where(table.c.refit_id == pk))
    return 0 if last is None else last + 1


def _write_header(row: RefitRow, record: Record, revision: int) -> None:
    header = Header.model_validate(dict(record))
    for field in Header.model_fields:
        plain = isinstance(RefitRow.__table__.columns[field].type, JSONB)
        setattr(row, field, record[field] if plain else getattr(header, field))
    row.row_revision = revision


def _write_order(session: Session, pk: int, name: str, ids: list[str]) -> None:
    """The places of a list, in one statement: a new refit moves hundreds of rows."""
    kind = KINDS["task"] if name.startswith("job:") else next(kind for kind in kept_kinds() if kind.list == name)
    if not ids:
        return
    table = table_of(kind)
    places = (
        func.unnest(cast(ids, ARRAY(Text)), cast(list(range(len(ids))), ARRAY(Integer)))
        .table_valued(sql_column("id", Text), sql_column("position", Integer))
        .render_derived(name="places")
    )
    stands = (table.c.refit_id == pk) & (table.c.id == places.c.id) & (table.c.position != places.c.position)
    session.execute(table.update().where(stands).values(position=places.c.position))


def revisions_after(revisions: Mapping[RecordKey, int], changes: Changes, revision: int) -> dict[RecordKey, int]:
    """The revision of each record once ``changes`` are kept."""
    out = dict(revisions)
    for key, (_, after) in changes.items():
        if key.kind == ORDER or KINDS[key.kind].aside:
            continue
        if after is None:
            out.pop(key, None)
        else:
            out[key] = revision
    return out
