"""The tables of a refit and of every kind of record in it; the latter are read off the register of kinds.

Everything of a refit hangs on its row; ids are the refit file's own, unique within a refit. Foreign keys inside a refit
are checked at commit, so that one transaction may write records in any order. What the database checks besides (a
price is never negative) stands in the migrations.
"""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, datetime
from enum import StrEnum
from types import UnionType
from typing import Annotated, Any, Union, get_args, get_origin

from pydantic import AwareDatetime, BaseModel
from sqlalchemy import (
    BigInteger,
    Boolean,
    CheckConstraint,
    Column,
    Date,
    DateTime,
    Float,
    ForeignKey,
    ForeignKeyConstraint,
    Identity,
    Index,
    Integer,
    Table,
    Text,
    UniqueConstraint,
    false,
)
from sqlalchemy.dialects.postgresql import ARRAY, JSONB
from sqlalchemy.orm import Mapped, mapped_column

from rovask.core.refit.givens.choices import Certainty
from rovask.core.refit.model import WorkTime
from rovask.core.refit.register import KINDS, Kind
from rovask.store.base import Base, JsonList, choice_type

BOOKKEEPING = ("refit_id", "position", "row_revision")
FLAT = (WorkTime,)  # models kept as columns of their own instead of as one JSON value
_LARGE = 2**31  # whole numbers that may be larger than this are kept as bigint


class RefitRow(Base):
    """One refit. ``revision`` counts its changes; ``clock_shift`` (seconds) is for a demo that plays on another day."""

    __tablename__ = "refit"

    pk: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    revision: Mapped[int] = mapped_column(default=0)
    row_revision: Mapped[int] = mapped_column(default=0)
    clock_shift: Mapped[int] = mapped_column(BigInteger, default=0)
    is_demo: Mapped[bool] = mapped_column(default=False)
    name: Mapped[str]
    currency: Mapped[str]
    budget: Mapped[int] = mapped_column(BigInteger)
    haul_at: Mapped[datetime]
    launch_at: Mapped[datetime]
    prepare_from: Mapped[date | None]
    outage_limits: Mapped[JsonList] = mapped_column(server_default="[]")
    margins: Mapped[JsonList] = mapped_column(server_default="[]")
    nobody_without: Mapped[JsonList] = mapped_column(server_default='["berth"]')
    usual_spreads: Mapped[JsonList] = mapped_column(server_default="[]")
    next_slots: Mapped[JsonList] = mapped_column(server_default="[]")
    ask_first: Mapped[bool] = mapped_column(server_default=false())
    price_service_day: Mapped[int | None] = mapped_column(BigInteger)
    price_night_ashore: Mapped[int | None] = mapped_column(BigInteger)
    price_leave_should: Mapped[int | None] = mapped_column(BigInteger)
    price_leave_could: Mapped[int | None] = mapped_column(BigInteger)
    price_moved_task: Mapped[int | None] = mapped_column(BigInteger)
    price_day_sooner: Mapped[int | None] = mapped_column(BigInteger)
    certainty: Mapped[Certainty] = mapped_column(choice_type(Certainty), server_default="likely")
    closed_at: Mapped[datetime | None]
    surprised: Mapped[str] = mapped_column(server_default="")

    __table_args__ = (
        CheckConstraint("launch_at > haul_at", name="launch_after_haul"),
        CheckConstraint("budget >= 0", name="budget"),
        CheckConstraint("currency ~ '^[A-Z]{3}$'", name="currency"),
    )


def _plain(annotation: Any) -> tuple[Any, bool, list[Any]]:
    """(type without Annotated and None, whether it may be None, the marks on it)."""
    marks: list[Any] = []
    optional = False
    while True:
        origin = get_origin(annotation)
        if origin is Annotated:
            annotation, *found = get_args(annotation)
            marks += found
        elif origin in (Union, UnionType):
            some = [one for one in get_args(annotation) if one is not type(None)]
            optional = True
            annotation = some[0]
        else:
            return annotation, optional, marks


def _type_of(plain: Any, marks: list[Any]) -> Any:
    """The column type of a field. Raises TypeError for one that nobody has thought of."""
    if get_origin(plain) is tuple:
        inner, _, _ = _plain(get_args(plain)[0])
        if inner is float:
            return ARRAY(Float)
        return JSONB(none_as_null=True) if _is_model(inner) else ARRAY(Text)
    if _is_model(plain):
        return JSONB(none_as_null=True)
    if isinstance(plain, type) and issubclass(plain, StrEnum):
        return choice_type(plain)
    if plain is int:
        large = any((getattr(mark, "le", None) or 0) >= _LARGE for mark in _flat(marks))
        return BigInteger() if large else Integer()
    if plain in (datetime, AwareDatetime):
        return DateTime(timezone=True)
    simple: dict[Any, Any] = {str: Text, float: Float, bool: Boolean, date: Date}
    if plain in simple:
        return simple[plain]()
    raise TypeError(f"no column type for {plain}")


def _flat(marks: list[Any]) -> Iterator[Any]:
    for mark in marks:
        yield mark
        yield from getattr(mark, "metadata", ())


def _is_model(plain: Any) -> bool:
    return isinstance(plain, type) and issubclass(plain, BaseModel)


def _columns(kind: Kind) -> Iterator[Column[Any]]:
    for name in kind.fields:
        info = kind.model.model_fields[name]
        plain, optional, marks = _plain(
            Annotated[info.annotation, *info.metadata] if info.metadata else info.annotation
        )
        if plain in FLAT:
            for part, inner in plain.model_fields.items():
                yield Column(f"{name}_{part}", _type_of(*_twice(inner)), nullable=False)
        else:
            yield Column(name, _type_of(plain, marks), nullable=optional, primary_key=name == "id")
    if kind.inside:
        yield Column(kind.inside, Text, nullable=False)


def _twice(info: Any) -> tuple[Any, list[Any]]:
    plain, _, marks = _plain(Annotated[info.annotation, *info.metadata] if info.metadata else info.annotation)
    return plain, marks


def _constraints(kind: Kind) -> Iterator[Any]:
    """References to other records of the same refit, and what is unique or looked up."""
    one = [(point.field, point.to.kind) for point in kind.points if not point.many and not point.to.words]
    for column, to in one + ([(kind.inside, kind.inside)] if kind.inside else []):
        table = KINDS[to].table
        yield ForeignKeyConstraint(
            ["refit_id", column], [f"{table}.refit_id", f"{table}.id"], deferrable=True, initially="DEFERRED"
        )
    for names in kind.unique:
        yield UniqueConstraint("refit_id", *names, deferrable=True, initially="DEFERRED")
    for name in kind.index:
        yield Index(None, "refit_id", name)


def table_of(kind: Kind) -> Table:
    """The table of a kind, made of its model the first time it is asked for."""
    if kind.table in Base.metadata.tables:
        return Base.metadata.tables[kind.table]
    position = [] if kind.single else [Column("position", Integer, nullable=False)]
    return Table(
        kind.table,
        Base.metadata,
        Column("refit_id", ForeignKey("refit.pk", ondelete="CASCADE"), primary_key=True),
        *_columns(kind),
        *position,
        Column("row_revision", Integer, nullable=False),
        *_constraints(kind),
    )


def kept_kinds() -> list[Kind]:
    """Every kind with a table of its own, in the order in which new rows are written."""
    return [kind for kind in KINDS.values() if kind.table != RefitRow.__tablename__]


for _kind in kept_kinds():
    table_of(_kind)
