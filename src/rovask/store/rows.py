"""Between records and rows: one mapping for every kind, read off the tables themselves."""

from __future__ import annotations

from typing import Any

from pydantic import TypeAdapter
from sqlalchemy import Integer, Text, cast, delete, func, insert, select, update
from sqlalchemy import column as sql_column
from sqlalchemy.dialects.postgresql import ARRAY, JSONB
from sqlalchemy.orm import Session

from rovask.core.refit.model import Refit
from rovask.core.refit.records import HEADER_FIELDS, LISTS, MODELS, ONE_OF, Changes, Key, Kind, Record
from rovask.store.seen_tables import DecisionRow, FindingRow, InspectionRow, OffBoatRow, ParkedRow, PhotoRow, UnknownRow
from rovask.store.tables import (
    AppointmentRow,
    BoatRow,
    GearRow,
    HoursRow,
    JobRow,
    LinkRow,
    PartRow,
    PersonRow,
    PlaceRow,
    RefitRow,
    TaskRow,
    WeatherRow,
    YardRow,
)

# The order of writing new rows; a list of tables and not a search, so that a new kind is missed loudly.
TABLES: dict[Kind, Any] = {
    Kind.BOAT: BoatRow,
    Kind.YARD: YardRow,
    Kind.WEATHER: WeatherRow,
    Kind.PLACE: PlaceRow,
    Kind.PERSON: PersonRow,
    Kind.PART: PartRow,
    Kind.GEAR: GearRow,
    Kind.JOB: JobRow,
    Kind.TASK: TaskRow,
    Kind.LINK: LinkRow,
    Kind.APPOINTMENT: AppointmentRow,
    Kind.HOURS: HoursRow,
    Kind.INSPECTION: InspectionRow,
    Kind.FINDING: FindingRow,
    Kind.UNKNOWN: UnknownRow,
    Kind.OFF_BOAT: OffBoatRow,
    Kind.PARKED: ParkedRow,
    Kind.DECISION: DecisionRow,
    Kind.PHOTO: PhotoRow,
}
_HEADER_TYPES: dict[str, TypeAdapter[Any]] = {
    field: TypeAdapter(Refit.model_fields[field].rebuild_annotation()) for field in HEADER_FIELDS
}
_BOOKKEEPING = {"refit_id", "position", "row_revision"}


_FIELDS = {
    kind: [column.name for column in table.__table__.columns if column.name not in _BOOKKEEPING]
    for kind, table in TABLES.items()
}


def _values(kind: Kind, record: Record) -> dict[str, Any]:
    """Column values of a record."""
    table = TABLES[kind].__table__
    whole = record if kind is not Kind.TASK else {field: value for field, value in record.items() if field != "job"}
    model = MODELS[kind].model_validate(whole)
    out: dict[str, Any] = {}
    for column in table.columns:
        name = column.name
        if name in _BOOKKEEPING:
            continue
        if name.startswith("work_"):
            out[name] = record["work"][name.removeprefix("work_")]
        elif name == "job":
            out[name] = record["job"]
        elif isinstance(column.type, JSONB):
            out[name] = record[name]
        else:
            value = getattr(model, name)
            out[name] = list(record[name]) if isinstance(value, tuple) else value
    return out


def _entity(kind: Kind, row: Any) -> dict[str, Any]:
    """Model data of a row."""
    out: dict[str, Any] = {}
    for name in _FIELDS[kind]:
        value = getattr(row, name)
        if name.startswith("work_"):
            out.setdefault("work", {})[name.removeprefix("work_")] = value
        else:
            out[name] = value
    return out


def load_rows(session: Session, pk: int) -> tuple[RefitRow, Refit, dict[Key, int]] | None:
    """A refit with the revision of each of its records, in one query a table; None if there is none."""
    row = session.get(RefitRow, pk)
    if row is None:
        return None
    data: dict[str, Any] = {field: getattr(row, field) for field in HEADER_FIELDS}
    revisions = {Key(Kind.HEADER, ""): row.row_revision}
    tasks: dict[str, list[dict[str, Any]]] = {}
    for kind, table in TABLES.items():
        query = select(table).where(table.refit_id == pk)
        if kind in ONE_OF:
            one = session.scalars(query).one()
            data[kind.value] = _entity(kind, one)
            revisions[Key(kind, "")] = one.row_revision
            continue
        found = session.scalars(query.order_by(table.position, table.id)).all()
        for item in found:
            revisions[Key(kind, item.id)] = item.row_revision
        entities = [_entity(kind, item) for item in found]
        if kind is Kind.TASK:
            for entity in entities:
                tasks.setdefault(entity.pop("job"), []).append(entity)
        else:
            data[LISTS[kind]] = entities
    for job in data["jobs"]:
        job["tasks"] = tasks.get(job["id"], [])
    return row, Refit.model_validate(data), revisions


def apply_changes(session: Session, row: RefitRow, changes: Changes, revision: int) -> None:
    """Write ``changes`` as rows of the refit; each changed row gets ``revision``. The caller holds the refit's lock."""
    new: dict[Kind, list[dict[str, Any]]] = {}
    for key, (before, after) in changes.items():
        if key.kind is Kind.ORDER:
            continue
        if key.kind is Kind.HEADER:
            if after is not None:
                _write_header(row, after, revision)
            continue
        table = TABLES[key.kind]
        mine = [table.refit_id == row.pk] + ([] if key.kind in ONE_OF else [table.id == key.id])
        if after is None:
            session.execute(delete(table).where(*mine))
        elif before is None:
            values = _values(key.kind, after) | {"refit_id": row.pk, "row_revision": revision}
            new.setdefault(key.kind, []).append(values | ({} if key.kind in ONE_OF else {"position": 0}))
        else:
            session.execute(update(table).where(*mine).values(**_values(key.kind, after), row_revision=revision))
    for kind in TABLES:
        if kind in new:
            session.execute(insert(TABLES[kind]), new[kind])
    for key, (before, after) in changes.items():
        if key.kind is Kind.ORDER and after is not None:
            _write_order(session, row.pk, key.id, before["ids"] if before else [], after["ids"])


def _write_header(row: RefitRow, record: Record, revision: int) -> None:
    for field, adapter in _HEADER_TYPES.items():
        plain = isinstance(RefitRow.__table__.columns[field].type, JSONB)
        setattr(row, field, record[field] if plain else adapter.validate_python(record[field]))
    row.row_revision = revision


def _write_order(session: Session, pk: int, name: str, before: list[str], after: list[str]) -> None:
    """The places of a list, in one statement: a new refit moves hundreds of rows."""
    kind = Kind.TASK if name.startswith("job:") else next(kind for kind, field in LISTS.items() if field == name)
    was = {key: at for at, key in enumerate(before)}
    moved = [(key, at) for at, key in enumerate(after) if was.get(key) != at]
    if not moved:
        return
    table = TABLES[kind].__table__
    places = (
        func.unnest(cast([key for key, _ in moved], ARRAY(Text)), cast([at for _, at in moved], ARRAY(Integer)))
        .table_valued(sql_column("id", Text), sql_column("position", Integer))
        .render_derived(name="places")
    )
    session.execute(
        table.update().where(table.c.refit_id == pk, table.c.id == places.c.id).values(position=places.c.position)
    )
