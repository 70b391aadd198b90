"""How migrations spell tables of records: ``name:type``, with a ``?`` where a column may be empty.

The words are fixed for good: a migration that was released reads them for ever.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

_PLAIN: Mapping[str, Any] = {
    "text": sa.Text,
    "large": sa.BigInteger,
    "whole": sa.Integer,
    "number": sa.Float,
    "yes_no": sa.Boolean,
    "day": sa.Date,
}


def _type(name: str) -> Any:
    if name in _PLAIN:
        return _PLAIN[name]()
    if name == "words":
        return postgresql.ARRAY(sa.Text())
    if name == "json":
        return postgresql.JSONB(astext_type=sa.Text())
    if name == "moment":
        return sa.DateTime(timezone=True)
    return postgresql.ENUM(name=name, create_type=False)


def column(spec: str, default: str | None = None) -> sa.Column[Any]:
    """A column as it is spelled; any type that isn't plain is a choice of that name."""
    name, _, kind = spec.partition(":")
    return sa.Column(name, _type(kind.rstrip("?")), nullable=kind.endswith("?"), server_default=default)


def within(table: str, name: str, to: str) -> sa.ForeignKeyConstraint:
    """A column that points at another record of the same refit, looked at when the transaction ends."""
    return sa.ForeignKeyConstraint(
        ["refit_id", name],
        [f"{to}.refit_id", f"{to}.id"],
        name=op.f(f"fk_{table}_refit_id_{name}_{to}"),
        deferrable=True,
        initially="DEFERRED",
    )


def choices(named: Mapping[str, Iterable[str]]) -> None:
    """Make the types of choices."""
    for name, values in named.items():
        postgresql.ENUM(*values, name=name).create(op.get_bind())


def record_table(
    table: str, columns: str, points: Mapping[str, str], looked_up: Iterable[str], least: Iterable[str] = ()
) -> None:
    """Make the table of a kind of record: its columns, what points where, what is looked up by, what is never negative."""
    op.create_table(
        table,
        sa.Column("refit_id", sa.BigInteger(), nullable=False),
        sa.Column("id", sa.Text(), nullable=False),
        *(column(spec) for spec in columns.split()),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.Column("row_revision", sa.Integer(), nullable=False),
        *(sa.CheckConstraint(f"{name} >= 0", name=op.f(f"ck_{table}_{name}")) for name in least),
        *(within(table, name, to) for name, to in points.items()),
        sa.ForeignKeyConstraint(["refit_id"], ["refit.pk"], name=op.f(f"fk_{table}_refit_id"), ondelete="CASCADE"),
        sa.PrimaryKeyConstraint("refit_id", "id", name=op.f(f"pk_{table}")),
    )
    for name in looked_up:
        op.create_index(f"ix_{table}_refit_id_{name}", table, ["refit_id", name])
