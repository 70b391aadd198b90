"""Bring a database to the schema this version needs."""

from __future__ import annotations

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import text

from rovask.store.database import engine_for, sqlalchemy_url

_LOCK = 0x524F5641  # any number, the same for all who migrate


def config_for(url: str) -> Config:
    """Alembic's configuration, in code: there is no file to keep in step."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.set_main_option("sqlalchemy.url", sqlalchemy_url(url).replace("%", "%%"))
    return config


def migrate(url: str) -> None:
    """Apply what is missing; one at a time if several processes start together. Nothing to do is quick."""
    config = config_for(url)
    head = ScriptDirectory.from_config(config).get_current_head()
    engine = engine_for(url, patient=True)
    try:
        with engine.connect() as connection:
            if MigrationContext.configure(connection).get_current_revision() == head:
                return
            connection.execute(text("select pg_advisory_lock(:key)"), {"key": _LOCK})
            try:
                config.attributes["connection"] = connection
                command.upgrade(config, "head")
                connection.commit()
            finally:
                connection.rollback()
                connection.execute(text("select pg_advisory_unlock(:key)"), {"key": _LOCK})
                connection.commit()
    finally:
        engine.dispose()
