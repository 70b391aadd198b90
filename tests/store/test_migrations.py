"""From the first version to this and back with rows in every table: nothing that both versions know is lost."""

from __future__ import annotations

from datetime import UTC, date, datetime
from typing import Any

import psycopg
import sqlalchemy as sa
from alembic import command
from alembic.script import ScriptDirectory
from sqlalchemy.dialects.postgresql import ARRAY, ENUM, JSONB

from rovask.core.plan.planner import make_plan
from rovask.core.plan.verify.check import verify
from rovask.store.database import engine_for, sessions_for, transaction
from rovask.store.migrate import config_for
from rovask.store.records import load_rows

AT = datetime(2026, 5, 11, 8, tzinfo=UTC)
WEEK = [{"days": ["mon", "tue", "wed", "thu", "fri"], "start": "08:00:00", "end": "17:00:00"}]
# What a column holds when anything of its type won't do: by table and column, or by column alone.
SAID: dict[str, Any] = {
    "currency": "EUR",
    "secret.person": "row",
    "acceptance.task": "row",
    "gate_tick.seen": "words",
    "ways.taken": "as-it-is",
    "laid.plans": {},
    "seized.size_mm": 8.0,
    "fit.old": {},
    "fit.room": {},
    "fit.new": {},
    "shape.corners": [{"x": 0.0, "y": 0.0}, {"x": 90.0, "y": 0.0}, {"x": 0.0, "y": 40.0}],
    "contact.one": "bronze",
    "contact.other": "steel",
    "cover.open_hours": 1.0,
    "cover.close_hours": 1.0,
    "trade_word.person": "row",
    "trade_word.said": "coming",
    "launch_at": datetime(2026, 6, 1, 8, tzinfo=UTC),
    "expires_at": datetime(2026, 6, 1, 8, tzinfo=UTC),
    "time_zone": "Europe/Lisbon",
    "work_least": 2.0,
    "work_likely": 3.0,
    "work_most": 5.0,
    "length_m": 11.0,
    "waterline_m": 9.5,
    "beam_m": 3.5,
    "displacement_kg": 7000,
    "link.first": "other",
    "link.then": "row",
    "person.hours": WEEK,
    "hours_entry.person": "row",
    "hours_entry.task": "row",
    "appointment.people": ["row"],
    "task.job": "row",
    "use.task": "row",
    "rate": "1",
    "base": "EUR",
    "task.place": "row",
    "sha256": "0" * 64,
}
SKIPPED = ("alembic_version", "procrastinate_")  # the queue's own tables are the queue's own affair


def value_of(table: sa.Table, column: sa.Column[Any], key: str) -> Any:
    """Something this column takes."""
    said = SAID.get(f"{table.name}.{column.name}", SAID.get(column.name))
    if said is not None:
        return said
    if column.name == "id":
        return key
    kind = column.type
    if isinstance(kind, ENUM):
        return kind.enums[0]
    plain: tuple[tuple[type[Any], Any], ...] = (
        (ARRAY, []), (JSONB, {} if column.name in ("before", "after", "plan", "verdict") else []), (sa.Boolean, False),
        (sa.DateTime, AT), (sa.Date, date(2026, 5, 11)), (sa.Time, AT.time()), (sa.LargeBinary, b"x"),
        (sa.Integer, 1), (sa.Float, 1.0), (sa.Text, "a word"),
    )  # fmt: skip
    return next(value for type_, value in plain if isinstance(kind, type_))


def tables_of(connection: sa.Connection) -> list[sa.Table]:
    found = sa.MetaData()
    found.reflect(connection)
    return [table for table in found.sorted_tables if not table.name.startswith(SKIPPED)]


def fill(connection: sa.Connection) -> None:
    """A row in every table that has none; two tasks, for a link between them."""
    for table in tables_of(connection):
        if connection.scalar(sa.select(sa.func.count()).select_from(table)):
            continue
        for key in ("row", "other") if table.name == "task" else ("row",):
            values: dict[str, Any] = {}
            for column in table.columns:
                if column.identity is not None or (column.nullable and f"{table.name}.{column.name}" not in SAID):
                    continue
                if column.foreign_keys and column.name not in ("job", "place", "task", "person", "first", "then"):
                    aims = [one.column for one in column.foreign_keys]
                    there = next((one for one in aims if one.table.name == "refit"), aims[0])
                    values[column.name] = connection.scalar(sa.select(there).limit(1))
                else:
                    values[column.name] = value_of(table, column, key)
            if table.name == "sign_in_link" and "refit_id" in table.columns:
                values["account_pk"] = connection.scalar(sa.text("select pk from account limit 1"))
            connection.execute(table.insert().values(values))
    connection.commit()


def counts(connection: sa.Connection) -> dict[str, int]:
    names = [name for name in sa.inspect(connection).get_table_names() if not name.startswith(SKIPPED)]
    asked = " union all ".join(f"select '{name}', count(*) from \"{name}\"" for name in names)
    return {str(name): int(number) for name, number in connection.execute(sa.text(asked))}


def test_rows_in_every_table_come_through_every_version_and_back(database: str) -> None:
    own = database.rpartition("/")[0] + "/every_version"
    with psycopg.connect(database, autocommit=True) as connection:
        connection.execute("create database every_version")
    engine = engine_for(own)
    config = config_for(own)
    versions = [one.revision for one in reversed(list(ScriptDirectory.from_config(config).walk_revisions()))]
    with engine.connect() as connection:
        config.attributes["connection"] = connection
        at: dict[str, dict[str, int]] = {}
        for version in versions:
            command.upgrade(config, version)
            connection.commit()
            fill(connection)
            at[version] = counts(connection)
            assert all(at[version].values()), version
            for earlier in at.values():  # nothing went on the way up
                assert all(at[version].get(name, number) >= number for name, number in earlier.items()), version
        command.check(config)
        before = told(own)
        for version in reversed(versions[:-1]):
            command.downgrade(config, version)
            connection.commit()
            assert counts(connection) == at[version], version  # just what that version knew
        command.upgrade(config, "head")
        connection.commit()
        command.check(config)
    engine.dispose()
    after = told(own)
    assert after.tasks.keys() == before.tasks.keys() == {"row", "other"}
    assert after.links == before.links
    assert after.persons.keys() == before.persons.keys()
    assert verify(after, make_plan(after, after.haul_at)) == []
    sessions_for(own).kw["bind"].dispose()


def told(url: str):  # type: ignore[no-untyped-def]
    """The one refit in the database, as this version reads it."""
    with transaction(url) as session:
        found = load_rows(session, session.scalar(sa.text("select pk from refit")))
    assert found is not None
    return found.refit
