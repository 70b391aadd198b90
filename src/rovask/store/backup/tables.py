"""Tables out and in, as PostgreSQL's own COPY writes them: any version of it reads what another wrote, and no program of its is needed."""

from __future__ import annotations

import gzip
import hashlib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import psycopg
import sqlalchemy as sa
from psycopg import sql

# What is not copied: sessions and links that would open again what has ended since, and what is worked out anew.
LEFT_OUT = {"alembic_version", "session", "sign_in_link", "challenge", "attempt", "answer", "orphan"}
_PIECE = 1 << 20


@dataclass(frozen=True, slots=True)
class TableCopy:
    """One table as it was copied: sha256 of its rows, ordered by its key."""

    name: str
    columns: tuple[str, ...]
    rows: int
    sha256: str


def tables_in_order(connection: sa.Connection) -> list[str]:
    """The tables that are copied, those first that others point at."""
    found = sa.inspect(connection).get_sorted_table_and_fkc_names(schema="public")
    names = [name for name, _ in found if name is not None]
    return [name for name in names if name not in LEFT_OUT and not name.startswith("procrastinate_")]


def columns_of(connection: sa.Connection, name: str) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """(all columns, those of the key) of a table."""
    inspector = sa.inspect(connection)
    columns = tuple(str(column["name"]) for column in inspector.get_columns(name, schema="public"))
    key = tuple(inspector.get_pk_constraint(name, schema="public")["constrained_columns"])
    return columns, key or columns


def pieces(raw: psycopg.Connection[Any], name: str, columns: tuple[str, ...], key: tuple[str, ...]) -> Iterator[bytes]:
    """A table's rows as COPY writes them, by its key."""
    query = sql.SQL("copy (select {} from {} order by {}) to stdout").format(
        sql.SQL(", ").join(map(sql.Identifier, columns)),
        sql.Identifier(name),
        sql.SQL(", ").join(map(sql.Identifier, key)),
    )
    with raw.cursor() as cursor, cursor.copy(query) as copy:
        for piece in copy:
            yield bytes(piece)


# However a server is set up: the same rows are the same bytes.
_SPELLED = (
    "set local time zone 'UTC'; set local datestyle = 'ISO, YMD'; set local intervalstyle = 'postgres'; "
    "set local bytea_output = 'hex'; set local extra_float_digits = 1"
)


def copied(connection: sa.Connection, name: str, into: Path | None = None, only: tuple[str, ...] = ()) -> TableCopy:
    """Copy a table's rows into a gzip file, or only count and sum them. only: these columns of it; all by default."""
    columns, key = columns_of(connection, name)
    columns = only or columns
    connection.execute(sa.text(_SPELLED))
    digest, rows = hashlib.sha256(), 0
    file = gzip.open(into, "wb", compresslevel=3) if into is not None else None  # noqa: SIM115
    try:
        for piece in pieces(raw_of(connection), name, columns, key):
            digest.update(piece)
            rows += piece.count(b"\n")
            if file is not None:
                file.write(piece)
    finally:
        if file is not None:
            file.close()
    return TableCopy(name, columns, rows, digest.hexdigest())


def loaded(connection: sa.Connection, table: TableCopy, file: Any) -> None:
    """Load a table's rows back, from a file object with what ``copied`` wrote."""
    query = sql.SQL("copy {} ({}) from stdin").format(
        sql.Identifier(table.name), sql.SQL(", ").join(map(sql.Identifier, table.columns))
    )
    connection.execute(sa.text(_SPELLED))
    with raw_of(connection).cursor() as cursor, cursor.copy(query) as copy, gzip.open(file) as rows:
        while piece := rows.read(_PIECE):
            copy.write(piece)


def count_on(connection: sa.Connection, name: str) -> None:
    """Let the numbers a table gives its rows go on after the highest there is."""
    for column in sa.inspect(connection).get_columns(name, schema="public"):
        if column.get("identity"):
            query = (
                f"select setval(pg_get_serial_sequence('\"{name}\"', :column), "
                f'coalesce((select max("{column["name"]}") from "{name}"), 0) + 1, false)'
            )
            connection.execute(sa.text(query), {"column": column["name"]})


def raw_of(connection: sa.Connection) -> psycopg.Connection[Any]:
    """psycopg's own connection under SQLAlchemy's."""
    raw = connection.connection.driver_connection
    assert isinstance(raw, psycopg.Connection)
    return raw
