"""Alembic's entry: migrate over the connection that store.migrate hands in."""

from typing import Any

from alembic import context
from sqlalchemy import text

from rovask.store.schema import Base


def _ours(name: str | None, kind: str, _parents: Any) -> bool:
    """The queue's tables are procrastinate's and not in our models."""
    return not (kind == "table" and (name or "").startswith("procrastinate_"))


def _settled(ctx: Any, **_: Any) -> None:
    """Whatever a migration wrote is checked at its end: PostgreSQL alters no table that has checks pending, and the next one may."""
    for when in ("immediate", "deferred"):
        ctx.connection.execute(text(f"set constraints all {when}"))


context.configure(
    connection=context.config.attributes["connection"],
    target_metadata=Base.metadata,
    compare_type=True,
    include_name=_ours,
    on_version_apply=_settled,
)
with context.begin_transaction():
    context.run_migrations()
