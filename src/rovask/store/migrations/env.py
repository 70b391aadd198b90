"""Alembic's entry: migrate over the connection that store.migrate hands in."""

from typing import Any

from alembic import context

from rovask.store.schema import Base


def _ours(name: str | None, kind: str, _parents: Any) -> bool:
    """The queue's tables are procrastinate's and not in our models."""
    return not (kind == "table" and (name or "").startswith("procrastinate_"))


context.configure(
    connection=context.config.attributes["connection"],
    target_metadata=Base.metadata,
    compare_type=True,
    include_name=_ours,
)
with context.begin_transaction():
    context.run_migrations()
